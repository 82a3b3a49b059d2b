"""A step list as a picture: every step on one line, by a shape for what it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ironmargin.document import Document
from web.design.drawing import STATE_SHAPES

WIDTH, MIDDLE = 640.0, 20.0
READ, CAUTION, PLAIN = "a reading to take", "a caution", "a step"
SHAPES = {
    READ: STATE_SHAPES["thin"],
    CAUTION: "M0 -7L8 6H-8Z",
    PLAIN: "M-4 0A4 4 0 1 1 4 0A4 4 0 1 1 -4 0Z",
}
"""Diamond, triangle, dot: SVG path data."""


@dataclass(frozen=True)
class Stop:
    """One step on the line; ``state`` is "done", "here" or "ahead"."""

    number: int
    text: str
    what: str
    shape: str
    x: float
    state: str


def draw_steps(steps: Sequence[Document], place: int = 0, ended: bool = False) -> list[Stop]:
    """The steps along the line; ``place`` is the one in hand, none where the list has ended."""
    pitch = WIDTH / max(len(steps), 1)
    stops = []
    for n, step in enumerate(steps):
        what = CAUTION if step.get("caution") else READ if step.get("gate") else PLAIN
        state = "done" if n < place or ended else "here" if n == place else "ahead"
        x = (n + 0.5) * pitch
        stops.append(Stop(n + 1, str(step["text"]), what, SHAPES[what], x, state))
    return stops
