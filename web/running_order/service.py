"""What the running order's pages show: the core's answers with names, places on the drawing, and
the day's tasks in and out.
"""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

from django.http import QueryDict

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.limits.ledger import state_of
from ironmargin.planning.tasks import SLOT_MIN, SLOTS, TASKS_FORMAT, read_tasks
from ironmargin.setup.changed import leave_off, with_engines_scaled
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.spreadsheet import csv_text
from web.design.context import Context
from web.design.drawing import Axis, bar
from web.design.templatetags.figures import percent
from web.design.typed import typed_clock, typed_span
from web.running_order.models import DayTasks
from web.setups import repository
from web.setups.models import SavedSetup
from web.setups.stations import Answer

CHART_LEFT, CHART_RIGHT, CHART_TOP, CHART_FOOT = 120.0, 1200.0, 12.0, 130.0
ROW_TOP, ROW_STEP = 156.0, 34.0
MAX_TASKS = 40
WEAKER = 0.9
"""What a set that tripped is taken to give, over its plate."""
CLOCKS = ("earliest", "latest", "start")
TASK_FIELDS = ("name", "load", "minutes", "earliest", "latest", "priority", "start")
WINDOWS = ("running", "generator_hours", "quiet")


def names_of(document: Document) -> dict[str, str]:
    """Load id → name."""
    return {x["id"]: x["name"] for x in document["rig"]["loads"]}


def order_context(document: Document, answer: Document) -> Context:
    """A running order as the page shows it."""
    names = names_of(document)
    setup = read_setup(document)
    thin = setup.rules.thin_below
    off_words = {x.id: x.off_words for x in setup.rig.loads}
    shown = answer["sets"][:24]
    sets = [
        {
            "loads": [names[i] for i in s["loads"]],
            "margin": s["iron_margin"],
            "state": state_of(s["iron_margin"], thin),
            "bar": bar(
                [("a", 0.5, "holds"), ("b", s["iron_margin"], "holds"), ("c", 0.5, "holds")], 86, 22
            ),
        }
        for s in shown
    ]
    off = list(dict.fromkeys(i for ways in answer["trades"].values() for way in ways for i in way))
    rows = [
        {
            "name": names[i],
            "cells": [_cell(ways, c) for c in off],
            "none": not ways,
            "words": " or ".join(" and ".join(off_words[x] for x in way) for way in ways),
        }
        for i, ways in answer["trades"].items()
    ]
    steps = [
        s
        | {
            "name": names.get(s["load"], "Transformer"),
            "state": state_of(s["margin"], thin),
            "expect_w": s["expect_a"] * s["expect_v"],
            "mode_words": (s["mode"] or "").replace("-", " "),
        }
        for s in answer["sequence"]["steps"]
    ]
    return {
        "sets": sets,
        "more_sets": len(answer["sets"]) - len(shown),
        "trade_columns": [names[i] for i in off],
        "trade_rows": rows,
        "steps": steps,
        "sequence": answer["sequence"],
        "interlocks": answer["interlocks"],
        "never": [names[x["load"]] for x in answer["never"]],
        "proven": answer["proven"],
    }


MAX_SAID = 4
"""Starts that the answer names."""


def answer_of(shown: Document, document: Document) -> Answer:
    """The order in one line; why there is none where there is none."""
    steps = shown["steps"]
    if not steps:
        reason = shown["sequence"].get("reason") or "No load is on: switch some loads on."
        return Answer("No order works", reason, "fails" if document.get("wanted") else "")
    names = list(dict.fromkeys(s["name"] for s in steps))
    more = f" and {len(names) - MAX_SAID} more" if len(names) > MAX_SAID else ""
    minimum = min(steps, key=lambda s: s["margin"])
    waits = sum(s["wait_s"] for s in steps)
    said = f"Start them in this order{f', {waits:.0f} s of waiting in all' if waits else ''}. "
    said += f"The tightest start is {minimum['name']}, with {percent(minimum['margin'])}."
    return Answer(", then ".join(names[:MAX_SAID]) + more, said, minimum["state"])


def _cell(ways: list[list[str]], ident: str) -> str:
    """Which of the ways ask for this load to go off, by number."""
    return ", ".join(str(n) for n, way in enumerate(ways, 1) if ident in way)


def after_a_trip(document: Document, without: str) -> tuple[Document | None, str]:
    """The question to plan again after something tripped, and in words how it differs; None where
    nothing is left to plan.
    """
    setup = read_setup(document)
    if without:
        setup = leave_off(setup, without)
        left = setup.wanted or any(x.always_on for x in setup.rig.loads)
        return (
            write_setup(setup) if left else None
        ), f"without {names_of(document).get(without, without)}"
    if not setup.supply.carrying:
        return None, ""
    return write_setup(
        with_engines_scaled(setup, WEAKER)
    ), "on a supply a tenth weaker than its plate"


