"""No figure stands unnamed in a function of the core: a rule of the trade is found by its name."""

from __future__ import annotations

import ast
import unittest
from collections.abc import Iterator
from pathlib import Path

CORE = Path(__file__).resolve().parents[2] / "ironmargin"
PLAIN = {
    -1, 0, 1, 2, 3, 4, 0.5, 10, 100, 1000, 24, 60, 3600, 180, 360, 1e-12, 1e-9, 1e-6,
}  # fmt: skip
"""Counts and halves, per cent and kilo, hours, minutes and seconds, angles, and next to nothing."""
MADE_UP = ("practice/drills.py",)
"""Questions that are drawn for practice: their figures are anybody's."""
SPEAKS = ("round", "range", "number", "text", "Number", "Text", "Many")
"""Calls whose figures are digits, bounds of a field or a place in a list."""
BOUNDS = ("maximum", "minimum", "above", "indent", "width")


def skipped(of: ast.AST) -> Iterator[ast.AST]:
    """The parts of a function whose figures say themselves what they are."""
    for node in ast.walk(of):
        spoken = isinstance(node, ast.Call) and getattr(node.func, "id", "") in SPEAKS
        bound = isinstance(node, ast.keyword) and node.arg in BOUNDS
        if spoken or bound or isinstance(node, ast.JoinedStr | ast.Slice):
            yield node


def unnamed(source: str) -> Iterator[tuple[int, float]]:
    """Line and value of every figure without a name in the functions of a module."""
    for function in ast.walk(ast.parse(source)):
        if not isinstance(function, ast.FunctionDef):
            continue
        quiet = {id(n) for part in skipped(function) for n in ast.walk(part)}
        for statement in function.body:
            for node in ast.walk(statement):
                figure = isinstance(node, ast.Constant) and type(node.value) in (int, float)
                if figure and id(node) not in quiet and node.value not in PLAIN:
                    yield node.lineno, node.value


class Named(unittest.TestCase):
    def test_every_figure_of_the_core_has_a_name(self) -> None:
        found = {
            f"{file.relative_to(CORE)}:{line}: {value:g}"
            for file in sorted(CORE.rglob("*.py"))
            if str(file.relative_to(CORE)) not in MADE_UP
            for line, value in unnamed(file.read_text(encoding="utf-8"))
        }
        self.assertEqual(found, set(), "give it a name and a reason at the top of its module")

    def test_one_that_has_none_is_seen(self) -> None:
        source = "LIMIT = 0.7\ndef f(x: float) -> float:\n    return x[:9] * 0.7 + round(x, 5)\n"
        self.assertEqual(list(unnamed(source)), [(3, 0.7)])
