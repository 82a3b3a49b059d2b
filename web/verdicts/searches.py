"""What each kind of search does, in the process that was made for it: the core's own functions."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ironmargin.planning.day import day_json, plan_day
from ironmargin.planning.order import order_json, running_order
from ironmargin.planning.remedies import find_remedies, remedies_json
from ironmargin.planning.sensitivity import sensitivity, sensitivity_json
from ironmargin.planning.tasks import read_tasks
from ironmargin.reaching.axes import read_axis
from ironmargin.reaching.reach import Point, reach, reach_json
from ironmargin.reaching.size import size, size_json
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine

SAID_EVERY = 8
Progress = Callable[[int, int], None]


def _remedies(setup: Setup, tasks: Any, progress: Progress) -> dict[str, Any]:
    return remedies_json(find_remedies(setup, progress=progress))


def _sensitivity(setup: Setup, tasks: Any, progress: Progress) -> dict[str, Any]:
    checked = examine(setup, quick=True)
    return sensitivity_json(checked, sensitivity(checked))


def _order(setup: Setup, tasks: Any, progress: Progress) -> dict[str, Any]:
    return order_json(running_order(setup))


def _day(setup: Setup, tasks: Any, progress: Progress) -> dict[str, Any]:
    return day_json(plan_day(setup, read_tasks(tasks, setup)))


def _reach(setup: Setup, tasks: Any, progress: Progress) -> dict[str, Any]:
    x, y = (read_axis(tasks[name], setup) for name in ("x", "y"))
    todo, done = len(x.values) * len(y.values), 0

    def keep(row: int, column: int, point: Point) -> None:
        nonlocal done
        done += 1
        if done % SAID_EVERY == 0:
            progress(done, todo)

    return reach_json(reach(setup, x, y, keep=keep))


def _size(setup: Setup, tasks: Any, progress: Progress) -> dict[str, Any]:
    return size_json(setup, size(setup), None)


SEARCHES: dict[str, Callable[[Setup, Any, Progress], dict[str, Any]]] = {
    "remedies": _remedies,
    "sensitivity": _sensitivity,
    "order": _order,
    "day": _day,
    "reach": _reach,
    "size": _size,
}
"""One row a kind of search."""


def run(kind: str, document: dict[str, Any], tasks: Any, progress: Progress) -> dict[str, Any]:
    """The answer of a search.

    Raises:
        SetupError: the question has a fault.
    """
    return SEARCHES[kind](read_setup(document), tasks, progress)
