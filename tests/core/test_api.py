"""The public calls: their examples run, and they are the core's own."""

from __future__ import annotations

import ast
import doctest
import inspect
import sys
import unittest
from pathlib import Path

from ironmargin import api

ROOT = Path(__file__).resolve().parents[2]


class Examples(unittest.TestCase):
    def test_every_call_has_an_example_that_runs(self) -> None:
        found = doctest.testmod(api)
        self.assertEqual(found.failed, 0)
        for name in api.__all__:
            call = getattr(api, name)
            if inspect.isfunction(call) and call.__module__ == api.__name__:
                self.assertIn(">>>", call.__doc__ or "", name)

    def test_the_example_round_trips(self) -> None:
        setup = api.read_setup(api.EXAMPLE)
        self.assertEqual(api.read_setup(api.write_setup(setup)), setup)


class ItsNeeds(unittest.TestCase):
    def test_they_are_what_it_says(self) -> None:
        """Nothing outside the standard library, numpy and the named extras is imported."""
        allowed = {"numpy", "ortools", "dask", "distributed", "pyarrow", "ironmargin", "cython"}
        allowed |= {"scipy", "cv2"}  # to hear and to see
        for file in (ROOT / "ironmargin").rglob("*.py"):
            for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
                names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
                if isinstance(node, ast.ImportFrom) and not node.level:
                    names.append(node.module or "")
                for name in names:
                    top = name.split(".")[0]
                    known = top in sys.stdlib_module_names or top in allowed
                    self.assertTrue(known, f"{file.name}: {top}")
