"""The geometry of the drawings: the bar with its necks and fractures, and the axes of a plot.
Figures in, paths out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

T = TypeVar("T", float, NDArray[np.float64])
FULL_MARGIN = 0.5
"""From this margin on the bar is at its full thickness."""
NECK_SHARE = 0.30
STATE_SHAPES = {
    "holds": "M-5 0A5 5 0 1 1 5 0A5 5 0 1 1 -5 0Z",
    "thin": "M0 -6L6 0L0 6L-6 0Z",
    "fails": "M-4 -4L4 4M4 -4L-4 4",
}
"""A mark for each state, as SVG path data: never colour alone."""
SMALL = 86.0, 22.0
"""Length and height of a bar in a list."""


@dataclass(frozen=True)
class Mark:
    """One station on the drawn bar: its state and the shapes laid over it, as SVG path data."""

    key: str
    state: str
    shape: str


@dataclass(frozen=True)
class Bar:
    """A drawn bar: the sound pieces as SVG path data, and the marks over them."""

    width: float
    height: float
    pieces: tuple[str, ...]
    marks: tuple[Mark, ...]


def half_thickness(margin: float, maximum: float) -> float:
    """Half the bar's thickness at a margin; a broken bar keeps a stub."""
    minimum = 0.16 * maximum
    share: float = min(max(margin, 0.0) / FULL_MARGIN, 1.0) ** 0.8
    return minimum + (maximum - minimum) * share


def bar(
    stations: Sequence[tuple[str, float, str]],
    length: float,
    across: float,
    *,
    upright: bool = False,
) -> Bar:
    """Draw the bar over (key, margin, state) stations.

    Args:
        length, across: room along and across the bar; upright: runs from top to bottom.
    """
    mid, pitch = across / 2, length / max(len(stations), 1)
    maximum = 0.46 * across
    flat, gap = NECK_SHARE * pitch, min(0.09 * pitch, 9.0)

    def at(along: float, off: float) -> str:
        x, y = (mid + off, along) if upright else (along, mid + off)
        return f"{x:.1f} {y:.1f}"

    halves = [half_thickness(m if s != "fails" else 0.0, maximum) for _, m, s in stations]
    centres = [(n + 0.5) * pitch for n in range(len(stations))]

    def edge(numbers: Sequence[int], side: float, start: float, end: float) -> list[str]:
        """Points of one edge over some stations, with smooth transitions between their flats."""
        out = []
        for place, n in enumerate(numbers):
            left = start if place == 0 else centres[n] - flat
            right = end if place == len(numbers) - 1 else centres[n] + flat
            if place:
                before, here = centres[numbers[place - 1]] + flat, left
                half = (before + here) / 2
                out.append(
                    f"C{at(half, side * halves[numbers[place - 1]])} "
                    f"{at(half, side * halves[n])} {at(here, side * halves[n])}"
                )
            else:
                out.append(at(left, side * halves[n]))
            out.append(f"L{at(right, side * halves[n])}")
        return out

    def piece(
        numbers: Sequence[int], start: float, end: float, torn_start: bool, torn_end: bool
    ) -> str:
        top = edge(numbers, -1.0, start, end)
        bottom = edge(numbers, 1.0, start, end)
        path = "M" + top[0] + "".join(top[1:])
        path += tear(end, halves[numbers[-1]], 1.0) if torn_end else ""
        back = reverse(bottom)
        path += "L" + back[0] + "".join(back[1:])
        path += tear(start, halves[numbers[0]], -1.0) if torn_start else ""
        return path + "Z"

    def tear(along: float, half: float, way: float) -> str:
        """The jagged end of a broken bar."""
        steps = (-0.5, 0.0, 0.5) if way > 0 else (0.5, 0.0, -0.5)
        depth = (-0.55, 0.35, -0.75)
        return "".join(
            f"L{at(along + way * gap * d, half * s)}" for s, d in zip(steps, depth, strict=True)
        )

    pieces, marks, run, start, torn = [], [], [], 0.0, False
    for n, (key, _, state) in enumerate(stations):
        run.append(n)
        if state == "fails":
            pieces.append(piece(run, start, centres[n] - gap, torn, True))
            left = piece([n], centres[n] - flat, centres[n] - gap, False, True)
            right = piece([n], centres[n] + gap, centres[n] + flat, True, False)
            marks.append(Mark(key, state, left + right))
            run, start, torn = [n], centres[n] + gap, True
        elif state == "thin":
            marks.append(
                Mark(key, state, piece([n], centres[n] - flat, centres[n] + flat, False, False))
            )
    if run:
        pieces.append(piece(run, start, length, torn, False))
    width, height = (across, length) if upright else (length, across)
    return Bar(width, height, tuple(pieces), tuple(marks))


def reverse(edge: Sequence[str]) -> list[str]:
    """The same edge walked the other way: first point bare, then L and C commands."""
    points: list[tuple[str, list[str]]] = []
    for item in edge:
        kind, body = (item[0], item[1:]) if item[0] in "LC" else ("M", item)
        numbers = body.split(" ")
        points.append((kind, [" ".join(numbers[i : i + 2]) for i in range(0, len(numbers), 2)]))
    out = [points[-1][1][-1]]
    for at in range(len(points) - 1, 0, -1):
        kind, here = points[at]
        before = points[at - 1][1][-1]
        out.append(f"L{before}" if kind == "L" else f"C{here[1]} {here[0]} {before}")
    return out


def nice_ticks(low: float, high: float, about: int = 5) -> list[float]:
    """Round values between two figures, about so many."""
    span = max(high - low, 1e-9)
    raw = span / about
    power = 10.0 ** math.floor(math.log10(raw))
    step = next(s * power for s in (1, 2, 2.5, 5, 10) if s * power >= raw)
    first = math.ceil(low / step)
    return [(first + n) * step for n in range(int(high / step - first + 1e-6) + 1)]


@dataclass(frozen=True)
class Axis:
    """A linear axis from figures to places on the drawing."""

    low: float
    high: float
    start: float
    end: float

    def at(self, value: T) -> T:
        """The place of a figure, or of an array of them."""
        share = (value - self.low) / (self.high - self.low)
        return self.start + (self.end - self.start) * share

    def ticks(self, about: int = 5) -> list[tuple[float, float]]:
        """(figure, place) of round values."""
        return [(v, self.at(v)) for v in nice_ticks(self.low, self.high, about)]


def line(xs: Sequence[float], ys: Sequence[float], x: Axis, y: Axis) -> str:
    """Path data of a line through figures, points that lie on a straight run left out."""
    across, up = x.at(np.asarray(xs, dtype=float)), y.at(np.asarray(ys, dtype=float))
    points = np.round(np.stack([across, up], axis=1), 1)
    step = np.diff(points, axis=0)
    stored = np.ones(len(points), dtype=bool)
    stored[1:-1] = step[:-1, 1] * step[1:, 0] != step[1:, 1] * step[:-1, 0]
    return "M" + "L".join(f"{a:g} {b:g}" for a, b in points[stored].tolist())


def area(xs: Sequence[float], low: Sequence[float], high: Sequence[float], x: Axis, y: Axis) -> str:
    """Path data of the band between two lines."""
    return line(xs, high, x, y) + "L" + line(list(xs)[::-1], list(low)[::-1], x, y)[1:] + "Z"


def small_bar(margin: float, verdict: str) -> Bar:
    """A bar of one margin between two sound ends, for lists."""
    ends = ("a", FULL_MARGIN, "holds"), ("c", FULL_MARGIN, "holds")
    return bar([ends[0], ("b", margin, verdict), ends[1]], *SMALL)
