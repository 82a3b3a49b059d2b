"""The network of legs and neutral between a source and a rig, solved for many trials at once.

Seen from the rig's panel, everything upstream is two electromotive forces behind a 2x2 matrix of
impedances::

    V = E − Z·I,   I = Y·V        →   (1 + Z·Y)·V = E

``V1`` and ``V2`` are the legs' volts to neutral, ``I1`` and ``I2`` the currents flowing out of the
legs. A separate hot conductor of impedance ``z`` adds ``z`` to the diagonal; the neutral, and a hot
conductor both legs share (a reducer), add ``z`` to all four entries, since both currents pass it.
The neutral carries ``I1 + I2``: on a split service (legs 180° apart) that is the difference of the
magnitudes, with both legs in phase their sum. Signs: currents are positive from source to load; L1
is the angle reference.
"""

from __future__ import annotations

import cmath
import math

import numpy as np
from numpy.typing import NDArray

from ironmargin.record import record

Complex = NDArray[np.complex128]
Real = NDArray[np.float64]
Figure = float | Real
"""One number, or a column of them."""


def phasor(magnitude: float, angle_deg: float) -> complex:
    """A complex number of a magnitude and an angle [°].

    Args:
        magnitude: of any unit.
        angle_deg: its angle [°].

    Returns:
        The number, in the unit of the magnitude.
    """
    return cmath.rect(magnitude, math.radians(angle_deg))


@record
class Upstream:
    """What the rig's panel sees looking back towards the supply.

    Attributes:
        e1_v, e2_v: open-circuit phasors of the legs, leg to neutral [V]; ``e2_v`` is 0 when L2 is
            dead.
        z11, z12, z22: impedance matrix [ohm].
        legs: legs that are alive at the panel, 1 or 2.
        tied: both legs hang on one hot conductor of the source.
    """

    e1_v: complex
    e2_v: complex
    z11: complex
    z12: complex
    z22: complex
    legs: int
    tied: bool


def solve_one_leg(e1: Complex, z11: Complex, y1: Complex) -> tuple[Complex, Complex]:
    """Leg volts and amps of a single leg: ``V = E/(1 + Z·Y)``, ``I = Y·V`` [V], [A].

    Args:
        e1: electromotive force [V].
        z11: impedance before the panel [ohm].
        y1: admittance at the panel [S].

    Returns:
        Volts and amps, of the same shape as what is given.
    """
    v1 = e1 / (1.0 + z11 * y1)
    return v1, y1 * v1


def solve_two_legs(
    e: tuple[Complex, Complex],
    z: tuple[Complex, Complex, Complex],
    y: tuple[Complex, Complex, Complex],
) -> tuple[Complex, Complex, Complex, Complex]:
    """Leg volts and amps of two legs with loads L1-N, L2-N and L1-L2.

    Args:
        e: open-circuit phasors of L1 and L2 [V].
        z: z11, z12, z22 [ohm].
        y: admittances L1-N, L2-N, L1-L2 [S].

    Returns:
        V1, V2 [V], I1, I2 [A]; the neutral carries I1 + I2.
    """
    (e1, e2), (z11, z12, z22), (y1, y2, y12) = e, z, y
    ya, yb = y1 + y12, y2 + y12
    m11 = 1.0 + z11 * ya - z12 * y12
    m12 = z12 * yb - z11 * y12
    m21 = z12 * ya - z22 * y12
    m22 = 1.0 + z22 * yb - z12 * y12
    det = m11 * m22 - m12 * m21
    v1 = (m22 * e1 - m12 * e2) / det
    v2 = (m11 * e2 - m21 * e1) / det
    return v1, v2, ya * v1 - y12 * v2, yb * v2 - y12 * v1
