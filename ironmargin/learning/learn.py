"""Learning from a log: each reading held beside what was predicted, judged, and let correct the
rig.

Starts are weighed with the start engine (:mod:`ironmargin.learning.particles`), running amps on a
grid (:mod:`ironmargin.learning.running`). Entries a setup has learned from are noted in its ``x``,
with how sure each figure is now, so that the same log tells nothing twice.
"""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import replace
from typing import Any

import numpy as np

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.learning import fits, judging
from ironmargin.learning.log import (
    Entry,
    FuelEntry,
    Log,
    NoiseEntry,
    RunEntry,
    StartEntry,
    SupplyEntry,
    SurveyEntry,
    TripEntry,
)
from ironmargin.learning.particles import Posterior, quantiles, weigh
from ironmargin.learning.running import (
    CREEP_SD,
    CREEPS,
    Learned,
    Reading,
    Surveyed,
    demand_in,
    field_of,
    learn_running,
    reading_of,
    solve_survey,
)
from ironmargin.learning.seen import moments_of
from ironmargin.learning.snapshot import differs
from ironmargin.record import record
from ironmargin.setup.changed import with_engines
from ironmargin.setup.loads import Drawing, Microwave, Rotating
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.spec import write_record
from ironmargin.setup.supplies import BatteryInverter, Generator, Noise, Parallel, Shore
from ironmargin.starting.known import KEY, NO_FIGURE, SUPPLY, figure_of, kept, known_table
from ironmargin.supplies.source import thevenin
from ironmargin.verdict.check import examine
from ironmargin.verdict.result import Result

TELLS = 0.92
"""A figure is learned where its spread shrinks under this share of what it was, or it moves by so
many of the standard deviations it had.
"""
MOVES = 0.4
SURE = 0.85
"""From so sure on a set's character is put down [1]."""


@record
class Figure:
    """One corrected figure of a setup: what it was and where from, and its 90 % interval now."""

    field: str
    label: str
    before: float
    after: float
    low: float
    high: float
    was: str
    entries: tuple[int, ...]
    sd: float
    unit: str
    moves: float = 0.0
    """By how much it alone moves the iron margin [1]."""


@record
class Odds:
    """How often a load starts, before and after what was learned [1]."""

    load: str
    name: str
    before: float
    after: float


@record
class Choice:
    """A choice that readings make, as what a supply does at its limit, and how sure that is [1]."""

    field: str
    label: str
    before: str
    after: str
    sure: float
    entries: tuple[int, ...]


@record
class Found:
    """What a log tells of a setup.

    Attributes:
        setup: with the corrected figures, and with what is known of the rest; before, after: its
        verdict and iron margin.
    """

    entries: tuple[judging.Judged, ...]
    figures: tuple[Figure, ...]
    choices: tuple[Choice, ...]
    setup: Setup
    before: tuple[str, float]
    after: tuple[str, float]
    noise: fits.NoiseLearned | None
    fuel: tuple[fits.FuelLearned, ...]
    drift: tuple[fits.Drift, ...]
    effective: float | None = None
    rounds: int = 0
    odds: tuple[Odds, ...] = ()

    @property
    def tells(self) -> bool:
        """Whether there is anything to take over: a figure, a choice, or other odds."""
        return bool(self.figures or self.choices) or any(
            abs(o.after - o.before) >= 0.01 for o in self.odds
        )


