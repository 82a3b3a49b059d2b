"""Setups side by side: their bars, and the same rows for all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ironmargin.verdict.stations import stations
from web.design.drawing import Bar, bar
from web.setups.models import SavedSetup
from web.setups.stored import Judged

SMALL_LENGTH, SMALL_ACROSS = 300.0, 30.0


@dataclass(frozen=True)
class Column:
    """One setup of a comparison: its bar and its cells by row title."""

    setup: SavedSetup
    verdict: str
    margin: float
    sentence: str
    bar: Bar | None
    cells: dict[str, tuple[str, str]]


def comparison(saved: SavedSetup, judged: Judged) -> Column:
    """A setup as a column; (words, state) of each station."""
    if judged.checked is None:
        return Column(saved, "fails", -1.0, "It has a fault: open it and mend it.", None, {})
    found = stations(judged.checked)
    result = judged.checked.result
    cells: dict[str, tuple[str, str]] = {}
    for s in found:
        title = f"{s.title}, {s.subtitle}" if s.check in ("start", "coincidence") else s.title
        cells[title] = (
            f"{'−' if s.margin < 0 else '+'}{abs(s.margin) * 100:.0f} %, {s.reading}",
            s.state,
        )
    drawn = bar([(s.key, s.margin, s.state) for s in found], SMALL_LENGTH, SMALL_ACROSS)
    return Column(saved, result.verdict, result.iron_margin, result.weakest.sentence, drawn, cells)


def comparison_rows(columns: list[Column]) -> list[dict[str, Any]]:
    """Every row some column has, in the order the current flows, with a cell for each column."""
    titles = list(dict.fromkeys(title for c in columns for title in c.cells))
    return [{"title": t, "cells": [c.cells.get(t, ("", "")) for c in columns]} for t in titles]
