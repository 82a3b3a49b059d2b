"""The loads of a rig as CSV: documented columns with their units in the header, both ways.

Text that a spreadsheet would take for a formula gets an apostrophe in front, which reading takes
off again.
"""

from __future__ import annotations

import csv
import io
from typing import Any

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.setup.loads import SoftStart, load_kinds
from ironmargin.setup.parts import read_rig
from ironmargin.setup.records import specs
from ironmargin.setup.spec import Choice, Flag, Number, Spec, Text
from ironmargin.spreadsheet import FORMULA, csv_text
from web.rigs.cells import parse

LARGEST_BYTES = 1_000_000
MAX_ROWS = 500
Columns = dict[str, tuple[str, Any]]


def columns() -> Columns:
    """Every column: its key with the unit → (path in a load, specification)."""
    found: Columns = {
        "id": ("id", None),
        "name": ("name", None),
        "kind": ("kind", Choice("", of=tuple(load_kinds()))),
    }
    for cls in load_kinds().values():
        for key, (_, spec, _) in specs(cls).items():
            if isinstance(spec, (Number, Text, Choice, Flag)):
                found[_title(key, spec)] = (key, spec)
    for key, (_, spec, _) in specs(SoftStart).items():
        found[_title(f"soft_start_{key}", spec)] = (f"soft_start.{key}", spec)
    return {
        title: place
        for title, place in found.items()
        if title in ("id", "name", "kind") or place[0] not in ("id", "name", "kind")
    }


def _title(key: str, spec: Spec) -> str:
    unit = getattr(spec, "unit", "")
    return f"{key} [{unit}]" if unit and unit != "1" else key


def spreadsheet_safe(value: object) -> str:
    """A value as a cell that no spreadsheet takes for a formula."""
    text = "yes" if value is True else "" if value is None or value is False else str(value)
    return f"'{text}" if isinstance(value, str) and text.startswith((*FORMULA, "'")) else text


def _look(load: Document, path: str) -> object:
    head, _, tail = path.partition(".")
    value = load.get(head)
    return value.get(tail) if tail and isinstance(value, dict) else None if tail else value


def write(document: Document) -> str:
    """A rig's loads as CSV; columns nobody uses are left out."""
    used = {
        title: path
        for title, (path, _) in columns().items()
        if title in ("id", "name", "kind")
        or any(_look(x, path) is not None for x in document["loads"])
    }
    rows = [[spreadsheet_safe(_look(load, path)) for path in used.values()]
            for load in document["loads"]]  # fmt: skip
    return csv_text([list(used), *rows], "\r\n")


def read(raw: bytes, document: Document) -> tuple[list[Document], list[Fault]]:
    """The loads in a CSV that can be taken, and a fault with line and column for each cell that
    cannot.

    Raises:
        SetupError: it is no CSV of loads at all.
    """
    if len(raw) > LARGEST_BYTES:
        raise SetupError(
            [Fault("file", "large", f"must be at most {LARGEST_BYTES:,} bytes (got more)")]
        )
    try:
        lines = list(csv.reader(io.StringIO(raw.decode("utf-8-sig")), strict=True))
    except UnicodeDecodeError as error:
        raise SetupError(
            [
                Fault(
                    "file",
                    "utf-8",
                    f"not UTF-8 text at byte {error.start}; save the file as UTF-8 CSV",
                )
            ]
        ) from None
    except csv.Error as error:
        raise SetupError([Fault("file", "csv", f"not a CSV file: {error}")]) from None
    known = columns()
    by_key = {title.split(" ")[0]: title for title in known}
    header = [by_key.get(h.strip().split(" ")[0], "") for h in lines[0]] if lines else []
    if "name" not in header or "kind" not in header:
        raise SetupError(
            [
                Fault(
                    "line 1",
                    "header",
                    "must name at least the columns name and kind; export a rig to see them all",
                )
            ]
        )
    unknown = [
        Fault(
            f"line 1, column {n + 1}",
            "unknown-column",
            f'is not known and was passed over (got "{lines[0][n][:40]}")',
        )
        for n, title in enumerate(header)
        if not title
    ]
    found: list[Document] = []
    problems = list(unknown)
    if len(lines) - 1 > MAX_ROWS:
        problems.append(
            Fault(
                "file",
                "rows",
                f"must have at most {MAX_ROWS} rows; the rest was passed over (got "
                f"{len(lines) - 1})",
            )
        )
    taken = {x["id"] for x in document["loads"]}
    shell = {
        "name": "rig",
        "service": document.get("service", "120"),
        "main_a": document["main_a"],
        "circuits": document.get("circuits", []),
    }
    for number, cells in enumerate(lines[1 : MAX_ROWS + 1], 2):
        if not any(c.strip() for c in cells):
            continue
        load, faults = _row(header, cells, known, number)
        if not faults:
            load.setdefault("id", "")
            load["id"] = load["id"] or _fresh(
                load.get("name", "load"), taken | {x["id"] for x in found}
            )
            try:
                read_rig(shell | {"loads": [load]})
            except SetupError as error:
                faults = [
                    Fault(_where(f.path, number, header), f.code, f.message) for f in error.faults
                ]
        if not faults and any(x["id"] == load["id"] for x in found):
            faults = [
                Fault(
                    f"line {number}, column id", "ids", f'must be unique (got "{load["id"]}" again)'
                )
            ]
        problems += faults
        if not faults:
            found.append(load)
    return found, problems


def _row(
    header: list[str], cells: list[str], known: Columns, number: int
) -> tuple[Document, list[Fault]]:
    load: Document = {}
    faults = []
    for title, cell in zip(header, cells, strict=False):
        typed = cell.strip()
        if not title or not typed:
            continue
        if typed.startswith("'") and typed[1:].startswith((*FORMULA, "'")):
            typed = typed[1:]
        path, spec = known[title]
        if spec is None:
            load[path] = typed[:120]
            continue
        value, fault = parse(
            spec,
            "on"
            if isinstance(spec, Flag) and typed.lower() in ("yes", "true", "1", "on")
            else typed,
            title,
            optional=True,
        )
        if fault is not None:
            faults.append(Fault(f"line {number}, column {title}", fault.code, fault.message))
        elif value is not None and value is not False:
            head, _, tail = path.partition(".")
            if tail:
                load.setdefault(head, {})[tail] = value
            else:
                load[head] = value
    return load, faults


def _where(path: str, number: int, header: list[str]) -> str:
    key = path.rsplit(".", 1)[-1]
    title = next((t for t in header if t.split(" ")[0] == key), key)
    return f"line {number}, column {title}"


def _fresh(name: str, taken: set[str]) -> str:
    stem = "".join(c if c.isalnum() else "-" for c in name.lower()).strip("-")[:40] or "load"
    return next(i for i in (stem, *(f"{stem}-{n}" for n in range(2, 2000))) if i not in taken)


def merged(old: list[Document], new: list[Document]) -> list[Document]:
    """Loads with the same id are replaced, the others added."""
    by_id = {x["id"]: x for x in new}
    return [by_id.pop(x["id"], x) for x in old] + list(by_id.values())
