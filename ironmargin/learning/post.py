"""What a post is like by the hour of the day: two volt readings a visit, unloaded and loaded, make
its impedance; visits at the same time of day make it known, with its spread.

``R = (V₀ − V) ÷ I`` of each visit. A post's neighbors pull on the same wire, so that both its open
volts and what it loses belong to the hour (common practice, no source).
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import datetime, timedelta

import numpy as np

from ironmargin.learning.entries import Entry, RunEntry, SupplyEntry, written_at
from ironmargin.record import record
from ironmargin.starting.chance import Z_RIG

HOURS = ((6, 12, "mornings"), (12, 17, "afternoons"), (17, 22, "evenings"), (22, 6, "nights"))
"""Stretches of a day, local time: first hour, the hour after it, and what they are called."""
EVENING_H = 17
VISIT = timedelta(minutes=45)
"""Readings so near each other are of one visit: the service is the same for both."""
LOADED_A = 3.0
"""With less a reading counts as unloaded, with more as loaded [A]."""
METER_V = 0.35
"""What two readings of one meter differ by, though nothing changed [V] (one standard deviation;
common practice: the last digit of a hand-held meter).
"""
DAYS_SD = 0.15
"""How far the same hour's impedance differs from day to day [1] (common practice, no source)."""
SOFTER, SURE = 1.2, 0.85
"""An hour is called soft where its impedance is so many times that of the others, this sure."""
MIN_POST_OHM = 0.02
"""A post's impedance counts as this at least where its scatter is taken of it [ohm]."""


@record
class Visit:
    """One visit: when [local], open-circuit volts, impedance and its standard error [ohm]."""

    at: datetime
    open_v: float
    ohm: float
    sd_ohm: float


@record
class Hours:
    """What a post is like at one time of the day: 5, 50 and 95 % of the impedance [ohm]."""

    first: int
    until: int
    name: str
    visits: int
    open_v: float
    low_ohm: float
    ohm: float
    high_ohm: float

    @property
    def when(self) -> str:
        """The hours, as a person says them."""
        if self.first == EVENING_H:
            return f"after {self.first}:00"
        return f"from {self.first}:00 to {self.until}:00"


@record
class Memory:
    """What is remembered of a post: by time of day, of all visits together, and which hours are
    soft, if any.
    """

    visits: int
    by_hours: tuple[Hours, ...]
    whole: Hours
    soft: Hours | None

    @property
    def sentence(self) -> str:
        """What a person would say of it."""
        if self.soft is None:
            return (
                f"{self.whole.ohm:.2f} Ω ({self.whole.low_ohm:.2f} to {self.whole.high_ohm:.2f}) "
                f"from {self.visits} visit{'' if self.visits == 1 else 's'}."
            )
        soft = self.soft
        others = [h for h in self.by_hours if h is not soft]
        best = min(h.ohm for h in others)
        return (
            f"Soft {soft.when}: {soft.ohm:.2f} Ω ({soft.low_ohm:.2f} to "
            f"{soft.high_ohm:.2f}), {best:.2f} Ω at its best."
        )


def _pairs(entries: Iterable[Entry]) -> list[Visit]:
    """Every visit of a log: what stands in one entry, and loaded readings with the nearest
    unloaded one.
    """
    found: list[tuple[datetime, float, float, float]] = []
    open_: list[tuple[datetime, float]] = []
    loaded: list[tuple[datetime, float, float]] = []
    for entry in entries:
        if not entry.at:
            continue
        at = written_at(entry.at)
        if isinstance(entry, RunEntry) and entry.volts and entry.volts_off and entry.amps:
            if entry.amps >= LOADED_A:
                found.append((at, entry.volts_off, entry.volts, entry.amps))
        elif isinstance(entry, SupplyEntry) and entry.volts:
            amps = entry.amps or 0.0
            if amps < LOADED_A:
                open_.append((at, entry.volts))
            else:
                loaded.append((at, entry.volts, amps))
    for at, volts, amps in loaded:
        near = min(open_, key=lambda o: abs(o[0] - at), default=None)
        if near is not None and abs(near[0] - at) <= VISIT:
            found.append((at, near[1], volts, amps))
    return [
        Visit(at, open_v, (open_v - volts) / amps, math.sqrt(2.0) * METER_V / amps)
        for at, open_v, volts, amps in sorted(found)
    ]


def _hour_in(at: datetime, first: int, until: int) -> bool:
    return first <= at.hour < until if first < until else not until <= at.hour < first


def _pooled(visits: list[Visit], first: int, until: int, name: str) -> tuple[Hours, float]:
    """Visits together: the mean weighted by what each may be off, and its standard error."""
    ohms = np.array([v.ohm for v in visits])
    each = np.hypot([v.sd_ohm for v in visits], DAYS_SD * max(float(np.median(ohms)), MIN_POST_OHM))
    weights = 1.0 / np.square(each)
    mean = float(weights @ ohms / weights.sum())
    sd = float(1.0 / math.sqrt(weights.sum()))
    if len(visits) > 2:  # they differ by more than they should: the spread they show counts
        shown = float(np.std(ohms, ddof=1) / math.sqrt(len(visits)))
        sd = max(sd, shown)
    volts = float(np.median([v.open_v for v in visits]))
    low, middle, high = (max(mean + z * sd, 0.0) for z in (-Z_RIG, 0.0, Z_RIG))
    return Hours(first, until, name, len(visits), volts, low, middle, high), sd


def post_memory(entries: Iterable[Entry]) -> Memory | None:
    """What the readings at a post say of it by the hour; None without a visit that has both volts
    unloaded and volts at known amps.

    Args:
        entries: of the logs of all setups on the post; their times are in the place's own hours.

    Returns:
        By the hour, and of the whole; or None.
    """
    visits = _pairs(entries)
    if not visits:
        return None
    whole, _ = _pooled(visits, 0, 24, "all day")
    rows: list[tuple[Hours, float]] = []
    for first, until, name in HOURS:
        there = [v for v in visits if _hour_in(v.at, first, until)]
        if there:
            rows.append(_pooled(there, first, until, name))
    return Memory(len(visits), tuple(h for h, _ in rows), whole, _softest(rows))


def _softest(rows: list[tuple[Hours, float]]) -> Hours | None:
    """The hours that are surely softer than the best of the others; None where none are."""
    if len(rows) < 2:
        return None
    (worst, worst_sd), *others = sorted(rows, key=lambda row: -row[0].ohm)
    best, best_sd = others[-1]
    apart = worst.ohm - SOFTER * best.ohm
    sure = 0.5 * (1.0 + math.erf(apart / math.hypot(worst_sd, SOFTER * best_sd) / math.sqrt(2.0)))
    return worst if sure >= SURE else None
