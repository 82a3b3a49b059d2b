# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""The settled network of many sets of loads, one column after the other.

Each column is solved by itself until it settles, so that it gives the same figures in any batch.
The file is plain Python; ``tools/compile.py`` compiles it ahead of time with the types of
``columns.pxd`` beside it.
"""

from __future__ import annotations

from cython.cimports.libc.math import sqrt  # type: ignore[import-untyped]

from ironmargin.electrics.network import Complex, Real


def settle_columns(
    feed: Complex,
    fixed: Complex,
    pooled: Complex,
    kinds: Real,
    bounds: Real,
    volts: Complex,
    amps: Complex,
    moved: Real,
    gone: Real,
) -> int:
    """Solve every column by fixed-point passes over its constant-power loads.

    ``V = E − Z·I``, ``I = Y·V``, places L1-N, L2-N and L1-L2 as in
    :func:`ironmargin.electrics.network.solve_two_legs`.

    Args:
        feed: e1, e2 [V], z11, z12, z22 [ohm].
        fixed: admittance of each place (3, n) [S].
        pooled: conjugate VA of each kind of constant-power load (k, n) [VA].
        kinds: place, rated volts [V], dropout and least share of volts [1] of each kind (k, 4).
        bounds: most passes, first damped pass, tolerance [V].
        volts: (2, n), written [V].
        amps: (2, n), written [A].
        moved: last change (n,), written [V].
        gone: 1.0 where a load has let go (n), written.

    Returns:
        The passes of the slowest column.
    """
    e1, e2, z11, z12, z22 = feed[0], feed[1], feed[2], feed[3], feed[4]
    maximum, damped, tolerance = int(bounds[0]), int(bounds[1]), bounds[2]
    slowest = 0
    for n in range(fixed.shape[1]):
        v1, v2 = e1, e2
        i1 = i2 = e1 * 0.0
        off = 0.0
        change = 0.0
        passes = 0
        while passes < maximum:
            passes += 1
            y1, y2, y12 = fixed[0, n], fixed[1, n], fixed[2, n]
            for k in range(pooled.shape[0]):
                va = pooled[k, n]
                if va == 0.0:
                    continue
                place = int(kinds[k, 0])
                if place == 0:
                    seen = v1
                elif place == 1:
                    seen = v2
                else:
                    seen = v1 - v2
                share = sqrt(seen.real * seen.real + seen.imag * seen.imag) / kinds[k, 1]
                if share < kinds[k, 2]:
                    off = 1.0
                held = max(share, kinds[k, 3]) * kinds[k, 1]
                drawn = va * (1.0 / (held * held))
                if place == 0:
                    y1 = y1 + drawn
                elif place == 1:
                    y2 = y2 + drawn
                else:
                    y12 = y12 + drawn
            ya, yb = y1 + y12, y2 + y12
            m11 = 1.0 + z11 * ya - z12 * y12
            m12 = z12 * yb - z11 * y12
            m21 = z12 * ya - z22 * y12
            m22 = 1.0 + z22 * yb - z12 * y12
            per = 1.0 / (m11 * m22 - m12 * m21)
            new1 = (m22 * e1 - m12 * e2) * per
            new2 = (m11 * e2 - m21 * e1) * per
            i1 = ya * new1 - y12 * new2
            i2 = yb * new2 - y12 * new1
            by1, by2 = new1 - v1, new2 - v2
            change = max(
                by1.real * by1.real + by1.imag * by1.imag, by2.real * by2.real + by2.imag * by2.imag
            )
            if passes < damped:
                v1, v2 = new1, new2
            else:
                v1, v2 = v1 + 0.5 * by1, v2 + 0.5 * by2
            if change < tolerance * tolerance:
                break
        volts[0, n], volts[1, n] = v1, v2
        amps[0, n], amps[1, n] = i1, i2
        moved[n], gone[n] = sqrt(change), off
        slowest = max(slowest, passes)
    return slowest
