"""The settled network: everything running, constant-power loads drawing more as volts fall."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ironmargin.electrics.network import Upstream, solve_two_legs
from ironmargin.loads.demand import Draw
from ironmargin.starting.case import Case

PASSES = 80
TOLERANCE_V = 1e-6
MOTOR_FLOOR = 0.6
"""Below this share of its volts a running motor is no longer a constant-power load."""


@dataclass(frozen=True)
class Steady:
    """The settled state.

    Attributes:
        v1, v2: legs' volts to neutral, phasors [V]; i1, i2: amps out of the legs, phasors [A].
        converged, reason, passes: how the fixed point went.
    """

    v1: complex
    v2: complex
    i1: complex
    i2: complex
    converged: bool
    reason: str
    passes: int

    def volts(self, leg: int) -> float:
        """Volts of a place: L1, L2 to neutral, or between the legs [V]."""
        return (abs(self.v1), abs(self.v2), abs(self.v1 - self.v2))[leg]

    @property
    def neutral_a(self) -> float:
        """Amps in the neutral: the phasor sum of the legs [A]."""
        return abs(self.i1 + self.i2)


def solve_steady(upstream: Upstream, draws: Iterable[Draw]) -> Steady:
    """Solve the settled network by fixed-point passes over the constant-power loads.

    A load that lets go below its dropout stays off. Not converging is said in the result, never a number made up.
    """
    fixed = np.zeros(3, dtype=complex)
    power: list[Draw] = []
    for draw in draws:
        if draw.constant_power:
            power.append(draw)
        else:
            fixed[draw.leg] += draw.va.conjugate() / draw.bus_v**2
    live = [True] * len(power)
    v1, v2, i1, i2 = upstream.e1_v, upstream.e2_v, 0j, 0j
    for at in range(1, PASSES + 1):
        y = fixed.copy()
        volts = (abs(v1), abs(v2), abs(v1 - v2))
        for n, draw in enumerate(power):
            share = volts[draw.leg] / draw.bus_v
            live[n] = live[n] and share >= draw.dropout
            if live[n]:
                y[draw.leg] += draw.va.conjugate() / (max(share, MOTOR_FLOOR) * draw.bus_v) ** 2
        new = [complex(x) for x in solve_two_legs((upstream.e1_v, upstream.e2_v), (upstream.z11, upstream.z12, upstream.z22), tuple(y))]  # type: ignore[arg-type]
        moved = max(abs(new[0] - v1), abs(new[1] - v2))
        v1, v2, i1, i2 = new
        if not np.isfinite(moved):
            return Steady(0j, 0j, 0j, 0j, False, "volts do not exist for this load", at)
        if moved < TOLERANCE_V:
            return Steady(v1, v2, i1, i2, True, "", at)
    return Steady(v1, v2, i1, i2, False, "the loads hunt: volts and amps never settle", PASSES)


def all_draws(case: Case, off: frozenset[int] = frozenset()) -> list[Draw]:
    """Every settled draw of a case, demands in ``off`` left out."""
    return [draw for at, demand in enumerate(case.demands) if at not in off for draw in demand.steady]


def settled(case: Case, off: frozenset[int] = frozenset()) -> Steady:
    """The settled state of a case."""
    return solve_steady(case.feed.upstream, all_draws(case, off))


def averaged(case: Case) -> Steady:
    """The state with every load at its mean over its duty cycle: what breakers and cords feel over three hours."""
    draws: list[Draw] = []
    for demand in case.demands:
        draws += [Draw(d.leg, d.bus_v, d.va * demand.duty, d.constant_power, d.dropout) for d in demand.steady]
    return solve_steady(case.feed.upstream, draws)


def source_amps(case: Case, state: Steady) -> tuple[float, ...]:
    """Amps of each hot conductor of the source, also-on-circuit load left out [A]."""
    if case.feed.upstream.tied:
        return (abs(state.i1 + state.i2) * case.turns,)
    if case.feed.upstream.legs == 1:
        return (abs(state.i1) * case.turns,)
    return (abs(state.i1), abs(state.i2))


def lost_neutral(case: Case) -> tuple[float, float]:
    """Volts each leg would see if the neutral opened: the legs' loads in series across both hot conductors [V]."""
    up = case.feed.upstream
    open_ohm = 1e7
    without = Upstream(up.e1_v, up.e2_v, up.z11 + open_ohm, up.z12 + open_ohm, up.z22 + open_ohm, up.legs, up.tied)
    impedances = [Draw(d.leg, d.bus_v, d.va, False) for d in all_draws(case)]
    state = solve_steady(without, impedances)
    return abs(state.v1), abs(state.v2)
