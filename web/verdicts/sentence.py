"""The setup as one sentence whose parts can be changed in place: each part names the inputs it
leads to.
"""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.setup.records import write_record
from ironmargin.verdict.check import Checked
from web.design.fields import EDGE
from web.supplies.words import short_name

MAX_NAMES = 4


@dataclass(frozen=True)
class Parts:
    """Words for rig, supply, path and loads, and how many figures are only typical."""

    rig: str
    supply: str
    path: str
    wanted: str
    typical: int


def conditions_words(document: Document, units: str) -> str:
    """Where and when, in the user's units."""
    given = document.get("conditions", {})
    heat, height = float(given.get("outdoor_c", 35.0)), float(given.get("altitude_m", 0.0))
    if units == "us":
        return f"{EDGE['m'][1](height):,.0f} ft, {EDGE['°C'][1](heat):.0f} °F"
    return f"{height:,.0f} m, {heat:.0f} °C"


def parts_of(checked: Checked) -> Parts:
    """The parts of the sentence of a checked setup."""
    setup, case = checked.case.setup, checked.case
    names = [d.load.name for d in case.demands] + [load.name for load, _ in case.unserved]
    shown = ", ".join(names[:MAX_NAMES]) + (
        f" and {len(names) - MAX_NAMES} more" if len(names) > MAX_NAMES else ""
    )
    path = ", ".join(p.name for p in case.feed.parts[:3]) or "nothing between"
    typical = sum(a.provenance == "typical" for a in checked.result.assumed)
    return Parts(
        setup.rig.name, short_name(write_record(setup.supply)), path, shown or "nothing", typical
    )
