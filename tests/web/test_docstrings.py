"""What is public in the core says what it takes and gives, with units and shapes: every function
and method without an underscore, read by pydoclint (Google style) as strictly as it can.
"""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from django.test import SimpleTestCase

ROOT = Path(__file__).resolve().parents[2]
LINTER = (
    "--style=google",
    "--arg-type-hints-in-docstring=False",
    "--check-return-types=False",
    "--check-yield-types=False",
    "--check-class-attributes=False",
    "--allow-init-docstring=True",
    "--skip-checking-short-docstrings=False",
    "--quiet",
)
TOLD = re.compile(r"(\d+): (DOC\d+): (?:Function|Method|Function/method) `([\w.]+)`")
SENT_ON = ("DOC502", "DOC503")
"""A fault raised by what a function calls is said at the function, too."""


def functions(tree: ast.Module) -> Iterator[tuple[str, ast.FunctionDef]]:
    """Functions and methods of a module without an underscore, by dotted name; those that only
    stand in for a documented one of a base, and properties, which have a summary, are left out.
    """

    def counts(node: ast.stmt) -> bool:
        said = {ast.unparse(d).rpartition(".")[2] for d in getattr(node, "decorator_list", ())}
        return (
            isinstance(node, ast.FunctionDef)
            and not node.name.startswith("_")
            and not said & {"property", "cached_property", "overload"}
        )

    for node in tree.body:
        if isinstance(node, ast.FunctionDef) and counts(node):
            yield node.name, node
        elif isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            for each in node.body:
                if isinstance(each, ast.FunctionDef) and counts(each):
                    yield f"{node.name}.{each.name}", each


class Docstrings(SimpleTestCase):
    """The interfaces of the core."""

    def setUp(self) -> None:
        self.trees = {f: ast.parse(f.read_text()) for f in (ROOT / "ironmargin").rglob("*.py")}

    def test_what_is_public_says_what_it_takes_and_gives(self) -> None:
        public = {(file, name) for file, tree in self.trees.items() for name, _ in functions(tree)}
        self.assertGreater(len(public), 900)
        run = subprocess.run(
            [Path(sys.executable).with_name("pydoclint"), *LINTER, "ironmargin"],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=False,
        )
        file, bad = ROOT, dict[tuple[Path, str], set[str]]()
        for line in (run.stdout + run.stderr).splitlines():
            if line.endswith(".py"):
                file = ROOT / line.strip()
            elif (told := TOLD.search(line)) and told[2] not in SENT_ON:
                bad.setdefault((file, told[3]), set()).add(told[2])
        self.assertGreater(len(bad), 0, "the linter was heard: what is private is shorter")
        faults = {
            f"{at.relative_to(ROOT)}:{name}": sorted(codes)
            for (at, name), codes in bad.items()
            if (at, name) in public
        }
        self.maxDiff = None
        self.assertEqual(faults, {})

    def test_everything_public_has_a_summary(self) -> None:
        documented = {
            name.rpartition(".")[2]
            for tree in self.trees.values()
            for name, node in functions(tree)
            if "." in name and ast.get_docstring(node)
        }
        bare = [
            f"{file.relative_to(ROOT)}:{name}"
            for file, tree in self.trees.items()
            for name, node in functions(tree)
            if not ast.get_docstring(node) and name.rpartition(".")[2] not in documented
        ]
        self.assertEqual(bare, [])


class Signatures(SimpleTestCase):
    """What functions of the core and of the site take and give."""

    def test_none_says_any(self) -> None:
        """``Any`` in a signature says nothing, and switches off what mypy would have seen."""
        files = [f for part in ("ironmargin", "web") for f in (ROOT / part).rglob("*.py")]
        told = {
            f"{file.relative_to(ROOT)}:{node.lineno} {node.name}"
            for file in files
            for node in ast.walk(ast.parse(file.read_text()))
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
            for said in (*self.arguments(node), node.returns)
            if said is not None
            and any(isinstance(x, ast.Name) and x.id == "Any" for x in ast.walk(said))
        }
        self.assertGreater(len(files), 400)
        self.assertEqual(told, set())

    def arguments(self, node: ast.FunctionDef | ast.AsyncFunctionDef) -> list[ast.expr | None]:
        """Types of every argument."""
        a = node.args
        more = [x for x in (a.vararg, a.kwarg) if x is not None]
        return [x.annotation for x in (*a.posonlyargs, *a.args, *a.kwonlyargs, *more)]
