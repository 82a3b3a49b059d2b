"""The state of the columns of a start simulation, what they share, and what one of them did."""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironmargin.electrics.network import Complex, Real

Bool = NDArray[np.bool_]


@dataclass
class Columns:
    """The state and parameters of the columns: every array's last axis is the column.

    Rows of the ``(M, n)`` arrays are motor units; of the ``(3, n)`` arrays the places L1, L2, L1-L2; of the
    ``(B, n)`` arrays breakers.
    """

    ident: NDArray[np.int64]
    e1: Complex
    e2: Complex
    z11: Complex
    z12: Complex
    z22: Complex
    limit_a: Real
    limit_w: Real
    continuous_a: Real
    offset_a: Real
    latch_k_s: Real
    undervolt_s: Real
    eco: Bool
    yz: Complex
    sp: Complex
    inrush: Complex
    on: Real
    starting: Bool
    r1: Real
    r2: Real
    x: Real
    torque_fl: Real
    up_slip: Real
    gear: Real
    breakaway: Real
    at_speed: Real
    soft_a: Real
    soft_rate: Real
    speed: Real
    ramp: Real
    heat: Real
    rating_a: Real

    # carried results
    minus_x: Real = field(init=False)
    x_square: Real = field(init=False)
    z1_square: Real = field(init=False)
    holds_on: Bool = field(init=False)
    slope: Real = field(init=False)
    speed_before: Real = field(init=False)
    t_s: Real = field(init=False)
    h_s: Real = field(init=False)
    h_before_s: Real = field(init=False)
    overload: Real = field(init=False)
    under_s: Real = field(init=False)
    guard_s: Real = field(init=False)
    soft_low_s: Real = field(init=False)
    still_s: Real = field(init=False)
    outcome: NDArray[np.int8] = field(init=False)
    up_s: Real = field(init=False)
    event_s: Real = field(init=False)
    lowest_v: Real = field(init=False)
    peak_a: Real = field(init=False)
    v1: Complex = field(init=False)
    v2: Complex = field(init=False)

    def __post_init__(self) -> None:
        n = len(self.ident)
        self.minus_x, self.x_square, self.z1_square = -self.x, self.x**2, self.r1**2 + self.x**2
        self.holds_on = np.ones(self.yz.shape, dtype=bool)
        self.slope = np.zeros_like(self.speed)
        self.speed_before = self.speed
        self.t_s, self.h_s, self.h_before_s = np.zeros(n), np.zeros(n), np.zeros(n)
        self.overload = np.zeros((1, n))
        for name in ("under_s", "guard_s", "soft_low_s", "still_s", "peak_a"):
            setattr(self, name, np.zeros(n))
        self.up_s, self.event_s, self.lowest_v = np.full(n, np.inf), np.full(n, np.inf), np.full(n, np.inf)
        self.outcome = np.zeros(n, dtype=np.int8)
        self.v1, self.v2 = self.e1.copy(), self.e2.copy()

    def take(self, which: Any) -> Columns:
        """The same for some columns only."""
        small = object.__new__(Columns)
        for name in FIELDS:
            setattr(small, name, getattr(self, name)[..., which])
        return small


FIELDS = tuple(item.name for item in fields(Columns))


@dataclass(frozen=True)
class Shape:
    """What all columns share.

    Attributes:
        step_s: half a mains cycle [s]; two_legs, tied: topology of the panel.
        places: place of each motor row; ratio: turns ratio of each; rated_v: its rated volts [V].
        gear_current: locked-rotor current factor of its start gear [1].
        nominal_v: volts of each place that constant-power loads are rated for [V].
        inrush: (place, time constant) of each inrush row.
        breaker_leg: source current each breaker row sees, 0 or 1; tau_s, trip_heat, magnetic: its curve.
        turns: volts of the panel over volts of the source.
    """

    step_s: float
    two_legs: bool
    tied: bool
    places: tuple[int, ...]
    ratio: Real
    rated_v: Real
    gear_current: Real
    nominal_v: Real
    inrush: tuple[tuple[int, float], ...]
    breaker_leg: tuple[int, ...]
    tau_s: Real
    trip_heat: Real
    magnetic: Real
    guard_low_v: float
    leg_v: float
    turns: float = 1.0
    also_a: float = 0.0


@dataclass(frozen=True)
class Trace:
    """What one column did: every array over the time axis.

    Attributes:
        t_s: time since the motor was switched on [s]; v: volts of the legs (2, t) [V]; a: amps of the source's hot
        conductors (2, t) [A]; speed: of each motor row (M, t) [1]; heat: of each breaker row (B, t) [1].
    """

    t_s: Real
    v: Real
    a: Real
    speed: Real
    heat: Real