def digest(entry: Entry) -> str:
    """What an entry is known by once a setup has learned from it."""
    text = json.dumps([entry.kind, write_record(entry)], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def learned_before(setup: Setup) -> tuple[set[str], Document]:
    """Entries a setup has learned from already, and how sure its figures are."""
    held = setup.x.get("learned")
    held = held if isinstance(held, dict) else {}
    entries, figures = held.get("entries"), held.get("figures")
    known = {x for x in entries if isinstance(x, str)} if isinstance(entries, list) else set()
    return known, dict(figures) if isinstance(figures, dict) else {}


def learn(setup: Setup, log: Log, only: frozenset[str] | None = None) -> Found:
    """Hold a log beside a setup and correct it.

    Args:
        only: fields that may be corrected; all where None.

    Returns:
        Every entry judged, the corrected figures with their ranges, the setup with them, and its
        verdict before and after.
    """
    known, _ = learned_before(setup)
    fresh = {at: e for at, e in enumerate(log.entries) if digest(e) not in known}
    starts = {at: e for at, e in fresh.items() if isinstance(e, StartEntry)}
    seen, strange, older = moments_of(setup, list(starts.items()))
    told = {at: e for at, e in starts.items() if at not in {*strange, *older}}
    slow = judging.too_slow_of(setup, told, seen)
    starts_found = weigh(setup, told, seen, slow) if told else None
    readings, surveys = _readings(setup, fresh, told)
    running = learn_running(setup, readings)
    post = _post(setup, fresh)
    noise = fits.learn_noise(
        [(at, e) for at, e in enumerate(log.entries) if isinstance(e, NoiseEntry)]
    )
    figures = [
        *_start_figures(setup, starts_found, told, slow),
        *_running_figures(setup, running),
        *post,
        *_noise_figures(setup, noise),
    ]
    declined = {f.field for f in figures if only is not None and f.field not in only}
    figures = [f for f in figures if f.field not in declined]
    choices = [*_choices(setup, starts_found, told), *_tester(setup, fresh)]
    choices = [c for c in choices if only is None or c.field in only]
    corrected = _noted(_corrected(setup, figures, choices), figures, fresh.values())
    if starts_found is not None:
        corrected = _kept(setup, corrected, starts_found, declined, figures)
    judged = [
        *judging.starts(setup, told, slow, starts_found),
        *judging.strange_starts(starts, strange),
        *judging.older_starts(starts, older),
        *judging.runs(setup, fresh, readings, running),
        *judging.cooling(setup, fresh),
        *judging.surveys(setup, surveys),
        *judging.others(setup, fresh),
        *judging.known(log.entries, fresh),
    ]
    figures = [replace(f, moves=_moves(setup, f)) for f in figures[:MOST_MOVED]] + figures[
        MOST_MOVED:
    ]
    before = examine(setup).result
    after = before if corrected == setup else examine(corrected).result
    rated = sum(u.continuous_w for u in setup.supply.engines) or None
    return Found(
        tuple(sorted(judged, key=lambda j: j.entry)),
        tuple(figures),
        tuple(choices),
        corrected,
        (before.verdict, before.iron_margin),
        (after.verdict, after.iron_margin),
        noise,
        tuple(
            fits.learn_fuel(
                [(at, e) for at, e in enumerate(log.entries) if isinstance(e, FuelEntry)], rated
            )
        ),
        tuple(
            fits.learn_drift(
                [(at, e) for at, e in enumerate(log.entries) if isinstance(e, StartEntry)]
            )
        ),
        starts_found.effective if starts_found else None,
        starts_found.rounds if starts_found else 0,
        _odds(before, after),
    )


def _readings(
    setup: Setup, fresh: dict[int, Entry], told: dict[int, StartEntry]
) -> tuple[list[Reading], dict[int, Surveyed]]:
    """Everything that was read of loads running."""
    found: list[Reading] = []
    surveys: dict[int, Surveyed] = {}
    for at, entry in fresh.items():
        if isinstance(entry, RunEntry):
            try:
                reading = reading_of(setup, at, entry)
            except SetupError:
                reading = None
            found += [reading] if reading is not None else []
        elif isinstance(entry, SurveyEntry):
            surveys[at] = solve_survey(setup, at, entry)
            found += surveys[at].readings
    for at, entry in told.items():
        alone = entry.with_running == () and not any(x.always_on for x in setup.rig.loads)
        if (
            entry.settled_a
            and alone
            and not differs(setup, entry)
            and entry.on in ("supply", "leg")
        ):
            demand = demand_in(setup, entry.load, entry.mode)
            predicted = sum(d.amps for d in demand.steady) / CREEPS
            found.append(
                Reading(at, entry.load, entry.mode, entry.settled_a, predicted, "A", 2 * CREEP_SD)
            )
    return found, surveys


def _start_figures(
    setup: Setup, found: Posterior | None, told: dict[int, StartEntry], slow: set[int]
) -> list[Figure]:
    """What the starts correct: only what they tell more of than was known."""
    if found is None:
        return []
    out = []
    for n, unknown in enumerate(found.unknowns):
        if unknown.what in NO_FIGURE:
            continue
        low, middle, high = quantiles(found.factors[:, n], found.weights, (0.05, 0.5, 0.95))
        logs = found.logs[:, n]
        mean = float(found.weights @ logs)
        sd = float(np.sqrt(found.weights @ (logs - mean) ** 2))
        if sd > TELLS * found.sds[n] and abs(mean) < MOVES * found.sds[n]:
            continue
        used = tuple(
            at
            for at, e in told.items()
            if e.on != "whole-cord"
            and (unknown.load in ("", e.load))
            and not (at in slow and e.outcome is None and e.seconds is None)
        )
        if not used:
            continue
        for field, label, value, was, unit in _held(setup, unknown.what, unknown.load):
            inverse = unknown.what == "supply" and setup.supply.post is setup.supply
            by = [1.0 / high, 1.0 / middle, 1.0 / low] if inverse else [low, middle, high]
            edge = [value * x for x in by]
            out.append(Figure(field, label, value, edge[1], edge[0], edge[2], was, used, sd, unit))
    return out


def _held(setup: Setup, what: str, ident: str) -> list[tuple[str, str, float, str, str]]:
    """The fields of a setup an unknown stands for: path, label, value, provenance, unit."""
    if what == "supply":
        return _supply_fields(setup)
    at = next(n for n, x in enumerate(setup.rig.loads) if x.id == ident)
    load = setup.rig.loads[at]
    plate = demand_in(setup, ident, None).plate
    if plate is None or not isinstance(load, Rotating):
        return []
    path = f"rig.loads[{at}]"
    if what == "lra":
        was = "typical" if plate.lra_typical else load.provenance
        return [(f"{path}.lra_a", f"{load.name}: locked-rotor amps", plate.lra_a, was, "A")]
    if what == "stiff":
        was = load.provenance if load.breakaway is not None else "typical"
        label = f"{load.name}: breakaway torque"
        return [(f"{path}.breakaway", label, plate.breakaway, was, "1")]
    soft = load.soft_start
    if load.start != "soft-start":
        return []  # an inline starter's fraction stands with the post, not with the load
    if soft is not None and soft.peak_a is not None:
        label = f"{load.name}: the starter's learned peak"
        return [(f"{path}.soft_start.peak_a", label, soft.peak_a, load.provenance, "A")]
    label = f"{load.name}: the starter's share of locked-rotor amps"
    was = load.provenance if soft is not None and soft.fraction is not None else "typical"
    fraction = soft.fraction if soft is not None and soft.fraction else plate.soft_fraction
    return [(f"{path}.soft_start.fraction", label, fraction, was, "1")]


def _supply_fields(setup: Setup) -> list[tuple[str, str, float, str, str]]:
    supply = setup.supply
    if isinstance(supply, Generator):
        return [("supply.starting_w", "Starting power", supply.starting_w, "plate", "W")]
    if isinstance(supply, Parallel):
        return [
            (
                f"supply.units[{n}].starting_w",
                f"Set {n + 1}: starting power",
                u.starting_w,
                "plate",
                "W",
            )
            for n, u in enumerate(supply.units)
        ]
    if isinstance(supply, Shore):
        ohm = thevenin(supply)[1]
        return [("supply.source_ohm", "Impedance of the post", ohm, "typical", "ohm")]
    if isinstance(supply, BatteryInverter):
        return [("supply.surge_w", "Surge power", supply.surge_w, "plate", "W")]
    inverter = supply.inverter
    return [("supply.inverter.surge_w", "Surge power", inverter.surge_w, "plate", "W")]


def _running_figures(setup: Setup, running: list[Learned]) -> list[Figure]:
    found = []
    for one in running:
        if one.sd > TELLS * one.prior_sd and abs(one.middle - 1.0) < MOVES * one.prior_sd:
            continue
        load = next(x for x in setup.rig.loads if x.id == one.load)
        field, name = field_of(setup, one.load, one.mode)
        demand = demand_in(setup, one.load, one.mode)
        value = getattr(load, name, None)
        if value is None:
            value = sum(d.amps for d in demand.steady)
        unit = "W" if name == "watts" else "A"
        words = name.removesuffix("_a").replace("_", " ")
        label = f"{load.name}: {words}" + (" amps" if unit == "A" and words != "amps" else "")
        if isinstance(load, Drawing | Microwave) and name == "watts":
            label = f"{load.name}: watts"
        middle, low, high = (value * x for x in (one.middle, one.low, one.high))
        was = load.provenance
        found.append(Figure(field, label, value, middle, low, high, was, one.entries, one.sd, unit))
    return found


def _post(setup: Setup, fresh: dict[int, Entry]) -> list[Figure]:
    """Open-circuit volts and impedance from readings at the post."""
    pairs = {
        at: [(e.volts, e.amps or 0.0)]
        for at, e in fresh.items()
        if isinstance(e, SupplyEntry) and e.volts
    }
    # What a heater or a fan pulls the volts down by tells of the wire behind the post, too.
    pairs |= {
        at: [(e.volts_off, 0.0), (e.volts, e.amps)]
        for at, e in fresh.items()
        if isinstance(e, RunEntry) and e.volts_off and e.volts and e.amps
    }
    points = [point for each in pairs.values() for point in each]
    found = fits.learn_post(points)
    if found is None or not isinstance(setup.supply, Shore):
        return []
    volts, ohm = found
    before_v, before_ohm = thevenin(setup.supply)
    if ohm < 0.0:
        volts += before_ohm * sum(a for _, a in points) / len(points)
    used = tuple(pairs)
    out = [
        Figure(
            "supply.voltage_v",
            "Open-circuit volts",
            before_v,
            volts,
            0.99 * volts,
            1.01 * volts,
            "typical",
            used,
            0.006,
            "V",
        )
    ]
    if ohm >= 0.0:
        apart = max(a for _, a in points) - min(a for _, a in points)
        error = 0.01 * volts / apart
        low, high = max(ohm - 1.64 * error, 0.0), ohm + 1.64 * error
        out.append(
            Figure(
                "supply.source_ohm",
                "Impedance of the post",
                before_ohm,
                ohm,
                low,
                high,
                "typical",
                used,
                min(error / max(ohm, 0.02), 0.3),
                "ohm",
            )
        )
    return out


def _noise_figures(setup: Setup, found: fits.NoiseLearned | None) -> list[Figure]:
    """The walk around a set, as its noise: what the hours compute with is what was fitted."""
    supply = setup.supply
    if found is None or not isinstance(supply, Generator):
        return []
    held = supply.noise or Noise(dba=0.0)
    level = found.at_1m_dba - found.per_doubling_db * math.log2(held.at_m)
    off = max(found.residual_db, LEAST_DB)
    was = "plate" if supply.noise is not None else "not said"
    rows = [("dba", "noise at its distance", held.dba, level, off, "dBA")]
    if found.fits_distance:
        d = found.per_doubling_db
        words = "noise lost for each doubling of distance"
        rows.append(("per_doubling_db", words, held.per_doubling_db, d, 1.0, "dB"))
    return [
        Figure(
            f"supply.noise.{name}", f"The set: {label}", before, min(max(after, 1.0), 140.0),
            after - error, after + error, was, found.used, error / 100.0, unit,
        )
        for name, label, before, after, error, unit in rows
        if abs(after - before) >= MOVED_DB
    ]  # fmt: skip


def _put(document: Document, path: str, value: float) -> None:
    where: Any = document
    parts = path.replace("]", "").replace("[", ".").split(".")
    for part in parts[:-1]:
        if part.isdigit():
            where = where[int(part)]
        else:
            where = where.setdefault(part, {})
    where[parts[-1]] = value


def _corrected(setup: Setup, figures: list[Figure], choices: list[Choice]) -> Setup:
    """The setup with the learned figures; one that cannot stand beside the others is left out."""
    for choice in choices:
        if choice.field == "supply.tester":
            assert isinstance(setup.supply, Shore)
            setup = replace(setup, supply=replace(setup.supply, tester=choice.after))
        else:
            setup = with_engines(setup, character=choice.after)
    try:
        return read_setup(_with_figures(setup, figures))
    except SetupError:
        found, taken = setup, list[Figure]()
        for figure in figures:
            with suppress(SetupError):
                found = read_setup(_with_figures(setup, [*taken, figure]))
                taken.append(figure)
        return found


MOST_MOVED = 12
LEAST_DB, MOVED_DB = 2.0, 0.5
"""How far a hand-held sound meter may be off, and what is worth writing down [dB]."""


def _moves(setup: Setup, figure: Figure) -> float:
    """By how much one corrected figure moves the iron margin by itself [1]."""
    with suppress(SetupError):
        changed = read_setup(_with_figures(setup, [figure]))
        margins = [examine(s, quick=True).result.iron_margin for s in (setup, changed)]
        return margins[1] - margins[0]
    return 0.0


def _odds(before: Result, after: Result) -> tuple[Odds, ...]:
    """How often each load starts, before and after."""
    then = {s.load: s.chance for s in after.starts}
    return tuple(
        Odds(s.load, s.name, s.chance, now)
        for s in before.starts
        if s.chance is not None and (now := then.get(s.load)) is not None
    )


def _tester(setup: Setup, fresh: dict[int, Entry]) -> list[Choice]:
    """What an outlet tester showed last: an open ground stands until a later look clears it."""
    read = {at: e.tester for at, e in fresh.items() if isinstance(e, SupplyEntry) and e.tester}
    if not read or not isinstance(setup.supply, Shore):
        return []
    last, was = read[max(read)], setup.supply.tester
    if last == (was or "correct"):
        return []
    return [Choice("supply.tester", "Outlet tester", was or "not used", last, 1.0, tuple(read))]


def _choices(setup: Setup, found: Posterior | None, told: dict[int, StartEntry]) -> list[Choice]:
    """What the starts say of a set's character, where they are sure enough of it."""
    if found is None or found.cuts_off is None:
        return []
    cuts = found.cuts_off
    after = "cuts-off" if cuts >= SURE else "folds-back" if cuts <= 1.0 - SURE else None
    if after is None:
        return []
    used = tuple(at for at, entry in told.items() if entry.outcome is not None)
    sure = cuts if after == "cuts-off" else 1.0 - cuts
    return [Choice("supply.character", "At its limit the set", "not said", after, sure, used)]


def _kept(
    setup: Setup, corrected: Setup, found: Posterior, declined: set[str], figures: list[Figure]
) -> Setup:
    """The setup with draws of what the starts told, kept with its rig and its supply; of a figure
    that was declined none.
    """
    fields = {
        u.name: [field for field, *_ in _held(setup, u.what, u.load)] if u.name[0] not in NO_FIGURE
        else []
        for u in found.unknowns
    }  # fmt: skip
    rows, names = found.rows(), []
    columns = []
    for n, unknown in enumerate(found.unknowns):
        if declined & set(fields[unknown.name]):
            continue
        moved = next((f for f in figures if f.field in fields[unknown.name]), None)
        shift = 0.0
        now = figure_of(corrected, unknown.name)
        if moved is not None and now is not None and moved.before > 0.0 < moved.after:
            shift = math.log(moved.after / moved.before)
            post = unknown.what == SUPPLY and setup.supply.post is setup.supply
            shift = -shift if post else shift
        names.append(unknown.name)
        columns.append(rows[:, n] - shift)
    if not names:
        return corrected
    before = known_table(setup)
    text = json.dumps([sorted(map(list, names)), found.rows().round(4).tolist()])
    drawn_with = hashlib.sha256(text.encode()).hexdigest()[:12]
    for name, column in before.items():
        if name not in names and name[0] not in declined:
            names.append(name)
            columns.append(column)
    rig, supply = kept(corrected, names, np.column_stack(columns), drawn_with)
    if rig:
        x = dict(corrected.rig.x) | {KEY: rig}
        corrected = replace(corrected, rig=replace(corrected.rig, x=x))
    if supply:
        x = dict(corrected.supply.x) | {KEY: supply}
        corrected = replace(corrected, supply=replace(corrected.supply, x=x))
    return corrected


def _with_figures(setup: Setup, figures: list[Figure]) -> Document:
    """A setup's document with learned figures; a load whose figures were read is measured now."""
    document = write_setup(setup)
    for figure in figures:
        _put(document, figure.field, float(f"{figure.after:.4g}"))
        head, _, name = figure.field.rpartition(".")
        post = setup.supply
        if isinstance(post, Shore) and head == "supply" and name in ("voltage_v", "source_ohm"):
            volts, ohm = thevenin(post)
            if document["supply"].pop("readings", None):
                document["supply"].setdefault("voltage_v", volts)
                document["supply"].setdefault("source_ohm", ohm)
        if name == "starting_w":
            where = (
                document["supply"]
                if head == "supply"
                else document["supply"]["units"][int(head.split("[")[1][:-1])]
            )
            where["continuous_w"] = min(where["continuous_w"], where["starting_w"])
        if head.startswith("rig.loads") and name != "breakaway":
            at = int(head.split("[")[1].split("]")[0])
            document["rig"]["loads"][at]["from"] = "measured"
    return document


def _noted(setup: Setup, figures: list[Figure], entries: Iterable[Entry]) -> Setup:
    """The setup with what it has learned from, and how sure its figures are now."""
    known, sure = learned_before(setup)
    known |= {digest(e) for e in entries if not isinstance(e, TripEntry)}
    for figure in figures:
        sure[figure.field] = {"sd": round(figure.sd, 4)}
    learned = {"entries": sorted(known), "figures": dict(sorted(sure.items()))}
    return replace(setup, x=dict(setup.x) | {"learned": learned})
