"""What to measure next: which reading narrows the verdict most for the minutes it takes, with the
instruments at hand.

For samples of what is not known of a rig, each start has a distance from its boundary: the strength
there is over the strength it needs. A reading that goes with that distance tells of it; how much of
the distance's variance it takes away follows from their correlation and the reading's own error, as
for two normals (D. Lindley, Ann. Math. Stat. 27, 1956: the value of an experiment before it is
made). A reading that would change nothing is not asked for.

Starts that all end alike say which side of the edge they are on, not how far from it. With loads of
known watts on beside them, more after each that starts and less after one that fails, they close in
on it (the up-and-down method: W. Dixon and A. Mood, J. Am. Stat. Assoc. 43, 1948).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

import numpy as np

from ironmargin.electrics.motor import rested_s
from ironmargin.electrics.network import Real
from ironmargin.learning import instruments as seen_with
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.looking import (
    day_sds,
    edge_of,
    needed_of,
    run,
    source_strength_in,
    unknowns_in,
)
from ironmargin.learning.observed import ObservedStart, observed_start
from ironmargin.learning.unknowns import column, prior_of
from ironmargin.listed import listed
from ironmargin.record import record
from ironmargin.setup.loads import Electronic, Incandescent, Load, Resistive, Rotating
from ironmargin.setup.model import Setup
from ironmargin.starting.chance import Z_RIG
from ironmargin.starting.known import DIPS, PEAKS
from ironmargin.starting.points import normal
from ironmargin.starting.samples import share_below, shares_below

SAMPLES = 96
OWN_DRAWS = 23
"""Added to a setup's seed: what a reading would tell is not asked of the samples that were learned
from."""
LESS_LEFT = 0.8
"""What more loads beside a start must leave, over what starts alone leave, to be worth the trouble
[1]."""
MIN_NARROWED = 0.03
"""Odds that a reading narrows by less are not worth a look [1]."""
HOPELESS = 0.1
MINUTES = {"inrush-clamp": 6.0, "trace": 15.0, "starter-report": 2.0, "by-ear": 2.0}
"""How long a reading of a start takes with each, without the rests between starts (common
practice, no source)."""
PLAIN = (Resistive, Electronic, Incandescent)
"""Kinds of load that take the same watts each time they are on."""
STARTS_HEARD = 4
"""Starts that are tried and listened to in one go."""
MAX_CONCURRENT = 3
"""Loads that are turned on beside a start to find its edge."""
CONCURRENT = (
    "Start {name} four times{apart} with more on beside it after each that starts ({loads}) and "
    "less after one that fails. Write down what was on and how each start ends"
)
WORDS = {
    "inrush-clamp": "Read the peak of {name}'s start with an inrush clamp around one conductor",
    "trace": "Record a trace of {name}'s start",
    "starter-report": "Read what {name}'s soft starter reports of its start",
    "by-ear": "Start {name} four times{apart} and write down how each start ends",
}
SMALLEST_A = 1e-3
"""Stands for no current where a logarithm is taken [A]."""


@record
class NextReading:
    """A reading worth making.

    Attributes:
        load, name: whose start.
        instrument: with what.
        minutes: how long it takes.
        sentence: what to do.
        low, high: between what the odds of this rig's start lie now, for ninety rigs of a hundred
            [1].
        known_low, known_high: the same once it was read.
    """

    load: str
    name: str
    instrument: str
    minutes: float
    sentence: str
    low: float
    high: float
    known_low: float
    known_high: float

    @property
    def narrows(self) -> float:
        """By how much the odds become narrower [1]."""
        return (self.high - self.low) - (self.known_high - self.known_low)


def rest_min(load: Load) -> float:
    """Rest between two starts of a load [min].

    Args:
        load: what starts.

    Returns:
        Minutes until nothing of the pressure is left, none without a compressor [min].
    """
    return rested_s(load.metering) / 60.0 if isinstance(load, Rotating) else 0.0


def minutes_of(instrument: str, load: Load) -> float:
    """How long a reading takes: of some starts also the rests between them.

    Args:
        instrument: one of :data:`MINUTES`.
        load: what starts.

    Returns:
        Minutes [min].
    """
    rests = STARTS_HEARD - 1 if instrument == "by-ear" else 0
    return MINUTES[instrument] + rests * rest_min(load)


def _left(distance: Real, read: Real, error: float) -> float:
    """Share of a distance's variance that is left once a figure was read [1]."""
    apart = float(np.var(read)) + error**2
    if apart <= 0.0 or float(np.var(distance)) <= 0.0:
        return 1.0
    together = float(np.cov(distance, read)[0, 1])
    return 1.0 - together**2 / (float(np.var(distance)) * apart)


def _left_heard(distance: Real, day_sd: float, steps: Iterable[float] = ()) -> float:
    """The same once some starts were heard, each with so much on beside it that it is as likely to
    fail as to succeed: over all the ways they may end.

    Args:
        steps: what each load that may be on beside it takes of the distance [1].
    """
    levels = {0.0}
    for step in steps:
        levels |= {level + step for level in levels}
    passes = [shares_below((distance - level) / day_sd) for level in sorted(levels)]

    def left(weights: Real, starts: int) -> float:
        whole = float(weights.sum())
        if starts == 0 or whole < 1e-9:
            middle = float(weights @ distance) / max(whole, 1e-12)
            return float(weights @ (distance - middle) ** 2)
        chance = min(passes, key=lambda each: abs(float(weights @ each) - 0.5 * whole))
        return left(weights * chance, starts - 1) + left(weights * (1.0 - chance), starts - 1)

    even = np.full(len(distance), 1.0 / len(distance))
    return min(left(even, STARTS_HEARD) / max(float(np.var(distance)), 1e-12), 1.0)


