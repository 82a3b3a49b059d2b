"""What the pages of a rig do: validate by the core, change by the one action, tell the setups that
stand on it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from django.contrib.auth.models import User

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.setup.loads import SoftStart, load_kinds
from ironmargin.setup.parts import read_rig
from ironmargin.setup.records import specs, write_record
from ironmargin.sustaining.totals import Totals, totals
from web.design.fields import Field, Fields
from web.design.labels import LABELS
from web.rigs import table, table_edits, twelve
from web.rigs.cells import parse
from web.rigs.models import Rig
from web.storage import actions

MAX_TWELVE_VOLT = twelve.MAX_LINES
STARTERS = {
    "120": {"main_a": 30, "circuits": []},
    "120/240": {"main_a": 50, "circuits": []},
    "230": {"main_a": 16, "circuits": []},
}
DETAILS_LEFT_OUT = {"id", "circuit", "leg", "soft_start"}


class Refused(SetupError):
    """A change that the core does not take; ``faults`` say why."""


def totals_of(document: Document) -> Totals | None:
    """The totals of a rig's document; None where it has a fault."""
    try:
        return totals(read_rig(document))
    except SetupError:
        return None


def canonical(document: Document) -> Document:
    """A rig's document as the core writes it.

    Raises:
        Refused: it has faults.
    """
    try:
        return write_record(read_rig(document))
    except SetupError as error:
        raise Refused(error.faults) from None


def make(owner: User, name: str, service: str) -> Rig:
    """A new rig without loads.

    Raises:
        Refused, TooMany.
    """
    document = canonical(
        {"name": name.strip(), "service": service, "loads": []}
        | STARTERS.get(service, STARTERS["120"])
    )
    rig: Rig = actions.make(Rig, owner, document["name"], document)
    return rig


def put(
    rig: Rig,
    version: int,
    document: Document,
    what: str | None = None,
    twelve_volt: list[str] | None = None,
) -> Rig:
    """Change a rig.

    Raises:
        Refused, Conflict.
    """
    document = canonical(document)
    if document == rig.document and version == rig.version and twelve_volt is None:
        return rig
    columns: Document = {} if twelve_volt is None else {"twelve_volt": twelve_volt}
    fresh: Rig = actions.change(
        rig, version, name=document["name"], document=document, what=what, **columns
    )
    return fresh


def edit_cell(rig: Rig, version: int, ident: str, column: str, typed: str) -> tuple[Rig, bool]:
    """One cell of the table, or a field of the panel where ``ident`` is empty.

    Returns:
        The rig, and whether its table has to be drawn anew.

    Raises:
        Refused, Conflict.
    """
    if not ident:
        document, fault = table_edits.edit_panel(rig.document, column, typed)
        if fault:
            raise Refused([fault])
        return put(rig, version, document), True
    at = next((n for n, x in enumerate(rig.document["loads"]) if x["id"] == ident), None)
    if at is None:
        raise Refused([Fault(column, "gone", "this load is gone; reload the page")])
    load, fault = table_edits.edit_load(rig.document["loads"][at], column, typed)
    if fault:
        raise Refused([fault])
    loads = [*rig.document["loads"][:at], load, *rig.document["loads"][at + 1 :]]
    return put(rig, version, rig.document | {"loads": loads}), column in (
        "kind",
        "place",
        "unit",
        "voltage_v",
        "from",
    )


def edit_detail(rig: Rig, version: int, ident: str, key: str, typed: str) -> Rig:
    """A field of a load that the table has no column for; ``soft_start.`` leads to its soft
    starter's.

    Raises:
        Refused, Conflict.
    """
    at = next((n for n, x in enumerate(rig.document["loads"]) if x["id"] == ident), None)
    if at is None:
        raise Refused([Fault(key, "gone", "this load is gone; reload the page")])
    load = dict(rig.document["loads"][at])
    soft = key.startswith("soft_start.")
    name = key.removeprefix("soft_start.")
    known = specs(SoftStart if soft else load_kinds()[load["kind"]])
    if name not in known or name in DETAILS_LEFT_OUT:
        raise Refused([Fault(key, "not-here", f"a load of kind {load['kind']} has no such field")])
    value, fault = parse(known[name][1], typed, key, optional=known[name][2] is None)
    if fault:
        raise Refused([fault])
    target = dict(load.get("soft_start", {})) if soft else load
    if value is None:
        target.pop(name, None)
    else:
        target[name] = value
    if soft:
        load["soft_start"] = target
    loads = [*rig.document["loads"][:at], load, *rig.document["loads"][at + 1 :]]
    return put(rig, version, rig.document | {"loads": loads})


