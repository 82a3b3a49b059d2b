"""Which typical load a typed name is most likely of: by its words, its size, and whether it stands
in a house. It is a guess that is asked, never taken unsaid.
"""

from __future__ import annotations

import math
import re
from functools import cache

from ironmargin.document import Document
from ironmargin.limits.backfeed import BUILDING, UNKNOWN, kind_of
from ironmargin.loads.printed import fraction_of
from ironmargin.tables import rows
from web.rigs.typical import loads

PHRASES = {
    "central air": "condensing unit",
    "central ac": "condensing unit",
    "heat pump": "heat-pump",
    "window ac": "window unit",
    "room ac": "window unit",
    "portable ac": "portable unit",
    "portable air conditioner": "portable unit",
    "window air conditioner": "window unit",
    "central air conditioner": "condensing unit",
    "air conditioner": "ac",
    "ev charger": "car charger",
    "ebike charger": "bicycle charger",
    "e-bike charger": "bicycle charger",
    "drill charger": "laptop charger",
    "shop vac": "vacuum",
    "mini fridge": "small refrigerator",
    "beer fridge": "small refrigerator",
    "heat tape": "heat cable",
    "tank heater": "tank pads",
    "instant water heater": "tankless water heater",
    "pellet stove": "pellet",
    "furnace fan": "furnace blower",
    "led bulb": "led lights",
    "led lamp": "led lights",
    "ceramic heater": "space heater",
    "electric heater": "space heater",
    "oil heater": "space heater",
    "room heater": "space heater",
    "washer dryer": "washer-dryer",
}
"""Two and more words that are typed, and those of the typical loads."""
ALSO_CALLED = {
    "fridge": "refrigerator",
    "ac": "rooftop unit",
    "a/c": "rooftop unit",
    "aircon": "rooftop unit",
    "minisplit": "mini-split",
    "condenser": "condensing unit",
    "tv": "television",
    "wifi": "router",
    "bulb": "lamps",
    "stove": "cooktop",
    "range": "cooktop",
    "espresso": "coffee",
    "phone": "laptop",
    "pc": "desktop computer",
    "monitor": "desktop screen",
    "hob": "induction hob",
    "converter": "battery charger",
    "cpap": "breathing aid",
    "bipap": "breathing aid",
    "fryer": "hot-air fryer",
    "kegerator": "small refrigerator",
    "washer": "washing machine",
    "heater": "space heater",
    "heat-pump": "rooftop unit",
    "cooker": "pressure cooker",
}
"""Words that are typed, and those of the typical loads."""
KINDS = {"heater", "cooker"}
"""Of these words, those that mean another thing with one before them."""
IN_A_HOUSE = {
    "ac": "condensing unit",
    "a/c": "condensing unit",
    "aircon": "condensing unit",
    "heat-pump": "mini-split heat pump",
}
"""What a word means where the loads are a building's."""
OFF_THE_BATTERY = re.compile(
    r"\b(water pump|macerator|slide|slides|slide.?out|jacks?|awning|steps?|vent fan|roof vent"
    r"|(?:lp|propane|gas) detector)\b",
    re.IGNORECASE,
)
"""What runs off 12 V in nearly every trailer and van (common practice, no source)."""
SAYS_LITTLE = {
    "a", "and", "box", "btu", "electric", "front", "gal", "gallon", "hp", "k", "large", "machine",
    "my", "new", "of", "old", "rear", "rv", "ton", "tons", "v", "w",
}  # fmt: skip
"""Words of a name that tell no kind of load."""
MIN_LETTERS = 3
"""Of a word, to be taken for the beginning of another."""
ELSEWHERE = 0.6
"""Points a load loses that is not found where this rig stands: a word and a half tell more."""
LAST = 0.5
"""Points more where the last word fits: it says what a thing is, those before it which."""
UNSIZED = 3.0
"""How far a load that has no size is from one that was typed: as one of twenty times its size (a
logarithm).
"""
USUAL = {"ac-13k", "ac-window-10k", "condenser-30", "charger-55", "microwave-rv", "fridge-rv"}
"""The sizes most people have, where a name says none (common practice, no source)."""
FIGURE = r"(?P<figure>\d+\s+\d/\d|\d/\d|\d[\d.,]*)"
SIZES = (
    (re.compile(FIGURE + r"\s*k\s*(?:btu|\b)", re.IGNORECASE), "btu", 1000.0),
    (re.compile(FIGURE + r"\s*btu", re.IGNORECASE), "btu", 1.0),
    (re.compile(FIGURE + r"[\s-]*tons?\b", re.IGNORECASE), "btu", 12000.0),
    (re.compile(FIGURE + r"[\s-]*hp\b", re.IGNORECASE), "hp", 1.0),
    (re.compile(FIGURE + r"[\s-]*gal", re.IGNORECASE), "gal", 1.0),
    (re.compile(FIGURE + r"\s*A\b", re.IGNORECASE), "A", 1.0),
    (re.compile(FIGURE + r"\s*W\b", re.IGNORECASE), "W", 1.0),
    (re.compile(r"\b(?P<figure>\d{1,2},?\d{3})\b"), "btu", 1.0),
)
"""How a size stands in a name, what it is of, and how much of that a figure means: a ton of cooling
is 12,000 Btu/h.
"""
MIN_BTU = 1000.0
"""Cooling under so many Btu/h is meant in thousands: "13.5 BTU"."""


