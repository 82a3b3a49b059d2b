"""What each kind of search does, in the process that was made for it: the core's own functions."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ironmargin.planning.day import day_json, plan_day
from ironmargin.planning.order import order_json, running_order
from ironmargin.planning.remedies import find_remedies, remedies_json
from ironmargin.planning.sensitivity import sensitivity, sensitivity_json
from ironmargin.planning.tasks import read_tasks
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine

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


SEARCHES: dict[str, Callable[[Setup, Any, Progress], dict[str, Any]]] = {
    "remedies": _remedies,
    "sensitivity": _sensitivity,
    "order": _order,
    "day": _day,
}
"""One row a kind of search."""


def run(kind: str, document: dict[str, Any], tasks: Any, progress: Progress) -> dict[str, Any]:
    """The answer of a search.

    Raises:
        SetupError: the question has a fault.
    """
    return SEARCHES[kind](read_setup(document), tasks, progress)
