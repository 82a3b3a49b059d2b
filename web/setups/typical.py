"""Typical supplies and loads offered while a setup is made, and the setup a new one begins from."""

from __future__ import annotations

import copy
from collections.abc import Mapping
from functools import cache
from typing import Any

from ironmargin.tables import rows

ASKS = ("use_supply", "add_load", "remove_load")
"""Form fields that ask for something typical to be put in, or for a load to be taken out."""
POSTS = {
    "post-20": ("shore post, 20 A", {"kind": "shore", "breaker_a": 20}),
    "post-30": ("shore post, 30 A", {"kind": "shore", "breaker_a": 30}),
    "post-50": ("shore post, 50 A, two legs", {"kind": "shore", "breaker_a": 50, "legs": "split"}),
    "pair-2200": ("two 2.2 kW sets in parallel", {"kind": "parallel", "kit_limit_a": 30, "units": [
        {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}, {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}]}),
}


@cache
def supplies() -> tuple[tuple[str, str], ...]:
    """(key, name) of the typical supplies."""
    return tuple((r["key"], r["name"]) for r in rows("typical_supplies")) + tuple((k, name) for k, (name, _) in POSTS.items())


@cache
def loads() -> tuple[tuple[str, str], ...]:
    """(key, name) of the typical loads."""
    return tuple((r["key"], r["name"]) for r in rows("typical_loads"))


def supply_document(key: str) -> dict[str, Any] | None:
    """A typical supply as the format has it."""
    if key in POSTS:
        return copy.deepcopy(POSTS[key][1])
    for r in rows("typical_supplies"):
        if r["key"] == key:
            out = {"kind": "generator", "continuous_w": float(r["continuous_w"]), "starting_w": float(r["starting_w"]), "voltage_v": float(r["voltage_v"]),
                   "output": r["output"], "tank_l": float(r["tank_l"]), "mass_kg": float(r["mass_kg"])}
            return out | ({"inverter": False} if r["key"].startswith("con-") else {})
    return None


def load_document(key: str, taken: set[str]) -> dict[str, Any] | None:
    """A typical load as the format has it, under an id that is not taken."""
    for r in rows("typical_loads"):
        if r["key"] != key:
            continue
        ident = next(i for i in (key, *(f"{key}-{n}" for n in range(2, 300))) if i not in taken)
        out: dict[str, Any] = {"id": ident, "name": r["name"][:1].upper() + r["name"][1:], "kind": r["kind"], "from": "typical"}
        if float(r["voltage_v"]) != 120.0:
            out["voltage_v"] = float(r["voltage_v"])
        for name in ("watts", "running_a", "lra_a", "fan_high_a", "duty"):
            if r[name]:
                out[name] = float(r[name])
        return out | ({"start": r["start"]} if r["start"] else {})
    return None


def put_in(document: dict[str, Any], posted: Mapping[str, str]) -> dict[str, Any] | None:
    """The document with the typical supply or load that was asked for; None if nothing was asked."""
    if not any(posted.get(ask) for ask in ASKS):
        return None
    new = copy.deepcopy(document)
    supply = supply_document(posted.get("use_supply", ""))
    if supply is not None:
        new["supply"] = supply
    rig = new.get("rig")
    if not isinstance(rig, dict) or not isinstance(rig.get("loads"), list):
        return new
    wanted = new.setdefault("wanted", [])
    if not isinstance(wanted, list):
        return new
    load = load_document(posted.get("add_load", ""), {str(x.get("id")) for x in rig["loads"] if isinstance(x, dict)})
    if load is not None:
        rig["loads"].append(load)
        wanted.append({"load": load["id"]})
    gone = posted.get("remove_load")
    if gone:
        rig["loads"] = [x for x in rig["loads"] if not (isinstance(x, dict) and x.get("id") == gone)]
        new["wanted"] = [w for w in wanted if not (isinstance(w, dict) and w.get("load") == gone)]
    return new


def first_setup() -> dict[str, Any]:
    """What a new setup begins from: one typical set, one typical rooftop unit, a base load."""
    return {
        "format": "iron-margin/setup", "version": 1, "name": "New setup", "supply": supply_document("inv-2200"),
        "rig": {"name": "My rig", "service": "120", "main_a": 30, "loads": [
            {"id": "roof", "name": "Rooftop unit", "kind": "air-conditioner", "running_a": 12.5, "start": "start-capacitor", "from": "typical"},
            {"id": "base", "name": "Charger, fridge, lights", "kind": "electronic", "watts": 250, "always_on": True, "from": "typical"}]},
        "wanted": [{"load": "roof", "mode": "high-cool"}, {"load": "base"}],
    }
