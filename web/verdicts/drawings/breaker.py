"""The time-current plot of a breaker on log axes. Figures in, path data out."""

from __future__ import annotations

import math

import numpy as np

from ironmargin.verdict.curves import MAX_S, MIN_S, BreakerPlot
from web.design.context import Context
from web.design.drawing import Axis

LEFT, RIGHT, TOP, FOOT = 52.0, 322.0, 12.0, 208.0
TIMES = (
    (0.01, "10 ms"),
    (0.1, "0.1 s"),
    (1.0, "1 s"),
    (10.0, "10 s"),
    (60.0, "1 min"),
    (600.0, "10 min"),
    (3600.0, "1 h"),
)
MULTIPLES = (1, 2, 3, 5, 10, 20)


def draw_breaker(plot: BreakerPlot | None) -> Context | None:
    """The band (early to late, cold), the nominal curve cold and warm, and the points of start and
    settled load.
    """
    if plot is None:
        return None
    minimum = min(0.5, *(p.amps / plot.rating_a for p in plot.points))
    x = Axis(math.log10(max(minimum * 0.8, 0.05)), math.log10(20.0), LEFT, RIGHT)
    y = Axis(math.log10(MIN_S), math.log10(MAX_S), FOOT, TOP)

    def at(amps: float, seconds: float) -> tuple[float, float]:
        return x.at(math.log10(max(amps, 1e-3) / plot.rating_a)), y.at(
            math.log10(min(max(seconds, MIN_S), MAX_S))
        )

    across = x.at(np.log10(np.array(plot.amps) / plot.rating_a))

    def curve(times: tuple[float, ...]) -> list[str]:
        trips = ~np.isnan(times)
        down = y.at(np.log10(np.clip(np.array(times)[trips], MIN_S, MAX_S)))
        points = list(zip(across[trips].tolist(), down.tolist(), strict=True))
        # From the last current it holds for good the curve comes straight down from above.
        return [
            f"{px:.1f} {py:.1f}" for px, py in ([(points[0][0], TOP), *points] if points else [])
        ]

    early, late = curve(plot.early_s), curve(plot.late_s)
    return {
        "name": plot.name,
        "rating_a": plot.rating_a,
        "standard": plot.standard,
        "band": f"M{'L'.join(early + late[::-1])}Z",
        "nominal": "M" + "L".join(curve(plot.nominal_s)),
        "warm": "M" + "L".join(curve(plot.warm_s)),
        "points": [
            {"x": px, "y": py, "words": words, "end": px > 220}
            for (px, py), words in ((at(p.amps, p.seconds), p.words) for p in plot.points)
        ],
        "x_ticks": [(f"{m * plot.rating_a:g}", x.at(math.log10(m))) for m in MULTIPLES],
        "y_ticks": [(words, y.at(math.log10(t))) for t, words in TIMES],
        "peak": plot.peak,
        "time_current": plot.time_current,
        "warm_amps": plot.row.warm_amps,
        "hold_s_early": plot.row.hold_s_early,
        "hold_s_nominal": plot.row.hold_s_nominal,
        "hold_s_late": plot.row.hold_s_late,
    }
