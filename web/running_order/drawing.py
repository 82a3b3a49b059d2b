"""An order of starts as stairs: the amps each one leaves running."""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.document import Document
from web.design.drawing import Axis

STAIRS_W, STAIRS_H, STAIRS_LEFT, STAIRS_TOP = 440.0, 150.0, 34.0, 14.0
"""Narrow, so that its words can be read where a phone makes it smaller still."""
WORDS_H = 16.0
"""What a line of words needs over a stair."""
WIDE_ENOUGH = 52.0
"""A stair that has room for its amps with their unit."""


@dataclass(frozen=True)
class Stair:
    """One start on the picture of an order: the amps it leaves running, from ``x`` on."""

    x: float
    y: float
    width: float
    height: float
    number: int
    amps: float
    state: str
    words_dy: float
    unit: str


@dataclass(frozen=True)
class Stairs:
    """An order drawn: amps after each start, and the limit for hours they stay under."""

    steps: list[Stair]
    ticks: list[tuple[float, float]]
    limit_y: float | None
    limit_a: float | None


def draw_stairs(steps: list[Document], limit_a: float | None) -> Stairs | None:
    """The amps that each start leaves running, as stairs under the limit."""
    if not steps:
        return None
    maximum = max([*(s["expect_a"] for s in steps), limit_a or 0.0, 1.0]) * 1.12
    up = Axis(0.0, maximum, STAIRS_H, STAIRS_TOP)
    pitch = (STAIRS_W - STAIRS_LEFT) / len(steps)
    limit_y = up.at(limit_a) if limit_a else None
    unit = " A" if pitch >= WIDE_ENOUGH else ""
    drawn = []
    for n, s in enumerate(steps):
        y = up.at(s["expect_a"])
        x = STAIRS_LEFT + n * pitch
        # Where the limit's line would cross its words they stand inside the stair.
        dy = WORDS_H if limit_y is not None and 0.0 <= y - limit_y < WORDS_H else -4.0
        a = s["expect_a"]
        drawn.append(Stair(x, y, pitch, STAIRS_H - y, n + 1, a, s["state"], dy, unit))
    return Stairs(drawn, up.ticks(3), limit_y, limit_a)
