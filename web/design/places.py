"""Where a fault lies, as a person would call it: the load and the field, not their path."""

from __future__ import annotations

from web.design.fields import PATH, STEP, look_up
from web.design.labels import LABELS

READ_LABELS = {"at": "When", "peak_a": "Highest amps", "outcome": "How it ended", "fuel": "Fuel"}
"""What a field is called in a log, where a setup calls it something else."""
PLACES = {"supply": "supply", "conditions": "", "rules": "", "rig": "", "site": "site"}
"""What the parts of a setup are called where a fault lies in one."""


def place_words(path: str, document: object = None) -> str:
    """A field's path as a person would call it: "Front unit: soft-start peak".

    Args:
        document: the setup the path is in, for the names of loads and parts.
    """
    if not PATH.match(path):
        return path  # a line and a column of a file, say
    steps = STEP.findall(path)
    last = steps[-1][0]
    if steps[0][0] in DAY:
        return _of_the_day(steps)
    label = LABELS.get(last, ("",))[0] or last.replace("_", " ")
    if steps[0][0] in ("entries", "entry"):
        label = READ_LABELS.get(last, label)
    whose = ""
    for name, number in steps[:-1] if not steps[-1][1] else steps:
        if number and name in ("loads", "hookup", "units", "wanted", "entries"):
            whose = _name_at(name, int(number), document)
        elif not whose:
            whose = PLACES.get(name, "")
    if not whose:
        return label
    label = label[:1].lower() + label[1:] if label[1:2].islower() else label
    whose = f"{whose[:1].upper()}{whose[1:]}"
    return f"{whose}: {label}" if not steps[-1][1] else whose


DAY = {
    "tasks": "Task", "running": "Runs anyway", "generator_hours": "Generator may run",
    "quiet": "Quiet hours", "max_generator_h": "Generator may run, at most",
}  # fmt: skip
"""The parts of a day's tasks, as their form has them."""
OF_THE_DAY = {
    "load": "load", "minutes": "minutes", "earliest": "not before", "latest": "done by",
    "start": "locked at", "priority": "needed", "name": "name", "from": "from", "to": "to",
}  # fmt: skip


def _of_the_day(steps: list[tuple[str, str]]) -> str:
    """A field of a day's tasks: "Task 2, done by"."""
    first, number = steps[0]
    whose = DAY[first]
    if number and first not in ("generator_hours", "quiet"):
        whose = f"{whose} {int(number) + 1}"
    return f"{whose}, {OF_THE_DAY.get(steps[-1][0], steps[-1][0])}" if len(steps) > 1 else whose


def _name_at(rows: str, number: int, document: object) -> str:
    """What a row of a document is called; its number where it has no name."""
    found = look_up(document, "rig.loads" if rows == "loads" else rows)
    row = found[number] if isinstance(found, list) and number < len(found) else None
    name = row.get("name") if isinstance(row, dict) else None
    words = {"hookup": "part", "units": "set", "entries": "entry"}.get(rows, "load")
    return str(name)[:60] if name else f"{words} {number + 1}"
