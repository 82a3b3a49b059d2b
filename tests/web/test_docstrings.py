"""What a package of the core offers to others says what it takes and gives, with units and shapes.

Offered is what another package, the web or the meter's program imports; pydoclint reads the
docstrings (Google style), as strictly as it can. Everything else that is public has a summary.
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


def package_of(file: Path) -> str:
    """The package of the core a file is in, or the program it belongs to."""
    parts = file.relative_to(ROOT).parts
    return "/".join(parts[: 2 if parts[0] == "ironmargin" else 1])


def parsed(*folders: str) -> dict[Path, ast.Module]:
    """Every module of some folders."""
    files = (f for folder in folders for f in (ROOT / folder).rglob("*.py"))
    return {f: ast.parse(f.read_text()) for f in files if "migrations" not in f.parts}


def offered(trees: dict[Path, ast.Module]) -> set[tuple[Path, str]]:
    """(file, name) of what one package takes from another."""
    found = set()
    for file, tree in trees.items():
        modules = {}
        for node in ast.walk(tree):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("ironmargin"):
                for alias in node.names:
                    found.add((file, f"{node.module}.{alias.name}"))
                    modules[alias.asname or alias.name] = f"{node.module}.{alias.name}"
            elif isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name):
                found.add((file, f"{modules.get(node.value.id, '')}.{node.attr}"))
    out = set()
    for user, dotted in found:
        module, _, name = dotted.rpartition(".")
        home = ROOT / (module.replace(".", "/") + ".py")
        home = home if home.exists() else ROOT / module.replace(".", "/") / "__init__.py"
        if home in trees and package_of(home) != package_of(user):
            out.add((home, name))
    return out


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
    """The interfaces of the core's packages."""

    def setUp(self) -> None:
        self.trees = parsed("ironmargin", "ironmargin_meter", "web")

    def test_what_a_package_offers_says_what_it_takes_and_gives(self) -> None:
        names = offered(self.trees)
        wanted = {
            (file, name)
            for file, tree in self.trees.items()
            if "ironmargin" in file.relative_to(ROOT).parts
            for name, node in functions(tree)
            if (file, name) in names and "." not in name
        }
        self.assertGreater(len(wanted), 250)
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
        self.assertGreater(len(bad), 0, "the linter was heard: others are shorter")
        faults = {
            f"{at.relative_to(ROOT)}:{name}": sorted(codes)
            for (at, name), codes in bad.items()
            if (at, name) in wanted
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
            if file.relative_to(ROOT).parts[0] == "ironmargin"
            for name, node in functions(tree)
            if not ast.get_docstring(node) and name.rpartition(".")[2] not in documented
        ]
        self.assertEqual(bare, [])
