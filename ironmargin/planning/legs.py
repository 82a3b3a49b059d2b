"""What moving one load to the other leg would do to the settled amps."""

from __future__ import annotations

from dataclasses import replace

from ironmargin.case import Case
from ironmargin.loads.demand import L1, L2, Draw
from ironmargin.record import record
from ironmargin.supplies.source import LEG_NAMES
from ironmargin.sustaining.steady import settled

LEAST_AMPS = 0.5


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
    """
    up = case.feed.upstream
    if up.legs != 2 or up.tied:
        return ()
    now = settled(case)
    busier = max(abs(now.i1), abs(now.i2))
    found = []
    for at, demand in enumerate(case.demands):
        if demand.leg not in (L1, L2) or sum(d.amps for d in demand.steady) < LEAST_AMPS:
            continue
        to = L2 if demand.leg == L1 else L1
        steady = tuple(Draw(to, d.bus_v, d.va, d.constant_power, d.dropout) for d in demand.steady)
        moved = replace(
            case,
            demands=(
                *case.demands[:at],
                replace(demand, leg=to, steady=steady),
                *case.demands[at + 1 :],
            ),
        )
        state = settled(moved)
        gained = busier - max(abs(state.i1), abs(state.i2))
        found.append(
            Move(
                demand.load.id,
                demand.load.name,
                LEG_NAMES[to],
                abs(state.i1),
                abs(state.i2),
                state.neutral_a,
                gained,
            )
        )
    return tuple(sorted(found, key=lambda m: -m.gained_a))
