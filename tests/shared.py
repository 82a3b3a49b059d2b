"""What several test modules need: the check setups, and small changes to documents."""

from __future__ import annotations

import copy
import importlib.util
import json
import sys
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any
from unittest.mock import patch

from ironmargin.planning.answer import check_fully
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.check import Checked

SETUPS = Path(__file__).parent / "setups"


def path_of(number: int) -> Path:
    """The file of a check setup."""
    return next(SETUPS.glob(f"{number:02d}-*.setup.json"))


def document(number: int) -> dict[str, Any]:
    """A fresh copy of a check setup's document."""
    return json.loads(path_of(number).read_text(encoding="utf-8"))


def changed(number: int, change: Callable[[dict[str, Any]], None]) -> Setup:
    """A check setup after a change to its document."""
    doc = copy.deepcopy(document(number))
    change(doc)
    return read_setup(doc)


@cache
def checked(number: int) -> Checked:
    """The whole check of a check setup, computed once."""
    return check_fully(load_setup(path_of(number)))


PARTS = {
    "starting.engine": (
        "starting.circuit", "starting.motors", "starting.supply", "starting.concurrent",
    ),
    "starting.concurrent": ("starting.circuit", "starting.motors"),
    "starting.supply": ("starting.circuit",),
}  # fmt: skip
"""Compiled modules, and those whose parts they call where Python does not see them."""


@cache
def plain(module: str) -> Any:
    """A compiled module of the core as its file stands, not compiled: its parts can be looked
    into.
    """
    source = SETUPS.parents[1] / "ironmargin" / f"{module.replace('.', '/')}.py"
    spec = importlib.util.spec_from_file_location(f"plain_{source.stem}", str(source))
    assert spec is not None
    assert spec.loader is not None
    found = importlib.util.module_from_spec(spec)
    parts = {f"ironmargin.{part}": plain(part) for part in PARTS.get(module, ())}
    with patch.dict(sys.modules, parts):
        spec.loader.exec_module(found)
    return found
