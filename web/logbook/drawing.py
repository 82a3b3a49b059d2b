"""A captured start as SVG paths."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ironmargin.learning.entries import PlugEntry
from ironmargin.learning.plug import STOP_C, Felt
from ironmargin.limits.contact import RISE_K

WIDTH, HEIGHT = 560.0, 160.0
MAX = 700


@dataclass(frozen=True)
class Trace:
    """Amps and volts over time as path data, and the ends of both axes."""

    amps: str
    volts: str
    max_a: float
    max_v: float
    seconds: float


def draw_trace(rows: tuple[tuple[float, float, float], ...]) -> Trace:
    """Draw a capture; long ones are thinned, keeping the highest amps of each stretch."""
    every = max(len(rows) // MAX, 1)
    stored = [max(rows[n : n + every], key=lambda r: r[1]) for n in range(0, len(rows), every)]
    seconds = max(rows[-1][0], 1e-6)
    max_a = max(max(r[1] for r in rows), 1.0)
    max_v = max(max(r[2] for r in rows), 1.0)

    def path(column: int, maximum: float) -> str:
        points = [
            f"{WIDTH * r[0] / seconds:.1f} {HEIGHT * (1 - r[column] / (1.05 * maximum)):.1f}"
            for r in stored
        ]
        return "M" + "L".join(points)

    volts = path(2, max_v) if max_v > 1.0 else ""
    return Trace(path(1, max_a), volts, max_a, max_v, seconds)


RINGS = range(80, 34, -5)
HALF = 100.0
RING_ROOM = 14.0
"""Between rings, so that each has room for its figure."""


@dataclass(frozen=True)
class Walk:
    """A noise walk from above: rings each 5 dB as learned, and where it was read."""

    rings: tuple[tuple[int, float], ...]
    dots: tuple[tuple[float, float, float, float], ...]


ANGLES = {"exhaust": 0.0, "beside": 90.0, "away": 180.0}
"""Where a reading is drawn about the set, by the side it was taken on [degrees]."""


def draw_walk(
    at_1m_dba: float, per_doubling_db: float, readings: list[tuple[float, float, str]]
) -> Walk | None:
    """Draw a walk of (distance [m], level [dBA], side); None without one."""
    if not readings or per_doubling_db < 0.5:
        return None
    furthest = max(metres for metres, _, _ in readings) * 1.2
    scale = HALF / furthest
    rings: list[tuple[int, float]] = []
    for dba in RINGS:
        radius = 2.0 ** ((at_1m_dba - dba) / per_doubling_db) * scale
        if radius <= HALF and radius - (rings[-1][1] if rings else 0.0) >= RING_ROOM:
            rings.append((dba, round(radius, 1)))
    dots = []
    for n, (metres, level, side) in enumerate(readings):
        turn = math.radians(ANGLES.get(side, 90.0) + 12.0 * (n % 3))
        x, y = metres * scale * math.cos(turn), -metres * scale * math.sin(turn)
        dots.append((round(x, 1), round(y, 1), level, metres))
    return Walk(tuple(rings), tuple(dots))


PLUG_WIDE, PLUG_HIGH = 300.0, 150.0
MIN_ABOVE_C = 6.0


@dataclass(frozen=True)
class Warming:
    """A plug warming: the band and the middle as path data, what was read, where
    UL 498's rise and the stop lie, and ticks of both axes.
    """

    band: str
    middle: str
    dots: tuple[tuple[float, float], ...]
    allowed_y: float
    stop_y: float
    minutes: tuple[tuple[float, int], ...]
    degrees: tuple[tuple[float, float], ...]


def draw_plug(estimate: Felt, entry: PlugEntry) -> Warming:
    """Draw a plug's temperatures over half an hour and some more."""
    longest = estimate.curve[-1][0]
    low_c = min(entry.air_c, *(c for _, c, _, _ in estimate.curve)) - MIN_ABOVE_C
    high_c = max(STOP_C, *(c for *_, c in estimate.curve)) + MIN_ABOVE_C

    def along(minute: float) -> float:
        return round(PLUG_WIDE * min(minute / longest, 1.0), 1)

    def up(celsius: float) -> float:
        return round(PLUG_HIGH * (high_c - celsius) / (high_c - low_c), 1)

    def path(points: list[tuple[float, float]]) -> str:
        return "M" + "L".join(f"{along(m)} {up(c)}" for m, c in points)

    upper = [(m, c) for m, _, _, c in estimate.curve]
    lower = [(m, c) for m, c, _, _ in reversed(estimate.curve)]
    return Warming(
        path(upper + lower) + "Z",
        path([(m, c) for m, _, c, _ in estimate.curve]),
        tuple(
            (along(one.minute), up(one.surface_c))
            for one in entry.readings
            if one.surface_c is not None
        ),
        up(entry.air_c + RISE_K),
        up(STOP_C),
        tuple((along(m), m) for m in (0, 15, 30, 45)),
        tuple((up(float(c)), float(c)) for c in range(10 * math.ceil(low_c / 10), int(high_c), 20)),
    )
