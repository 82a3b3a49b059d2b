"""What a whole rig draws, by leg and by breaker, with everything on at once: the footer of its
table.
"""

from __future__ import annotations

from dataclasses import replace

from ironmargin.case import prepare
from ironmargin.record import record
from ironmargin.setup.model import Rig, Wanted
from ironmargin.setup.parts import alone
from ironmargin.supplies.source import LEG_NAMES


@record
class CircuitTotal:
    """A branch breaker and what hangs on it [A]."""

    id: str
    name: str
    leg: str
    amps: float
    breaker_a: float


@record
class Totals:
    """What a rig draws with everything on.

    Attributes:
        legs: amps of each leg, loads added as phasors of one leg [A].
        neutral_a: of the neutral of a split service [A].
        always_a: of what is always on, the busier leg [A].
        largest_start: name and amps of the largest start, or None.
        load_amps: amps of each load by its id, all of its count [A].
    """

    legs: dict[str, float]
    neutral_a: float
    always_a: float
    circuits: tuple[CircuitTotal, ...]
    largest_start: tuple[str, float] | None
    load_amps: dict[str, float]


def totals(rig: Rig) -> Totals:
    """Add up a rig at rated volts: phasors of each leg, 240 V loads on both.

    Args:
        rig: the rig: legs, circuits, loads.

    Returns:
        Amps by leg, watts, and what runs and starts at most.
    """
    everything = tuple(Wanted(load=x.id) for x in rig.loads)
    case = prepare(replace(alone(replace(rig, lockouts=())), wanted=everything))
    count = 2 if rig.service == "120/240" else 1
    legs, always = [0j] * count, [0j] * count
    load_amps: dict[str, float] = {}
    largest: tuple[str, float] | None = None
    for demand in case.demands:
        amps = sum(d.va.conjugate() / d.bus_v for d in demand.steady)
        load_amps[demand.load.id] = abs(amps)
        for leg in range(count) if demand.leg == 2 else [demand.leg]:
            legs[leg] += amps
            always[leg] += amps * demand.load.always_on
        if demand.plate is not None:
            start = demand.plate.lra_a * (demand.plate.soft_fraction or 1.0)
            largest = max(largest or ("", 0.0), (demand.load.name, start), key=lambda x: x[1])
    circuits = tuple(
        CircuitTotal(
            c.id,
            c.name or c.id,
            c.leg,
            sum(load_amps.get(x.id, 0.0) for x in rig.loads if x.circuit == c.id),
            c.breaker_a,
        )
        for c in rig.circuits
    )
    neutral = abs(legs[0] - legs[1]) if count == 2 else abs(legs[0])
    return Totals(
        {LEG_NAMES[n]: abs(i) for n, i in enumerate(legs)},
        neutral,
        max(map(abs, always)),
        circuits,
        largest,
        load_amps,
    )
