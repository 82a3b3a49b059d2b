"""Typical supplies offered while one is made."""

from __future__ import annotations

import copy
from functools import cache

from ironmargin.document import Document
from ironmargin.setup.supply import supply_kinds
from ironmargin.tables import rows

STATION = {
    "kind": "battery-inverter",
    "type": "power-station",
    "continuous_w": 1800,
    "surge_w": 2700,
    "battery_wh": 2000,
}
INVERTER = {"kind": "battery-inverter", "continuous_w": 2000, "surge_w": 4000, "battery_wh": 5100}
EURO = {"voltage_v": 230}
EURO_INVERTER = INVERTER | EURO | {"output": "230", "continuous_w": 2400, "surge_w": 4000}
VEHICLE = {
    "kind": "battery-inverter",
    "type": "vehicle",
    "surge_w": 2400,
    "battery_wh": 60000,
    "neutral": "bonded",
}
"""A vehicle's own inverter on its traction battery: no surge, it shuts off (common practice)."""
SET_2200 = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}
OTHERS: dict[str, tuple[str, Document]] = {
    "post-15": ("household outlet, 15 A", {"kind": "shore", "breaker_a": 15}),
    "post-20": ("household outlet or post, 20 A", {"kind": "shore", "breaker_a": 20}),
    "post-30": ("shore post, 30 A", {"kind": "shore", "breaker_a": 30}),
    "post-50": ("shore post, 50 A, two legs", {"kind": "shore", "breaker_a": 50, "legs": "split"}),
    "post-230-6": ("field post, 6 A, 230 V", {"kind": "shore", "breaker_a": 6} | EURO),
    "post-230-10": ("shore post, 10 A, 230 V", {"kind": "shore", "breaker_a": 10} | EURO),
    "post-230-16": ("shore post, 16 A, 230 V", {"kind": "shore", "breaker_a": 16} | EURO),
    "pair-2200": (
        "two 2.2 kW generators in parallel",
        {"kind": "parallel", "kit_limit_a": 30, "units": [SET_2200, SET_2200]},
    ),
    "station-1800": ("power station, 1.8 kW, 2 kWh", STATION),
    "station-230-1800": ("power station, 1.8 kW, 2 kWh, 230 V", STATION | EURO | {"output": "230"}),
    "vehicle-2400": ("vehicle outlets, 2.4 kW, one leg", VEHICLE | {"continuous_w": 2400}),
    "vehicle-7200": (
        "vehicle outlets, 7.2 kW, two legs",
        VEHICLE | {"continuous_w": 7200, "surge_w": 7200, "output": "120/240", "voltage_v": 240},
    ),
    "inverter-2000": ("battery inverter, 2 kW, 5 kWh lithium", INVERTER),
    "inverter-230-2400": ("battery inverter, 2.4 kW, 230 V", EURO_INVERTER),
    "assist-15": (
        "15 A outlet with a 2 kW inverter/charger that assists",
        {
            "kind": "assist",
            "input": {"kind": "shore", "breaker_a": 15},
            "input_limit_a": 12,
            "inverter": INVERTER,
        },
    ),
    "assist-sun-7000": (
        "7 kW generator beside a solar inverter, 6 kW, 10 kWh",
        {
            "kind": "assist",
            "input": {
                "kind": "generator",
                "continuous_w": 5500,
                "starting_w": 7000,
                "voltage_v": 240,
                "output": "120/240",
            },
            "input_limit_a": 18,
            "inverter": {
                "kind": "battery-inverter",
                "continuous_w": 6000,
                "surge_w": 9000,
                "surge_s": 10,
                "voltage_v": 240,
                "output": "120/240",
                "battery_wh": 10000,
                "input_w": 900,
                "sun_first": True,
            },
        },
    ),
    "assist-230-6": (
        "6 A field post with a 2.4 kW inverter/charger, 230 V",
        {
            "kind": "assist",
            "input": {"kind": "shore", "breaker_a": 6} | EURO,
            "input_limit_a": 5,
            "inverter": EURO_INVERTER,
        },
    ),
}
"""Supplies that are no generator of the table: each kind of supply there is (common practice)."""


@cache
def supplies() -> tuple[tuple[str, str], ...]:
    """(key, name) of the typical supplies."""
    of_kinds = tuple(
        (k, c.title.lower()) for k, c in supply_kinds().items() if c.typical is not None
    )
    return (
        *((r["key"], r["name"]) for r in rows("typical_supplies")),
        *((k, name) for k, (name, _) in OTHERS.items()),
        *of_kinds,
    )


def supply_document(key: str) -> Document | None:
    """A typical supply as the format has it."""
    if key in OTHERS:
        return copy.deepcopy(OTHERS[key][1])
    if key in supply_kinds() and supply_kinds()[key].typical is not None:
        return copy.deepcopy(supply_kinds()[key].typical)
    for r in rows("typical_supplies"):
        if r["key"] == key:
            out = {
                "kind": "generator",
                "continuous_w": float(r["continuous_w"]),
                "starting_w": float(r["starting_w"]),
                "voltage_v": float(r["voltage_v"]),
                "output": r["output"],
                "tank_l": float(r["tank_l"]),
                "mass_kg": float(r["mass_kg"]),
            }
            return out | ({"inverter": False} if r["key"].startswith("con-") else {})
    return None


def fitting_supply(service: str) -> Document:
    """A supply to begin from that fits a rig's service."""
    if service == "230":
        return {"kind": "shore", "breaker_a": 16, "voltage_v": 230}
    return (
        {"kind": "shore", "breaker_a": 50, "legs": "split"}
        if service == "120/240"
        else {"kind": "shore", "breaker_a": 30}
    )
