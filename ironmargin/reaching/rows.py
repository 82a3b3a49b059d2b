"""The rows of a sweep: kept on disk as they come, written whole at the end; in memory there is only
where each stands, so that a million setups take no more than their names.
"""

from __future__ import annotations

import csv
import json
import os
from collections.abc import Iterable, Iterator
from itertools import islice

from ironmargin.document import Document
from ironmargin.spreadsheet import safe_cell

COLUMNS = ("file", "name")
RESULT = ("verdict", "iron_margin", "check", "where", "seconds", "fault")
TEXTS = frozenset(("file", "name", "verdict", "check", "where", "fault"))
KINDS = (".parquet", ".csv", ".jsonl")
CHUNK = 2000
"""Rows written to a Parquet file at a time."""

Row = Document


class Journal:
    """The rows found so far, one JSON line each; a torn last line is one that was never written.

    Args:
        path: where it stands; resume: take up the one that is there.
    """

    def __init__(self, path: str, resume: bool) -> None:
        self.path = path
        self.at: dict[str, int] = {}
        mended = path + ".new"
        self.file = open(mended, "wb")  # noqa: SIM115
        if resume and os.path.exists(path):
            with open(path, "rb") as old:
                for line in old:
                    try:
                        row = json.loads(line)
                    except ValueError:
                        continue
                    if row["file"] not in self.at:
                        self._add(row)
        self._settle()
        os.replace(mended, path)

    def _add(self, row: Row) -> None:
        self.at[row["file"]] = self.file.tell()
        self.file.write(json.dumps(row, ensure_ascii=False).encode() + b"\n")

    def _settle(self) -> None:
        self.file.flush()
        os.fsync(self.file.fileno())

    def keep(self, rows: Iterable[Row]) -> None:
        """Add rows; they are there when this returns.

        Args:
            rows: of setups that were judged.
        """
        for row in rows:
            self._add(row)
        self._settle()

    def rows(self, files: Iterable[str]) -> Iterator[Row]:
        """The rows of these files, in their order, read one by one.

        Args:
            files: names of setups that are in it.

        Yields:
            A row for each.
        """
        with open(self.path, "rb") as kept:
            for file in files:
                kept.seek(self.at[file])
                yield json.loads(kept.readline())

    def close(self) -> None:
        """End the journal; it is not needed any more once the output is whole."""
        self.file.close()


def write(rows: Iterator[Row], fields: list[str], out: str) -> None:
    """Write the rows whole, or not at all: beside the file first, then in its place.

    Args:
        rows: of setups that were judged.
        fields: of the figures put in.
        out: path of the file; its ending says the format.
    """
    columns = [*COLUMNS, *fields, *RESULT]
    part = out + ".part"
    if out.endswith(".parquet"):
        _parquet(rows, columns, part)
    else:
        with open(part, "w", encoding="utf-8", newline="") as file:
            if out.endswith(".csv"):
                writer = csv.writer(file, lineterminator="\n")
                writer.writerow(columns)
                for row in rows:
                    cells = [row.get(c) for c in columns]
                    writer.writerow(["" if x is None else safe_cell(x) for x in cells])
            else:
                for row in rows:
                    kept = {c: row[c] for c in columns if row.get(c) is not None}
                    file.write(json.dumps(kept, ensure_ascii=False) + "\n")
    os.replace(part, out)


def _parquet(rows: Iterator[Row], columns: list[str], part: str) -> None:
    import pyarrow  # type: ignore[import-untyped]
    import pyarrow.parquet  # type: ignore[import-untyped]

    kinds = [(c, pyarrow.string() if c in TEXTS else pyarrow.float64()) for c in columns]
    schema = pyarrow.schema(kinds)
    with pyarrow.parquet.ParquetWriter(part, schema) as writer:
        while some := list(islice(rows, CHUNK)):
            cells = {c: [row.get(c) for row in some] for c in columns}
            writer.write_table(pyarrow.table(cells, schema=schema))
