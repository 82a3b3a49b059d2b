"""Readings made on any screen, kept by whoever keeps readings: the layer above fills this."""

from __future__ import annotations

from collections.abc import Callable

from ironmargin.document import Document
from web.setups.models import SavedSetup

KEEPERS: list[Callable[[SavedSetup, Document], None]] = []


def note(saved: SavedSetup, entry: Document) -> None:
    """Tell of a reading, as an entry of the log's format."""
    for store in KEEPERS:
        store(saved, entry)
