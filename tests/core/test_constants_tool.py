"""The list of numbers no test minds: which numbers it tries, and what it says of them."""

from __future__ import annotations

import ast
import contextlib
import io
import os
import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

from tools import constants, mutants

SOURCE = '''
"""A module."""
LIMIT_A = 12.5
PAIR = (1.0, 2)
MAX_ROWS = 40
SHARE: dict[str, float] = {"a": 0.5, "b": 0.0}
STARTS = 1
SWITCH = True
lower = 3.0
NAME = "words"


def found():
    INSIDE = 9.0
    return INSIDE
'''


@unittest.skipIf(constants.BROKEN in os.environ, "a rule is broken on purpose")
class Rules(unittest.TestCase):
    """Each night's list of broken rules stands in the code as it is by day; that of the web is
    looked for in ``tests/web/test_mutants.py``.
    """

    def test_every_rule_of_the_verdict_is_where_its_row_says(self) -> None:
        for row in mutants.MUTANTS:
            file = constants.ROOT / "ironmargin" / row.module
            self.assertTrue(row.words in file.read_text(encoding="utf-8"), row.rule)


class Numbers(unittest.TestCase):
    def setUp(self) -> None:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        self.file = Path(folder) / "module.py"
        self.file.write_text(SOURCE, encoding="utf-8")

    def test_the_model_s_are_tried_and_bounds_labels_and_noughts_are_not(self) -> None:
        found = [(name, number.value) for name, number in constants.numbers(self.file)]
        self.assertEqual(found, [("LIMIT_A", 12.5), ("PAIR", 1.0), ("PAIR", 2), ("SHARE", 0.5)])

    def test_a_whole_number_stays_whole_and_becomes_another(self) -> None:
        for value, factor, other in (
            (2, 0.5, 1), (1, 0.5, 2), (1, 1.5, 2), (3, 1.5, 4), (0.4, 1.5, 0.6),
        ):  # fmt: skip
            changed = constants.changed_by(ast.Constant(value), factor)
            self.assertAlmostEqual(changed, other)
            self.assertIs(type(changed), type(value))

    def seen_while(self, outcome: bool) -> tuple[bool, str]:
        """Whether the first number survives tests that end so, and what they ran on."""
        seen = []

        def passes(copy: Path, name: str) -> bool:
            self.assertEqual(copy / name, self.file)
            seen.append(self.file.read_text(encoding="utf-8"))
            return outcome

        _, number = next(constants.numbers(self.file))
        with patch.object(constants, "passes", passes):
            alive = constants.survives(self.file.parent, self.file, number, 0.5)
        return alive, seen[0]

    def test_the_tests_run_on_the_changed_file_and_it_is_put_back(self) -> None:
        for outcome in (True, False):
            alive, ran_on = self.seen_while(outcome)
            self.assertEqual(alive, outcome)
            self.assertIn("LIMIT_A = 6.25\n", ran_on)
            self.assertEqual(self.file.read_text(encoding="utf-8"), SOURCE)

    def test_what_does_not_compile_does_not_survive(self) -> None:
        _, number = next(constants.numbers(self.file))
        broken = constants.subprocess.CalledProcessError(1, "gcc")
        with patch.object(constants, "compiled", side_effect=broken):
            self.assertFalse(constants.survives(self.file.parent, self.file, number, 0.5))
        self.assertEqual(self.file.read_text(encoding="utf-8"), SOURCE)

    def test_survivors_are_listed_with_their_place(self) -> None:
        said = io.StringIO()
        module = "ironmargin/sustaining/steady.py"
        with (
            patch.object(constants.sys, "argv", ["constants.py", module]),
            patch.object(constants.shutil, "copytree"),
            patch.object(constants, "passes", return_value=True),
            patch.object(constants, "compiled"),
            patch.object(constants, "survives", side_effect=lambda *a: a[3] < 1.0),
            contextlib.redirect_stdout(said),
        ):
            self.assertEqual(constants.main(), 1)
        self.assertRegex(said.getvalue(), rf"{module}:\d+ DAMPED_FROM = 12 survives x 0.5\n")
        self.assertRegex(said.getvalue(), r"\d+ numbers tried, \d+ can be changed by half")

    def test_some_constants_of_a_module_can_be_named(self) -> None:
        tried: list[float] = []
        module = "ironmargin/starting/edge.py"
        for named, values in (("", 4), (":BEYOND", 4), (":NONE", 0)):
            tried.clear()
            with (
                patch.object(constants.sys, "argv", ["constants.py", module + named]),
                patch.object(constants.shutil, "copytree"),
                patch.object(constants, "passes", return_value=True),
                patch.object(constants, "compiled"),
                patch.object(constants, "survives", side_effect=lambda *a: tried.append(a[2])),
                contextlib.redirect_stdout(io.StringIO()),
            ):
                self.assertEqual(constants.main(), 0)
            self.assertEqual(len(tried), 2 * values, named)

    def test_tests_that_fail_as_they_are_come_first(self) -> None:
        with (
            patch.object(constants.sys, "argv", ["constants.py", "ironmargin/case.py"]),
            patch.object(constants.shutil, "copytree"),
            patch.object(constants, "passes", return_value=False),
            self.assertRaisesRegex(SystemExit, "mend them first"),
        ):
            constants.main()
