"""The tasks file of a day: what is to be done, how long it takes, when it may be, and when the
generator may run.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import cast

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.fields import choice, given, number, text
from ironmargin.setup.loads import COOLING_MODES
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import json_of
from ironmargin.setup.records import Many, Record, file_schema, read_record
from ironmargin.setup.spec import INVALID, Faults, Spec

TASKS_FORMAT = "iron-margin/tasks"
SLOT_MIN = 15
SLOTS = 24 * 60 // SLOT_MIN
CLOCK = re.compile(r"([01]?\d|2[0-4]):([0-5]\d)\Z")


@record
class Clock(Spec):
    """A time of the day on the 24 h clock, ``HH:MM`` up to 24:00; kept as minutes since
    midnight.
    """

    def read(self, value: object, path: str, faults: Faults) -> object:
        found = CLOCK.match(value) if isinstance(value, str) else None
        minutes = int(found[1]) * 60 + int(found[2]) if found else -1
        if not 0 <= minutes <= 24 * 60:
            return self.fail(
                faults, path, "clock", "must be a time of the day as 07:30, at most 24:00", value
            )
        return minutes

    def write(self, value: object) -> object:
        return clock(cast(int, value))

    def schema(self) -> Document:
        return {"type": "string", "pattern": r"^([01]?\d|2[0-4]):([0-5]\d)$"}


def clock(minutes: int) -> str:
    """Minutes since midnight as HH:MM.

    Args:
        minutes: since midnight [min].

    Returns:
        As HH:MM.
    """
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


@record(kw_only=True)
class Window:
    """A span of the day; one that ends before it begins runs through midnight."""

    begin: int = given(Clock("Begins", "from"))
    end: int = given(Clock("Ends", "to"))


@record(kw_only=True)
class Running:
    """A load that runs through a window whatever is planned, as cooling in the afternoon."""

    load: str = text("The load's id", maximum=60, filled=True)
    mode: str | None = choice("Mode of an air conditioner", COOLING_MODES, default=None)
    begin: int = given(Clock("Begins", "from"), default=0)
    end: int = given(Clock("Ends", "to"), default=24 * 60)


@record(kw_only=True)
class Task:
    """Something to be done once in the day with one load."""

    id: str = text("Short name", maximum=60, filled=True)
    name: str = text("What you call it", default="", maximum=120)
    load: str = text("The load it needs", maximum=60, filled=True)
    minutes: int = number("min", "How long it takes", above=0, maximum=24 * 60, whole=True)
    earliest: int = given(Clock("Not before"), default=0)
    latest: int = given(Clock("Done by"), default=24 * 60)
    priority: str = choice("How badly it is needed", ("must", "want", "wait"), default="want")
    start: int | None = given(Clock("Locked to begin at"), default=None)


@record(kw_only=True)
class Tasks:
    """The tasks of one day."""

    format: str = choice("Always iron-margin/tasks", (TASKS_FORMAT,), default=TASKS_FORMAT)
    version: int = number("1", "Version of the format", minimum=1, maximum=1, default=1, whole=True)
    name: str = text("What you call it", default="", maximum=200)
    tasks: tuple[Task, ...] = given(Many("What is to be done", None, Record(of=Task), maximum=60))
    running: tuple[Running, ...] | None = given(
        Many(
            "What runs anyway; without it all wanted loads that no task uses",
            None,
            Record(of=Running),
            maximum=60,
        ),
        default=None,
    )
    generator_hours: tuple[Window, ...] | None = given(
        Many(
            "When the generator may run; any time but quiet hours if not said",
            None,
            Record(of=Window),
            maximum=12,
        ),
        default=None,
    )
    max_generator_h: float | None = number(
        "h", "Longest the generator may run in all", minimum=0, maximum=24, default=None
    )
    quiet: tuple[Window, ...] | None = given(
        Many("Quiet hours; the site's if not said", None, Record(of=Window), maximum=12),
        default=None,
    )


def slots_of(begin: int, end: int) -> list[int]:
    """The slots a span touches; through midnight if it ends before it begins.

    Args:
        begin: minutes since midnight [min].
        end: minutes since midnight [min].

    Returns:
        Numbers of slots.
    """
    if end <= begin:
        return [*slots_of(0, end), *slots_of(begin, 24 * 60)] if end else slots_of(begin, 24 * 60)
    return list(range(begin // SLOT_MIN, -(-end // SLOT_MIN)))


def slots_long(task: Task) -> int:
    """How many slots a task takes.

    Args:
        task: of a day.

    Returns:
        Their number.
    """
    return -(-task.minutes // SLOT_MIN)


def _faults(tasks: Tasks, setup: Setup) -> Iterator[Fault]:
    known = {x.id for x in setup.rig.loads}
    seen: set[str] = set()
    for at, task in enumerate(tasks.tasks):
        path = f"tasks[{at}]"
        if task.id in seen:
            yield Fault(f"{path}.id", "ids", f'must be unique (got "{task.id}" again)')
        seen.add(task.id)
        if task.load not in known:
            yield Fault(
                f"{path}.load",
                "no-such-load",
                f'must be the id of one of the rig\'s loads (got "{task.load}")',
            )
        if task.latest - task.earliest < task.minutes:
            yield Fault(
                f"{path}.minutes",
                "window",
                f"must fit between {clock(task.earliest)} and {clock(task.latest)}, give "
                f"it more time or shorten it (got {task.minutes})",
            )
        elif (
            task.start is not None and not task.earliest <= task.start <= task.latest - task.minutes
        ):
            yield Fault(
                f"{path}.start",
                "lock",
                f"must lie between {clock(task.earliest)} and "
                f"{clock(task.latest - task.minutes)} (got {clock(task.start)})",
            )
        if task.start is not None and task.start % SLOT_MIN:
            yield Fault(
                f"{path}.start",
                "slot",
                f"must be on a quarter of an hour (got {clock(task.start)})",
            )
    for at, item in enumerate(tasks.running or ()):
        if item.load not in known:
            yield Fault(
                f"running[{at}].load",
                "no-such-load",
                f'must be the id of one of the rig\'s loads (got "{item.load}")',
            )
    if not tasks.tasks:
        yield Fault("tasks", "nothing", "must name at least one task (got none)")
    if not setup.rig.loads:
        yield Fault("rig.loads", "nothing", "must hold at least one load (got none)")


def read_tasks(data: object, setup: Setup) -> Tasks:
    """Turn parsed JSON into the tasks of a day for a setup.

    Args:
        data: parsed JSON, from anywhere.
        setup: supply, path, rig and rules of the question.

    Returns:
        The tasks.

    Raises:
        SetupError: with every fault found.
    """
    faults: Faults = []
    tasks = read_record(Tasks, data, "", faults)
    if tasks is not INVALID:
        faults = list(_faults(tasks, setup))
    if faults:
        raise SetupError(faults)
    found: Tasks = tasks
    return found


def load_tasks(path: str | Path, setup: Setup) -> Tasks:
    """Read a tasks file.

    Args:
        path: of the file.
        setup: supply, path, rig and rules of the question.

    Returns:
        The tasks.

    Raises:
        SetupError: it cannot be opened, is not JSON, or has faults.
    """
    return read_tasks(json_of(path, "a tasks file"), setup)


def tasks_schema() -> Document:
    """The JSON Schema of a tasks file.

    Returns:
        A JSON Schema, draft 2020-12.
    """
    return file_schema(TASKS_FORMAT, Tasks)