def details(load: Document) -> list[Field]:
    """Every field of a load that is a number, a choice, a flag or text, as the drawer shows it."""
    fields = Fields(load, "si")

    def shown(cls: type, key: str, path: str) -> Field:
        name, spec, _ = specs(cls)[key]
        label, gloss = LABELS.get(name, (spec.doc, ""))
        return replace(fields.field(cls, key, path), label=label, gloss=gloss or spec.doc)

    kind = load_kinds()[load["kind"]]
    out = [
        shown(kind, key, key)
        for key, (_, spec, _) in specs(kind).items()
        if key not in DETAILS_LEFT_OUT and isinstance(spec, table_edits.SPECS_OF_TEXT)
    ]
    if load.get("start") == "soft-start":
        out += [shown(SoftStart, key, f"soft_start.{key}") for key in specs(SoftStart)]
    return out


def add_load(rig: Rig, version: int, load: Document) -> Rig:
    """Add a load, under an id of its own.

    Raises:
        Refused, Conflict.
    """
    if not load.get("id") or any(x["id"] == load["id"] for x in rig.document["loads"]):
        load = {"id": table.fresh_id(rig.document, load.get("name", "load"))} | {
            k: v for k, v in load.items() if k != "id"
        }
    return put(rig, version, rig.document | {"loads": [*rig.document["loads"], load]})


def remove_load(rig: Rig, version: int, ident: str) -> Rig:
    """Take a load out.

    Raises:
        Refused, Conflict.
    """
    document = rig.document | {"loads": [x for x in rig.document["loads"] if x["id"] != ident]}
    if "lockouts" in document:
        document["lockouts"] = _stored_lockouts(document)
    if document.get("dc", {}).get("charger") == ident:
        document["dc"] = {k: v for k, v in document["dc"].items() if k != "charger"}
    return put(rig, version, document)


def add_circuit(rig: Rig, version: int) -> Rig:
    """Add a branch breaker of 20 A, or 16 A at 230 V."""
    document = rig.document
    circuits = document.get("circuits", [])
    amps = 16 if document.get("service") == "230" else 20
    ident = table.fresh_id(document, f"b{len(circuits) + 1}", "circuits")
    return put(
        rig,
        version,
        document
        | {
            "circuits": [
                *circuits,
                {
                    "id": ident,
                    "name": f"Breaker {len(circuits) + 1}",
                    "breaker_a": amps,
                    "leg": "L1",
                },
            ]
        },
    )


def _stored_lockouts(document: Document) -> list[Document]:
    """The lockouts between loads there are."""
    known = {x["id"] for x in document["loads"]}
    return [x for x in document.get("lockouts", []) if {x["first"], x["second"]} <= known]


def add_lockout(rig: Rig, version: int, first: str, second: str) -> Rig:
    """Two loads that never run together from now on."""
    document = rig.document
    pair = {"first": first, "second": second}
    held = _stored_lockouts(document)
    if any({x["first"], x["second"]} == {first, second} for x in held):
        return rig
    return put(rig, version, document | {"lockouts": [*held, pair]})


def remove_lockout(rig: Rig, version: int, at: int) -> Rig:
    """Two loads may run together again."""
    held = [x for n, x in enumerate(rig.document.get("lockouts", [])) if n != at]
    return put(rig, version, rig.document | {"lockouts": held})


def remove_circuit(rig: Rig, version: int, ident: str) -> Rig:
    """Take a branch breaker out; its loads hang straight on its leg."""
    document = rig.document
    leg = next((c.get("leg", "L1") for c in document.get("circuits", []) if c["id"] == ident), "L1")
    loads = [
        {k: v for k, v in x.items() if k != "circuit"} | {"leg": leg}
        if x.get("circuit") == ident
        else x
        for x in document["loads"]
    ]
    return put(
        rig,
        version,
        document
        | {
            "circuits": [c for c in document.get("circuits", []) if c["id"] != ident],
            "loads": loads,
        },
    )


def set_twelve_volt(rig: Rig, version: int, post: Mapping[str, str]) -> Rig:
    """The 12 V side as typed: what runs off it, its battery, its charger.

    Raises:
        Refused, Conflict.
    """
    names = twelve.lines_of(post["value"]) if "value" in post else rig.twelve_volt
    document = canonical(twelve.typed(rig.document, post))
    fresh: Rig = put(rig, version, document, what="12 V side changed", twelve_volt=names)
    return fresh
