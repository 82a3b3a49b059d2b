"""The settled network: everything running, constant-power loads drawing more as volts fall."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import overload

import numpy as np
from numpy.typing import NDArray

from ironmargin.case import Case
from ironmargin.electrics.columns import settle_columns
from ironmargin.electrics.network import Complex, Figure, Real, Upstream, solve_two_legs
from ironmargin.loads.demand import Draw
from ironmargin.record import record

PASSES = 120
TOLERANCE_V = 1e-6
TOLERANCE_SETS_V = 0.5
"""Of many sets solved at once, one that still moves more than this has not settled."""
MAX_SOURCE_STRENGTH = 6.0
MIN_SHARE = 0.4
"""Nothing here holds on below this share of its volts: it keeps the arithmetic finite while volts
are found.
"""
DAMPED_FROM = 12
"""Passes from which each goes only half the way: near the most a path can carry, whole ones
hunt.
"""


"""A figure of one set of loads, or of many: then an array over the sets."""
RESERVE_TOLERANCE = 0.002
"""How near the reserve of what runs is found [1]."""
OPEN_OHM = 1e7
"""What a lost neutral has [ohm]."""


@record
class Steady:
    """The settled state of one set of loads.

    Attributes:
        v1, v2: legs' volts to neutral, phasors [V].
        i1, i2: amps out of the legs, phasors [A].
        converged, reason, passes: how the fixed point went.
        dropped_out: numbers of the draws that dropped out.
    """

    v1: complex
    v2: complex
    i1: complex
    i2: complex
    converged: bool
    reason: str
    passes: int
    dropped_out: tuple[int, ...] = ()

    def volts(self, leg: int) -> float:
        """Volts of a place: L1, L2 to neutral, or between the legs [V].

        Args:
            leg: L1, L2 or both.

        Returns:
            Volts [V].
        """
        return (abs(self.v1), abs(self.v2), abs(self.v1 - self.v2))[leg]

    @property
    def neutral_a(self) -> float:
        """Amps in the neutral at the fundamental: the phasor sum of the legs [A]."""
        return abs(self.i1 + self.i2)


@record
class SteadySets:
    """The settled states of many sets of loads: every figure is an array over the sets.

    Attributes:
        v1, v2, i1, i2: as of :class:`Steady`.
        converged: whether each set settled.
        dropped: whether some load dropped out in it.
    """

    v1: Complex
    v2: Complex
    i1: Complex
    i2: Complex
    converged: NDArray[np.bool_]
    reason: str
    passes: int
    dropped: NDArray[np.bool_]

    def volts(self, leg: int) -> Real:
        """Volts of a place: L1, L2 to neutral, or between the legs [V].

        Args:
            leg: L1, L2 or both.

        Returns:
            Volts (sets,) [V].
        """
        found: Real = np.abs((self.v1, self.v2, self.v1 - self.v2)[leg])
        return found

    @property
    def neutral_a(self) -> Real:
        """Amps in the neutral at the fundamental: the phasor sum of the legs [A]."""
        found: Real = np.abs(self.i1 + self.i2)
        return found


def solve_steady(upstream: Upstream, draws: Iterable[Draw]) -> Steady:
    """Solve the settled network by fixed-point passes over the constant-power loads.

    A load that lets go is no relief: it is named, and what it draws at its dropout stays on, so
    that nothing seems to hold because another has fallen off. Not converging is said in the result,
    never a number made up.

    Args:
        upstream: source and path.
        draws: what hangs on the panel.

    Returns:
        Volts, amps, and what dropped out.
    """
    fixed = np.zeros(3, dtype=complex)
    power: list[tuple[int, Draw]] = []
    for at, draw in enumerate(draws):
        if draw.constant_power:
            power.append((at, draw))
        else:
            fixed[draw.leg] += draw.va.conjugate() / draw.bus_v**2
    live = [True] * len(power)
    e, z = (upstream.e1_v, upstream.e2_v), (upstream.z11, upstream.z12, upstream.z22)
    v1, v2, i1, i2 = upstream.e1_v, upstream.e2_v, 0j, 0j
    for passes in range(1, PASSES + 1):
        y = fixed.copy()
        volts = (abs(v1), abs(v2), abs(v1 - v2))
        for n, (_, draw) in enumerate(power):
            share = volts[draw.leg] / draw.bus_v
            live[n] = live[n] and share >= draw.dropout
            y[draw.leg] += (
                draw.va.conjugate() / (max(share, draw.dropout, MIN_SHARE) * draw.bus_v) ** 2
            )
        new1, new2, i1, i2 = map(complex, solve_two_legs(e, z, tuple(y)))  # type: ignore[arg-type]
        moved = max(abs(new1 - v1), abs(new2 - v2))
        part = 1.0 if passes < DAMPED_FROM else 0.5
        v1, v2 = v1 + part * (new1 - v1), v2 + part * (new2 - v2)
        if not np.isfinite(moved):
            return Steady(0j, 0j, 0j, 0j, False, "volts do not exist for this load", passes)
        if moved < TOLERANCE_V:
            gone = tuple(at for (at, _), on in zip(power, live, strict=True) if not on)
            return Steady(v1, v2, i1, i2, True, "", passes, gone)
    return Steady(v1, v2, i1, i2, False, "the loads hunt: volts and amps never settle", PASSES)


def solve_sets(
    upstream: Upstream,
    draws: Iterable[tuple[int, Draw]],
    on: Real,
    tolerance_v: float = TOLERANCE_V,
) -> SteadySets:
    """Solve the settled network of many sets of loads at once; for one set the same as
    :func:`solve_steady`.

    Args:
        upstream: source and path.
        draws: (demand number, draw) of every draw there may be.
        on: how much of each demand runs in each set, 0 to 1: (sets, demands).
        tolerance_v: where the passes end [V].

    Returns:
        The same, arrays over sets.
    """
    kinds: dict[tuple[int, float, float], Complex] = {
        (place, 0.0, 0.0): np.zeros(on.shape[1], dtype=complex) for place in range(3)
    }
    for at, draw in draws:
        if draw.constant_power:
            key = draw.leg, draw.bus_v, draw.dropout
            kinds.setdefault(key, np.zeros(on.shape[1], dtype=complex))[at] += draw.va.conjugate()
        else:
            kinds[draw.leg, 0.0, 0.0][at] += draw.va.conjugate() / draw.bus_v**2
    weights = np.stack(list(kinds.values()), axis=1)
    # Two products of real numbers: half the work of a complex one.
    sums = np.empty((len(kinds), len(on)), dtype=complex)
    sums.real, sums.imag = weights.real.T @ on.T, weights.imag.T @ on.T
    count = len(on)
    feed = (upstream.e1_v, upstream.e2_v, upstream.z11, upstream.z12, upstream.z22)
    volts, amps = np.zeros((2, count), dtype=complex), np.zeros((2, count), dtype=complex)
    moved, gone = np.zeros(count), np.zeros(count)
    passes = settle_columns(
        np.array(feed, dtype=complex),
        sums[:3],
        sums[3:],
        np.array(
            [(leg, bus_v, drop, max(drop, MIN_SHARE)) for leg, bus_v, drop in list(kinds)[3:]]
        ).reshape(-1, 4),
        np.array([PASSES, DAMPED_FROM, tolerance_v]),
        volts,
        amps,
        moved,
        gone,
    )
    (v1, v2), (i1, i2) = volts, amps
    well = np.isfinite(moved) & (moved < TOLERANCE_SETS_V)
    return SteadySets(
        v1, v2, i1, i2, well, "" if well.all() else "some sets never settle", passes, gone > 0.0
    )


def numbered_draws(case: Case, off: frozenset[int] = frozenset()) -> list[tuple[int, Draw]]:
    """Every settled draw of a case with the number of its demand, demands in ``off`` left out.

    Args:
        case: the prepared setup.
        off: numbers of demands left out.

    Returns:
        Number and draw.
    """
    return [
        (at, draw)
        for at, demand in enumerate(case.demands)
        if at not in off
        for draw in demand.steady
    ]


def all_draws(case: Case, off: frozenset[int] = frozenset()) -> list[Draw]:
    """Every settled draw of a case, demands in ``off`` left out.

    Args:
        case: the setup, ready to be solved.
        off: numbers of demands that are left out.

    Returns:
        In the order of the demands.
    """
    return [draw for _, draw in numbered_draws(case, off)]


def settled(case: Case, off: frozenset[int] = frozenset()) -> Steady:
    """The settled state of a case; ``dropped_out`` names demands.

    Args:
        case: the prepared setup.
        off: numbers of demands left out.

    Returns:
        The state.
    """
    draws = numbered_draws(case, off)
    state = solve_steady(case.feed.upstream, [draw for _, draw in draws])
    return replace(state, dropped_out=tuple(dict.fromkeys(draws[n][0] for n in state.dropped_out)))


def holding_factor(case: Case) -> float:
    """How strong supply and path would have to be for every load to hold on, by bisection; 1 where
    they do, 6 at most.

    Args:
        case: the prepared setup.

    Returns:
        The factor [1].
    """
    draws = all_draws(case)

    def holds(source_strength: float) -> bool:
        up = case.feed.upstream
        state = solve_steady(
            replace(
                up,
                z11=up.z11 / source_strength,
                z12=up.z12 / source_strength,
                z22=up.z22 / source_strength,
            ),
            draws,
        )
        return bool(state.converged) and not state.dropped_out

    low, high = 1.0, MAX_SOURCE_STRENGTH
    if holds(low):
        return low
    if not holds(high):
        return high
    while high - low > RESERVE_TOLERANCE:
        middle = 0.5 * (low + high)
        low, high = (low, middle) if holds(middle) else (middle, high)
    return high


def averaged(case: Case) -> Steady:
    """The state with every load at its mean over its duty cycle: what breakers and cords feel over
    three hours.

    Args:
        case: the prepared setup.

    Returns:
        The state.
    """
    draws: list[Draw] = []
    for demand in case.demands:
        draws += [
            Draw(d.leg, d.bus_v, d.va * demand.duty, d.constant_power, d.dropout)
            for d in demand.steady
        ]
    return solve_steady(case.feed.upstream, draws)


def magnitude(phasor: complex | Complex) -> Figure:
    """Absolute value of a phasor, or of many.

    Args:
        phasor: a phasor, or an array.

    Returns:
        The value, of its shape.
    """
    found: Figure = np.abs(phasor) if isinstance(phasor, np.ndarray) else abs(phasor)
    return found


@overload
def source_amps(case: Case, state: Steady) -> tuple[float, ...]: ...
@overload
def source_amps(case: Case, state: Steady | SteadySets) -> tuple[Figure, ...]: ...
def source_amps(case: Case, state: Steady | SteadySets) -> tuple[Figure, ...]:
    """Amps of each hot conductor of the source, also-on-circuit load left out [A].

    Args:
        case: the prepared setup.
        state: settled, of one set or of many.

    Returns:
        Amps by conductor [A].
    """
    if case.feed.upstream.tied:
        return (magnitude(state.i1 + state.i2) * case.turns,)
    if case.feed.upstream.legs == 1:
        return (magnitude(state.i1) * case.turns,)
    return (magnitude(state.i1), magnitude(state.i2))


def lost_neutral(case: Case) -> tuple[float, float]:
    """Volts each leg would see if the neutral opened: the legs' loads in series across both hot
    conductors [V].

    Args:
        case: the prepared setup.

    Returns:
        Volts of L1 and of L2 [V].
    """
    up = case.feed.upstream
    without = Upstream(
        up.e1_v, up.e2_v, up.z11 + OPEN_OHM, up.z12 + OPEN_OHM, up.z22 + OPEN_OHM, up.legs, up.tied
    )
    impedances = [Draw(d.leg, d.bus_v, d.va, False) for d in all_draws(case)]
    state = solve_steady(without, impedances)
    return abs(state.v1), abs(state.v2)
