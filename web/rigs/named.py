"""A load as it is typed to add it: its name, and behind it the watts or amps that stand on it."""

from __future__ import annotations

import re

from ironmargin.document import Document
from ironmargin.loads.plate_reader import drawing
from web.design.typed import typed_number
from web.rigs.table import new_load, typical_named
from web.rigs.typical import loads

DRAW_BEHIND = re.compile(
    r"(?P<name>.*?[^\s,:;])[\s,:;]+(?P<figure>\d[\d.,]*)\s*(?P<unit>kW|W|watts?|A|amps?)\s*",
    re.IGNORECASE,
)
"""Espresso machine 1,350 W; ice maker, 1.8 A."""
ALSO_CALLED = {
    "fridge": "refrigerator",
    "ac": "rooftop unit",
    "a/c": "rooftop unit",
    "aircon": "rooftop unit",
    "conditioner": "rooftop unit",
    "tv": "television",
    "wifi": "router",
    "bulb": "lamps",
    "stove": "cooktop",
    "range": "cooktop",
    "espresso": "coffee",
    "phone": "laptop",
    "hob": "induction hob",
    "pump": "well pump",
}
"""What people type for the words of the typical loads."""
SAYS_LITTLE = {"box", "machine", "electric", "small", "large", "old", "new", "front", "rear", "my"}
"""Words of a name that tell no kind of load."""
MIN_LETTERS = 3
"""Of a word, to be taken for the beginning of another."""


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


def likely(name: str, service: str) -> str:
    """The key of the typical load that a name is most likely of: the one with most of its words,
    of the rig's volts before others; empty where it has not even half of them.
    """
    said = [x for x in re.findall(r"[a-z/]+", name.lower()) if x not in SAYS_LITTLE]
    typed = [w for x in said for w in _words(ALSO_CALLED.get(x, x))]

    def score(title: str) -> int:
        words = _words(title)
        return sum(any(w == t or _begins(w, t) for w in words) for t in typed)

    high = service == "230"
    ranked = [
        (score(title), (" 230 v" in title.lower()) == high, -at, key)
        for at, (key, title) in enumerate(loads())
    ]
    best = max(ranked)
    return best[-1] if typed and 2 * best[0] >= len(typed) else ""


def _words(text: str) -> list[str]:
    return re.findall(r"[a-z]+", text.lower())


def _begins(word: str, typed: str) -> bool:
    return len(typed) >= MIN_LETTERS and word.startswith(typed)
