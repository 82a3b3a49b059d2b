"""The rationing a page asks for: its form's figures as a stock, and the answer in rows."""

from __future__ import annotations

import re

from django.http import QueryDict

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.planning.ration import RANKS, Ration, ration
from ironmargin.planning.ration_words import ration_sentence
from ironmargin.planning.stock import read_stock
from ironmargin.setup.model import Setup
from web.design.context import Context
from web.design.fields import from_units
from web.design.typed import typed_figure, typed_in, typed_number

STOCK_PLACES = {
    "days": "Days", "litres": "Fuel", "kg": "Fuel", "generator_hours": "Generator may run",
    "solar.peak_w": "Solar", "solar.sun_h": "Hours of full sun",
}  # fmt: skip
"""What a field of the stock is called on the form."""


def _stock_place(path: str, rows: list[Document]) -> str:
    """A field of the stock as the form calls it: "Microwave oven, at least"."""
    found = re.match(r"loads\[(\d+)\]\.(\w+)", path)
    if found is None or int(found[1]) >= len(rows):
        return STOCK_PLACES.get(path, path)
    return f"{rows[int(found[1])]['name']}, {'at least' if found[2] == 'min_hours' else 'hours'}"


def rationed(
    setup: Setup, query: QueryDict, units: str
) -> tuple[Ration | None, str, list[Document]]:
    """The rationing asked for, a sentence of it or of what is wrong, and the loads' inputs."""
    wanted = [w.load for w in setup.wanted]
    modes = {w.load: w.mode for w in setup.wanted}
    rows = []
    loads = []
    for load in setup.rig.loads:
        if load.id not in wanted:
            continue
        hours = typed_figure(query.get(f"h-{load.id}"))
        hours = hours if hours is not None and 0 <= hours <= 24 else 8.0
        rank = query.get(f"p-{load.id}", "")
        rank = rank if rank in RANKS else load.priority
        row = {"id": load.id, "name": load.name, "hours": hours, "rank": rank}
        rows.append(row | {"min": query.get(f"l-{load.id}", "")[:8]})
        use: Document = {"load": load.id, "hours": hours, "priority": rank}
        if (at_least := query.get(f"l-{load.id}", "").strip()[:8]) not in ("", "0"):
            use["min_hours"] = typed_number(at_least)
        loads.append(use | ({"mode": modes[load.id]} if modes[load.id] else {}))
    if "days" not in query:
        return None, "", rows
    stock: Document = {"format": "iron-margin/stock", "version": 1, "loads": loads}
    sun = [typed_figure(query.get(name)) for name in ("solar", "sun")]
    if None not in sun:
        stock["solar"] = {"peak_w": sun[0], "sun_h": sun[1]}
    for name, key in (("days", "days"), ("litres", "litres"), ("allowed", "generator_hours")):
        value = typed_figure(query.get(name))
        if name == "litres":  # by the gallon or the pound
            typed = typed_in(query.get(name, ""), "gal" if units == "us" else "l")
            value = from_units(typed, "l", units) if isinstance(typed, float) else None
        if value is not None:
            stock[key] = int(value) if name == "days" and value == int(value) else value
        elif query.get(name):
            stock[key] = query[name][:40]
    try:
        found = ration(setup, read_stock(stock, setup))
    except SetupError as error:
        said = [f"{_stock_place(f.path, rows)}: {f.message}" for f in error.faults]
        return None, "; ".join(said), rows
    return found, ration_sentence(found), rows


def curve_of(found: Ration) -> list[Context]:
    """The trade-off of days against hours, as rows with a bar each."""
    return [
        {
            "days": days,
            "feasible": plan.feasible,
            "parts": [
                (d.name, h, round(100 * h / 24, 1))
                for d, h in zip(found.days, plan.hours, strict=True)
            ],
        }
        for days, plan in found.curve
    ]
