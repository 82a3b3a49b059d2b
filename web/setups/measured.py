"""Readings made on any screen, kept by whoever keeps readings: the floor above fills this."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from web.setups.models import SavedSetup

KEEPERS: list[Callable[[SavedSetup, dict[str, Any]], None]] = []


def note(saved: SavedSetup, entry: dict[str, Any]) -> None:
    """Tell of a reading, as an entry of the log's format."""
    for keep in KEEPERS:
        keep(saved, entry)