def tasks_of(setup: SavedSetup, document: Document) -> DayTasks:
    """The tasks of a setup's day; a first example where there are none yet."""
    found, _ = DayTasks.objects.get_or_create(
        setup=setup, defaults={"tasks": first_tasks(document)}
    )
    return found


def day_out(setup: SavedSetup) -> Document | None:
    """The tasks of a setup's day, as they go with its account."""
    held = DayTasks.objects.filter(setup=setup).first()
    return dict(held.tasks) if held is not None else None


def day_take(setup: SavedSetup, data: object) -> None:
    """Put the tasks of a day to a setup that was just taken in.

    Raises:
        SetupError: they are none of this setup.
    """
    try:
        read_tasks(data, read_setup(repository.compose(setup)))
    except SetupError as error:
        faults = [Fault(f"day.{f.path}", f.code, f.message) for f in error.faults]
        raise SetupError(faults) from None
    DayTasks.objects.update_or_create(setup=setup, defaults={"tasks": data})


def first_tasks(document: Document) -> Document:
    """One task for each load that can wait, cooling in the afternoon where there is some."""
    loads = document["rig"]["loads"]
    tasks = [
        {
            "id": f"t{n}",
            "name": x["name"],
            "load": x["id"],
            "minutes": 60,
            "earliest": "08:00",
            "latest": "20:00",
            "priority": "want",
        }
        for n, x in enumerate(loads, 1)
        if x.get("priority") in ("wait", "want")
        and not x.get("always_on")
        and x["kind"] != "air-conditioner"
    ][:6]
    cooling = [
        {"load": x["id"], "from": "13:00", "to": "17:00"}
        for x in loads
        if x["kind"] == "air-conditioner"
    ][:1]
    if not tasks:
        tasks = [
            {
                "id": f"t{n}",
                "name": x["name"],
                "load": x["id"],
                "minutes": 60,
                "earliest": "08:00",
                "latest": "20:00",
            }
            for n, x in enumerate(loads[:1], 1)
        ]
    return {"format": TASKS_FORMAT, "version": 1, "running": cooling, "tasks": tasks}


def posted_tasks(post: QueryDict) -> Document:
    """The tasks file a posted form stands for; what cannot be read stays as typed, for the check to
    name.
    """
    tasks: list[Document] = []
    for n in range(MAX_TASKS):
        if f"task{n}.load" not in post or f"task{n}.gone" in post:
            continue
        task: Document = {"id": f"t{len(tasks) + 1}"}
        for field in TASK_FIELDS:
            typed = post.get(f"task{n}.{field}", "").strip()[:120]
            if typed:
                task[field] = (
                    int(typed)
                    if field == "minutes" and typed.isascii() and typed.isdigit() and len(typed) < 6
                    else typed_clock(typed)
                    if field in CLOCKS
                    else typed
                )
        tasks.append(task)
    out: Document = {"format": TASKS_FORMAT, "version": 1, "tasks": tasks, "running": []}
    for n in range(12):
        load, begin, end = (
            post.get(f"run{n}.{k}", "").strip()[:60] for k in ("load", "from", "to")
        )
        begin, end = typed_clock(begin), typed_clock(end)
        if load:
            out["running"].append(
                {"load": load} | ({"from": begin} if begin else {}) | ({"to": end} if end else {})
            )
    for key in ("generator_hours", "quiet"):
        spans = [s for s in post.get(key, "").replace(";", ",").split(",") if s.strip()]
        if spans:
            ends = [typed_span(span) for span in spans[:12]]
            out[key] = [{"from": a} | ({"to": b} if b else {}) for a, b in ends]
    if typed := post.get("max_generator_h", "").strip()[:12]:
        try:
            out["max_generator_h"] = float(typed)
        except ValueError:
            out["max_generator_h"] = typed
    return out


def faults_of(tasks: Document, document: Document) -> list[Fault]:
    """What is wrong with a tasks file for a setup."""
    try:
        read_tasks(tasks, read_setup(document))
    except SetupError as error:
        return error.faults
    return []


def windows_words(tasks: Document, key: str) -> str:
    """Windows as a person types them."""
    return ", ".join(f"{w.get('from', '')}-{w.get('to', '')}" for w in tasks.get(key) or [])


