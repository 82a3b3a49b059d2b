"""A supply as a picture for lists: what it gives for hours and for seconds, by its plate and on a
hot day.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.setup.model import Conditions, Rules
from ironmargin.setup.parts import read_supply
from ironmargin.supplies.source import Source, source_of
from web.design.drawing import Axis

LEFT, RIGHT, ROW = 92.0, 356.0, 20.0
MAX_W = 9000.0
"""Where the bars of a list end, so that two supplies compare by eye [W]."""
COOL = Conditions(outdoor_c=15.0, altitude_m=0.0)


@dataclass(frozen=True)
class Give:
    """A bar: what is given, in watts, and how far it reaches; ``heat_c`` of a hot day's."""

    words: str
    heat_c: float | None
    watts: float
    y: float
    width: float
    beyond: bool


def _watts(source: Source, amps: float) -> float:
    return source.conductors * amps * source.leg_v


def _of(source: Source) -> list[tuple[str, float]]:
    """For hours and for seconds [W]; a breaker's seconds are its rating."""
    rated = min((b.rating_a for b in source.breakers), default=math.inf)
    hours = min(
        source.continuous_a,
        Rules().continuous_fraction * rated if source.kind == "shore" else math.inf,
    )
    seconds = min(source.starting_a, rated if source.kind == "shore" else math.inf)
    found = [("for hours", hours), ("for seconds", seconds)]
    return [(words, _watts(source, a)) for words, a in found if math.isfinite(a)]


def draw_supply(document: Document) -> list[Give]:
    """What a supply gives, as bars; nothing of one that has a fault."""
    hot_day = Conditions()
    try:
        supply = read_supply(document)
        rows: list[tuple[str, float | None, float]]
        rows = [(words, None, watts) for words, watts in _of(source_of(supply, COOL))]
        if supply.engines:
            hours = _of(source_of(supply, hot_day))[0]
            rows.append((hours[0], hot_day.outdoor_c, hours[1]))
    except SetupError:
        return []
    scale = Axis(0.0, MAX_W, LEFT, RIGHT)
    return [
        Give(words, heat_c, w, ROW * n + 2, min(scale.at(w), RIGHT) - LEFT, scale.at(w) > RIGHT)
        for n, (words, heat_c, w) in enumerate(rows)
    ]
