"""The working table of a rig: its rows by leg and breaker, and how an edit, a paste or a move
changes the document.

Types, ranges and choices come from the core's field specifications; a cell's name is the path of
its field, but for two that stand for several: ``draw`` (watts or amps, whichever the load is given
by) and ``place`` (its breaker or its leg).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.electrics.services import HIGH_V
from ironmargin.limits.breakers import more_than_rated
from ironmargin.setup.hookup import BREAKER_TRIPS
from ironmargin.setup.loads import PROVENANCES, AirConditioner, Motor, load_kinds, usual_gear
from ironmargin.setup.records import specs
from ironmargin.setup.spec import Choice
from ironmargin.sustaining.totals import Totals
from web.design.typed import as_percent
from web.rigs.typical import load_document, loads

COLUMNS = (
    "name",
    "kind",
    "draw",
    "unit",
    "lra_a",
    "start",
    "voltage_v",
    "count",
    "duty",
    "place",
    "priority",
    "always_on",
    "from",
)
"""Columns of the table, in the order a pasted row fills them."""
TITLES = {
    "name": "Load",
    "kind": "Kind",
    "draw": "Draws",
    "unit": "in",
    "lra_a": "LRA, A",
    "start": "Start gear",
    "voltage_v": "Volts",
    "count": "How many",
    "duty": "On, %",
    "place": "Breaker or leg",
    "priority": "Needed",
    "always_on": "Always",
    "from": "Known from",
}
DRAWS = {"W": ("watts", "running_w"), "A": ("amps", "running_a", "high_cool_a", "low_cool_a")}


@dataclass(frozen=True)
class Row:
    """One load as the table shows it."""

    at: int
    ident: str
    kind: str
    cells: dict[str, str]
    starts: tuple[str, ...]
    amps: float | None
    typical: bool


@dataclass(frozen=True)
class Group:
    """The loads on one breaker or straight on one leg."""

    place: str
    title: str
    leg: str
    amps: float
    breaker_a: float | None
    rows: tuple[Row, ...]

    @property
    def over(self) -> bool:
        """Whether everything on at once is more than the breaker is rated for."""
        return more_than_rated(self.amps, self.breaker_a)


def draw_key(load: Document) -> str:
    """The field that says how much a load draws: the one it is given by, else the usual one of its
    kind.
    """
    motor = load.get("kind") in (AirConditioner.kind, Motor.kind)
    given = ("running_a", "running_w", "high_cool_a", "low_cool_a") if motor else ("watts", "amps")
    return next((k for k in given if load.get(k) is not None), "running_a" if motor else "watts")


def place_of(load: Document, service: str) -> str:
    """Where a load hangs: ``c:`` and its breaker's id, or its leg."""
    if load.get("circuit"):
        return f"c:{load['circuit']}"
    if load.get("leg"):
        return str(load["leg"])
    return "L1L2" if service == "120/240" and load.get("voltage_v", 120) > HIGH_V else "L1"


def places(document: Document) -> list[tuple[str, str]]:
    """Every place there is: (value, words)."""
    found = [
        (f"c:{c['id']}", f"{c.get('name') or c['id']} {c['breaker_a']:g} A")
        for c in document.get("circuits", [])
    ]
    legs = (
        [("L1", "L1"), ("L2", "L2"), ("L1L2", "L1 and L2")]
        if document.get("service") == "120/240"
        else [("L1", "L1")]
    )
    return found + legs


def _shown(value: object) -> str:
    return (
        ""
        if value is None
        else f"{value:g}"
        if isinstance(value, (int, float)) and not isinstance(value, bool)
        else str(value)
    )


def row_of(load: Document, at: int, service: str, amps: float | None) -> Row:
    """A load's cells."""
    key = draw_key(load)
    defaults = specs(load_kinds()[load["kind"]])
    cells = {
        c: _shown(
            load.get(
                c,
                defaults[c][2]
                if c in defaults and isinstance(defaults[c][2], (str, int, float))
                else None,
            )
        )
        for c in COLUMNS
    }
    if load["kind"] == "air-conditioner" and not load.get("start"):
        cells["start"] = usual_gear(load.get("voltage_v") or 120.0)
    cells |= {
        "draw": _shown(load.get(key)),
        "unit": "W" if key in DRAWS["W"] else "A",
        "place": place_of(load, service),
        "always_on": "on" if load.get("always_on") else "",
    }
    share = load.get("duty", defaults["duty"][2] if "duty" in defaults else None)
    if load.get("duty") is None and load.get("on_s"):
        share = round(load["on_s"] / (load["on_s"] + (load.get("off_s") or 0)), 2)
    cells["duty"] = as_percent(share) if isinstance(share, int | float) else _shown(share)
    starts = (
        defaults["start"][1].of
        if "start" in defaults and isinstance(defaults["start"][1], Choice)
        else ()
    )
    return Row(
        at, load["id"], load["kind"], cells, starts, amps, load.get("from", "typical") == "typical"
    )


