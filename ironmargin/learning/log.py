"""The log file: what was measured, entry by entry."""

from __future__ import annotations

from os import PathLike

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.learning.entries import Entry, TripEntry, entry_kinds
from ironmargin.record import record
from ironmargin.setup.fields import choice, given, number, text
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import json_of
from ironmargin.setup.records import Kinds, Many, file_schema, read_record, write_record
from ironmargin.setup.spec import INVALID, Anything, Faults

LOG_FORMAT = "iron-margin/log"
LARGEST_LOG_BYTES = 5_000_000


@record(kw_only=True)
class Log:
    """What was measured on one rig."""

    format: str = choice("Always iron-margin/log", (LOG_FORMAT,), default=LOG_FORMAT)
    version: int = number("1", "Version of the format", minimum=1, maximum=1, default=1, whole=True)
    name: str = text("What you call it", default="", maximum=200)
    entries: tuple[Entry, ...] = given(
        Many("What was read", None, Kinds(of=entry_kinds), maximum=2000), default=()
    )
    x: Document = given(Anything("Kept and ignored"), default={})


def loads_named(entry: Entry) -> list[tuple[str, str]]:
    """(field, load id) of every load an entry speaks of.

    Args:
        entry: of a log.

    Returns:
        The field inside the entry, and the id.
    """
    found = []
    for name in ("load", "with_running", "running"):
        value = getattr(entry, name, None)
        found += [(name, x) for x in ((value,) if isinstance(value, str) else value or ())]
    steps = getattr(entry, "steps", ())
    found += [(f"steps[{n}].on", x) for n, step in enumerate(steps) for x in step.on]
    return found


def entry_faults(entry: Entry, path: str, setup: Setup) -> Faults:
    """What keeps an entry from being one of this setup's rig.

    Args:
        entry: of a log.
        path: where it stands in the file.
        setup: whose log it is to be.

    Returns:
        None where it fits.
    """
    known = {load.id for load in setup.rig.loads}
    faults = [
        Fault(
            f"{path}.{name}",
            "no-such-load",
            f"must be one of the rig's loads; is this another rig's log? (got \"{ident[:40]}\")",
        )
        for name, ident in loads_named(entry)
        if ident not in known
    ]
    if isinstance(entry, TripEntry):
        places = {"post", "main", "set", "guard", "inverter", *(c.id for c in setup.rig.circuits)}
        if entry.where not in places:
            rule = f"must be one of {', '.join(sorted(places))}"
            faults.append(Fault(f"{path}.where", "where", f'{rule} (got "{entry.where}")'))
    for n, step in enumerate(getattr(entry, "steps", ())):
        if step.amps is None and step.watts is None:
            rule = "must be given, or watts (got neither)"
            faults.append(Fault(f"{path}.steps[{n}].amps", "missing", rule))
    return faults


def read_log(data: object, setup: Setup | None = None) -> Log:
    """Turn parsed JSON into a log; with a setup, it must be that rig's.

    Args:
        data: parsed JSON, from anywhere.
        setup: whose rig it is of; any rig's where None.

    Returns:
        The log.

    Raises:
        SetupError: with every fault found, each with its entry.
    """
    faults: Faults = []
    found = read_record(Log, data, "", faults)
    if found is not INVALID and setup is not None:
        for at, entry in enumerate(found.entries):
            faults += entry_faults(entry, f"entries[{at}]", setup)
    if faults:
        raise SetupError(faults)
    log: Log = found
    return log


def load_log(path: str | PathLike[str], setup: Setup | None = None) -> Log:
    """Read a log file.

    Args:
        path: of the file.
        setup: whose rig it is of; any rig's where None.

    Returns:
        The log.

    Raises:
        SetupError: the file cannot be opened or is not a log.
    """
    return read_log(json_of(path, "a log", LARGEST_LOG_BYTES), setup)


def write_log(log: Log) -> Document:
    """The JSON object of a log; fields at their default are left out.

    Args:
        log: the log.

    Returns:
        The JSON object.
    """
    return {"format": LOG_FORMAT, "version": log.version} | write_record(log)


def log_schema() -> Document:
    """The JSON Schema of a log, made from the core's own types.

    Returns:
        A JSON Schema, draft 2020-12.
    """
    return file_schema(LOG_FORMAT, Log)
