"""One change, one place: every recipe of CONTRIBUTING.md in a copy of the tree, as it stands there,
through the command line and the site.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any, ClassVar

from django.test import SimpleTestCase

from tests.kinds import question
from tests.web.recipes import copied, put, recipes

CELL = {"kind": "fuel-cell", "power_w": 2500}
HOB = {"id": "hob", "name": "Hob", "kind": "induction", "watts": 1800}
MANY = [{"id": f"lamp{n}", "name": f"Lamp {n}", "kind": "resistive", "watts": 5} for n in range(11)]
OIL = {"format": "iron-margin/log", "entries": [{"kind": "oil", "full": 0.1}]}
FILES = {
    "A kind of supply": 1,
    "A kind of load": 1,
    "A field": 1,
    "A limit": 1,
    "A remedy": 1,
    "A step list": 1,
    "A kind of log entry": 1,
    "A station of the workbench": 6,
}
"""How many files each touches; of a station those of its folder and one line."""


def requested(**changed: Any) -> dict[str, Any]:
    """A question on the fuel cell, with a hob."""
    document = question("generator") | {"supply": CELL} | changed
    document["rig"] = document["rig"] | {"loads": [*document["rig"]["loads"], HOB]}
    return document


class Recipes(SimpleTestCase):
    tree: ClassVar[Path]
    touched: ClassVar[dict[str, list[str]]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.tree = Path(folder.name) / "tree"
        copied(cls.tree)
        cls.touched = {name: put(body, cls.tree) for name, body in recipes().items()}

    def run_there(self, *command: str, **env: str) -> str:
        done = subprocess.run(
            [sys.executable, *command], cwd=self.tree, capture_output=True, text=True, check=False,
            env=os.environ | {"PYTHONPATH": str(self.tree)} | env,
        )  # fmt: skip
        self.assertIn(done.returncode, (0, 1, 2), done.stderr[-3000:] + done.stdout[-3000:])
        return done.stdout + done.stderr

    def command(self, *words: str, **files: Any) -> str:
        for name, document in files.items():
            (self.tree / f"{name}.json").write_text(json.dumps(document), encoding="utf-8")
        return self.run_there("-m", "ironmargin", *words)

    def test_each_touches_what_it_may(self) -> None:
        self.assertEqual({name: len(files) for name, files in self.touched.items()}, FILES)

    def test_a_kind_of_supply_and_of_load_are_checked_and_planned(self) -> None:
        for words in (["check"], ["order"], ["sensitivity"], ["endure"], ["bench"]):
            more = ["--script", "script.json"] if words == ["bench"] else []
            script = {"format": "iron-margin/script", "version": 1, "hours": 0.5,
                      "begin": {"all": "as-wanted"}}  # fmt: skip
            found = self.command(
                *words, "requested.json", *more, requested=requested(), script=script
            )
            self.assertNotIn("Traceback", found)
            self.assertNotRegex(found, r"\bnan\b")
        wrong = self.command(
            "check", "requested.json", requested=requested(supply=CELL | {"power_w": -1})
        )
        self.assertIn("supply.power_w", wrong)

    def test_the_schema_has_their_fields_and_the_new_one(self) -> None:
        words = self.command("schema")
        for name in ('"fuel-cell"', '"power_w"', '"induction"', '"wind_km_h"'):
            self.assertIn(name, words)

    def test_a_limit_decides_and_is_said(self) -> None:
        document = question("generator")
        document["rig"]["loads"] += MANY
        document["wanted"] += [{"load": x["id"]} for x in MANY]
        found = self.command("check", "many.json", many=document)
        self.assertIn("More than ten loads run at once", found)

    def test_a_remedy_is_tried_and_told(self) -> None:
        document = question("generator")
        document["conditions"] |= {"outdoor_c": 45, "altitude_m": 1500}
        document["supply"] = {"kind": "generator", "continuous_w": 2000, "starting_w": 2500}
        found = self.command("remedies", "hot.json", "--json", hot=document)
        whats = " ".join(r["what"] for r in json.loads(found)["remedies"])
        self.assertIn("Wait for the cool of the evening", whats)

    def test_a_step_list_is_made_for_the_setup(self) -> None:
        found = self.command("steps", "--for", "winter", "own.json", own=question("generator"))
        self.assertIn("Run the carburetor dry", found)
        found = self.command("steps", "--for", "winter", "own.json", own=question("shore"))
        self.assertNotIn("carburetor", found)

    def test_an_entry_is_read_and_judged(self) -> None:
        found = self.command(
            "learn", "own.json", "--log", "log.json", own=question("generator"), log=OIL
        )
        self.assertIn("Low: fill it before it runs", found)

    def test_the_site_knows_them_all(self) -> None:
        found = self.run_there(
            "manage.py", "test", "-t", ".", "--noinput", "tests.web.with_recipes",
            IRONMARGIN_SUITE="recipes",
        )  # fmt: skip
        self.assertIn("\nOK", found, found[-4000:])