def groups(document: Document, total: Totals | None) -> list[Group]:
    """The table's rows by leg and breaker; every breaker has its group, used or not."""
    service = document.get("service", "120")
    amps = total.load_amps if total else {}
    held: dict[str, list[Row]] = {p: [] for p, _ in places(document)}
    for at, load in enumerate(document["loads"]):
        held.setdefault(place_of(load, service), []).append(
            row_of(load, at, service, amps.get(load["id"]))
        )
    breakers = {f"c:{c['id']}": c for c in document.get("circuits", [])}
    found = []
    for place, words in places(document):
        circuit = breakers.get(place)
        if not held[place] and circuit is None and place != "L1":
            continue
        sum_a = sum(r.amps or 0.0 for r in held[place])
        found.append(
            Group(
                place,
                words if circuit else f"straight on {words}",
                circuit.get("leg", "L1") if circuit else place,
                sum_a,
                circuit["breaker_a"] if circuit else None,
                tuple(held[place]),
            )
        )
    return sorted(
        found, key=lambda g: (("L1", "L2", "L1L2").index(g.leg), not g.place.startswith("c:"))
    )


def fresh_id(document: Document, wish: str, of: str = "loads") -> str:
    """An id that is not taken."""
    taken = {x["id"] for x in document.get(of, [])}
    stem = "".join(c if c.isalnum() else "-" for c in wish.lower()).strip("-")[:40] or "load"
    return next(i for i in (stem, *(f"{stem}-{n}" for n in range(2, 2000))) if i not in taken)


def typical_named(name: str) -> str | None:
    """The key of the typical load of that name."""
    return next((k for k, title in loads() if title.lower() == name.strip().lower()), None)


def new_load(document: Document, name: str, place: str = "", what: str = "") -> Document:
    """A load by its name, or by what it is.

    Args:
        what: key of the typical load it is like; it keeps its own name. Without, the typical load
        of that name, or a plain 100 W one to be filled in.
    """
    taken = {x["id"] for x in document["loads"]}
    load = load_document(what or typical_named(name) or "", taken)
    if load is not None and what and name.strip():
        load |= {"id": fresh_id(document, name), "name": name.strip()[:120]}
    volts = 230.0 if document.get("service") == "230" else None
    if load is None:
        load = {
            "id": fresh_id(document, name),
            "name": name.strip()[:120] or "New load",
            "kind": "resistive",
            "watts": 100,
            "from": "typical",
        }
        load |= {"voltage_v": volts} if volts else {}
    if place:
        put_in_place(load, place)
    return load


def put_in_place(load: Document, place: str) -> None:
    """Hang a load on a breaker or straight on a leg."""
    load.pop("circuit", None)
    load.pop("leg", None)
    if place.startswith("c:"):
        load["circuit"] = place[2:]
    elif place:
        load["leg"] = place


def lockouts_named(document: Document) -> list[tuple[str, str]]:
    """The names of the loads that never run together, in pairs."""
    names = {x["id"]: x["name"] for x in document["loads"]}
    pairs = [(x["first"], x["second"]) for x in document.get("lockouts", [])]
    return [(names.get(a, a), names.get(b, b)) for a, b in pairs]


def circuit_cells(document: Document) -> Iterator[Document]:
    """Every branch breaker with its number, for the panel's little form."""
    for at, circuit in enumerate(document.get("circuits", [])):
        yield {
            "at": at,
            "id": circuit["id"],
            "name": circuit.get("name", ""),
            "breaker_a": _shown(circuit["breaker_a"]),
            "leg": circuit.get("leg", "L1"),
            "trips": circuit.get("breaker_trips", BREAKER_TRIPS[0]),
            "standard": circuit.get("breaker_standard", ""),
        }


KINDS = tuple(load_kinds())
PRIORITIES = ("must", "want", "wait")
FROM = PROVENANCES
