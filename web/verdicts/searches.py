"""What each kind of search does, in the process that was made for it: the core's own functions."""

from __future__ import annotations

import json
from collections.abc import Callable

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.per_cent import PLACES
from ironmargin.planning.answer import check_fully
from ironmargin.planning.day import day_json, plan_day
from ironmargin.planning.first_fix import first_fix
from ironmargin.planning.now_table import now_table
from ironmargin.planning.order import running_order
from ironmargin.planning.order_words import order_json
from ironmargin.planning.remedies import find_remedies, remedies_json
from ironmargin.planning.sensitivity import sensitivity, sensitivity_json
from ironmargin.planning.tasks import read_tasks
from ironmargin.reaching.axes import NAMED, put, read_axis
from ironmargin.reaching.places import grid_json, grid_of, read_places
from ironmargin.reaching.reach import Point, most_telling, reach
from ironmargin.reaching.reach_words import reach_json
from ironmargin.reaching.size import size, size_json
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.verdict.check import examine
from web.verdicts.view_model import computed

SAID_EVERY = 8
Progress = Callable[[int, int], None]


def _remedies(setup: Setup, tasks: Document, progress: Progress) -> Document:
    return remedies_json(find_remedies(setup, progress=progress))


def _sensitivity(setup: Setup, tasks: Document, progress: Progress) -> Document:
    checked = examine(setup, quick=True)
    return sensitivity_json(checked, sensitivity(checked))


def _order(setup: Setup, tasks: Document, progress: Progress) -> Document:
    return order_json(running_order(setup))


def _day(setup: Setup, tasks: Document, progress: Progress) -> Document:
    return day_json(plan_day(setup, read_tasks(tasks, setup)))


def _reach(setup: Setup, tasks: Document, progress: Progress) -> Document:
    """The map over two axes; over the two figures on which the answer hangs where the question says
    only which there are (``axes``). Where no figure mends it, the map is of its first fix.
    """
    fix = ""
    if "axes" in tasks:
        setup, fields, fix = _telling(setup, tasks["axes"])
        requested = [tasks["axes"][field] for field in fields]
    else:
        requested = [tasks["x"], tasks["y"]]
    x, y = (read_axis(axis, setup) for axis in requested)
    todo, done = len(x.values) * len(y.values), 0

    def store(row: int, column: int, point: Point) -> None:
        nonlocal done
        done += 1
        if done % SAID_EVERY == 0:
            progress(done, todo)

    answer = reach_json(reach(setup, x, y, keep=store))
    return answer | {"fix": fix, "setup": write_setup(setup)}


def _telling(setup: Setup, axes: dict[str, str]) -> tuple[Setup, list[str], str]:
    """The setup to map, the two figures over which its answer changes most, and the first fix that
    was put in where none of them turns the verdict.
    """
    spans = {}
    for field, axis in axes.items():
        values = read_axis(axis, setup).values
        spans[field] = (values[0], values[-1])
    found = most_telling(setup, spans)
    if not any(turns for _, turns in found):
        fix, _ = first_fix(check_fully(setup, remedy=False))
        if fix is not None:
            setup = fix.setup
            spans = {f: s for f, s in spans.items() if NAMED[f].read(setup) is not None}
            return setup, [field for field, _ in most_telling(setup, spans)][:2], fix.what
    return setup, [field for field, _ in found][:2], ""


def _size(setup: Setup, tasks: Document, progress: Progress) -> Document:
    return size_json(setup, size(setup), None)


def _places(setup: Setup, tasks: Document, progress: Progress) -> Document:
    return grid_json(grid_of(setup, read_places(tasks, setup)))


def _sweep(setup: Setup, tasks: Document, progress: Progress) -> Document:
    """Many setups before and after some figures are put into each; a bad one is a row of its
    own.
    """
    rows = []
    for at, one in enumerate(tasks["rows"]):
        row = {"pk": one["pk"], "name": one["name"], "fault": ""}
        row |= dict.fromkeys(("before", "after", "sentence"), "")
        row |= dict.fromkeys(("before_margin", "after_margin"), 0.0)
        try:
            before = read_setup(one["document"])
            after = before
            for field, value in tasks["figures"]:
                if field not in NAMED or NAMED[field].read(after) is not None:
                    after = put(after, field, value)
            was, now = (check_fully(s, remedy=False).result for s in (before, after))
            row |= {"before": was.verdict, "before_margin": round(was.iron_margin, PLACES)}
            row |= {"after": now.verdict, "after_margin": round(now.iron_margin, PLACES)}
            row["sentence"] = now.weakest.sentence
        except SetupError as error:
            row["fault"] = str(error.faults[0])
        rows.append(row)
        progress(at + 1, len(tasks["rows"]))
    return {"rows": rows, "figures": tasks["figures"]}


def _cells(setup: Setup, tasks: Document, progress: Progress) -> Document:
    """Verdict, margin and sentence of some setups, as they are stored with them."""
    rows = []
    for at, one in enumerate(tasks["rows"]):
        result = check_fully(read_setup(one["document"]), remedy=False).result
        row = {"pk": one["pk"], "verdict": result.verdict, "iron_margin": result.iron_margin}
        rows.append(row | {"sentence": result.weakest.sentence, "stale": False})
        progress(at + 1, len(tasks["rows"]))
    return {"rows": rows}


def _now(setup: Setup, tasks: Document, progress: Progress) -> Document:
    """Now after every press, for a device that may lose its network."""
    return now_table(setup, tasks["on"], frozenset(tasks["off"]))


def _large(setup: Setup, tasks: Document, progress: Progress) -> Document:
    """What the page of a setup shows that is too large to be checked while a page waits."""
    requested = tasks
    text, _ = computed(
        write_setup(setup), requested.get("picture"), requested.get("against"), at_once=False
    )
    return json.loads(text) if text else {}


SEARCHES: dict[str, Callable[[Setup, Document, Progress], Document]] = {
    "remedies": _remedies,
    "sensitivity": _sensitivity,
    "order": _order,
    "day": _day,
    "reach": _reach,
    "size": _size,
    "places": _places,
    "sweep": _sweep,
    "cells": _cells,
    "now": _now,
    "large": _large,
}
"""One row a kind of search."""


def run(kind: str, document: Document, tasks: Document | None, progress: Progress) -> Document:
    """The answer of a search.

    Raises:
        SetupError: the question has a fault.
    """
    return SEARCHES[kind](read_setup(document), tasks or {}, progress)
