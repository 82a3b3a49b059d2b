"""From a check to the figures of its drawings: the bar both ways, the start picture, the legs. No
physics here.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ironmargin.document import Document
from ironmargin.verdict.check import Checked
from ironmargin.verdict.curves import breaker_plot
from ironmargin.verdict.picture import Ceiling, Picture, picture_of
from ironmargin.verdict.stations import Station, stations
from web.design.context import Context
from web.design.drawing import Axis, Bar, area, bar, line
from web.verdicts.drawings.breaker import draw_breaker
from web.verdicts.drawings.legs import draw_legs

BAR_LENGTH, BAR_ACROSS = 1200.0, 64.0
UPRIGHT_PITCH, UPRIGHT_ACROSS = 56.0, 88.0
PLOT_LEFT, PLOT_RIGHT = 44.0, 576.0
AMPS_TOP, AMPS_FOOT, VOLTS_TOP, VOLTS_FOOT = 14.0, 176.0, 206.0, 278.0
LABEL_ROOM = 20.0
MOMENT_ROWS = 13.0, 31.0
"""Where the moments' names stand by turns, so far apart that they do on a phone, too."""


@dataclass(frozen=True)
class Plot:
    """The start picture as SVG path data and places; ``over`` the start of another question on the
    same axes.
    """

    load: str
    name: str
    wanted_a: float
    amps: str
    volts: str
    band_a: str
    band_v: str
    amp_ticks: list[tuple[float, float]]
    volt_ticks: list[tuple[float, float]]
    time_ticks: list[tuple[float, float]]
    ceilings: list[Document]
    moments: list[Document]
    series: str
    over_a: str = ""
    over_v: str = ""


def draw_bar(found: tuple[Station, ...]) -> tuple[Bar, Bar]:
    """The bar lying down and standing up."""
    rows = [(s.key, s.margin, s.state) for s in found]
    return bar(rows, BAR_LENGTH, BAR_ACROSS), bar(
        rows, UPRIGHT_PITCH * len(rows), UPRIGHT_ACROSS, upright=True
    )


def draw_plot(
    checked: Checked, load: str | None, over: Picture | None = None, *, reaching_a: float = 0.0
) -> Plot | None:
    """The start picture of a load, or of the first start there is, with another one over it; the
    axis reaches so many amps at least.
    """
    start = next(
        (s for s in checked.starts if checked.case.demands[s.starters[0].demand].load.id == load),
        None,
    )
    start = start or next(iter(checked.starts), None)
    if start is None:
        return None
    p = picture_of(checked, start)
    both = [p, over] if over is not None else [p]
    ceilings = [c for c in p.ceilings if c.amps <= 1.6 * max(p.amps.max(), p.wanted_a * 0.5)]
    top = 1.08 * max(
        [
            reaching_a,
            p.high_a.max(initial=0.0),
            *(x.amps.max() for x in both),
            *(c.amps for c in ceilings),
        ]
    )
    time = Axis(float(p.t_s[0]), float(max(x.t_s[-1] for x in both)), PLOT_LEFT, PLOT_RIGHT)
    highest = max([p.nominal_v, *(float(x.volts.max()) for x in both)])
    amps, volts = (
        Axis(0.0, float(top), AMPS_FOOT, AMPS_TOP),
        Axis(0.0, 1.12 * highest, VOLTS_FOOT, VOLTS_TOP),
    )
    band = len(p.low_a) > 0
    t_s, low_a, high_a, low_v, high_v = (
        x.tolist() for x in (p.t_s, p.low_a, p.high_a, p.low_v, p.high_v)
    )
    marks = [
        {
            "x": time.at(m.t_s),
            "words": m.words,
            "end": time.at(m.t_s) > 470,
            "y": AMPS_FOOT + MOMENT_ROWS[n % 2],
        }
        for n, m in enumerate(p.moments)
    ]
    return Plot(
        p.load,
        p.name,
        p.wanted_a,
        line(t_s, p.amps.tolist(), time, amps),
        line(t_s, p.volts.tolist(), time, volts),
        area(t_s, low_a, high_a, time, amps) if band else "",
        area(t_s, low_v, high_v, time, volts) if band else "",
        amps.ticks(4),
        volts.ticks(2),
        [(v, x) for v, x in time.ticks(5) if x < PLOT_RIGHT - 20],
        _ceilings(ceilings, amps),
        marks,
        _series(p, time),
        line(over.t_s.tolist(), over.amps.tolist(), time, amps) if over is not None else "",
        line(over.t_s.tolist(), over.volts.tolist(), time, volts) if over is not None else "",
    )


def _ceilings(ceilings: Sequence[Ceiling], amps: Axis) -> list[Context]:
    """Ceilings with their labels kept apart."""
    out: list[Document] = []
    for c in sorted(ceilings, key=lambda c: -c.amps):
        y = amps.at(c.amps)
        label = y - 4
        if out and label - out[-1]["label_y"] < LABEL_ROOM:
            label = max(y + 11, out[-1]["label_y"] + LABEL_ROOM)
        out.append({"y": y, "words": c.words, "amps": c.amps, "dashed": c.dashed, "label_y": label})
    return out


def _series(p: Picture, time: Axis) -> str:
    """What the reading cursor reads: places and figures, every other point."""
    rows = np.column_stack(
        [time.at(p.t_s).round(1), p.t_s.round(3), p.amps.round(1), p.volts.round(1)]
    )
    return json.dumps(rows[::2].tolist(), separators=(",", ":"))


def gives_first(found: tuple[Station, ...]) -> str:
    """The key of the station that is the weakest link; the coincidence is apart and never is."""
    return (
        min((s for s in found if s.check != "coincidence"), key=lambda s: s.margin).key
        if found
        else ""
    )


def draw(checked: Checked, load: str | None, over: Picture | None = None) -> Context:
    """Everything the verdict's templates draw: plain data, and records of it."""
    found = stations(checked)
    lying, standing = draw_bar(found)
    plot = draw_plot(checked, load, over)
    start = next(
        (
            s
            for s in checked.starts
            if plot and checked.case.demands[s.starters[0].demand].load.id == plot.load
        ),
        None,
    )
    breaker = draw_breaker(breaker_plot(checked, start))
    return {
        "stations": found,
        "bar": lying,
        "bar_upright": standing,
        "plot": plot,
        "legs": draw_legs(checked),
        "starts": [(s.load, s.name) for s in checked.result.starts],
        "breaker": breaker,
        "gives_first": gives_first(found),
    }
