"""A captured start as SVG paths."""

from __future__ import annotations

from dataclasses import dataclass

WIDTH, HEIGHT = 560.0, 160.0
MOST = 700


@dataclass(frozen=True)
class Trace:
    """Amps and volts over time as path data, and the ends of both axes."""

    amps: str
    volts: str
    most_a: float
    most_v: float
    seconds: float


def draw_trace(rows: tuple[tuple[float, float, float], ...]) -> Trace:
    """Draw a capture; long ones are thinned, keeping the highest amps of each stretch."""
    every = max(len(rows) // MOST, 1)
    kept = [max(rows[n : n + every], key=lambda r: r[1]) for n in range(0, len(rows), every)]
    seconds = max(rows[-1][0], 1e-6)
    most_a = max(max(r[1] for r in rows), 1.0)
    most_v = max(max(r[2] for r in rows), 1.0)

    def path(column: int, most: float) -> str:
        points = [
            f"{WIDTH * r[0] / seconds:.1f} {HEIGHT * (1 - r[column] / (1.05 * most)):.1f}"
            for r in kept
        ]
        return "M" + "L".join(points)

    volts = path(2, most_v) if most_v > 1.0 else ""
    return Trace(path(1, most_a), volts, most_a, most_v, seconds)
