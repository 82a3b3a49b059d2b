"""What is typed or pasted into a rig's table, as loads."""

from __future__ import annotations

import copy

from ironmargin.document import Document
from ironmargin.errors import Fault
from ironmargin.setup.loads import load_kinds
from ironmargin.setup.model import Circuit, Rig
from ironmargin.setup.records import specs
from ironmargin.setup.spec import Choice, Flag, Number, Spec, Text
from web.rigs.cells import parse
from web.rigs.table import COLUMNS, DRAWS, TITLES, draw_key, new_load, places, put_in_place

PASTED_UNITS = {"w": "W", "watt": "W", "watts": "W", "a": "A", "amp": "A", "amps": "A"}
SPECS_OF_TEXT = (Text, Number, Flag, Choice)
YES = {"on", "yes", "y", "true", "1", "x", "always"}


def _choices(spec: Spec) -> tuple[str, ...]:
    """What a field of choices may be."""
    return spec.of if isinstance(spec, Choice) else ()


def changed_kind(load: Document, kind: str) -> Document:
    """The load as another kind: what both kinds know is kept, the draw goes over."""
    known = specs(load_kinds()[kind])
    new = {k: v for k, v in load.items() if k in known} | {"kind": kind}
    value, unit = load.get(draw_key(load)), "W" if draw_key(load) in DRAWS["W"] else "A"
    if draw_key(new) not in new and value is not None:
        key = next((k for k in DRAWS[unit] if k in known), None)
        if key is None:  # a microwave knows watts only
            key, value = "watts", round(value * load.get("voltage_v", 120))
        new[key] = value
    if "start" in new and new["start"] not in _choices(known["start"][1]):
        new.pop("start")
    return new


def edit_load(load: Document, column: str, typed: str) -> tuple[Document, Fault | None]:
    """One cell of a load after typing; a fault where it cannot be read."""
    new = copy.deepcopy(load)
    known = specs(load_kinds()[load["kind"]])
    if column == "kind":
        if typed not in load_kinds():
            return load, Fault(
                "kind", "choice", f'must be one of {", ".join(load_kinds())} (got "{typed[:40]}")'
            )
        return changed_kind(load, typed), None
    if column == "place":
        put_in_place(new, typed)
        return new, None
    if column == "unit":
        unit = PASTED_UNITS.get(typed.strip().lower())
        key = next((k for k in DRAWS.get(unit or "", ()) if k in known), None)
        if key is None:
            return load, Fault(
                "unit", "choice", f'must be W or A as its kind allows (got "{typed[:40]}")'
            )
        value = new.pop(draw_key(load), None)
        if value is not None:
            new[key] = value
        return new, None
    key = draw_key(load) if column == "draw" else column
    if key not in known:
        return (
            (load, None)
            if not typed.strip()
            else (
                load,
                Fault(
                    column,
                    "not-here",
                    f"a load of kind {load['kind']} has no {TITLES.get(column, column)}",
                ),
            )
        )
    if column == "always_on":
        typed = "on" if typed.strip().lower() in YES else ""
    if column == "voltage_v":
        new.pop(
            "leg",
            None,
            # a 240 V load hangs on both legs, a 120 V one on one: its place follows from its volts
            # again
        )
    if column == "duty":
        new.pop("on_s", None)
        new.pop("off_s", None)
    value, fault = parse(known[key][1], typed, key, optional=known[key][2] is None)
    if fault is not None:
        return load, fault
    if value is None or (known[key][2] == value and key != "from"):
        new.pop(key, None)
    else:
        new[key] = value
    return new, None


def pasted(
    document: Document, at: int, column: str, text: str, maximum: int = 500
) -> tuple[Document, list[str]]:
    """The document after a block of a spreadsheet is pasted at a cell: rows beyond the last are new
    loads.

    Returns:
        The new document, and a line for each cell that could not be taken: its row, its column, and
        why.
    """
    new = copy.deepcopy(document)
    first = COLUMNS.index(column) if column in COLUMNS else 0
    problems = []
    lines = [
        line.split("\t")
        for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
        if line.strip()
    ]
    for number, cells in enumerate(lines[:maximum]):
        row = at + number
        if row >= len(new["loads"]):
            new["loads"].append(new_load(new, cells[0] if first == 0 else "New load"))
            row = len(new["loads"]) - 1
        order = sorted(
            zip(COLUMNS[first:], cells, strict=False), key=lambda pair: pair[0] != "kind"
        )  # the kind decides which fields there are
        for name, cell in order:
            value, fault = edit_load(
                new["loads"][row],
                name,
                _as_place(new, cell.strip()) if name == "place" else cell.strip(),
            )
            new["loads"][row] = value
            if fault is not None:
                problems.append(f"row {number + 1}, {TITLES[name]}: {fault.message}")
    if len(lines) > maximum:
        problems.append(f"only the first {maximum} rows were taken (got {len(lines)})")
    return new, problems


def _as_place(document: Document, typed: str) -> str:
    """A pasted place by its words, its value, or a leg's name; an unknown one leaves the load where
    it would be anyway.
    """
    for value, words in places(document) if typed else ():
        if typed.lower() in (
            value.lower(),
            words.lower(),
            value[2:].lower() if value.startswith("c:") else "",
        ):
            return value
    return ""


def edit_panel(document: Document, path: str, typed: str) -> tuple[Document, Fault | None]:
    """The document after an edit of the panel: name, service, main, or a branch breaker's field."""
    new = copy.deepcopy(document)
    known: Document
    if path.startswith("circuits."):
        _, number, key = path.split(".")
        known = specs(Circuit)
        if (
            not number.isdigit()
            or int(number) >= len(new.get("circuits", []))
            or key not in ("name", "breaker_a", "leg", "breaker_trips", "breaker_standard")
        ):
            return document, Fault(path, "none", "is no breaker of this panel")
        target = new["circuits"][int(number)]
    else:
        key, known, target = path, specs(Rig), new
        if key not in ("name", "service", "main_a"):
            return document, Fault(path, "none", "is no field of the panel")
    optional = key == "breaker_standard"
    value, fault = parse(known[key][1], typed, path, optional=optional)
    if fault is None and value is None:
        target.pop(key, None)
    elif fault is None:
        target[key] = value
    return (document if fault else new), fault