def size_of(name: str) -> tuple[str, float] | None:
    """What size a name says, and of what; None where it says none."""
    for pattern, of, times in SIZES:
        if found := pattern.search(name):
            value = times * _number(found["figure"])
            if of == "btu" and 0.0 < value < MIN_BTU:
                value *= 1000.0
            return (of, value) if value > 0.0 else None
    return None


def _number(figure: str) -> float:
    if "/" in figure:
        return fraction_of(figure) or 0.0
    try:
        return float(figure.replace(",", "").rstrip("."))
    except ValueError:
        return 0.0


def likely(name: str, rig: Document) -> str:
    """The key of the typical load that a name is most likely of: the one with most of its words,
    of the rig's volts and place before others, of the nearest size; empty where it has not even
    half of them.
    """
    kind = _kind(rig)
    house = kind == BUILDING
    high = rig.get("service") == "230"
    typed, size = _typed(name, house), size_of(name)

    def points(key: str, title: str) -> float:
        fits = [_fits(word, title) for word in typed]
        away = ELSEWHERE if kind != UNKNOWN and _of_house().get(key, house) != house else 0.0
        return sum(fits) + LAST * fits[-1] - away

    if not typed:
        return ""
    ranked = [
        (
            points(key, title),
            (" 230 v" in title.lower()) == high,
            -_off(size, title),
            key in USUAL,
            -at,
            key,
        )
        for at, (key, title) in enumerate(loads())
    ]
    best = max(ranked)
    enough = len(typed) if _fits(typed[-1], dict(loads())[best[-1]]) else len(typed) + LAST
    return best[-1] if 2 * best[0] >= enough else ""


def _kind(rig: Document) -> str:
    """What a rig is, as the core sees it."""
    loads = (str(x.get("name", "")) for x in rig.get("loads", []))
    return kind_of(rig.get("what"), str(rig.get("name", "")), loads)


def off_the_battery(name: str, rig: Document) -> bool:
    """Whether what is typed runs off the 12 V side of such a rig, most likely."""
    return _kind(rig) != BUILDING and OFF_THE_BATTERY.search(name) is not None


def _typed(name: str, house: bool) -> list[str]:
    """The words of a typed name, as the typical loads have them."""
    said = " ".join(_one(x) for x in re.findall(r"[a-z/-]+", name.lower()))
    for phrase in sorted(PHRASES, key=len, reverse=True):
        said = re.sub(rf"\b{re.escape(phrase)}\b", PHRASES[phrase], said)
    called = ALSO_CALLED | (IN_A_HOUSE if house else {})
    each = [x for x in said.split() if x not in SAYS_LITTLE]
    if len(each) > 1:  # a heater, a cooker of some kind
        called = {k: v for k, v in called.items() if k not in KINDS}
    return [w for x in each for w in _words(called.get(x, x)) if w not in SAYS_LITTLE]


def _one(word: str) -> str:
    """One of what a word names several of."""
    many = len(word) > MIN_LETTERS and word.endswith("s") and not word.endswith("ss")
    return word[:-1] if many else word


def _off(size: tuple[str, float] | None, title: str) -> float:
    """How far a typical load is from the size that was typed, as a logarithm; 0 without one."""
    if size is None:
        return 0.0
    has = size_of(title)
    return abs(math.log(has[1] / size[1])) if has and has[0] == size[0] else UNSIZED


@cache
def _of_house() -> dict[str, bool]:
    return {row["key"]: row["group"] == "house" for row in rows("typical_loads")}


def _words(text: str) -> list[str]:
    return re.findall(r"[a-z]+", text.lower())


def _fits(typed: str, title: str) -> bool:
    """Whether a typed word is one of a title's, or begins one. A heat pump pumps no water."""
    if typed == "pump" and "heat pump" in title:
        return False
    begins = len(typed) >= MIN_LETTERS
    return any(w == typed or (begins and w.startswith(typed)) for w in _words(title))
