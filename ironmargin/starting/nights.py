"""Starts over a night: how often two compressors come on together, how likely one of them fails."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics import motor as m
from ironmargin.record import record
from ironmargin.setup.loads import AirConditioner
from ironmargin.starting.chance import Chance

if TYPE_CHECKING:
    from ironmargin.starting.starts import Start

NIGHT_H = 10.0
SHORTEST_S, LONGEST_S = 0.5, 10.0
"""Starts this near each other count as one moment [s]: the windows of all that start are taken
within these."""
NIGHT_RELIEF = 0.9
"""Strength a restart in the night needs over the first start of a warm evening, once pressures are
equal: its windings are warm and draw less, the engine is warm, the air is cooler (common practice,
no source: restarts after two to three minutes of rest go all night, where the first start of the
evening fails one time in four or five)."""


@record
class Night:
    """A night of ten hours of a unit that cycles: how often it starts, how many of those starts
    fail on average, and the chance of a restart [1].
    """

    starts: float
    fails: float
    restart: float


def coincidences_per_night(case: Case, seconds: float) -> float:
    """How often all cycling motors start in the same moment in a night of ten hours.

    Independent cycles: rate of n starts within ``d`` of each other = n·Π(rate)·d^(n−1).

    Args:
        case: the prepared setup.
        seconds: how near to each other they count as one moment [s].

    Returns:
        Times a night.
    """
    rates = [
        d.cycles_per_h / 3600.0 * d.load.count
        for d in case.demands
        if d.plate and d.cycles_per_h > 0
    ]
    if len(rates) < 2:
        return 0.0
    window = min(max(seconds, SHORTEST_S), LONGEST_S)
    return float(len(rates) * np.prod(rates) * window ** (len(rates) - 1) * NIGHT_H * 3600.0)


def night_of(case: Case, start: Start, chance: Chance) -> Night | None:
    """The starts of a night: the first of the evening as judged, the rest after the rest its cycle
    gives it.

    Args:
        case: the setup, ready to be solved.
        start: the first start, of one motor.
        chance: of that start.

    Returns:
        The night; None where nothing cycles or several start together.
    """
    demand = case.demands[start.starters[0].demand]
    load, plate = demand.load, demand.plate
    if len(start.starters) > 1 or plate is None or demand.cycles_per_h <= 0.0:
        return None
    restart = chance.chance
    if isinstance(load, AirConditioner):
        pressed = m.breakaway_after(demand.off_s, load.metering) / m.BREAKAWAY_EQUALISED
        restart = chance.of_restart(pressed, NIGHT_RELIEF)
    count = max(demand.cycles_per_h * NIGHT_H, 1.0) * load.count
    fails = (1.0 - chance.chance) + (count - 1.0) * (1.0 - restart)
    return Night(count, fails, restart)
