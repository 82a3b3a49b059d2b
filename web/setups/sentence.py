"""The setup as one sentence whose parts can be changed in place: each part names the inputs it leads to."""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.setup.spec import write_record
from ironmargin.verdict.check import Checked
from web.setups.fields import EDGE
from web.supplies.words import short_name

MOST_NAMES = 4


@dataclass(frozen=True)
class Parts:
    """Words for rig, supply, conditions, path and loads."""

    rig: str
    supply: str
    conditions: str
    path: str
    wanted: str
    typical: int


def sentence_of(checked: Checked, units: str) -> Parts:
    """The sentence of a checked setup."""
    setup, case = checked.case.setup, checked.case
    heat, height = setup.conditions.outdoor_c, setup.conditions.altitude_m
    if units == "us":
        conditions = f"{EDGE['m'][1](height):,.0f} ft, {EDGE['°C'][1](heat):.0f} °F"
    else:
        conditions = f"{height:,.0f} m, {heat:.0f} °C"
    names = [d.load.name for d in case.demands] + [load.name for load, _ in case.unserved]
    shown = ", ".join(names[:MOST_NAMES]) + (f" and {len(names) - MOST_NAMES} more" if len(names) > MOST_NAMES else "")
    path = ", ".join(p.name for p in case.feed.parts[:3]) or "nothing between"
    typical = sum(a.provenance == "typical" for a in checked.result.assumed)
    return Parts(setup.rig.name, short_name(write_record(setup.supply)), conditions, path, shown or "nothing", typical)
