"""The setup as one sentence whose parts can be changed in place: each part names the inputs it leads to."""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.verdict.check import Checked
from web.setups.fields import EDGE

MOST_NAMES = 4
SHORE = {"single": "one hot", "split": "two opposite legs", "same-leg": "two outlets on one leg", "network-208": "208 V network"}


@dataclass(frozen=True)
class Parts:
    """Words for rig, supply, conditions, path and loads."""

    rig: str
    supply: str
    conditions: str
    path: str
    wanted: str
    typical: int


def supply_words(checked: Checked) -> str:
    """The supply in a few words."""
    supply = checked.case.setup.supply
    if supply.kind == "shore":
        return f"a {supply.breaker_a:g} A post, {SHORE[supply.legs]}"
    if supply.kind == "parallel":
        total = sum(u.continuous_w for u in supply.units)
        return f"{len(supply.units)} sets in parallel, {total / 1000:g} kW, {supply.units[0].fuel.replace('_', ' ')}"
    if supply.kind == "generator":
        eco = ", eco on" if supply.eco else ""
        return f"a {supply.continuous_w / 1000:g} kW set, {supply.fuel.replace('_', ' ')}{eco}"
    if supply.kind == "battery-inverter":
        return f"a {supply.continuous_w / 1000:g} kW battery inverter"
    return f"a post held to {supply.input_limit_a:g} A with a {supply.inverter.continuous_w / 1000:g} kW inverter"


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
    return Parts(setup.rig.name, supply_words(checked), conditions, path, shown or "nothing", typical)
