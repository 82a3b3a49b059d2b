"""The start picture's figures: amps and volts on one time axis, ceilings, moments, and the band of
90 of 100 starts.
"""

from __future__ import annotations

import math

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.starting.scenario import Trace
from ironmargin.starting.starts import Start, ideal_supply_amps
from ironmargin.sustaining.steady import solve_steady, source_amps
from ironmargin.verdict.check import Checked

LEAD_S = 0.3
BAND = (5.0, 95.0)
PULLED_IN = 0.5
"""Speed from which a rotor is drawn up by itself: start gear has faded by then."""
AFTER_S, SHORTEST_S = 0.2, 0.8
"""What is drawn after a start has ended, and the least that is drawn of any [s]."""
DERATED = 0.005
"""A set that lost less than this of its rating has one line, not two [1]."""
STANDS_STILL = 0.05
"""A rotor that never got faster stood still [1]."""
PULLS_IN_BEFORE = 0.85
"""A start that pulls in later than this share of its time has one moment, not two [1]."""


@record
class Moment:
    """A named moment of a start [s]."""

    t_s: float
    words: str


@record
class Ceiling:
    """A limit drawn across the amps [A]; ``dashed`` for the one that counts only for hours."""

    amps: float
    words: str
    dashed: bool = False


@record
class Picture:
    """One start, ready to draw; arrays share the time axis ``t_s`` [s].

    Attributes:
        amps, volts: of the busiest source conductor [A] and of the weaker leg [V].
        low_a, high_a, low_v, high_v: the band of 90 of 100 starts, empty without trials.
        wanted_a: what an ideal supply would see at the first moment [A].
    """

    load: str
    name: str
    t_s: Real
    amps: Real
    volts: Real
    low_a: Real
    high_a: Real
    low_v: Real
    high_v: Real
    wanted_a: float
    nominal_v: float
    ceilings: tuple[Ceiling, ...]
    moments: tuple[Moment, ...]


def _on_axis(trace: Trace, t_s: Real, outcome: str, legs: int) -> tuple[Real, Real]:
    """Amps and volts of a trace on an even time axis: held at the end, nought after a trip."""
    after = 0.0 if outcome == "trips" else None
    amps = np.interp(t_s, trace.t_s, trace.a.max(axis=0), right=after)
    volts = np.interp(t_s, trace.t_s, trace.v[:legs].min(axis=0), right=after)
    return amps, volts


def picture_of(checked: Checked, start: Start) -> Picture:
    """The picture of one start of a check made with ``picture`` set to its load.

    Args:
        checked: a check that keeps what pictures need.
        start: the start.

    Returns:
        Volts, amps, speeds and limits over time, with the band of its trials.
    """
    case = checked.case
    demand = case.demands[start.starters[0].demand]
    legs = case.feed.upstream.legs
    others = [
        d for at, x in enumerate(case.demands) if at != start.starters[0].demand for d in x.steady
    ]
    concurrent = solve_steady(case.feed.upstream, [*others, *demand.single_concurrent])
    lead_a = max(source_amps(case, concurrent))
    lead_v = min(concurrent.volts(leg) for leg in range(legs))
    step = 0.5 / case.source.frequency_hz
    last = max([start.trace.t_s[-1], *(t.t_s[-1] for _, t in start.trial_traces)])
    axis = np.arange(0.0, min(last, max(start.trace.t_s[-1] + AFTER_S, SHORTEST_S)) + step, step)
    tripped = math.isfinite(start.opened_s)
    amps, volts = _on_axis(start.trace, axis, "trips" if tripped else start.outcome, legs)
    before = np.arange(-round(LEAD_S / step), 0) * step
    t_s = np.concatenate([before, axis])

    def led(values: Real, first: float) -> Real:
        return np.concatenate([np.full(len(before), first), values])

    empty = np.zeros(0)
    low_a = high_a = low_v = high_v = empty
    if start.trial_traces:
        every = np.array([_on_axis(t, axis, o, legs) for o, t in start.trial_traces])
        low, high = np.percentile(every, BAND, axis=0)
        low_a, high_a = led(low[0], lead_a), led(high[0], lead_a)
        low_v, high_v = led(low[1], lead_v), led(high[1], lead_v)
    return Picture(
        demand.load.id,
        demand.load.name,
        t_s,
        led(amps, lead_a),
        led(volts, lead_v),
        low_a,
        high_a,
        low_v,
        high_v,
        ideal_supply_amps(case, start.starters),
        case.source.nominal_v,
        ceilings(checked),
        moments(start, math.isfinite(case.source.lockout_k_s)),
    )


def ceilings(checked: Checked) -> tuple[Ceiling, ...]:
    """The supply's limits and the smallest breaker rating [A].

    Args:
        checked: a verdict with its case.

    Returns:
        Each with its words.
    """
    source = checked.case.source
    found = []
    if math.isfinite(source.limit_a):
        found.append(Ceiling(source.limit_a, "starting limit here"))
        if (
            source.derate
            and source.derate[-1].starting_w < (1.0 - DERATED) * source.derate[0].starting_w
            and len({s.key for s in source.derate}) == len(source.derate)
        ):
            plate = source.limit_a * source.derate[0].starting_w / source.derate[-1].starting_w
            found.append(Ceiling(plate, "nameplate", True))
    if math.isfinite(source.continuous_a):
        found.append(Ceiling(source.continuous_a, "continuous", True))
    breakers = [b for b, _ in checked.case.breakers]
    if breakers:
        smallest = min(breakers, key=lambda b: b.rating_a)
        found.append(Ceiling(smallest.rating_a, smallest.name, True))
    return tuple(found)


def moments(start: Start, locked_out: bool) -> tuple[Moment, ...]:
    """The named moments: switched in, pulls in or stands still, settled or opens.

    Args:
        start: as it was followed.
        locked_out: whether the supply's lockout opened.

    Returns:
        Seconds since it began [s], each with its words.
    """
    row = start.starters[0].row
    found = [Moment(0.0, "compressor in" if row is not None else "switched in")]
    trace = start.trace
    if row is not None and start.outcome != "starts" and trace.speed[row].max() < STANDS_STILL:
        found.append(Moment(float(trace.t_s[len(trace.t_s) // 2]), "rotor stands still"))
    if math.isfinite(start.seconds) and start.outcome == "starts":
        if row is not None:
            half = np.flatnonzero(trace.speed[row] >= PULLED_IN)
            if len(half) and trace.t_s[half[0]] < PULLS_IN_BEFORE * start.seconds:
                found.append(Moment(float(trace.t_s[half[0]]), "pulls in"))
        found.append(Moment(start.seconds, "up to speed"))
    if math.isfinite(start.opened_s):
        found.append(Moment(start.opened_s, "lockout opens" if locked_out else "breaker opens"))
    return tuple(found)


def picture_csv(picture: Picture) -> str:
    """The picture's figures as CSV.

    Args:
        picture: of one start.

    Returns:
        A row a moment, with a heading.
    """
    band = bool(len(picture.low_a))
    lines = ["time_s,amps_a,volts_v" + (",low_a,high_a,low_v,high_v" if band else "")]
    series = [picture.t_s, picture.amps, picture.volts] + (
        [picture.low_a, picture.high_a, picture.low_v, picture.high_v] if band else []
    )
    lines += [",".join(f"{x:.5g}" for x in row) for row in zip(*series, strict=True)]
    return "\n".join(lines) + "\n"
