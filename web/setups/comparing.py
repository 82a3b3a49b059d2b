"""Setups side by side: their bars, and the same rows for all."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice

from ironmargin.document import Document
from ironmargin.verdict.stations import stations
from web.design.context import Context
from web.design.drawing import Bar, bar
from web.setups.judging import Judged
from web.setups.models import SavedSetup
from web.storage.words import changes

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
    differs: tuple[str, ...] = ()


MAX_DIFFERENCES = 8


def _mute(judged: Judged) -> Document:
    return {k: v for k, v in judged.document.items() if k not in ("name", "notes")}


def differences(first: Judged, other: Judged) -> tuple[str, ...]:
    """What of the inputs of a setup differs from the first one's."""
    found = list(islice(changes(_mute(first), _mute(other)), MAX_DIFFERENCES + 1))
    more = ("and more",) if len(found) > MAX_DIFFERENCES else ()
    return (*(words.replace("_", " ") for words in found[:MAX_DIFFERENCES]), *more)


def comparison(saved: SavedSetup, judged: Judged, first: Judged | None = None) -> Column:
    """A setup as a column; (words, state) of each station, and what differs from the first."""
    differs = differences(first, judged) if first is not None else ()
    if judged.checked is None:
        why = "It has an error: open it and correct it."
        if judged.setup is not None:
            why = "It is too large to compute with others: open it."
        return Column(saved, "fails", -1.0, why, None, {}, differs)
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
    return Column(
        saved, result.verdict, result.iron_margin, result.weakest.sentence, drawn, cells, differs
    )


def comparison_rows(columns: list[Column]) -> list[Context]:
    """Every row some column has, in the order the current flows, with a cell for each column."""
    titles = list(dict.fromkeys(title for c in columns for title in c.cells))
    return [{"title": t, "cells": [c.cells.get(t, ("", "")) for c in columns]} for t in titles]
