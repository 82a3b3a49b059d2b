"""What else a log tells: noise, fuel, the post's volts, the park's meter, and drift over months."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from ironmargin.enduring.fuel import WH_PER_L, typical_line
from ironmargin.enduring.noise import ECO_DB, EXHAUST_DB, FREE_FIELD_DB
from ironmargin.learning.entries import EnergyEntry, FuelEntry, NoiseEntry, StartEntry, written_at
from ironmargin.record import record
from ironmargin.setup.engines import Generator

REFLECTS_DB = 2.0
"""A residual from which walls or vehicles reflect (common practice)."""
MIN_OVER_BACKGROUND_DB = 3.0
"""A source less than this above the background cannot be told from it (ISO 3744, memory)."""
DAYS_A_MONTH = 30.44
MIN_DRIFT_DAYS = 20.0
MIN_POINTS = 3
"""Starts from which a drift can be told."""
MIN_DOUBLINGS = 0.4
"""Readings whose distances differ by less tell nothing of what distance takes [doublings]."""
MIN_LOAD_SPREAD = 0.15
"""Fills whose loads differ by less of the rating tell one figure, not a line [1]."""
QUARTERS = (0.25, 0.5, 0.75, 1.0)
"""Loads at which consumption is printed, over the rating."""
MIN_APART_A = 3.0
"""Readings of a post nearer each other than this tell its volts alone [A] (common practice)."""
METERS_AGREE = 0.08
"""Two energy meters that differ by less agree [1] (common practice, no source)."""
DAY_S = 86_400.0


@record
class NoiseLearned:
    """A source fitted to a walk around it.

    Attributes:
        at_1m_dba: beside it at one metre [dBA].
        per_doubling_db: lost for each doubling [dB].
        residual_db: largest misfit [dB].
        exhaust_db, eco_db: what the exhaust side adds and eco takes [dB].
        used: entries used.
        sentence: how far from a free field they are.
    """

    at_1m_dba: float
    per_doubling_db: float
    residual_db: float
    exhaust_db: float
    eco_db: float
    used: tuple[int, ...]
    sentence: str
    fits_distance: bool = False
    load_w: float = 0.0


def own_level(entry: NoiseEntry) -> float | None:
    """The source's own level, the background taken off as energy [dBA]; None where it is lost in
    it.

    Args:
        entry: a reading of noise.

    Returns:
        Level [dBA].
    """
    if entry.background_dba is None:
        return entry.dba
    if entry.dba - entry.background_dba < MIN_OVER_BACKGROUND_DB:
        return None
    return 10.0 * math.log10(10.0 ** (entry.dba / 10.0) - 10.0 ** (entry.background_dba / 10.0))


def learn_noise(entries: Sequence[tuple[int, NoiseEntry]]) -> NoiseLearned | None:
    """Fit level = at 1 m − per doubling · log2(r) + exhaust + eco to readings outside.

    What the readings do not vary is not fitted but taken as usual: a free field, 3.5 dB more at the
    exhaust and as much less away from it, 3 dB less in eco (common practice).

    Args:
        entries: noise entries with their number in the log.

    Returns:
        The source; None where no reading is of use.
    """
    loaded = [entry.load_w > 0.0 for _, entry in entries]
    rows = []
    for at, entry in entries:
        if any(loaded) and entry.load_w <= 0.0:
            continue  # idling is another matter than carrying a load
        level = own_level(entry)
        if not entry.inside and level is not None:
            side = {"exhaust": 1.0, "beside": 0.0, "away": -1.0}[entry.side]
            rows.append((at, level, math.log2(entry.at_m), side, 1.0 if entry.eco else 0.0))
    if not rows:
        return None
    table = np.array([row[1:] for row in rows])
    usual = [-FREE_FIELD_DB, EXHAUST_DB, ECO_DB]
    known = np.zeros(len(rows))
    columns, free = [np.ones(len(rows))], []
    for n, otherwise in enumerate(usual, 1):
        column = table[:, n]
        fits = np.ptp(column) > (MIN_DOUBLINGS if n == 1 else 0.0) and len(rows) > len(columns)
        if fits:
            columns.append(column)
            free.append(n)
        else:
            known += otherwise * column
    found = np.linalg.lstsq(np.column_stack(columns), table[:, 0] - known, rcond=None)[0]
    values = dict(zip(free, found[1:], strict=True))
    slope, exhaust, eco = (float(values.get(n, usual[n - 1])) for n in (1, 2, 3))
    fitted = found[0] + slope * table[:, 1] + exhaust * table[:, 2] + eco * table[:, 3]
    residual = float(np.abs(table[:, 0] - fitted).max())
    off = FREE_FIELD_DB + slope
    if residual > REFLECTS_DB or off > 1.0:
        words = "walls reflect here: do not count on what distance takes"
    elif off < -1.0:
        words = "something shields the far readings"
    else:
        words = "as in a free field" if 1 in free else "one distance cannot tell of reflections"
    used = tuple(row[0] for row in rows)
    level, far = float(found[0]), 1 in free
    carried = dict(entries)
    load_w = float(np.median([carried[at].load_w for at in used]))
    return NoiseLearned(level, -slope, residual, exhaust, eco, used, words, far, load_w)


@record
class FuelLearned:
    """A fuel line: ``rate = a·P_rated + b·P``.

    Attributes:
        a: litres an hour for each rated kW [l/h/kW].
        b: litres for each kWh [l/kWh].
        litres_per_h_at: rate at some loads [W] → [l/h].
        cost_per_h: of the fills that had a price.
    """

    fuel: str
    a: float
    b: float
    rated_kw: float
    litres_per_h_at: dict[str, float]
    cost_per_h: float | None
    entries: tuple[int, ...]


USUAL_SET = Generator(continuous_w=2000.0, starting_w=2000.0)
"""Whose usual line stands where the setup has no engine of its own."""


def learn_fuel(
    entries: Sequence[tuple[int, FuelEntry]], rated_w: float | None, unit: Generator = USUAL_SET
) -> list[FuelLearned]:
    """The line of each fuel: two loads fit both parts, one scales the usual line.

    Args:
        entries: with their numbers in the log.
        rated_w: continuous rating of the sets [W], None where there is no engine.
        unit: the set whose class says the usual line.

    Returns:
        A line for each fuel.
    """
    found = []
    for fuel in dict.fromkeys(e.fuel for _, e in entries):
        fills = [(at, e) for at, e in entries if e.fuel == fuel and e.ended != "starved"]
        fills = fills or [(at, e) for at, e in entries if e.fuel == fuel]
        rated = (rated_w or max(e.mean_w for _, e in fills) or 1000.0) / 1000.0
        line = typical_line(unit)
        per_l = WH_PER_L.get(fuel, WH_PER_L["gasoline"])
        a = line.idle_w / (unit.continuous_w / 1000.0) / per_l
        b = line.slope * 1000.0 / per_l
        loads = np.array([e.mean_w / 1000.0 for _, e in fills])
        rates = np.array([e.litres / e.hours for _, e in fills])
        hours = np.array([e.hours for _, e in fills])
        spread = float(np.ptp(loads)) > MIN_LOAD_SPREAD * rated
        if spread:
            weights = np.sqrt(hours)
            line = np.linalg.lstsq(
                np.column_stack([np.ones(len(loads)), loads]) * weights[:, None],
                rates * weights,
                rcond=None,
            )[0]
            if line[0] >= 0.0 and line[1] >= 0.0:
                a, b = float(line[0]) / rated, float(line[1])
            else:
                spread = False
        if not spread:
            usual = a * rated + b * loads
            factor = float((rates * hours).sum() / (usual * hours).sum())
            a, b = a * factor, b * factor
        priced = [(e.cost, e.hours) for _, e in fills if e.cost is not None]
        cost = sum(c for c, _ in priced) / sum(h for _, h in priced) if priced else None
        at_loads = {
            f"{share * rated * 1000.0:.0f}": a * rated + b * share * rated for share in QUARTERS
        }
        found.append(FuelLearned(fuel, a, b, rated, at_loads, cost, tuple(at for at, _ in fills)))
    return found


MIN_OHM = 0.005
"""No wire behind a post has less: less is the meter's last digit [ohm]."""


