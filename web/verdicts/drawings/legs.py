"""The legs as two stacks with the neutral between them: each load a block, as wide as its figure is
certain; 240 V loads span.
"""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.loads.demand import L1L2
from ironmargin.verdict.check import Checked
from ironmargin.verdict.rows import of_leg
from web.design.drawing import Axis

WIDTH, TOP, FOOT = 240.0, 16.0, 250.0
LEG_WIDTH, NEUTRAL_X, NEUTRAL_WIDTH, SECOND_X = 92.0, 106.0, 28.0, 148.0
SINGLE_WIDTH = 160.0
CERTAIN = {"measured": 1.0, "plate": 0.92, "typical": 0.74, "rounded-up": 0.6}
"""How much of the leg's width a block takes, by where its figure comes from."""


@dataclass(frozen=True)
class Block:
    """A load on its leg, or across both."""

    name: str
    amps: float
    provenance: str
    sure: bool
    x: float
    y: float
    width: float
    height: float
    letters: int


@dataclass(frozen=True)
class Column:
    """A leg: its figures and where its limit lies; ``amps`` and ``watts`` of its loads at once,
    half of those at 240 V; ``hours_a``, ``hours_w`` what the limit for hours is held against;
    ``limit_w`` at nominal volts.
    """

    name: str
    amps: float
    hours_a: float
    watts: float
    hours_w: float
    volts: float | None
    limit_a: float | None
    limit_w: float | None
    limit_y: float | None
    x: float
    width: float
    over: bool


@dataclass(frozen=True)
class Legs:
    """The drawing, and what the neutral carries; ``sure`` and ``guess`` are the blocks as path
    data, ``label`` the whole in words.
    """

    columns: list[Column]
    blocks: list[Block]
    neutral_a: float
    neutral_limit_a: float | None
    neutral_y: float | None
    neutral_height: float
    tied: bool
    single: bool
    sure: str
    guess: str
    label: str
    foot: float = FOOT


def _boxes(blocks: list[Block]) -> str:
    return "".join(
        f"M{b.x:.1f} {b.y:.1f}h{b.width:.1f}v{b.height:.1f}h{-b.width:.1f}z" for b in blocks
    )


def _label(columns: list[Column], neutral_a: float, blocks: list[Block]) -> str:
    """The drawing as it is read aloud."""
    legs = (
        f"{c.name} {c.amps:.1f} A{f' of {c.limit_a:.1f}' if c.limit_a else ''}" for c in columns
    )
    loads = (f"{b.name} {b.amps:.1f} A, {b.provenance}" for b in blocks)
    return f"{'; '.join(legs)}; neutral {neutral_a:.1f} A. {'; '.join(loads)}"


def draw_legs(checked: Checked) -> Legs:
    """Stack the settled amps of each leg."""
    case, result = checked.case, checked.result
    tied = case.feed.upstream.tied
    names = ["L1 = L2"] if tied else [n for n in ("L1", "L2") if n in result.legs]
    single = len(names) == 1
    places: list[list[tuple[str, float, str]]] = [[], [], []]
    for demand in case.demands:
        amps = abs(sum(d.va for d in demand.steady)) / demand.steady[0].bus_v
        places[0 if tied or single else demand.leg].append(
            (demand.load.name, amps, demand.load.provenance)
        )
    across = sum(a for _, a, _ in places[2])
    totals = [across + sum(a for _, a, _ in places[n]) for n in range(len(names))]
    limits = [result.legs[n.split(" ")[0]].limit_a for n in names]
    scale = Axis(0.0, 1.1 * max([*totals, *(x for x in limits if x is not None), 1.0]), FOOT, TOP)
    blocks: list[Block] = []

    def stack(loads: list[tuple[str, float, str]], x: float, width: float, under: float) -> float:
        for name, amps, known in sorted(loads, key=lambda s: s[1]):
            y = scale.at(under + amps)
            share = width * CERTAIN[known]
            height, letters = max(scale.at(under) - y - 1.0, 0.5), max(int(share / 6.6) - 5, 2)
            blocks.append(
                Block(
                    name, amps, known, known in ("measured", "plate"), x, y, share, height, letters
                )
            )
            under += amps
        return under

    base = stack(places[2], 0.0, WIDTH, 0.0)
    columns = []
    for n, (name, limit) in enumerate(zip(names, limits, strict=True)):
        x, width = (0.0, SINGLE_WIDTH) if single else ((0.0, SECOND_X)[n], LEG_WIDTH)
        stack(places[n], x, width, base)
        row = result.legs[name.split(" ")[0]]
        amps = max(float(a) for a in checked.now.amps) if tied else row.a
        limited = of_leg(checked.now, checked.rows, n)
        hours_a = float(limited[0].value) / case.turns if limited else amps
        watts = sum(
            d.va.real * (0.5 if demand.leg == L1L2 and not single and not tied else 1.0)
            for demand in case.demands
            if tied or single or demand.leg in (n, L1L2)
            for d in demand.steady
        )
        columns.append(
            Column(
                name,
                amps,
                hours_a,
                watts,
                watts * hours_a / amps if amps else 0.0,
                row.v,
                limit,
                limit * case.source.nominal_v if limit else None,
                scale.at(limit) if limit else None,
                x,
                width,
                bool(limit and hours_a > limit),
            )
        )
    neutral = result.legs["N"]
    neutral_y = None if single else scale.at(base + neutral.a)
    return Legs(
        columns,
        blocks,
        neutral.a,
        neutral.limit_a,
        neutral_y,
        scale.at(base) - neutral_y if neutral_y is not None else 0.0,
        tied,
        single,
        _boxes([b for b in blocks if b.sure]),
        _boxes([b for b in blocks if not b.sure]),
        _label(columns, neutral.a, blocks),
    )
