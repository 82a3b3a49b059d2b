"""What a reading remembers of its setup: the gear, the supply and the weather as they were, so that
a later change neither makes an old reading unlikely nor turns it into advice.
"""

from __future__ import annotations

from collections.abc import Mapping

from ironmargin.document import Document
from ironmargin.learning.entries import Entry
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import write_setup

WEATHER = ("outdoor_c", "altitude_m", "humidity_pct")
GEAR = ("start", "soft_start")
FITTED = ("peak_a", "fraction")
"""Figures of a soft starter that readings correct: they are no other starter."""
RATINGS = {
    "generator": ("fuel", "inverter", "output", "eco"),
    "parallel": (),
    "shore": ("breaker_a", "legs"),
    "battery-inverter": ("output",),
    "assist": (),
}
"""What says that a supply is another one; its figures are corrected by readings."""
SAME_WATTS = 0.15
"""A rating that differs by less is the same set with a corrected figure [1]."""


def snapshot_of(setup: Setup, load: str | None) -> Document:
    """What is kept with a reading: the supply, the weather, and the start gear of its load.

    Args:
        setup: supply, path, rig and rules of the question.
        load: id of its load, where it has one.

    Returns:
        The JSON object.
    """
    document = write_setup(setup)
    supply = {k: v for k, v in document["supply"].items() if k != "x"}
    found: Document = {"supply": supply, "conditions": document.get("conditions", {})}
    own = next((x for x in document["rig"]["loads"] if x["id"] == load), None)
    if own is not None:
        found["gear"] = {k: own[k] for k in GEAR if k in own}
    return found


def _watts(supply: Mapping[str, object]) -> float:
    """A supply's starting or surge watts in all, 0 where it has none."""
    units = supply.get("units")
    parts = units if isinstance(units, list) else [supply]
    total = 0.0
    for part in parts:
        for key in ("starting_w", "surge_w"):
            value = part.get(key) if isinstance(part, dict) else None
            total += float(value) if isinstance(value, int | float) else 0.0
    return total


def _other_supply(was: Mapping[str, object], now: Mapping[str, object]) -> bool:
    kind = now.get("kind")
    if was.get("kind") != kind:
        return True
    if any(was.get(key) != now.get(key) for key in RATINGS.get(str(kind), ())):
        return True
    before, after = _watts(was), _watts(now)
    return abs(before - after) > SAME_WATTS * max(before, after)


def _bare(gear: Mapping[str, object]) -> Document:
    """Start gear without the figures that readings correct."""
    soft = gear.get("soft_start")
    kept = {k: v for k, v in soft.items() if k not in FITTED} if isinstance(soft, dict) else {}
    return {"start": gear.get("start")} | kept


def differs(setup: Setup, entry: Entry) -> Document:
    """What differed when an entry was read, as its ``changed`` says it; what it says itself stands.
    An entry without a memory, or with one that cannot be read, differs by what it says.

    Args:
        setup: supply, path, rig and rules of the question.
        entry: an entry of the log.

    Returns:
        Fields that differed, with their values then.
    """
    said = getattr(entry, "changed", {})
    was = entry.was
    if not was:
        return dict(said)
    now = snapshot_of(setup, getattr(entry, "load", None))
    found: Document = {}
    supply = was.get("supply")
    if isinstance(supply, dict) and _other_supply(supply, now["supply"]):
        found["supply"] = supply
    gear = was.get("gear")
    if isinstance(gear, dict) and "gear" in now and _bare(gear) != _bare(now["gear"]):
        found |= {key: gear.get(key) for key in GEAR}
    weather = was.get("conditions")
    if isinstance(weather, dict):
        here = now["conditions"]
        found |= {k: weather[k] for k in WEATHER if k in weather and weather[k] != here.get(k)}
    return found | said
