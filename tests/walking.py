"""Marks the tests that walk over everything there is."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

Test = TypeVar("Test", bound=Callable[..., object])
WALKS: set[object] = set()


def walk(test: Test) -> Test:
    """A test of a second and more: ``./test walks`` runs it, ``./test core`` does not."""
    WALKS.add(test)
    return test
