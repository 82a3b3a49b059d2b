# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""What a supply gives while something starts on it, and what of it and of its path opens.

Plain Python that is compiled ahead of time with the types of ``supply.pxd``.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from cython.cimports.libc.math import exp  # type: ignore[import-untyped]

from ironmargin.starting.circuit import Network
from ironmargin.starting.codes import (
    BREAKER,
    CUT_OFF,
    GUARD_LOW,
    GUARD_OVER,
    LOCKOUT,
    NEVER,
    NOTHING,
    UNDERVOLT_LOCKOUT,
)

if TYPE_CHECKING:
    from ironmargin.starting.protection import GuardWatch, Limits

CARRY_S = 0.3  # flywheel and bus carry so many seconds of the engine's power (common practice)
SHORT_S = 1.0  # how long electronics hold their short-time current (common practice)
AT_LIMIT = 0.999  # share of its limit from which a supply counts as being at it
MIN_LEFT = 0.05  # share of its limit that the crests of other loads leave at least
ECO_FRACTION = 0.5
ECO_TAU_S = 1.5
FIELD_CEILING = 1.6
FIELD_TAU_S = 0.3  # a regulator forces the field in about 0.3 s, to about 1.6 times (memory)
FIELD_BELOW = 0.98  # share of its volts below which it does (common practice, no source)
ARRIVED = 4.0  # time constants after which engine or field are where they go, but for a fiftieth
UNDERVOLT = 0.6
GUARD_FILTER_S = 1.0  # a guard looks at low volts so long before it opens (memory)
GUARD_OVERLOAD_S = 5.0  # and at amps over its limit so long, so that a start passes (memory)


