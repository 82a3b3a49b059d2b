"""A load as it is typed to add it: its name, and behind it the watts or amps that stand on it."""

from __future__ import annotations

import re

from ironmargin.document import Document
from ironmargin.loads.plate_reader import drawing
from web.design.typed import typed_number
from web.rigs.table import new_load, typical_named

DRAW_BEHIND = re.compile(
    r"(?P<name>.*?[^\s,:;])[\s,:;]+(?P<figure>\d[\d.,]*)\s*(?P<unit>kW|W|watts?|A|amps?)\s*",
    re.IGNORECASE,
)
"""Espresso machine 1,350 W; ice maker, 1.8 A."""


def name_and_draw(typed: str) -> tuple[str, float, str]:
    """What was typed as a name and a draw, with W or A; no unit where there is no draw, and where
    the whole is the name of a typical load.
    """
    found = DRAW_BEHIND.fullmatch(typed)
    if found is None or typical_named(typed) is not None:
        return typed.strip(), 0.0, ""
    value, unit = typed_number(found["figure"].rstrip(".,")), found["unit"].lower()
    if not isinstance(value, float):
        return typed.strip(), 0.0, ""
    return found["name"], value * (1000.0 if unit == "kw" else 1.0), "A" if unit[0] == "a" else "W"


def load_of(document: Document, typed: str, place: str, what: str) -> Document:
    """A load by what was typed, like the typical one that ``what`` names.

    Args:
        document: the rig.
        typed: its name, or its name and what it draws.
        place: breaker or leg it hangs on; empty for its usual one.
        what: key of a typical load, or empty.

    Returns:
        The load as the format has it.
    """
    name, value, unit = name_and_draw(typed)
    load = new_load(document, name, place, what)
    return drawing(load, value, unit) if unit else load
