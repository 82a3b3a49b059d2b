"""Typical supplies offered while one is made."""

from __future__ import annotations

import copy
from functools import cache
from typing import Any

from ironmargin.tables import rows

POSTS = {
    "post-20": ("shore post, 20 A", {"kind": "shore", "breaker_a": 20}),
    "post-30": ("shore post, 30 A", {"kind": "shore", "breaker_a": 30}),
    "post-50": ("shore post, 50 A, two legs", {"kind": "shore", "breaker_a": 50, "legs": "split"}),
    "pair-2200": (
        "two 2.2 kW sets in parallel",
        {
            "kind": "parallel",
            "kit_limit_a": 30,
            "units": [
                {"kind": "generator", "continuous_w": 1800, "starting_w": 2200},
                {"kind": "generator", "continuous_w": 1800, "starting_w": 2200},
            ],
        },
    ),
}


@cache
def supplies() -> tuple[tuple[str, str], ...]:
    """(key, name) of the typical supplies."""
    return tuple((r["key"], r["name"]) for r in rows("typical_supplies")) + tuple(
        (k, name) for k, (name, _) in POSTS.items()
    )


def supply_document(key: str) -> dict[str, Any] | None:
    """A typical supply as the format has it."""
    if key in POSTS:
        return copy.deepcopy(POSTS[key][1])
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


def fitting_supply(service: str) -> dict[str, Any]:
    """A supply to begin from that fits a rig's service."""
    if service == "230":
        return {"kind": "shore", "breaker_a": 16, "voltage_v": 230}
    return (
        {"kind": "shore", "breaker_a": 50, "legs": "split"}
        if service == "120/240"
        else {"kind": "shore", "breaker_a": 30}
    )
