"""The list of rules that are broken each night is looked for in the code by day."""

from __future__ import annotations

import os
from unittest import skipIf

from django.test import SimpleTestCase

from tools import mutants_web
from tools.constants import BROKEN


@skipIf(BROKEN in os.environ, "a rule is broken on purpose")
class Rules(SimpleTestCase):
    def test_every_rule_is_where_its_row_says(self) -> None:
        for row in mutants_web.ROWS:
            file = mutants_web.ROOT / "web" / row.module
            self.assertTrue(row.words in file.read_text(encoding="utf-8"), row.rule)
            tests = [mutants_web.ROOT / "tests" / "web" / f"{n}.py" for n in row.tests.split()]
            self.assertTrue(all(test.exists() for test in tests), row.rule)
