"""Fills the last column of the list in docs/nomenclature.md, where each term stands in the code:
``python tools/nomenclature.py``. A test refuses a term that no code knows, and a stale column.
"""

from __future__ import annotations

import ast
import re
from functools import cache
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PAGE = ROOT / "docs" / "nomenclature.md"
HEAD = "| term | name in code | meaning | unit | stands in |\n|---|---|---|---|---|\n"
BEGINS, ENDS = "| term |", "\n\n## Words that"
FOLDERS = ("ironmargin/setup", "ironmargin", "ironmargin_meter", "web")
"""Fields of the open formats first."""


@cache
def defined() -> dict[str, str]:
    """Where each name is defined, alone and with its module before it (``figures.Figure``):
    classes, functions, fields and constants; the first file by the order of the folders.
    """
    found: dict[str, str] = {}
    files = [f for folder in FOLDERS for f in sorted((ROOT / folder).rglob("*.py"))]
    for file in (f for f in files if "migrations" not in f.parts):
        where = str(file.relative_to(ROOT))
        tree = ast.parse(file.read_text(encoding="utf-8"))
        inside = [x for c in ast.walk(tree) if isinstance(c, ast.ClassDef) for x in c.body]
        for node in [*tree.body, *inside]:
            names = []
            if isinstance(node, ast.ClassDef | ast.FunctionDef):
                names = [node.name]
            elif isinstance(node, ast.AnnAssign) and isinstance(node.target, ast.Name):
                names = [node.target.id]
            elif isinstance(node, ast.Assign):
                names = [t.id for t in node.targets if isinstance(t, ast.Name)]
            for name in names:
                found.setdefault(name, where)
                found.setdefault(f"{file.stem}.{name}", where)
    return found


@cache
def _sources() -> tuple[tuple[str, str], ...]:
    files = (
        f
        for folder in FOLDERS
        for pattern in ("*.py", "*.html", "*.js")
        for f in sorted((ROOT / folder).rglob(pattern))
    )
    return tuple((str(f.relative_to(ROOT)), f.read_text(encoding="utf-8")) for f in files)


def stands_in(names: str) -> str:
    """The module that defines the first name of a cell that any does, else the first file that
    says it; empty where none does.
    """
    told = re.findall(r"`([^`]+)`", names) or [n.strip() for n in names.split(",") if n.strip()]
    for name in told:
        if "/" in name and (ROOT / name).exists():
            return f"`{name}`"
    for name in (x for n in told for x in (n, n.rpartition(".")[2])):
        if name in defined():
            return f"`{defined()[name]}`"
    for name in told:
        for where, text in _sources():
            if re.search(rf"(?<![\w-]){re.escape(name)}(?![\w-])", text) or where.endswith(name):
                return f"`{where}`"
    return ""


def page(text: str) -> str:
    """The page with its last column filled in anew."""
    head, _, rest = text.partition(BEGINS)
    table, end, after = rest.partition(ENDS)
    rows = []
    for line in table.splitlines()[2:]:
        term, names, meaning, unit = (cell.strip() for cell in line.strip("|").split("|")[:4])
        rows.append(f"| {term} | {names} | {meaning} | {unit} | {stands_in(names)} |")
    return f"{head}{HEAD}" + "\n".join(rows) + end + after


if __name__ == "__main__":
    PAGE.write_text(page(PAGE.read_text(encoding="utf-8")), encoding="utf-8")
