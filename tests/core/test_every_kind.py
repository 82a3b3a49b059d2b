"""Every kind of supply through every command: each answers, and only with figures."""

from __future__ import annotations

import argparse
import contextlib
import importlib
import io
import json
import tempfile
import unittest
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any
from unittest.mock import patch

from ironmargin.__main__ import main
from ironmargin.arguments import parser
from ironmargin.practice.steps import PURPOSES
from ironmargin.setup.supply import supply_kinds
from tests.kinds import SUPPLIES, locked_out, question
from tests.walking import walk

FILES: dict[str, dict[str, Any]] = {
    "tasks": {
        "format": "iron-margin/tasks",
        "version": 1,
        "tasks": [
            {"id": "tea", "load": "kettle", "earliest": "12:00", "latest": "15:00", "minutes": 20}
        ],
    },
    "script": {
        "format": "iron-margin/script",
        "version": 1,
        "hours": 0.5,
        "begin": {"all": "as-wanted"},
    },
    "stock": {"format": "iron-margin/stock", "version": 1, "days": 1, "litres": 20},
    "places": {
        "format": "iron-margin/places",
        "version": 1,
        "places": [{"name": "Site 3", "supply": SUPPLIES["shore"]}],
    },
    "log": {
        "format": "iron-margin/log",
        "entries": [{"kind": "run", "load": "kettle", "watts": 880, "instrument": "watt-meter"}],
    },
}
COMMANDS: dict[str, list[list[str]]] = {
    "check": [[]],
    "endure": [[]],
    "remedies": [[]],
    "sensitivity": [[]],
    "order": [[]],
    "day": [["--tasks", "tasks"]],
    "reach": [["--x", "outdoor_c=20:40:2", "--y", "altitude_m=0:1000:2"]],
    "size": [[]],
    "learn": [["--log", "log"]],
    "bench": [["--script", "script"]],
    "steps": [["--for", purpose] for purpose in PURPOSES],
    "ration": [["--stock", "stock"]],
    "places": [["--places", "places"]],
}
DEAR = {"reach", "size"}
"""Commands that take longer than all others together: of the second question, whose every way to
run is looked at, they are asked on one supply.
"""
ASKED_AGAIN = (
    "ironmargin.reaching.reach.reach",
    "ironmargin.reaching.size.size",
    "ironmargin.practice.facts.examine",
)
"""What is asked again for the words after the figures, and for one list of steps after another."""
RAW = r"\b(hookup\[|second-set|hard-start,|soft-start,|none[,:])"


class Once:
    """What a command computes, kept for the same question asked again: in words after figures."""

    def __init__(self, compute: Callable[..., Any]) -> None:
        self.compute, self.requested, self.found = compute, "", None

    def __call__(self, *given: Any, **named: Any) -> Any:
        requested = repr((given, named))
        if requested != self.requested:
            self.requested, self.found = requested, self.compute(*given, **named)
        return self.found


NOT_OF_A_SUPPLY = {"sweep", "schema"}
NOTHING_TO_RATION = {"shore"}
"""A post has no stock: that is said, with exit 2."""


def refuse(word: str) -> None:
    raise AssertionError(f"{word} in an answer")


class EveryKind(unittest.TestCase):
    @walk
    def test_every_kind_and_every_command_is_walked(self) -> None:
        self.assertEqual({s["kind"] for s in SUPPLIES.values()}, set(supply_kinds()))
        subs = next(
            a for a in parser()._actions if isinstance(a, argparse._SubParsersAction)
        ).choices
        self.assertEqual(set(COMMANDS) | NOT_OF_A_SUPPLY, set(subs))

    @walk
    def test_each_answers_with_figures_and_with_words(self) -> None:
        for dear in ASKED_AGAIN:
            module, name = dear.rsplit(".", 1)
            once = Once(getattr(importlib.import_module(module), name))
            self.enterContext(patch(dear, once))
        with tempfile.TemporaryDirectory() as folder:
            for name, content in FILES.items():
                (Path(folder) / name).write_text(json.dumps(content))
            for kind in SUPPLIES:
                self.walk(kind, question(kind), COMMANDS, Path(folder))
                first = kind == next(iter(SUPPLIES))
                commands = [c for c in COMMANDS if first or c not in DEAR]
                self.walk(kind, locked_out(kind), commands, Path(folder))

    def walk(
        self, kind: str, document: dict[str, Any], commands: Iterable[str], folder: Path
    ) -> None:
        file = folder / "q.setup.json"
        file.write_text(json.dumps(document))
        for command in commands:
            for way in COMMANDS[command]:
                words = [str(folder / w) if w in FILES else w for w in way]
                with self.subTest(f"{kind}: {command} {' '.join(way)}"):
                    self.answers(kind, [command, str(file), *words])

    def answers(self, kind: str, words: list[str]) -> None:
        for as_json in (True, False):
            out, err = io.StringIO(), io.StringIO()
            with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
                code = main([*words, "--json"] if as_json else words)
            if words[0] == "ration" and kind in NOTHING_TO_RATION:
                self.assertEqual((code, err.getvalue().count("supply")), (2, 1), err.getvalue())
                continue
            self.assertEqual((code, err.getvalue()), (0, ""))
            if as_json:
                self.assertTrue(json.loads(out.getvalue(), parse_constant=refuse))
            else:
                self.assertTrue(out.getvalue().strip())
                self.assertNotIn("None", out.getvalue())
                self.assertNotRegex(out.getvalue(), RAW, "words of the format, not a person's")


if __name__ == "__main__":
    unittest.main()
