"""A rig as a picture for lists: its legs as bars, each load a piece as long as its amps."""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.electrics.services import HIGH_V
from ironmargin.errors import SetupError
from ironmargin.setup.parts import read_rig
from ironmargin.sustaining.totals import totals
from web.design.drawing import Axis

ROW = 26.0
LEFT, RIGHT = 26.0, 356.0
BOTH = "L1L2"
ROOM = 1.12
"""How much longer the drawing is than its fullest leg."""
LETTER = 6.4


@dataclass(frozen=True)
class Piece:
    """A load on a leg: where it lies, and its name as far as there is room."""

    x: float
    width: float
    name: str
    label: str


@dataclass(frozen=True)
class LegBar:
    """A leg with all its loads on."""

    name: str
    y: float
    amps: float
    pieces: list[Piece]


@dataclass(frozen=True)
class RigDrawing:
    """The legs of a rig, and where its main breaker's rating lies, ``beyond`` the drawing or on it;
    ``label`` says the same.
    """

    legs: list[LegBar]
    height: float
    main_a: float
    main_x: float
    beyond: bool
    label: str


def draw_rig(document: Document) -> RigDrawing | None:
    """A rig with everything on; None where it has a fault or nothing in it."""
    try:
        rig = read_rig(document)
        total = totals(rig)
    except SetupError:
        return None
    if not rig.loads:
        return None
    maximum = ROOM * max(total.legs.values())
    scale = Axis(0.0, max(maximum, 1.0), LEFT, RIGHT)
    legs = []
    for n, (name, amps) in enumerate(total.legs.items()):
        on_leg = [
            x
            for x in rig.loads
            if len(total.legs) == 1 or x.voltage_v > HIGH_V or (x.leg or "L1") in (name, BOTH)
        ]
        at, pieces = LEFT, []
        for load in sorted(on_leg, key=lambda x: -total.load_amps.get(x.id, 0.0)):
            width = scale.at(total.load_amps.get(load.id, 0.0)) - LEFT
            room = int((width - 6.0) / LETTER)
            label = load.name if len(load.name) <= room else load.name[: max(room - 1, 0)] + "…"
            pieces.append(Piece(at, width, load.name, label if room > 3 else ""))
            at += width
        legs.append(LegBar(name, ROW * n + 4.0, amps, pieces))
    said = "; ".join(f"{leg.name} {leg.amps:.0f} A with everything on" for leg in legs)
    label = f"{said}; main breaker {rig.main_a:g} A"
    main_x = scale.at(rig.main_a)
    height, beyond = ROW * len(legs) + 16.0, main_x > RIGHT
    return RigDrawing(legs, height, rig.main_a, min(main_x, RIGHT), beyond, label)
