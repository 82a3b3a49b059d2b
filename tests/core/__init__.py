"""The core's tests: those of a moment (``./test core``), and the walks over everything there is,
each a second and more (``./test walks``).
"""

from __future__ import annotations

import os
import unittest
from collections.abc import Iterator
from pathlib import Path

from tests.walking import WALKS


def each(tests: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    """Every test of a suite."""
    for one in tests:
        if isinstance(one, unittest.TestSuite):
            yield from each(one)
        else:
            yield one


def load_tests(
    loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None
) -> unittest.TestSuite:
    """The tests of this folder: all, or by ``IRONMARGIN_WALKS`` only the walks, or none of them."""
    found = loader.discover(
        str(Path(__file__).parent),
        pattern=pattern or "test*.py",
        top_level_dir=str(Path(__file__).resolve().parents[2]),
    )
    requested = os.environ.get("IRONMARGIN_WALKS", "")
    if not requested:
        return found
    return unittest.TestSuite(
        one
        for one in each(found)
        if (getattr(getattr(one, one._testMethodName), "__func__", None) in WALKS)
        == (requested == "only")
    )