def draw_day(document: Document, tasks: Document, plan: Document) -> Document:
    """The day as a timeline: the amps under their ceiling, a row for each task, generator and quiet
    hours.
    """
    names = names_of(document)
    slots = plan["slots"]
    x = Axis(0.0, float(SLOTS), CHART_LEFT, CHART_RIGHT)
    limit = max((s.get("limit_a") or 0.0 for s in slots), default=0.0)
    top = 1.1 * max([limit, *(s["amps"] for s in slots), 1.0])
    y = Axis(0.0, top, CHART_FOOT, CHART_TOP)
    line = (
        f"M{CHART_LEFT:.1f} {CHART_FOOT:.1f}"
        + "".join(f"V{y.at(s['amps']):.1f}H{x.at(n + 1):.1f}" for n, s in enumerate(slots))
        + f"V{CHART_FOOT:.1f}Z"
    )
    placed = {p["task"]: p for p in plan["placed"]}
    rows = []
    for n, task in enumerate(tasks["tasks"]):
        where = placed.get(task["id"])
        begin = _slot(where["start"]) if where else None
        end = _slot(where["end"]) if where else None
        rows.append(
            {
                "id": task["id"],
                "number": n,
                "name": task.get("name") or names.get(task["load"], task["load"]),
                "y": ROW_TOP + n * ROW_STEP,
                "x": x.at(begin) if begin is not None else None,
                "width": x.at(end) - x.at(begin) - 2
                if begin is not None and end is not None
                else 0,
                "start": where["start"] if where else "",
                "end": where["end"] if where else "",
                "locked": bool(task.get("start")),
                "slot": begin,
                "earliest_x": x.at(_slot(task.get("earliest", "00:00"))),
                "latest_x": x.at(_slot(task.get("latest", "24:00"))),
            }
        )
    return {
        "load": line,
        "limit_y": y.at(limit) if limit else None,
        "limit_a": limit,
        "rows": rows,
        "height": ROW_TOP + len(rows) * ROW_STEP + 26,
        "hours": [(f"{h:02d}", x.at(h * 4)) for h in range(0, 25, 3)],
        "generator": _spans(slots, "generator", x),
        "quiet": _spans(slots, "quiet", x),
        "slot_width": (CHART_RIGHT - CHART_LEFT) / SLOTS,
        "soc": [
            f"{x.at(n + 1):.1f} {CHART_FOOT - (CHART_FOOT - CHART_TOP) * s['soc']:.1f}"
            for n, s in enumerate(slots)
            if "soc" in s
        ],
    }


def _slot(clock: str) -> int:
    hours, _, minutes = clock.partition(":")
    return (int(hours) * 60 + int(minutes or 0)) // SLOT_MIN


def _spans(slots: list[Document], key: str, x: Axis) -> list[tuple[float, float]]:
    """(place, width) of every run of slots where something is so."""
    out, begin = [], None
    for n, on in enumerate([*(s[key] for s in slots), False]):
        if on and begin is None:
            begin = n
        elif not on and begin is not None:
            out.append((x.at(begin), x.at(n) - x.at(begin)))
            begin = None
    return out


def calendar(setup: SavedSetup, tasks: Document, plan: Document, day: date) -> bytes:
    """The placed tasks as iCalendar (RFC 5545), in local time without a zone."""
    from icalendar import Calendar, Event

    named = {t["id"]: t.get("name") or t["load"] for t in tasks["tasks"]}
    found = Calendar()
    found.add("prodid", "-//Iron Margin//day plan//EN")
    found.add("version", "2.0")
    midnight = datetime(day.year, day.month, day.day)
    for p in plan["placed"]:
        event = Event()
        event.add("uid", f"{setup.pk}-{day.isoformat()}-{p['task']}@iron-margin")
        event.add("dtstamp", midnight.replace(tzinfo=UTC))
        event.add("summary", named.get(p["task"], p["task"]))
        event.add("dtstart", midnight + timedelta(minutes=_slot(p["start"]) * SLOT_MIN))
        event.add("dtend", midnight + timedelta(minutes=_slot(p["end"]) * SLOT_MIN))
        event.add("description", f"{setup.name}. An estimate, not an approval.")
        found.add_component(event)
    raw: bytes = found.to_ical()
    return raw


def plan_csv(document: Document, plan: Document) -> str:
    """Every quarter of an hour as CSV."""
    names = names_of(document)
    rows: list[tuple[object, ...]] = [
        ("time", "loads", "load_w", "amps_a", "limit_a", "margin", "generator", "quiet", "soc")
    ]
    for s in plan["slots"]:
        rows.append(
            (
                s["time"],
                "; ".join(names.get(i, i) for i in s["loads"]),
                s["load_w"],
                s["amps"],
                s.get("limit_a"),
                s["margin"],
                "yes" if s["generator"] else "",
                "yes" if s["quiet"] else "",
                s.get("soc"),
            )
        )
    return csv_text(rows, "\r\n")
