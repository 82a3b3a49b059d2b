# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""The network of a start, solved within what its source can give at this moment.

RMS phasors at the fundamental; L1 is the angle reference; amps are positive from source to load.
Compiled like the engine, with the types of ``circuit.pxd``.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from cython.cimports.libc.math import sqrt  # type: ignore[import-untyped]

if TYPE_CHECKING:
    from ironmargin.starting.model import Wiring

PASSES_AT_A_LIMIT = 4  # two legs held one by one: the second moves the first, by less each time
SETTLED = 0.999  # a limit that takes less than this off is met


def size(z: complex) -> float:
    """Absolute value of a complex number, without the library's care for huge and tiny ones: it
    took a quarter of a start's time.

    Args:
        z: any.

    Returns:
        Its size.
    """
    return float(sqrt(z.real * z.real + z.imag * z.imag))


class Network:
    """Source, path and panel: two electromotive forces behind a matrix of impedances, at most at
    their limits.

    ``V = E − Z·I``, ``I = Y·V``; see :mod:`ironmargin.electrics.network` for places and signs. At
    fixed admittances everything is linear in the electromotive force, so that a source at its limit
    is the same source scaled down.
    """

    def __init__(self, wiring: Wiring) -> None:
        self.two_legs, self.tied, self.conductors = wiring.two_legs, wiring.tied, wiring.conductors
        self.e1, self.e2 = wiring.e1_v, wiring.e2_v
        self.supply_z, self.path_z = wiring.supply_ohm, wiring.path_ohm
        # what hangs on each place [S], and its volts: L1, L2, and between them
        self.y, self.volts = np.zeros(3, dtype=complex), np.zeros(3)

    def begin(self, source_strength: float, path: float, voc_factor: float) -> None:
        """Set the impedances of a supply and a path so many times as strong, and the open-circuit
        volts.

        Args:
            source_strength: of the supply over its own [1].
            path: of the path over its own [1].
            voc_factor: of the open-circuit volts over their own [1].
        """
        self.z11 = self.supply_z[0] / source_strength + self.path_z[0] / path
        self.z12 = self.supply_z[1] / source_strength + self.path_z[1] / path
        self.z22 = self.supply_z[2] / source_strength + self.path_z[2] / path
        self.v1, self.v2 = self.e1 * voc_factor, self.e2 * voc_factor
        self.i1 = self.i2 = 0j
        self.see()

    def see(self) -> None:
        """Volts of the places: L1, L2, and between them [V]."""
        self.volts[0] = size(self.v1)
        self.volts[1] = size(self.v2)
        self.volts[2] = size(self.v1 - self.v2)

    def magnitude(self, z: complex) -> float:
        """Absolute value of a phasor, for the other parts of the engine.

        Args:
            z: a phasor.

        Returns:
            Its size.
        """
        return size(z)

    def solve(self, voc_factor: float, max_a: float, max_w: float) -> None:
        """Volts of the places and amps of the source at the admittances there, held to ``max_a``
        and ``max_w``.

        Args:
            voc_factor: of the electromotive force, by regulator and line [1].
            max_a: amps the source holds [A].
            max_w: watts it gives [W].
        """
        v12 = v21 = v22 = i12 = i21 = i22 = i2 = 0.0
        across = self.y[2]
        from1 = self.y[0] + across
        from2 = self.y[1] + across
        # volts and amps that the electromotive force of each leg makes by itself
        if self.two_legs:  # (1 + Z·Y)⁻¹·E, a column a leg
            m11 = 1.0 + self.z11 * from1 - self.z12 * across
            m12 = self.z12 * from2 - self.z11 * across
            m21 = self.z12 * from1 - self.z22 * across
            m22 = 1.0 + self.z22 * from2 - self.z12 * across
            per = 1.0 / (m11 * m22 - m12 * m21)
            by1 = self.e1 * per
            by2 = self.e2 * per
            v11 = m22 * by1
            v12 = -m12 * by2
            v21 = -m21 * by1
            v22 = m11 * by2
            i11 = from1 * v11 - across * v21
            i12 = from1 * v12 - across * v22
            i21 = from2 * v21 - across * v11
            i22 = from2 * v22 - across * v12
        else:
            v11 = self.e1 / (1.0 + self.z11 * self.y[0])
            i11 = self.y[0] * v11
        lift1 = lift2 = voc_factor
        for again in range(PASSES_AT_A_LIMIT):
            i1 = i11 * lift1 + i12 * lift2
            if self.two_legs:
                i2 = i21 * lift1 + i22 * lift2
            self.a1 = size(i1 + i2) if self.tied else size(i1)
            self.a2 = self.a1 if self.conductors == 1 else size(i2)
            self.watts = lift1 * (self.e1 * i1.conjugate()).real
            self.watts += lift2 * (self.e2 * i2.conjugate()).real
            power = sqrt(max_w / self.watts) if self.watts > max_w else 1.0
            first = min(power, max_a / self.a1 if self.a1 > max_a else 1.0)
            second = min(power, max_a / self.a2 if self.a2 > max_a else 1.0)
            if first == second or self.conductors == 1:  # all of it is that much less
                lift1 *= first
                lift2 *= first
                self.a1 *= first
                self.a2 *= first
                self.watts *= first * first
                break
            if min(first, second) > SETTLED or again == PASSES_AT_A_LIMIT - 1:
                break
            lift1 *= first
            lift2 *= second
        self.v1 = v11 * lift1 + v12 * lift2
        self.v2 = v21 * lift1 + v22 * lift2
        self.i1 = i11 * lift1 + i12 * lift2
        self.i2 = i21 * lift1 + i22 * lift2
        self.see()
