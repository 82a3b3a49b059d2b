"""Typical parts of a path, what a form may ask to be put in, and the setup a new one begins
from.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping
from functools import cache

from ironmargin.document import Document
from ironmargin.tables import rows
from web.rigs.typical import load_document
from web.supplies.typical import supply_document

ASKS = ("use_supply", "add_load", "remove_load", "path_op", "kept_rig", "kept_supply")
"""Form fields that ask for something to be put in, taken out or moved."""
MAX_PARTS = 30


@cache
def parts() -> tuple[tuple[str, str], ...]:
    """(key, name) of the typical parts of a path."""
    return tuple((r["key"], r["name"]) for r in rows("typical_parts"))


def part_document(key: str) -> Document | None:
    """A typical part of a path as the format has it."""
    r = next((r for r in rows("typical_parts") if r["key"] == key), None)
    if r is None:
        return None
    out: Document = {"kind": r["kind"], "name": r["name"].split(" (")[0]}
    for name in ("rating_a", "length_m", "mm2"):
        if r[name]:
            out[name] = float(r[name])
    if r["awg"]:
        out["awg"] = int(r["awg"])
    if r["kind"] in ("outlet", "transfer"):
        out["type"] = r["type"]
    if r["kind"] == "adapter":
        out |= {"from": r["type"], "to": r["to"]}
    if r["kind"] == "splitter":
        out |= {"from": [r["type"], r["type"]], "to": r["to"]}
    if r["kind"] == "guard":
        out |= {"overload_a": float(r["rating_a"])}
    if r["kind"] == "load-manager":
        out |= {"limit_a": 0.8 * float(r["rating_a"])}
    if r["kind"] == "transformer":
        out |= {"type": r["type"], "va": 2000, "no_load_w": 60, "no_load_va": 240}
    return out


def path_changed(hookup: list[Document], requested: str) -> list[Document]:
    """A path after ``insert:AT:KEY``, ``replace:AT:KEY``, ``remove:AT`` or ``move:FROM:TO``;
    anything else leaves it.
    """
    words = requested.split(":")
    numbers = [int(w) for w in words[1:3] if w.isascii() and w.isdigit() and len(w) < 4]
    new = list(hookup)
    if words[0] == "move" and len(numbers) == 2 and numbers[0] < len(new):
        part = new.pop(numbers[0])
        new.insert(min(numbers[1], len(new)), part)
    elif words[0] == "remove" and numbers and numbers[0] < len(new):
        new.pop(numbers[0])
    elif words[0] in ("insert", "replace") and len(words) == 3 and numbers:
        made = part_document(words[2])
        if made is not None and words[0] == "insert" and len(new) < MAX_PARTS:
            new.insert(min(numbers[0], len(new)), made)
        elif made is not None and words[0] == "replace" and numbers[0] < len(new):
            new[numbers[0]] = made
    return new


def on_rig(document: Document, rig: Document) -> Document:
    """The same question for another rig: wishes for loads it has not are left out, what it must run
    is wished for instead.
    """
    known = {x["id"]: x for x in rig["loads"]}
    stored = document.get("wanted")
    wanted = (
        [w for w in stored if isinstance(w, dict) and w.get("load") in known]
        if isinstance(stored, list)
        else []
    )
    if not wanted:
        wanted = [
            {"load": x["id"]}
            for x in rig["loads"]
            if x.get("priority", "must") == "must" and not x.get("always_on")
        ]
    return document | {"rig": rig, "wanted": wanted}


def put_in(document: Document, posted: Mapping[str, str]) -> Document:
    """The document with what was asked for put in, taken out or moved (:data:`ASKS`)."""
    new = copy.deepcopy(document)
    supply = supply_document(posted.get("use_supply", ""))
    if supply is not None:
        new["supply"] = supply
    if posted.get("path_op"):
        hookup = new.get("hookup", [])
        new["hookup"] = path_changed(hookup if isinstance(hookup, list) else [], posted["path_op"])
    rig = new.get("rig")
    if not isinstance(rig, dict) or not isinstance(rig.get("loads"), list):
        return new
    wanted = new.setdefault("wanted", [])
    if not isinstance(wanted, list):
        return new
    load = load_document(
        posted.get("add_load", ""), {str(x.get("id")) for x in rig["loads"] if isinstance(x, dict)}
    )
    if load is not None:
        rig["loads"].append(load)
        wanted.append({"load": load["id"]})
    gone = posted.get("remove_load")
    if gone:
        rig["loads"] = [
            x for x in rig["loads"] if not (isinstance(x, dict) and x.get("id") == gone)
        ]
        new["wanted"] = [w for w in wanted if not (isinstance(w, dict) and w.get("load") == gone)]
    return new


def other_gear(document: Document, picture: str | None) -> Document | None:
    """The same question with a soft starter on the motor whose start is drawn, or without it where
    it has one.
    """
    new = copy.deepcopy(document)
    rig = new.get("rig")
    loads = rig.get("loads") if isinstance(rig, dict) else None
    motors = (
        [x for x in loads if isinstance(x, dict) and x.get("kind") in ("motor", "air-conditioner")]
        if isinstance(loads, list)
        else []
    )
    load = next((x for x in motors if x.get("id") == picture), motors[-1] if motors else None)
    if load is None:
        return None
    if load.get("start") == "soft-start":
        load["start"] = "start-capacitor"
        load.pop("soft_start", None)
    else:
        load["start"] = "soft-start"
    return new


def first_setup() -> Document:
    """What a new setup begins from where there is no rig yet: one typical set, one typical rooftop
    unit, a base load.
    """
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "New setup",
        "supply": supply_document("inv-2200"),
        "rig": {
            "name": "My rig",
            "service": "120",
            "main_a": 30,
            "loads": [
                {
                    "id": "roof",
                    "name": "Rooftop unit",
                    "kind": "air-conditioner",
                    "running_a": 12.5,
                    "start": "start-capacitor",
                    "from": "typical",
                },
                {
                    "id": "base",
                    "name": "Charger, fridge, lights",
                    "kind": "electronic",
                    "watts": 250,
                    "always_on": True,
                    "from": "typical",
                },
            ],
        },
        "wanted": [{"load": "roof", "mode": "high-cool"}, {"load": "base"}],
    }
