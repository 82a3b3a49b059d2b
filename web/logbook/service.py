"""What the log's page knows: a form by kind, the entries judged, and taking corrections."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from datetime import timezone as tz
from threading import Lock

from cachetools import LRUCache, cached
from django.db import transaction
from django.http import QueryDict
from django.utils import timezone

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.learning.entries import entry_kinds
from ironmargin.learning.judging import Judged
from ironmargin.learning.learn import Found, learn
from ironmargin.learning.log import LOG_FORMAT, Log, read_log, write_log
from ironmargin.learning.snapshot import snapshot_of
from ironmargin.listed import listed
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.records import specs
from ironmargin.setup.work import work_of
from ironmargin.sustaining.totals import totals
from web.design.fields import Fields, Group, put_all
from web.design.places import READ_LABELS
from web.logbook.models import MAX_ENTRIES, LogEntry, entries_of
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import actions

GUIDED = ("survey", "plug")
"""Kinds that have a page of their own."""
KINDS = {kind: cls.title for kind, cls in entry_kinds().items() if kind not in GUIDED}
"""What the quick form offers; a survey is a walk of its own."""


def kinds_for(setup: Setup, requested: str) -> list[tuple[str, str]]:
    """Kinds of entry and their titles that the form offers: of fuel and noise only beside an
    engine, or where they were asked for.
    """
    engine = bool(setup.supply.engines)
    known = entry_kinds()
    return [
        (kind, title)
        for kind, title in KINDS.items()
        if engine or kind == requested or not known[kind].of_engine
    ]


FIELDS: dict[str, tuple[str, ...]] = {
    "start": (
        "outcome",
        "peak_a",
        "lowest_v",
        "seconds",
        "settled_a",
        "settled_v",
        "lowest_hz",
        "instrument",
        "on",
        "notes",
    ),
    "run": (
        "amps",
        "watts",
        "va",
        "volts",
        "volts_off",
        "dc_a",
        "dc_v",
        "return_c",
        "outlet_c",
        "instrument",
        "on",
        "notes",
    ),
    "supply": ("volts", "amps", "hz", "tester", "notes"),
    "noise": ("dba", "at_m", "side", "load_w", "background_dba", "eco", "inside", "notes"),
    "fuel": ("fuel", "litres", "hours", "mean_w", "cost", "ended", "notes"),
    "energy": ("hours", "kwh", "park_kwh", "notes"),
    "trip": ("after_s", "notes"),
}
NOT_TYPED = ("at", "was", "load", "mode")
"""Fields that the form asks for in its own way, or not at all."""
PREFIX = "entry"
NO_AMPS = ("by-ear", "by-sound")
"""Instruments that read no amps."""
OFFSET, MAX_OFFSET = re.compile(r"-?[0-9]{1,3}"), 14 * 60
MAX_ONCE = 32
STORED = 32
"""Answers to logs a web process remembers."""


def fields_of(kind: str) -> tuple[str, ...]:
    """Which fields of a kind the form has; every one where nothing is said of it above."""
    own = tuple(key for key in specs(entry_kinds()[kind]) if key not in NOT_TYPED)
    return FIELDS.get(kind, own)


OF_AN_ENGINE = {f"{PREFIX}.lowest_hz"}
"""Fields that are asked for where an engine turns."""


def form_of(
    kind: str,
    units: str,
    faults: Mapping[str, str],
    posted: Mapping[str, str],
    *,
    engine: bool = True,
) -> Group:
    """The inputs of one kind of entry, with all that was typed."""
    cls = entry_kinds()[kind]
    document: Document = {PREFIX: {}}
    known = list(Fields(document, units).group(cls, fields_of(kind), PREFIX, "").fields)
    put_all(document, known, posted, units)
    form = Fields(document, units, faults, {}, posted)
    group = form.group(cls, fields_of(kind), PREFIX, KINDS[kind])
    fields = tuple(
        replace(f, label=READ_LABELS.get(f.path.removeprefix(f"{PREFIX}."), f.label))
        for f in group.fields
        if engine or f.path in posted or f.path not in OF_AN_ENGINE
    )
    return replace(group, fields=fields)


def typed_entry(kind: str, posted: QueryDict, units: str) -> Document:
    """The entry a form holds, as the open format has it."""
    cls = entry_kinds()[kind]
    document: Document = {PREFIX: {"kind": kind}}
    known = list(Fields(document, units).group(cls, fields_of(kind), PREFIX, "").fields)
    put_all(document, known, posted, units)
    for field in known:  # what stands at the form's own default is said, too
        if field.kind == "choice" and posted.get(field.path):
            document[PREFIX][field.path.split(".")[1]] = posted[field.path]
    entry: Document = document[PREFIX]
    entry["at"] = _read_at(posted.get("when", ""), posted.get("offset", ""))
    for name in ("load", "mode", "where"):
        if posted.get(f"{PREFIX}.{name}"):
            entry[name] = posted[f"{PREFIX}.{name}"][:60]
    ticked = [x[:60] for x in posted.getlist("running")][:100]
    if kind == "start" and posted.get("beside") in ("alone", "these"):
        others = ticked if posted["beside"] == "these" else []
        entry["with_running"] = [x for x in others if x != entry.get("load")]
    if kind == "trip":
        entry["running"] = ticked
    return entry


def usually_on(setup: Setup, kind: str) -> list[str]:
    """Loads that are ticked before anybody does: beside a start what is wanted or always on."""
    wanted = {w.load for w in setup.wanted}
    return [x.id for x in setup.rig.loads if kind == "start" and (x.id in wanted or x.always_on)]


def _read_at(when: str, offset: str) -> str:
    """When something was read: now, or as it was typed from paper, in the hours of the place; what
    is no time stays as it is, for the check to name.
    """
    now = _now_there(offset)
    if not when.strip():
        return now.isoformat(timespec="seconds")
    try:
        typed = datetime.fromisoformat(when.strip()[:25])
    except ValueError:
        return when.strip()[:25]
    there = typed if typed.tzinfo else typed.replace(tzinfo=now.tzinfo)
    return there.isoformat(timespec="seconds")


def _now_there(offset: str) -> datetime:
    """Now, in the hours of the place, where its device says how far they are from Greenwich's
    [minutes west]: a post's memory goes by them.
    """
    west = int(offset) if OFFSET.fullmatch(offset) else 0
    west = west if abs(west) <= MAX_OFFSET else 0
    return timezone.now().astimezone(tz(timedelta(minutes=-west)))


def faults_of(setup: Setup, entry: Document) -> list[Fault]:
    """What keeps an entry from being kept, each by the path of its input."""
    try:
        read_log({"format": LOG_FORMAT, "version": 1, "entries": [entry]}, setup)
    except SetupError as error:
        return [
            Fault(f.path.replace("entries[0]", PREFIX), f.code, f.message) for f in error.faults
        ]
    return []


def store(
    saved: SavedSetup, entry: Document, once: str, setup: Setup | None = None
) -> LogEntry | None:
    """Keep an entry; the same form pressed twice makes one. None where the log is full.

    Args:
        setup: as it is now, for an entry that was read now: it remembers gear, supply and weather.
    """
    if setup is not None and not entry.get("was"):
        entry = entry | {"was": snapshot_of(setup, entry.get("load"))}
    with transaction.atomic():
        actions.one_at_a_time(saved.owner)
        mine = LogEntry.objects.filter(setup=saved, deleted_at=None)
        twice = mine.filter(once=once[:MAX_ONCE]).first() if once else None
        if twice is not None:
            return twice
        if mine.count() >= MAX_ENTRIES:
            return None
        stored = LogEntry.objects.create(
            setup=saved, kind=entry["kind"], document=entry, once=once[:MAX_ONCE]
        )
    if entry.get("tester"):
        _note_tester(saved, str(entry["tester"]))
    return stored


def _note_tester(saved: SavedSetup, showed: str) -> None:
    """Put down at the post what a tester showed: a wiring fault stops the verdict and the hook-up
    until a later look clears it, and nobody has to confirm that.
    """
    document = repository.compose(saved)
    supply = document["supply"]
    if supply.get("kind") != "shore" or supply.get("tester", "correct") == showed:
        return
    document = document | {"supply": supply | {"tester": showed}}
    versions = repository.versions_of(saved)
    judged = judging.judge(document, remedy=False)
    with suppress(actions.Conflict):  # somebody is just changing it; the entry stands in the log
        repository.store_again(saved, judged, versions, saved.rig, saved.supply)


def take_out(entry: LogEntry, back: bool = False) -> None:
    """Take an entry out of its log, or put it back."""
    entry.deleted_at = None if back else timezone.now()
    entry.save(update_fields=["deleted_at"])


def noted(saved: SavedSetup, entry: Document) -> None:
    """Keep a reading made on another screen, where it is one."""
    setup = read_setup(repository.compose(saved))
    entry = {"at": timezone.now().isoformat(timespec="seconds")} | entry
    if not faults_of(setup, entry):
        store(saved, entry, "", setup)


@dataclass(frozen=True)
class Dot:
    """A reading beside what was predicted, as places along a line of a hundred."""

    measured: float
    low: float
    middle: float
    high: float


def dot_of(judged: Judged) -> Dot | None:
    """Where a reading and its prediction lie on one line."""
    if judged.predicted is None or judged.measured is None:
        return None
    low, middle, high = judged.predicted
    minimum, maximum = min(low, judged.measured), max(high, judged.measured)
    room = max(maximum - minimum, 1e-9)

    def place(value: float) -> float:
        return round(6.0 + 88.0 * (value - minimum) / room, 1)

    return Dot(place(judged.measured), place(low), place(middle), place(high))


@dataclass(frozen=True)
class Line:
    """An entry with what was said of it."""

    entry: LogEntry
    own: bool
    words: str
    judged: tuple[tuple[Judged, Dot | None], ...]


def log_of(saved: SavedSetup, setup: Setup) -> tuple[list[LogEntry], Log]:
    """The entries that can be read against this setup, and the log they make."""
    rows, entries = [], []
    for row in entries_of(saved):
        if not faults_of(setup, row.document):
            rows.append(row)
            entries.append(row.document)
    return rows, read_log({"format": LOG_FORMAT, "version": 1, "entries": entries})


@cached(LRUCache(STORED), key=lambda requested, setup, log: requested, lock=Lock())
def _learned(requested: str, setup: Setup, log: Log) -> Found:
    """What a log tells of a setup, by the words of both: asked again it is not weighed again."""
    return _learn(setup, log)


def _learn(setup: Setup, log: Log, only: frozenset[str] | None = None) -> Found:
    """What a log tells; where the check before and after would be too much, both without
    chances.
    """
    if 2 * work_of(setup) <= judging.MAX_AT_ONCE:
        return learn(setup, log, only, judging.known_check(setup))
    found = learn(replace(setup, rules=replace(setup.rules, trials=0)), log, only)
    return replace(found, setup=replace(found.setup, rules=setup.rules))


def told(saved: SavedSetup, setup: Setup) -> tuple[Found, list[Line]]:
    """What the log tells, and each entry with it, newest first."""
    rows, log = log_of(saved, setup)
    found = _learned(json.dumps([write_setup(setup), [r.document for r in rows]]), setup, log)
    names = {x.id: x.name for x in setup.rig.loads}
    lines = []
    for at, row in enumerate(rows):
        judged = tuple((j, dot_of(j)) for j in found.entries if j.entry == at)
        lines.append(Line(row, row.setup_id == saved.pk, entry_words(row, names), judged))
    return found, lines[::-1]


@dataclass(frozen=True)
class Quick:
    """What the one-field form is filled with: the load and the instrument of the last reading."""

    load: str
    instrument: str
    instruments: tuple[tuple[str, str], ...]


def quick_of(setup: Setup, lines: list[Line]) -> Quick:
    """The quick form; of a log without readings it asks for the biggest load, by clamp."""
    field = form_of("run", "si", {}, {}).fields[FIELDS["run"].index("instrument")]
    known = {x.id for x in setup.rig.loads}
    read = [line.entry.document for line in lines if line.entry.document.get("load") in known]
    last = read[0] if read else {}
    load = str(last.get("load", _biggest(setup)))
    choices = tuple((str(v), words) for v, words in field.choices if v and v not in NO_AMPS)
    usual = str(last.get("instrument", "clamp"))
    return Quick(load, usual if usual in dict(choices) else choices[0][0], choices)


def _biggest(setup: Setup) -> str:
    """The load that draws most; empty of a rig without loads."""
    amps = totals(setup.rig).load_amps
    return max(amps, key=lambda ident: amps[ident], default="")


MAX_SETUPS = 8


@dataclass(frozen=True)
class RigGroup:
    """A setup of a rig with what was read on it, and how its verdict changes by it."""

    saved: SavedSetup
    found: Found
    lines: tuple[Line, ...]


def of_rig(rig: Rig) -> tuple[list[RigGroup], list[SavedSetup]]:
    """The log of a rig: its setups that have entries, each judged by itself; and those that have a
    figure to mend first.
    """
    logged = LogEntry.objects.filter(deleted_at=None).values("setup")
    mine = SavedSetup.objects.filter(rig=rig, deleted_at=None, pk__in=logged)
    groups, faulty = [], []
    for saved in mine.select_related("rig", "supply")[:MAX_SETUPS]:
        try:
            setup = read_setup(repository.compose(saved))
        except SetupError:
            faulty.append(saved)
            continue
        found, lines = told(saved, setup)
        groups.append(RigGroup(saved, found, tuple(line for line in lines if line.own)))
    return groups, faulty


def entry_words(row: LogEntry, names: Mapping[str, str]) -> str:
    """What an entry is, in a few words; of a start what was on beside it, where that was said."""
    doc = row.document
    title = entry_kinds()[row.kind].title if row.kind in entry_kinds() else row.kind
    who = names.get(str(doc.get("load", "")), "")
    mode = str(doc.get("mode") or "").replace("-", " ")
    beside = doc.get("with_running")
    on = ""
    if isinstance(beside, list):
        on = f"with {listed([names.get(str(x), str(x)) for x in beside])} on" if beside else "alone"
    return ", ".join(x for x in (title, who, mode, on) if x)


def take(saved: SavedSetup, setup: Setup, fields: frozenset[str]) -> tuple[str, ...]:
    """Put the corrections of some fields into rig, supply and setup; the others are declined, and
    the entries they came from are done with.

    Raises:
        actions.Conflict: somebody changed one of them in the meantime.
    """
    _, log = log_of(saved, setup)
    found = _learn(setup, log, fields)
    judged = judging.judge(write_setup(found.setup), remedy=False)
    versions = repository.versions_of(saved)
    repository.store_again(saved, judged, versions, saved.rig, saved.supply)
    return tuple(f.label for f in found.figures)


def plain_log(saved: SavedSetup, setup: Setup) -> Document:
    """The log as the open format has it."""
    _, log = log_of(saved, setup)
    return write_log(log) | {"name": saved.name}


def modes_of(setup: Setup) -> tuple[str, ...]:
    """Modes any load of the rig has."""
    cools = any(isinstance(x, AirConditioner) for x in setup.rig.loads)
    return COOLING_MODES if cools else ()


def places_of(setup: Setup) -> list[tuple[str, str]]:
    """What may have opened: key and words."""
    found = [("post", "post breaker")] if setup.supply.post is not None else []
    if setup.supply.engines:
        found.append(("set", "the generator (red overload light)"))
    if setup.supply.battery is not None:
        found.append(("inverter", "the inverter"))
    found.append(("main", "main breaker"))
    found += [(c.id, f"branch {c.name or c.id}") for c in setup.rig.circuits]
    if any(i.kind == "guard" for i in setup.hookup):
        found.append(("guard", "the guard"))
    return found
