"""A small question for every kind of supply, for the walks of kinds through commands and pages."""

from __future__ import annotations

from typing import Any

OUTLET: dict[str, Any] = {"kind": "shore", "breaker_a": 30, "source_ohm": 0.2}
SET: dict[str, Any] = {"kind": "generator", "continuous_w": 2800, "starting_w": 3500, "tank_l": 60}
BATTERY: dict[str, Any] = {"kind": "battery-inverter", "continuous_w": 3000, "surge_w": 6000}
BATTERY |= {"battery_wh": 150000}
ASSIST: dict[str, Any] = {"kind": "assist", "input_limit_a": 8, "inverter": BATTERY}
SUPPLIES: dict[str, dict[str, Any]] = {
    "shore": OUTLET,
    "generator": SET,
    "parallel": {"kind": "parallel", "units": [SET, SET]},
    "battery-inverter": BATTERY,
    "a vehicle's outlets": BATTERY | {"type": "vehicle", "neutral": "bonded"},
    "assist": ASSIST | {"input": OUTLET},
    "assist on a generator": ASSIST | {"input": SET},
}
"""One of every kind; a new kind joins here, or the walks say that it is missing."""


def question(name: str) -> dict[str, Any]:
    """A roof unit, a kettle and a charger on the supply of that name."""
    unit = {"id": "roof", "name": "Roof unit", "kind": "air-conditioner", "running_a": 11.0}
    unit |= {"lra_a": 55.0, "start": "soft-start"}
    kettle = {"id": "kettle", "name": "Kettle", "kind": "resistive", "watts": 900}
    charger = {"id": "charger", "name": "Charger", "kind": "charger", "watts": 300}
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": f"on {name}",
        "conditions": {"outdoor_c": 32, "target_hours": 3},
        "supply": SUPPLIES[name],
        "hookup": [{"kind": "cord", "awg": 10, "length_m": 8}],
        "rig": {"name": "Rig", "main_a": 30, "loads": [unit, kettle, charger]},
        "wanted": [{"load": "roof"}, {"load": "charger"}],
        "rules": {"trials": 0},
    }


def locked_out(name: str) -> dict[str, Any]:
    """The same with a second unit that never runs with the first, and a kettle and a charger that
    are both always on and never together.
    """
    doc = question(name)
    rig = doc["rig"]
    roof, kettle, charger = rig["loads"]
    always = {"always_on": True}
    second = roof | {"id": "two", "name": "Second unit"}
    rig["loads"] = [roof, kettle | always, charger | always, second]
    rig["lockouts"] = [{"first": "roof", "second": "two"}, {"first": "kettle", "second": "charger"}]
    doc["wanted"] = [{"load": "roof"}, {"load": "two"}]
    return doc
