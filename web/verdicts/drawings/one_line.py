"""The one-line diagram of a setup: supply, path, panel and its circuits from top to bottom."""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.path.trace import part_name
from ironmargin.planning.panel import Panel
from ironmargin.setup.hookup import Cord, Transfer
from ironmargin.setup.model import Setup

WIDTH, LEFT, BOX, HEIGHT, STEP, ROW = 640.0, 20.0, 230.0, 34.0, 52.0, 30.0
BUS_X, BRANCH_X = 300.0, 340.0


@dataclass(frozen=True)
class Box:
    """A box on the line: its place and its words; ``wire`` where it is only a length of cord."""

    y: float
    title: str
    words: str
    wire: bool = False


@dataclass(frozen=True)
class Branch:
    """A circuit off the bus."""

    y: float
    breaker: str
    words: str


@dataclass(frozen=True)
class OneLine:
    """The drawing: boxes down the line, branches off the bus, and the whole in words."""

    boxes: list[Box]
    branches: list[Branch]
    panel_y: float
    bus_end: float
    height: float
    label: str
    width: float = WIDTH


def draw_one_line(setup: Setup, panel: Panel, supply: str) -> OneLine:
    """The diagram of a setup; ``supply`` is what feeds it, in words."""
    boxes = [Box(10.0, "Supply", supply)]
    for item in setup.hookup:
        name = part_name(item)
        more = []
        rating = getattr(item, "rating_a", None)
        if rating:
            more.append(f"{rating:g} A")
        if isinstance(item, Transfer):
            more.append("neutral switched" if item.switched_neutral else "neutral solid")
        boxes.append(
            Box(
                10.0 + STEP * len(boxes),
                f"{name[:1].upper()}{name[1:]}",
                ", ".join(more),
                isinstance(item, Cord),
            )
        )
    panel_y = 10.0 + STEP * len(boxes)
    boxes.append(Box(panel_y, f"Main {setup.rig.main_a:g} A", f"{setup.rig.service} V panel"))
    branches = [
        Branch(
            panel_y + HEIGHT + ROW * (at + 1),
            f"{row.breaker_a:g} A {row.leg}" if row.breaker_a else row.leg,
            f"{row.circuit + ': ' if row.circuit else ''}"
            f"{', '.join(row.loads) or 'nothing on it'}, {row.amps:.1f} A",
        )
        for at, row in enumerate(panel.rows)
    ]
    bus_end = branches[-1].y if branches else panel_y + HEIGHT
    label = "; ".join([f"{b.title} {b.words}" for b in boxes] + [b.words for b in branches])
    return OneLine(boxes, branches, panel_y, bus_end, bus_end + 30.0, label)