class Supply:
    """What the supply can give in time, and what opens: two limits, lockouts, breakers, a guard.

    The electronics hold a short-time current for the first second at their limit, then their
    lasting one; the engine's power is another limit, which flywheel and bus carry over for a few
    tenths of a second. A regulator forces the field of a conventional alternator. Overload lockout:
    ``Σ((I/I_cont)² − 1)·dt > k``.
    """

    def __init__(self, supply: Limits) -> None:
        self.limit_a, self.crest_a, self.limit_w = supply.limit_a, supply.crest_a, supply.limit_w
        self.continuous_a, self.offset_a, self.lockout_k_s = (
            supply.continuous_a,
            supply.offset_a,
            supply.lockout_k_s,
        )
        self.undervolt_s, self.leg_v, self.also_a, self.cut_off_s = (
            supply.undervolt_s,
            supply.leg_v,
            supply.also_a,
            supply.cut_off_s,
        )
        self.turns, self.eco, self.forced = supply.turns, supply.eco, supply.forced
        self.leg, self.scaled, self.rating_a, self.tau_s = (
            supply.breaker_leg,
            supply.scaled,
            supply.rating_a,
            supply.tau_s,
        )
        self.trip_heat, self.magnetic, self.warm = (supply.trip_heat, supply.magnetic, supply.warm)
        self.heat, self.settles = np.zeros(len(supply.warm)), np.zeros(len(supply.warm))
        self.settles_in_s = 0.0

    def step(self, h: float) -> None:
        """How far each breaker's heat goes to its end in a step: few lengths of step come.

        Args:
            h: length of the step [s].
        """
        self.settles_in_s = h
        for at in range(self.leg.shape[0]):
            self.settles[at] = 1.0 - exp(-h / self.tau_s[at])

    def begin(self, source_strength: float, lockout: float, short: float) -> None:
        self.source_strength, self.lockout, self.short, self.field = (
            source_strength,
            lockout,
            short,
            1.0,
        )
        self.carried_j = CARRY_S * self.limit_w * source_strength
        self.short_left_s = SHORT_S
        self.overload = self.under_s = self.at_limit_s = 0.0
        self.opened_by = NOTHING
        for at in range(self.leg.shape[0]):
            self.heat[at] = self.warm[at]

    def max_a(self, t_s: float) -> float:
        """Amps the electronics hold now, seen at the panel [A].

        Args:
            t_s: since the start began [s].

        Returns:
            Amps [A].
        """
        maximum = self.limit_a * self.source_strength
        if self.eco:
            maximum *= 1.0 - ECO_FRACTION * exp(-t_s / ECO_TAU_S)
        if self.short_left_s > 0.0:
            maximum *= self.short
        return float(max(maximum - self.crest_a, MIN_LEFT * maximum) / self.turns)

    def max_w(self) -> float:
        """Watts the engine gives now; more than its power while the flywheel carries [W].

        Returns:
            Watts [W].
        """
        return NEVER if self.carried_j > 0.0 else self.limit_w * self.source_strength

    def rising(self, t_s: float) -> bool:
        """Whether it still comes to what it can give: an engine from idle, or a field.

        Args:
            t_s: since the start began [s].

        Returns:
            Whether more is to come.
        """
        return bool(
            (self.eco and t_s < ARRIVED * ECO_TAU_S)
            or (self.forced and t_s < ARRIVED * FIELD_TAU_S)
        )

    def locked_out(self) -> float:
        """How far the overload lockout has filled, 1 where it locks [1]; 0 without one.

        Returns:
            Share [1].
        """
        return (
            self.overload / (self.lockout_k_s * self.lockout) if self.lockout_k_s < NEVER else 0.0
        )

    def update(self, h: float, a1: float, a2: float, weakest: float, watts: float) -> bool:
        """Pass a step of these amps [A], volts [V] and watts [W]; True if something opened in it,
        ``opened_by`` saying what.

        Args:
            h: length of the step [s].
            a1: of the first conductor [A].
            a2: of the second [A].
            weakest: volts of the weaker leg [V].
            watts: of all that is fed [W].

        Returns:
            Whether something opened.
        """
        maximum = max(a1, a2)
        if self.limit_w < NEVER:
            self.carried_j = min(
                self.carried_j + (self.limit_w * self.source_strength - watts) * h,
                CARRY_S * self.limit_w * self.source_strength,
            )
        if maximum > (self.limit_a * self.source_strength - self.crest_a) * AT_LIMIT:
            self.short_left_s -= h
            self.at_limit_s += h
            if self.at_limit_s > self.cut_off_s * self.lockout and not self.opened_by:
                self.opened_by = CUT_OFF
        else:
            self.at_limit_s = 0.0
        if self.forced:
            carried = FIELD_CEILING if weakest < FIELD_BELOW * self.leg_v else 1.0
            self.field += (carried - self.field) * (1.0 - exp(-h / FIELD_TAU_S))
        if self.lockout_k_s < NEVER:
            carried = max(maximum - self.offset_a, 0.0) / (self.continuous_a * self.source_strength)
            self.overload = max(self.overload + (carried * carried - 1.0) * h, 0.0)
            self.under_s = self.under_s + h if weakest < UNDERVOLT * self.leg_v else 0.0
            if self.overload > self.lockout_k_s * self.lockout and not self.opened_by:
                self.opened_by = LOCKOUT
            if self.under_s > self.undervolt_s * self.lockout and not self.opened_by:
                self.opened_by = UNDERVOLT_LOCKOUT
        if h != self.settles_in_s:
            self.step(h)
        for at in range(self.leg.shape[0]):
            amps = (a1 if self.leg[at] == 0 else a2) + self.also_a
            carried = amps / (
                self.rating_a[at] * (self.source_strength if self.scaled[at] else 1.0)
            )
            self.heat[at] += (carried * carried - self.heat[at]) * self.settles[at]
            if (
                self.heat[at] >= self.trip_heat[at] or carried >= self.magnetic[at]
            ) and not self.opened_by:
                self.opened_by = BREAKER + at
        return bool(self.opened_by)


class Guard:
    """A guard at its own place in the path: it opens for low volts there after a second, and for
    amps over its limit after some more, so that a start passes.
    """

    def __init__(self, guard: GuardWatch) -> None:
        self.low_v, self.over_a, self.turns = guard.low_v, guard.over_a, guard.turns
        self.after, self.present = guard.after_ohm, guard.present

    def begin(self, path: float) -> None:
        self.path, self.low_s, self.over_s, self.opened_by = path, 0.0, 0.0, NOTHING

    def update(self, h: float, network: Network) -> bool:
        """Pass a step of the network; True if it opened in it.

        Args:
            h: length of the step [s].
            network: that is fed.

        Returns:
            Whether it opened.
        """
        i1, i2 = network.i1 / self.path, network.i2 / self.path
        volts = network.magnitude(network.v1 + self.after[0] * i1 + self.after[1] * i2)
        if network.two_legs:
            second = network.magnitude(network.v2 + self.after[1] * i1 + self.after[2] * i2)
            volts = min(volts, second)
        amps = max(network.a1, network.a2) * self.turns
        self.low_s = self.low_s + h if volts / self.turns < self.low_v else 0.0
        self.over_s = self.over_s + h if amps > self.over_a else 0.0
        if self.low_s > GUARD_FILTER_S:
            self.opened_by = GUARD_LOW
        elif self.over_s > GUARD_OVERLOAD_S:
            self.opened_by = GUARD_OVER
        return bool(self.opened_by)
