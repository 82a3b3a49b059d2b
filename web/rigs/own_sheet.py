"""The loads of a spreadsheet people made themselves: appliance, watts or amps, how many. What each
row is taken for is a guess by its name, and shown before anything is stored.
"""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.loads.plate_reader import drawing, rated_volts
from ironmargin.setup.parts import read_rig
from web.design.typed import typed_in
from web.rigs.likely import likely
from web.rigs.table import fresh_id, new_load
from web.rigs.typical import loads as typical_loads

MAX_ROWS = 500
MAX_NAME = 120
COLUMNS = {
    "name": {"name", "appliance", "load", "item", "equipment", "device", "description", "what"},
    "watts": {"watts", "watt", "w", "power", "running watts", "run watts", "rated watts"},
    "amps": {"amps", "amp", "a", "current", "running amps", "run amps", "rated amps", "rla", "fla"},
    "lra_a": {"lra", "locked rotor amps", "starting amps", "start amps", "surge amps"},
    "count": {"qty", "quantity", "count", "how many", "pcs"},
    "voltage_v": {"volts", "volt", "voltage", "v"},
}
"""What people call the columns of a load."""
PASSED_OVER = {
    "starting watts", "start watts", "surge watts", "peak watts", "additional starting watts",
}  # fmt: skip
"""Watts of a start say too little: no start is computed from them."""
UNIT = re.compile(r"[\[(]\s*(W|A|V)(?:atts?|mps?|olts?)?\s*[\])]", re.IGNORECASE)
BY_UNIT = {"W": "watts", "A": "amps", "V": "voltage_v"}
STAYS = ("circuit", "leg", "priority", "always_on", "start", "duty")
"""What a row does not say of a load that is in the rig already, and stays."""


@dataclass(frozen=True)
class Taken:
    """A row as it was taken: the load, and what it was taken for in words."""

    load: Document
    like: str


def table_of(raw: bytes) -> list[list[str]] | None:
    """The rows of such a spreadsheet; None where it is none: no column tells a name and a draw."""
    try:
        text = raw.decode("utf-8-sig")
        first = text.partition("\n")[0]
        between = max(",;\t", key=first.count)
        lines = list(csv.reader(io.StringIO(text), delimiter=between, strict=True))
    except (UnicodeDecodeError, csv.Error):
        return None
    keys = set(_keys(lines[0])) if lines else set()
    return lines if "name" in keys and keys & {"watts", "amps"} else None


def _keys(header: list[str]) -> list[str]:
    """What each column is of, in our words; empty where it is not used."""
    found: list[str] = []
    for title in header:
        unit = UNIT.search(title)
        plain = re.sub(r"[^a-z ]", " ", UNIT.sub(" ", title.lower()))
        plain = " ".join(plain.split())
        key = next((k for k, names in COLUMNS.items() if plain in names), "")
        if unit and (key in ("", "name") or not plain) and plain not in PASSED_OVER:
            key = BY_UNIT[unit[1].upper()]
        if plain in PASSED_OVER:
            key = "passed over"
        found.append(key if key not in found or key == "passed over" else "")
    return found


def read(lines: list[list[str]], document: Document) -> tuple[list[Taken], list[Fault]]:
    """The rows as loads, and what is wrong with the others, by line and column.

    Args:
        lines: as :func:`table_of` gives them.
        document: the rig they are for.
    """
    keys = _keys(lines[0])
    taken: list[Taken] = []
    problems: list[Fault] = []
    if "passed over" in keys:
        said = "is passed over: a start is computed from locked-rotor amps (LRA)"
        which = lines[0][keys.index("passed over")][:40]
        problems.append(Fault(f"column {which}", "column", said))
    ids = {x["id"] for x in document["loads"]}
    here: dict[str, Document] = {x["name"].casefold(): x for x in document["loads"] if "name" in x}
    for number, cells in enumerate(lines[1 : MAX_ROWS + 1], 2):
        row = {k: c.strip() for k, c in zip(keys, cells, strict=False) if k and c.strip()}
        if not row.get("name") or not ({"watts", "amps"} & set(row)):
            continue  # a heading, a sum, an empty row
        one, faults = _load(row, document, ids, number)
        problems += faults
        old = None if one is None else here.pop(one.load["name"].casefold(), None)
        if one is not None and old is not None:
            load: Document = dict(one.load)
            load.update({k: old[k] for k in STAYS if k in old}, id=old["id"])
            one = Taken(load, f"{one.like}; it is here already")
        if one is not None:
            ids.add(one.load["id"])
            taken.append(one)
    if len(lines) - 1 > MAX_ROWS:
        problems.append(Fault("file", "rows", f"only the first {MAX_ROWS} rows were read"))
    return taken, problems


def _load(
    row: dict[str, str], document: Document, ids: set[str], number: int
) -> tuple[Taken | None, list[Fault]]:
    """A row as a load, or why not."""
    figures: dict[str, float] = {}
    for key, unit in (
        ("watts", "W"),
        ("amps", "A"),
        ("lra_a", "A"),
        ("voltage_v", "V"),
        ("count", "1"),
    ):
        if key in row:
            value = typed_in(row[key], unit)
            if not isinstance(value, float):
                rule = f'must be a number (got "{row[key][:40]}")'
                return None, [Fault(f"line {number}, {key.partition('_')[0]}", "number", rule)]
            figures[key] = value
    name = row["name"].removeprefix("'")[:MAX_NAME]
    what = likely(name, document)
    load = new_load(document | {"loads": [{"id": x} for x in ids]}, name, "", what or "unknown")
    load |= {"id": fresh_id({"loads": [{"id": x} for x in ids]}, name), "name": name}
    if "voltage_v" in figures:
        load["voltage_v"] = rated_volts(figures["voltage_v"], document.get("service", "120"))
    unit = "watts" if figures.get("watts") else "amps"
    load = drawing(load, figures.get(unit, 0.0), "W" if unit == "watts" else "A")
    if "lra_a" in figures and "running_a" in load:
        load["lra_a"] = figures["lra_a"]
    if (count := figures.get("count", 1.0)) != 1.0:
        load["count"] = int(count) if count.is_integer() else count  # the format refuses a half
    try:
        shell = {k: document[k] for k in ("service", "main_a", "circuits") if k in document}
        read_rig(shell | {"name": "rig", "loads": [load]})
    except SetupError as error:
        return None, [Fault(f"line {number}, {name}", f.code, f.message) for f in error.faults[:1]]
    return Taken(load, dict(typical_loads()).get(what, "a plain load, no motor")), []
