"""What moving one load to the other leg would do to the settled amps."""

from __future__ import annotations

import numpy as np

from ironmargin.case import Case
from ironmargin.loads.demand import L1, L2, Draw
from ironmargin.record import record
from ironmargin.supplies.source import LEG_NAMES
from ironmargin.sustaining.steady import numbered_draws, solve_sets

MIN_AMPS = 0.5


@record
class Move:
    """One load moved: amps of both legs and the neutral afterwards [A], and how much lower the
    busier leg is [A].
    """

    load: str
    name: str
    to: str
    l1_a: float
    l2_a: float
    neutral_a: float
    gained_a: float


def leg_moves(case: Case) -> tuple[Move, ...]:
    """Every 120 V load moved to the other leg, the move that lightens the busier leg most first;
    none on one leg.

    Args:
        case: the prepared setup.

    Returns:
        The moves, each with what it lightens.
    """
    up = case.feed.upstream
    if up.legs != 2 or up.tied:
        return ()
    demands = case.demands
    movable = [
        at
        for at, d in enumerate(demands)
        if d.leg in (L1, L2) and sum(x.amps for x in d.steady) >= MIN_AMPS
    ]
    other = {L1: L2, L2: L1}
    draws = numbered_draws(case)
    # Every load a second time, on the other leg: a set runs it here or there.
    there = [
        (len(demands) + at, Draw(other[d.leg], d.bus_v, d.va, d.constant_power, d.dropout))
        for at in movable
        for d in demands[at].steady
    ]
    on = np.zeros((1 + len(movable), 2 * len(demands)))
    on[:, : len(demands)] = 1.0
    for row, at in enumerate(movable, 1):
        on[row, [at, len(demands) + at]] = 0.0, 1.0
    state = solve_sets(up, [*draws, *there], on)
    l1_a, l2_a, neutral_a = (abs(x) for x in (state.i1, state.i2, state.i1 + state.i2))
    busier = np.maximum(l1_a, l2_a)
    found = [
        Move(
            demands[at].load.id,
            demands[at].load.name,
            LEG_NAMES[other[demands[at].leg]],
            *(float(x[row]) for x in (l1_a, l2_a, neutral_a, busier[0] - busier)),
        )
        for row, at in enumerate(movable, 1)
    ]
    return tuple(sorted(found, key=lambda m: -m.gained_a))
