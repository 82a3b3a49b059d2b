"""Each extra in an environment that holds what it names and nothing else: the wheel's own files,
numpy, and the packages that the extra requires, as pip would install them; Python's standard
library beside them, no site.
"""

from __future__ import annotations

import ast
import json
import os
import subprocess
import sys
import tempfile
import tomllib
import unittest
from importlib.metadata import Distribution, PackageNotFoundError, distribution
from pathlib import Path
from typing import ClassVar

from packaging.requirements import Requirement

from tests.kinds import SUPPLIES, question

ROOT = Path(__file__).resolve().parents[2]
PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
OWN = ("ironmargin", "ironmargin_meter")
TASKS = {
    "format": "iron-margin/tasks",
    "version": 1,
    "tasks": [
        {"id": "tea", "load": "kettle", "earliest": "12:00", "latest": "15:00", "minutes": 20}
    ],
}


def required(requested: list[str]) -> dict[str, Distribution]:
    """What pip would install for these requirements, by name."""
    found: dict[str, Distribution] = {}
    waiting = [(Requirement(one), "") for one in requested]
    while waiting:
        one, extra = waiting.pop()
        if one.marker is not None and not one.marker.evaluate({"extra": extra}):
            continue
        if one.name == "ironmargin":
            more = PROJECT["optional-dependencies"]
            waiting += [(Requirement(x), "") for name in one.extras for x in more[name]]
            continue
        try:
            held = distribution(one.name)
        except PackageNotFoundError:  # of a platform or an extra that is not asked for
            continue
        fresh = one.name.lower() not in found
        found[one.name.lower()] = held
        if fresh or one.extras:
            wants = [Requirement(x) for x in held.requires or []]
            waiting += [(x, extra) for x in wants for extra in (one.extras or {""})]
    return found


def installed(folder: Path, extras: list[str]) -> None:
    """Put the core and what it requires with some extras into an empty folder."""
    named = [x for extra in extras for x in PROJECT["optional-dependencies"][extra]]
    for held in required([*PROJECT["dependencies"], *named]).values():
        for top in {file.parts[0] for file in held.files or [] if file.parts[0] != ".."}:
            place = Path(str(held.locate_file(top)))
            if place.exists() and not (folder / top).exists():
                (folder / top).symlink_to(place)
    for own in OWN:
        (folder / own).symlink_to(ROOT / own)


class Extras(unittest.TestCase):
    folder: ClassVar[Path]

    @classmethod
    def setUpClass(cls) -> None:
        held = tempfile.TemporaryDirectory()
        cls.addClassCleanup(held.cleanup)
        cls.folder = Path(held.name)
        for name, document in (
            ("setup", question("generator")),
            ("battery", question("battery-inverter")),
            ("tasks", TASKS),
            ("stock", {"format": "iron-margin/stock", "version": 1, "days": 1}),
            ("post", question("shore") | {"supply": SUPPLIES["shore"]}),
        ):
            (cls.folder / f"{name}.json").write_text(json.dumps(document), encoding="utf-8")

    def run_with(self, extras: list[str], *command: str) -> subprocess.CompletedProcess[str]:
        place = self.folder / "-".join(["with", *extras])
        if not place.exists():
            place.mkdir()
            installed(place, extras)
        code = f"import sys, runpy; sys.path.insert(0, {str(place)!r}); sys.argv = sys.argv[1:]; "
        code += "runpy.run_module(sys.argv[0], run_name='__main__', alter_sys=True)"
        return subprocess.run(
            [sys.executable, "-I", "-S", "-c", code, *command], cwd=self.folder, text=True,
            capture_output=True, check=False, env={"PATH": os.environ["PATH"]},
        )  # fmt: skip

    def says(self, extras: list[str], *command: str) -> str:
        done = self.run_with(extras, *command)
        self.assertIn(done.returncode, (0, 1), done.stderr[-2000:])
        return done.stdout

    def test_nothing_but_numpy_checks_and_advises(self) -> None:
        self.assertIn("0.2.0", self.says([], "ironmargin", "--version"))
        for command in ("check", "remedies", "order", "endure", "steps"):
            more = ["--for", "start"] if command == "steps" else []
            self.assertTrue(self.says([], "ironmargin", command, "setup.json", *more))

    def test_what_an_extra_is_for_says_so_without_it(self) -> None:
        for extra, command in (
            ("plan", ["day", "setup.json", "--tasks", "tasks.json"]),
            ("plan", ["ration", "battery.json", "--stock", "stock.json"]),
            ("scale", ["sweep", ".", "--out", "rows.parquet"]),
        ):
            done = self.run_with([], "ironmargin", *command)
            self.assertEqual(done.returncode, 2, command)
            self.assertIn(f"pip install 'ironmargin[{extra}]", done.stderr, command)
            self.assertNotIn("Traceback", done.stderr)

    def test_plan(self) -> None:
        found = self.says(["plan"], "ironmargin", "day", "setup.json", "--tasks", "tasks.json")
        self.assertIn("1 of 1 tasks placed", found)
        self.says(["plan"], "ironmargin", "ration", "battery.json", "--stock", "stock.json")

    def test_scale(self) -> None:
        (self.folder / "many").mkdir()
        for name in ("setup", "battery"):
            text = (self.folder / f"{name}.json").read_text(encoding="utf-8")
            (self.folder / "many" / f"{name}.setup.json").write_text(text, encoding="utf-8")
        self.says(["scale"], "ironmargin", "sweep", "many", "--out", "rows.parquet")
        self.assertTrue((self.folder / "rows.parquet").stat().st_size)

    def test_meter(self) -> None:
        self.assertIn("usage", self.says(["meter"], "ironmargin_meter", "--help"))

    def test_web_names_all_that_the_site_imports(self) -> None:
        held = required(PROJECT["optional-dependencies"]["web"] + PROJECT["dependencies"])
        tops = {
            file.parts[0].removesuffix(".py") for one in held.values() for file in one.files or []
        }
        known = tops | set(sys.stdlib_module_names) | {"web", "tools", *OWN}
        missing: dict[str, str] = {}
        for file in (ROOT / "web").rglob("*.py"):
            for top in _imported(ast.parse(file.read_text(encoding="utf-8"))):
                if top not in known:
                    missing[top] = str(file.relative_to(ROOT))
        self.assertEqual(missing, {})


def _imported(tree: ast.AST) -> set[str]:
    """Top names of what a module imports."""
    found: set[str] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found |= {alias.name.partition(".")[0] for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            found.add(node.module.partition(".")[0])
    return found