def learn_post(readings: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    """Open-circuit volts and impedance of a post from (volts, amps) readings [V], [ohm].

    Two readings some amps apart fit both; one unloaded reading gives the volts alone, with a
    negative impedance standing for "not told".

    Args:
        readings: volts [V] and amps [A].

    Returns:
        Volts [V] and ohms [ohm].
    """
    if not readings:
        return None
    volts, amps = np.array([v for v, _ in readings]), np.array([a for _, a in readings])
    if np.ptp(amps) < MIN_APART_A:
        return float(volts.mean()), -1.0
    slope = float(np.polyfit(amps, volts, 1)[0])
    if -slope < MIN_OHM:  # the volts rose, or did not fall: the meter tells no impedance
        return float(volts.mean()), -1.0
    return float(volts.mean() - slope * amps.mean()), -slope


def energy_words(entry: EnergyEntry) -> str:
    """What two meters of the same energy say.

    Args:
        entry: of two meters.

    Returns:
        A sentence or two.
    """
    if entry.kwh and entry.park_kwh:
        more = entry.park_kwh / entry.kwh - 1.0
        if abs(more) < METERS_AGREE:
            return f"The park's meter agrees within {abs(more) * 100:.0f} %."
        side = "more" if more > 0 else "less"
        why = (
            "something is not on your meter, or theirs is shared"
            if more > 0
            else "ask what it sees"
        )
        return f"The park's meter counts {abs(more) * 100:.0f} % {side} than yours: {why}."
    known = entry.kwh if entry.kwh is not None else entry.park_kwh
    if known is None:
        return "Neither meter was read."
    return f"{known / entry.hours * 1000.0:.0f} W in the mean."


@record
class Drift:
    """How a start changes over months: the slope of one figure with its 90 % interval, a month."""

    load: str
    figure: str
    per_month: float
    low: float
    high: float
    sentence: str


T_90 = {1: 6.31, 2: 2.92, 3: 2.35, 4: 2.13, 5: 2.02, 6: 1.94, 8: 1.86, 10: 1.81, 20: 1.72}
"""Student's t for a 90 % interval by degrees of freedom (any table of it)."""


def learn_drift(entries: Sequence[tuple[int, StartEntry]]) -> list[Drift]:
    """The same start over months: is the compressor getting stiffer?

    Args:
        entries: with their numbers in the log.

    Returns:
        A row for each start that was read often enough.
    """
    groups: dict[str, list[Any]] = {}
    for _, entry in entries:
        if entry.at is not None and not entry.changed and entry.on != "whole-cord":
            key = f"{entry.load}/{entry.mode}/{entry.instrument}/{entry.with_running}"
            groups.setdefault(key, []).append(entry)
    found = []
    for group in groups.values():
        for figure, words in (("seconds", "longer"), ("peak_a", "higher")):
            points = [
                (written_at(e.at).timestamp() / DAY_S, getattr(e, figure))
                for e in group
                if getattr(e, figure) is not None
            ]
            days = [d for d, _ in points]
            if len(points) < MIN_POINTS or max(days) - min(days) < MIN_DRIFT_DAYS:
                continue
            x = np.array(days) / DAYS_A_MONTH
            y = np.array([v for _, v in points])
            x = x - x.mean()
            slope = float((x @ y) / (x @ x))
            left = y - y.mean() - slope * x
            free = len(y) - 2
            t = next(v for n, v in sorted(T_90.items(), reverse=True) if n <= free)
            half = t * math.sqrt(float(left @ left) / free / float(x @ x))
            low, high = slope - half, slope + half
            unit = "s" if figure == "seconds" else "A"
            if low > 0.0:
                says = f"{group[0].load} takes {words} each month: its compressor may be stiffening"
            elif high < 0.0:
                says = f"{group[0].load} gets easier to start"
            else:
                says = f"{group[0].load}: no drift that these readings can tell"
            sentence = f"{says} ({slope:+.2g} {unit} a month, {low:+.2g} to {high:+.2g})."
            found.append(Drift(group[0].load, figure, slope, low, high, sentence))
    return found
