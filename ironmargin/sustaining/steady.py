"""The settled network: everything running, constant-power loads drawing more as volts fall."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ironmargin.electrics.network import Complex, Real, Upstream, solve_two_legs
from ironmargin.loads.demand import Draw
from ironmargin.case import Case

PASSES = 80
TOLERANCE_V = 1e-6
TOLERANCE_SETS_V = 0.5
"""Of many sets solved at once, one that still moves more than this has not settled."""
MOTOR_FLOOR = 0.6
"""Below this share of its volts a running motor is no longer a constant-power load."""


@dataclass(frozen=True)
class Steady:
    """The settled state of one set of loads, or of many: then every figure is an array over the sets.

    Attributes:
        v1, v2: legs' volts to neutral, phasors [V]; i1, i2: amps out of the legs, phasors [A].
        converged, reason, passes: how the fixed point went.
    """

    v1: Any
    v2: Any
    i1: Any
    i2: Any
    converged: Any
    reason: str
    passes: int

    def volts(self, leg: int) -> Any:
        """Volts of a place: L1, L2 to neutral, or between the legs [V]."""
        return (abs(self.v1), abs(self.v2), abs(self.v1 - self.v2))[leg]

    @property
    def neutral_a(self) -> Any:
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
    for passes in range(1, PASSES + 1):
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
            return Steady(0j, 0j, 0j, 0j, False, "volts do not exist for this load", passes)
        if moved < TOLERANCE_V:
            return Steady(v1, v2, i1, i2, True, "", passes)
    return Steady(v1, v2, i1, i2, False, "the loads hunt: volts and amps never settle", PASSES)


def solve_sets(upstream: Upstream, draws: Iterable[tuple[int, Draw]], on: Real, tolerance_v: float = TOLERANCE_V) -> Steady:
    """Solve the settled network of many sets of loads at once; for one set the same as :func:`solve_steady`.

    Args:
        draws: (demand number, draw) of every draw there may be.
        on: how much of each demand runs in each set, 0 to 1: (sets, demands); tolerance_v: where the passes end [V].
    """
    kinds: dict[tuple[int, float, float], Complex] = {(place, 0.0, 0.0): np.zeros(on.shape[1], dtype=complex) for place in range(3)}
    for at, draw in draws:
        if draw.constant_power:
            key = draw.leg, draw.bus_v, draw.dropout
            kinds.setdefault(key, np.zeros(on.shape[1], dtype=complex))[at] += draw.va.conjugate()
        else:
            kinds[draw.leg, 0.0, 0.0][at] += draw.va.conjugate() / draw.bus_v**2
    weights = np.stack(list(kinds.values()), axis=1)
    sums = (on @ weights.real + 1j * (on @ weights.imag)).T
    fixed, pooled = sums[:3], dict(zip(list(kinds)[3:], sums[3:], strict=True))
    live = {key: np.ones(len(on)) for key in pooled}
    one = np.ones(len(on), dtype=complex)
    e, z = (upstream.e1_v * one, upstream.e2_v * one), (upstream.z11 * one, upstream.z12 * one, upstream.z22 * one)
    v1, v2 = e
    moved = np.full(len(on), np.inf)
    passes = 0
    while passes < PASSES:
        passes += 1
        y = fixed.copy()
        volts = (np.abs(v1), np.abs(v2), np.abs(v1 - v2))
        for key, va in pooled.items():
            leg, bus_v, dropout = key
            share = volts[leg] / bus_v
            live[key] = live[key] * (share >= dropout)
            y[leg] += live[key] * va / (np.maximum(share, MOTOR_FLOOR) * bus_v) ** 2
        new1, new2, i1, i2 = solve_two_legs(e, z, (y[0], y[1], y[2]))
        moved = np.maximum(np.abs(new1 - v1), np.abs(new2 - v2))
        v1, v2 = new1, new2
        if moved.max(initial=0.0) < tolerance_v:
            break
    well = np.isfinite(moved) & (moved < TOLERANCE_SETS_V)
    return Steady(v1, v2, i1, i2, well, "" if well.all() else "some sets never settle", passes)


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


def source_amps(case: Case, state: Steady) -> tuple[Any, ...]:
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
