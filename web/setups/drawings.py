"""From a check to the figures of its drawings: the bar both ways, the start picture, the legs. No physics here."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from ironmargin.verdict.check import Checked
from ironmargin.verdict.picture import Picture, picture_of
from ironmargin.verdict.stations import Station, stations
from web.design.drawing import Axis, Bar, area, bar, line

BAR_LENGTH, BAR_ACROSS = 1200.0, 64.0
UPRIGHT_PITCH, UPRIGHT_ACROSS = 56.0, 88.0
PLOT_LEFT, PLOT_RIGHT = 44.0, 576.0
AMPS_TOP, AMPS_FOOT, VOLTS_TOP, VOLTS_FOOT = 14.0, 176.0, 206.0, 278.0
LABEL_ROOM = 13.0
LEG_TOP, LEG_FOOT = 16.0, 262.0


@dataclass(frozen=True)
class Plot:
    """The start picture as SVG path data and places."""

    picture: Picture
    amps: str
    volts: str
    band_a: str
    band_v: str
    amp_ticks: list[tuple[float, float]]
    volt_ticks: list[tuple[float, float]]
    time_ticks: list[tuple[float, float]]
    ceilings: list[dict[str, Any]]
    moments: list[dict[str, Any]]
    wanted_y: float
    series: str


@dataclass(frozen=True)
class Block:
    """A load on its leg."""

    name: str
    amps: float
    y: float
    height: float
    sure: bool


@dataclass(frozen=True)
class Column:
    """A leg as a stack of its loads, with its limit."""

    name: str
    amps: float
    volts: float | None
    limit_a: float | None
    limit_y: float | None
    over: bool
    blocks: list[Block]


@dataclass(frozen=True)
class Legs:
    """The legs side by side, and what the neutral carries."""

    columns: list[Column]
    neutral_a: float
    neutral_limit_a: float | None
    tied: bool


def draw_bar(found: tuple[Station, ...]) -> tuple[Bar, Bar]:
    """The bar lying down and standing up."""
    rows = [(s.key, s.margin, s.state) for s in found]
    return bar(rows, BAR_LENGTH, BAR_ACROSS), bar(rows, UPRIGHT_PITCH * len(rows), UPRIGHT_ACROSS, upright=True)


def draw_plot(checked: Checked, load: str | None) -> Plot | None:
    """The start picture of a load, or of the first start there is."""
    start = next((s for s in checked.starts if checked.case.demands[s.starters[0].demand].load.id == load), None)
    start = start or next(iter(checked.starts), None)
    if start is None:
        return None
    p = picture_of(checked, start)
    ceilings = [c for c in p.ceilings if c.amps <= 1.6 * max(p.amps.max(), p.wanted_a * 0.5)]
    top = 1.08 * max([p.amps.max(), *(c.amps for c in ceilings), *(p.high_a.max(initial=0.0),)])
    time = Axis(float(p.t_s[0]), float(p.t_s[-1]), PLOT_LEFT, PLOT_RIGHT)
    amps, volts = Axis(0.0, float(top), AMPS_FOOT, AMPS_TOP), Axis(0.0, 1.12 * max(p.nominal_v, float(p.volts.max())), VOLTS_FOOT, VOLTS_TOP)
    band = len(p.low_a) > 0
    t_s, low_a, high_a, low_v, high_v = (x.tolist() for x in (p.t_s, p.low_a, p.high_a, p.low_v, p.high_v))
    marks = []
    for n, m in enumerate(p.moments):
        marks.append({"x": time.at(m.t_s), "words": m.words, "end": time.at(m.t_s) > 470, "y": AMPS_FOOT + 14 + (LABEL_ROOM if n % 2 else 0)})
    return Plot(
        p, line(t_s, p.amps.tolist(), time, amps), line(t_s, p.volts.tolist(), time, volts),
        area(t_s, low_a, high_a, time, amps) if band else "", area(t_s, low_v, high_v, time, volts) if band else "",
        amps.ticks(4), volts.ticks(2),
        [(v, x) for v, x in time.ticks(5) if x < PLOT_RIGHT - 20], _ceilings(ceilings, amps), marks, amps.at(min(p.wanted_a, float(top))), _series(p, time))


def _ceilings(ceilings: list[Any], amps: Axis) -> list[dict[str, Any]]:
    """Ceilings with their labels kept apart."""
    out: list[dict[str, Any]] = []
    for c in sorted(ceilings, key=lambda c: -c.amps):
        y = amps.at(c.amps)
        label = y - 4
        if out and label - out[-1]["label_y"] < LABEL_ROOM:
            label = max(y + 11, out[-1]["label_y"] + LABEL_ROOM)
        out.append({"y": y, "words": c.words, "amps": c.amps, "dashed": c.dashed, "label_y": label})
    return out


def _series(p: Picture, time: Axis) -> str:
    """What the reading cursor reads: places and figures, every other point."""
    figures = list(zip(p.t_s.tolist(), p.amps.tolist(), p.volts.tolist(), strict=True))[::2]
    rows = [[round(time.at(t), 1), round(t, 3), round(a, 1), round(v, 1)] for t, a, v in figures]
    return json.dumps(rows, separators=(",", ":"))


def draw_legs(checked: Checked) -> Legs:
    """The legs as stacks of settled amps."""
    case, result = checked.case, checked.result
    tied = case.feed.upstream.tied
    names = ["L1 = L2"] if tied else [n for n in ("L1", "L2") if n in result.legs]
    stacks: list[list[tuple[str, float, bool]]] = [[] for _ in names]
    for demand in case.demands:
        amps = abs(sum(d.va for d in demand.steady)) / demand.steady[0].bus_v
        legs = range(len(names)) if demand.leg == 2 else [0 if tied else demand.leg]
        for leg in legs:
            stacks[leg].append((demand.load.name, amps, demand.load.provenance in ("measured", "plate")))
    limits = [result.legs[n.split(" ")[0]].limit_a for n in names]
    totals = [sum(a for _, a, _ in stack) for stack in stacks]
    top = 1.1 * max([*totals, *(x for x in limits if x is not None), 1.0])
    scale = Axis(0.0, top, LEG_FOOT, LEG_TOP)
    columns = []
    for name, stack, limit, total in zip(names, stacks, limits, totals, strict=True):
        blocks, under = [], 0.0
        for load, amps, sure in sorted(stack, key=lambda s: s[1]):
            y = scale.at(under + amps)
            blocks.append(Block(load, amps, y, max(scale.at(under) - y - 1.0, 0.5), sure))
            under += amps
        row = result.legs[name.split(" ")[0]]
        amps = max(checked.now.amps) if tied else row.a
        columns.append(Column(name, amps, row.v, limit, scale.at(limit) if limit else None, bool(limit and total > limit), blocks))
    return Legs(columns, result.legs["N"].a, result.legs["N"].limit_a, tied)


def gives_first(found: tuple[Station, ...]) -> str:
    """The key of the station that is the weakest link; the coincidence is apart and never is."""
    return min((s for s in found if s.check != "coincidence"), key=lambda s: s.margin).key if found else ""


def draw(checked: Checked, load: str | None) -> dict[str, Any]:
    """Everything the verdict's templates draw."""
    found = stations(checked)
    lying, standing = draw_bar(found)
    return {"stations": found, "bar": lying, "bar_upright": standing, "plot": draw_plot(checked, load), "legs": draw_legs(checked),
            "starts": [(s.load, s.name) for s in checked.result.starts], "result": checked.result,
            "gives_first": gives_first(found)}
