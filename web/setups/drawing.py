"""Many setups on one line: each where its margin lies, in a shape of its own for each verdict."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from web.design.drawing import STATE_SHAPES, Axis
from web.setups.models import SavedSetup

STEP, LEVELS = 24.0, 5
"""Height of a mark with the ground a finger needs around it [px], and how many lie on each other
where their margins are alike."""
FOOT, HEIGHT = STEP * LEVELS, STEP * LEVELS + 20.0
"""Where the line lies below the marks, and how high it all is [px]."""
MIN, MAX = -0.6, 0.6
"""Margins beyond are drawn at the ends."""
APART = 7.0
"""As near as marks of one level lie [% of the width]: a finger's 24 px on the narrowest phone."""
MAX_DRAWN = 200
TICKS = (-0.5, -0.25, 0.0, 0.25, 0.5)


@dataclass(frozen=True)
class MarginDot:
    """One setup on the line: ``x`` in per cent of the width, ``y`` in pixels."""

    pk: int
    name: str
    margin: float
    verdict: str
    x: float
    y: float
    shape: str


@dataclass(frozen=True)
class Margins:
    """The line at ``foot``, its ticks and its dots; ``zero`` is the edge; ``label`` counts what
    holds.
    """

    dots: list[MarginDot]
    ticks: list[tuple[float, float]]
    zero: float
    label: str
    foot: float = FOOT
    high: float = HEIGHT


def draw_margins(setups: Iterable[SavedSetup]) -> Margins | None:
    """The setups whose verdict is known, by their margin; None of fewer than two."""
    known = [s for s in setups if not s.stale]
    if len(known) < 2:
        return None
    across = Axis(MIN, MAX, 4.0, 96.0)
    last = [-APART] * LEVELS
    dots = []
    for s in sorted(known, key=lambda s: s.iron_margin):
        x = across.at(min(max(s.iron_margin, MIN), MAX))
        level = next((n for n in range(LEVELS) if x - last[n] >= APART), LEVELS - 1)
        last[level] = x
        y, shape = FOOT - STEP * (level + 0.5), STATE_SHAPES[s.verdict]
        dots.append(MarginDot(s.pk, s.name, s.iron_margin, s.verdict, x, y, shape))
    counts = {v: sum(1 for s in known if s.verdict == v) for v in STATE_SHAPES}
    hold, thin, fail = counts["holds"], counts["thin"], counts["fails"]
    label = f"{hold} hold{'s' if hold == 1 else ''}, {thin} thin, {fail} fail"
    ticks = [(v, across.at(v)) for v in TICKS]
    return Margins(dots, ticks, across.at(0.0), label)
