"""Which start of a setup an entry of a log speaks of: the rig as it was then, what ran beside it,
and the moment to run on the engine.
"""

from __future__ import annotations

import json
from dataclasses import dataclass

from ironmargin.case import prepare
from ironmargin.errors import SetupError
from ironmargin.learning.entries import RunEntry, StartEntry
from ironmargin.learning.snapshot import WEATHER, differs
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.work import size_of
from ironmargin.starting.plan import Plan
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.starts import warm_heat
from ironmargin.sustaining.steady import settled, source_amps

MAX_STRANGE = 20
"""Starts this setup does not have that are told apart from those too old."""
MAX_KINDS, SMALL_SIZE = 12, 30
"""Distinct starts weighed at once, of a setup up to such a size; fewer of a larger one, of the
largest none.
"""


@dataclass
class ObservedStart:
    """One distinct start: the moment to run, and the entries that saw it."""

    setup: Setup
    scenario: StartScenario
    row: int
    entries: list[int]
    other_supply: bool


def with_changes(setup: Setup, entry: StartEntry | RunEntry) -> Setup:
    """The setup as it was when an entry was read.

    Args:
        setup: supply, path, rig and rules of the question.
        entry: with what had changed.

    Returns:
        The setup of that moment.

    Raises:
        SetupError: what changed is no figure of the load, the supply or the conditions.
    """
    document = write_setup(setup)
    changes = differs(setup, entry)
    if not changes:
        return setup
    load = next(x for x in document["rig"]["loads"] if x["id"] == entry.load)
    own = next(x for x in setup.rig.loads if x.id == entry.load)
    for key, value in changes.items():
        if key == "supply":
            document["supply"] = value
        elif key in WEATHER:
            document.setdefault("conditions", {})[key] = value
        elif key == "learned_starts":
            held = load.get("soft_start")
            load["soft_start"] = (held if isinstance(held, dict) else {}) | {key: value}
        elif hasattr(own, key):
            load[key] = value
            if value is None:  # it was not fitted then
                del load[key]
        else:
            document["supply"] = dict(document["supply"]) | {key: value}
    return read_setup(document)


def observed_start(setup: Setup, entry: StartEntry, warm: bool = True) -> ObservedStart | None:
    """The start an entry speaks of, or None where this setup has no such start.

    Args:
        setup: supply, path, rig and rules of the question.
        entry: a start or a run.
        warm: whether the breakers are warm from what runs.

    Returns:
        What the start engine makes of it, or None.
    """
    changed = with_changes(setup, entry)
    document = write_setup(changed)
    modes = {w["load"]: w.get("mode") for w in document.get("wanted", ())}
    concurrent = list(modes) if entry.with_running is None else list(entry.with_running)
    wanted = [
        {"load": x} | ({"mode": modes[x]} if modes.get(x) else {})
        for x in concurrent
        if x != entry.load
    ]
    mode = entry.mode or modes.get(entry.load)
    document["wanted"] = [*wanted, {"load": entry.load} | ({"mode": mode} if mode else {})]
    if entry.with_running is not None:
        for load in document["rig"]["loads"]:
            load["always_on"] = bool(load.get("always_on")) and load["id"] in concurrent
    document["rig"].pop("lockouts", None)  # what was seen ran, whatever the rule says
    case = prepare(read_setup(document))
    starter = next(
        (
            s
            for s in case.starters
            if s.row is not None and case.demands[s.demand].load.id == entry.load
        ),
        None,
    )
    if starter is None or starter.row is None:
        return None
    amps = source_amps(case, settled(case, frozenset({starter.demand})))
    scenario = StartScenario(case, Plan((starter,)), warm_heat(case, amps))
    return ObservedStart(changed, scenario, starter.row, [], "supply" in differs(setup, entry))


def kinds_weighed(setup: Setup) -> int:
    """How many distinct starts of a log are weighed: each sample of each runs the engine, past all
    loads that run.

    Args:
        setup: as it was before the log.

    Returns:
        Their number.
    """
    return MAX_KINDS * SMALL_SIZE // max(size_of(setup), SMALL_SIZE)


def scenarios_of(
    setup: Setup, entries: list[tuple[int, StartEntry]]
) -> tuple[list[ObservedStart], list[int], list[int]]:
    """The distinct starts of a log, the newest of them; the entries that speak of none of this
    setup's; and those of starts too old to be weighed.

    Args:
        setup: as it was before the log.
        entries: of starts, with their numbers.

    Returns:
        The starts, and the numbers of the entries left out on either ground.
    """
    found: dict[str, ObservedStart] = {}
    strange: list[int] = []
    older: list[int] = []
    maximum = kinds_weighed(setup)
    for at, entry in reversed(entries):
        key = json.dumps(
            [entry.load, entry.mode, entry.with_running, differs(setup, entry)], sort_keys=True
        )
        if key not in found:
            if len(found) >= maximum or len(strange) >= MAX_STRANGE:
                older.append(at)
                continue
            try:
                observed = observed_start(setup, entry)
            except SetupError:
                observed = None
            if observed is None:
                strange.append(at)
                continue
            found[key] = observed
        found[key].entries.insert(0, at)
    in_order = sorted(found.values(), key=lambda one: one.entries[0])
    return in_order, strange[::-1], older[::-1]