def _concurrent(
    setup: Setup, observed: ObservedStart, load: str, middle: float
) -> list[tuple[str, float]]:
    """Loads of known watts that may be turned on beside a start, the smallest first, each with what
    it takes of the distance to the boundary [1].
    """
    modes = {w.load: w.mode for w in setup.wanted}
    on = [x.id for x in setup.rig.loads if (x.id in modes or x.always_on) and x.id != load]
    idle = [
        (x.watts, x.id, x)
        for x in setup.rig.loads
        if isinstance(x, PLAIN) and x.id not in modes and not x.always_on
    ]
    found = []
    for _, _, one in sorted(idle, key=lambda x: x[:2])[:MAX_CONCURRENT]:
        with_it = StartEntry(load=load, mode=modes.get(load), with_running=(*on, one.id))
        other = observed_start(setup, with_it)
        if other is None:
            continue
        edge = edge_of(other, unknowns_in(setup, [observed]), setup.rules.seed + OWN_DRAWS)
        step = edge.boundary.middle - middle
        if edge.boundary.share is None and step > 0.0:
            found.append((one.name, step))
    return found


def _of_start(setup: Setup, observed: ObservedStart, have: Iterable[str]) -> list[NextReading]:
    """Every reading of one start that narrows its odds."""
    scenario, row = observed.scenario, observed.row
    load = scenario.case.demands[scenario.case.rows[row]].load
    unknowns = unknowns_in(setup, [observed])
    count = len(unknowns)
    logs = prior_of(setup, unknowns).draw(normal(SAMPLES, count, setup.rules.seed + OWN_DRAWS))
    edge = edge_of(observed, unknowns, setup.rules.seed + OWN_DRAWS)
    if edge.boundary.share is not None:
        return []
    needed, day_sd = needed_of(observed, unknowns, logs, edge, edge.boundary)
    distance = source_strength_in(observed, unknowns, logs) - needed
    figures = run(observed, unknowns, logs, np.zeros(SAMPLES))
    days = day_sds(observed, unknowns, logs)
    middle, sd = float(np.mean(distance)), float(np.std(distance))

    def odds(spread: float) -> tuple[float, float]:
        low, high = ((middle - side * spread) / day_sd for side in (Z_RIG, -Z_RIG))
        return share_below(low), share_below(high)

    now = odds(sd)
    found = []
    # What hardly ever starts is not tried for the sake of a reading.
    hopeless = share_below(middle / math.hypot(sd, day_sd)) < HOPELESS
    for instrument in have:
        if instrument not in MINUTES or (hopeless and instrument == "by-ear"):
            continue
        soft = scenario.model.motors.soft_a[row] > 0.0
        if instrument == "starter-report" and not soft:
            continue
        loads: list[tuple[str, float]] = []
        if instrument == "by-ear":
            left = _left_heard(distance, day_sd)
            loads = _concurrent(setup, observed, load.id, edge.boundary.middle)
            closer = _left_heard(distance, day_sd, (step for _, step in loads))
            loads = loads if closer < LESS_LEFT * left else []
            left = closer if loads else left
        else:
            which = "own_a" if seen_with.BENCH[instrument].own else "peak_a"
            peaks = np.log(np.maximum(figures[which], SMALLEST_A))
            peaks = peaks + column(unknowns, logs, (PEAKS, ""))
            error = math.hypot(seen_with.BENCH[instrument].peak, days[which])
            left = _left(distance, peaks, error)
            dips = figures["lowest_v"] / scenario.case.source.nominal_v
            dips = dips + column(unknowns, logs, (DIPS, ""))
            volts = math.hypot(seen_with.BENCH[instrument].volts, days["lowest_v"])
            left = min(left, _left(distance, dips, volts))
        known = odds(sd * math.sqrt(max(left, 0.0)))
        rest = rest_min(load)
        apart = f", {rest:.0f} minutes apart," if rest else ""
        names = listed([name for name, _ in loads])
        words = CONCURRENT if loads else WORDS[instrument]
        sentence = words.format(name=load.name, apart=apart, loads=names)
        one = NextReading(
            load.id, load.name, instrument, minutes_of(instrument, load), sentence, *now, *known
        )
        if one.narrows >= MIN_NARROWED and one.high >= HOPELESS:
            found.append(one)
    return found


def next_readings(
    setup: Setup, have: Iterable[str] = ("inrush-clamp", "starter-report", "by-ear")
) -> list[NextReading]:
    """What to measure next, what narrows the odds most a minute first; nothing where no reading
    would change them.

    Args:
        setup: supply, path, rig and rules of the question.
        have: the instruments at hand, as the log calls them.

    Returns:
        The readings, each with what it narrows and how long it takes.
    """
    at_hand = list(dict.fromkeys(have))
    modes: Mapping[str, str | None] = {w.load: w.mode for w in setup.wanted}
    found: list[NextReading] = []
    for load in setup.rig.loads:
        if load.id not in modes and not load.always_on:
            continue
        observed = observed_start(setup, StartEntry(load=load.id, mode=modes.get(load.id)))
        if observed is not None:
            found += _of_start(setup, observed, at_hand)
    return sorted(found, key=lambda one: -one.narrows / one.minutes)
