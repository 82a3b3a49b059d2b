"""The space that the air conditioners of a rig cool: as typed, and as shown."""

from __future__ import annotations

from collections.abc import Mapping

from ironmargin.document import Document
from ironmargin.loads import rooms
from web.design.fields import from_units, in_units
from web.design.typed import typed_figure

FIGURES = (("area_m2", "m2"), ("target_c", "°C"))


def typed(document: Document, post: Mapping[str, str], units: str) -> Document:
    """The rig's document with its space as typed in a person's units; what is not a number goes to
    the core as it is, which says so.
    """
    room = dict(document.get("room") or {})
    for name, unit in FIGURES:
        if name in post:
            value = typed_figure(post[name])
            shown = post[name].strip()
            room[name] = round(from_units(value, unit, units), 2) if value is not None else shown
    if "insulation" in post:
        room["insulation"] = post["insulation"]
    return document | {"room": {k: v for k, v in room.items() if v != ""}}


def shown(document: Document, units: str) -> Document:
    """The space for the page: figures in a person's units, usual where none are said."""
    usual = rooms.USUAL
    room = document.get("room") or {}
    out: Document = {"insulation": room.get("insulation", usual.insulation)}
    for name, unit in FIGURES:
        value, words = in_units(float(room.get(name, getattr(usual, name))), unit, units)
        out[name] = f"{value:.0f}"
        out[f"{name}_unit"] = words
    return out
