"""The breaker plot's figures: the time-current band of a breaker, cold and warm, with a start and
the settled load on it.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from ironmargin.protection.breaker import EDGES, NOMINAL, curve
from ironmargin.record import record
from ironmargin.starting.starts import Start
from ironmargin.verdict.check import Checked
from ironmargin.verdict.result import BreakerRow

MIN_S, MAX_S = 0.01, 4 * 3600.0
MULTIPLES = tuple(np.geomspace(1.0, 20.0, 90).tolist())
LONG_S = 3 * 3600.0
"""Settled loads are shown at three hours, from which they count as continuous (NEC 210.20(A))."""


@record
class CurvePoint:
    """Something on the plot: amps, how long it lasts [s], and words."""

    amps: float
    seconds: float
    words: str


@record
class BreakerPlot:
    """One breaker, ready to draw.

    Attributes:
        amps: the axis [A].
        early_s, nominal_s, late_s: time to trip from cold [s], warm_s: nominal from the heat before
            the start; NaN where it holds.
        points: the start and the settled load.
        peak, time_current: the verdict of both schools on this start.
        row: the breaker's row of the result.
    """

    name: str
    rating_a: float
    standard: str
    amps: tuple[float, ...]
    early_s: tuple[float, ...]
    nominal_s: tuple[float, ...]
    late_s: tuple[float, ...]
    warm_s: tuple[float, ...]
    points: tuple[CurvePoint, ...]
    peak: str
    time_current: str
    row: BreakerRow


@lru_cache(maxsize=512)
def _times(
    standard: str, rating_a: float, edge: str, outdoor_c: float, heat: float = 0.0
) -> tuple[float, ...]:
    c = curve(standard, rating_a, edge, outdoor_c)
    return tuple(
        min(max(t, MIN_S), MAX_S) if math.isfinite(t := c.trip_s(x, heat)) else math.nan
        for x in MULTIPLES
    )


def breaker_plot(checked: Checked, start: Start | None) -> BreakerPlot | None:
    """The plot of the breaker that is nearest to tripping: by what the start draws, else by what is
    settled; None without breakers.

    Args:
        checked: a check that keeps what pictures need.
        start: the start it is drawn for.

    Returns:
        The plot, or None.
    """
    rows = checked.result.breakers
    if not rows:
        return None
    order = {"yes": 0, "early": 1, "no": 2}
    row = min(rows, key=lambda r: (order[r.start_trips], -r.amps / r.rating_a, r.rating_a))
    heat = (row.warm_amps / row.rating_a) ** 2
    outdoor_c = checked.case.setup.conditions.outdoor_c
    points = [CurvePoint(row.amps, LONG_S, f"settled {row.amps:.1f} A")]
    if start is not None and math.isfinite(start.seconds):
        said = f"start {start.peak_a:.0f} A for {start.seconds:.1f} s"
        points.insert(
            0,
            CurvePoint(start.peak_a + checked.case.source.also_a, max(start.seconds, MIN_S), said),
        )
    wanted = (start.wanted_a if start is not None else row.amps) + checked.case.source.also_a
    early, nominal, late = (_times(row.standard, row.rating_a, edge, outdoor_c) for edge in EDGES)
    return BreakerPlot(
        row.name,
        row.rating_a,
        row.standard,
        tuple(x * row.rating_a for x in MULTIPLES),
        early,
        nominal,
        late,
        _times(row.standard, row.rating_a, NOMINAL, outdoor_c, min(heat, 1.0)),
        tuple(points),
        f"{wanted:.0f} A at the peak is {'over' if wanted > row.rating_a else 'under'} "
        f"the {row.rating_a:.0f} A rating",
        {
            "yes": "it trips on this start",
            "early": "a nominal one holds this start, an early one trips",
            "no": "it holds this start",
        }[row.start_trips],
        row,
    )
