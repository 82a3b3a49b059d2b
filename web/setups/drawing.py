"""Many setups on one line: each where its margin lies, in a shape of its own for each verdict."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from web.design.drawing import STATE_SHAPES, Axis
from web.setups.models import SavedSetup

WIDTH, FOOT, STEP = 1200.0, 74.0, 13.0
LEAST, MOST = -0.6, 0.6
"""Margins beyond are drawn at the ends."""
BUCKETS = 80
MOST_DRAWN = 200
TICKS = (-0.5, -0.25, 0.0, 0.25, 0.5)


@dataclass(frozen=True)
class MarginDot:
    """One setup on the line."""

    pk: int
    name: str
    margin: float
    verdict: str
    x: float
    y: float
    shape: str


@dataclass(frozen=True)
class Margins:
    """The line, its ticks and its dots; ``zero`` is the edge; ``label`` counts what holds."""

    dots: list[MarginDot]
    ticks: list[tuple[float, float]]
    zero: float
    label: str


def draw_margins(setups: Iterable[SavedSetup]) -> Margins | None:
    """The setups whose verdict is known, by their margin; None of fewer than two."""
    known = [s for s in setups if not s.stale]
    if len(known) < 2:
        return None
    across = Axis(LEAST, MOST, 16.0, WIDTH - 16.0)
    stacked: dict[int, int] = {}
    dots = []
    for s in known:
        at = min(max(s.iron_margin, LEAST), MOST)
        bucket = round((at - LEAST) / (MOST - LEAST) * BUCKETS)
        level = stacked.get(bucket, 0)
        stacked[bucket] = level + 1
        x, y = across.at(at), FOOT - 10.0 - STEP * min(level, 4)
        shape = STATE_SHAPES[s.verdict]
        dots.append(MarginDot(s.pk, s.name, s.iron_margin, s.verdict, x, y, shape))
    counts = {v: sum(1 for s in known if s.verdict == v) for v in STATE_SHAPES}
    hold, thin, fail = counts["holds"], counts["thin"], counts["fails"]
    label = f"{hold} hold{'s' if hold == 1 else ''}, {thin} thin, {fail} fail"
    ticks = [(v, across.at(v)) for v in TICKS]
    return Margins(dots, ticks, across.at(0.0), label)
