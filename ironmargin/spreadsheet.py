"""CSV as programs and people open it: one writer for every table that goes out, and no cell that a
spreadsheet would take for a formula.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""How a cell begins that a spreadsheet computes (OWASP, CSV injection)."""


def safe_cell(value: object) -> object:
    """A text that a spreadsheet would take for a formula, with an apostrophe before it; figures as
    they are.

    Args:
        value: of a cell.

    Returns:
        What may be written.
    """
    return f"'{value}" if isinstance(value, str) and value.startswith(FORMULA) else value


def csv_text(rows: Iterable[Sequence[object]], end: str = "\n") -> str:
    """Rows as CSV; what is None is an empty cell.

    Args:
        rows: cells by row.
        end: of a line.

    Returns:
        The text.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator=end)
    for row in rows:
        writer.writerow(["" if x is None else safe_cell(x) for x in row])
    return out.getvalue()
