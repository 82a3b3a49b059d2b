"""A bench run as a meter sees it: what stands in its registers at a moment.

The bench's rows are the truth. Between two rows what was last stands on; a start's own rows lie a
few hundredths of a second apart. The meter adds its noise and rounds to its registers, shows what
was at its last update, and holds the true peak since its last reset, as a peak-hold circuit does.
"""

from __future__ import annotations

import bisect
import random

from ironmargin.bench.clock import Bench
from ironmargin.bench.play import run_script
from ironmargin.bench.script import Act, Begin, Script
from ironmargin.case import prepare
from ironmargin.setup.model import Setup
from ironmargin_meter.registers import Reading

NOISE = 0.004
"""Standard deviation of a reading [1] (memory: a meter of class 0.5)."""
LOOP_S = 240.0
OPENS = ("set", "post", "main")


def usual_script(setup: Setup) -> Script:
    """Everything wanted, switched on one after the other and off again, in four minutes."""
    steps = [Act(at_s=0.0, do="set", on=True)]
    at = 5.0
    for wanted in setup.wanted:
        steps.append(Act(at_s=at, do="load", what=wanted.load, on=True, mode=wanted.mode))
        steps.append(Act(at_s=LOOP_S - 60.0, do="load", what=wanted.load, on=False))
        at += min(40.0, (LOOP_S - 120.0) / max(len(setup.wanted), 1))
    for at_s in range(90, int(LOOP_S), 90):  # somebody presses what has opened
        steps += [Act(at_s=float(at_s), do="reset", what=where) for where in OPENS]
    return Script(hours=LOOP_S / 3600.0, begin=Begin(all="off"), steps=tuple(steps))


class Reel:
    """A script run once, and read as often as one likes."""

    def __init__(self, setup: Setup, script: Script | None = None, *, seed: int = 1) -> None:
        script = script or usual_script(setup)
        bench: Bench = run_script(setup, script)
        source = prepare(setup).source
        self.rows = bench.rows
        self.times = [row[0] for row in self.rows]
        self.lasts_s = script.hours * 3600.0
        self.hz = source.frequency_hz
        self.split = source.conductors > 1
        self.draw = random.Random(seed)  # noqa: S311  (noise, not secret)
        energy = [0.0]
        for before, after in zip(self.rows, self.rows[1:], strict=False):
            energy.append(energy[-1] + before[4] * (after[0] - before[0]) / 3600.0)
        self.energy = energy

    def _row(self, t_s: float) -> int:
        return max(bisect.bisect_right(self.times, t_s) - 1, 0)

    def at(self, t_s: float, since_s: float, beat: int) -> Reading:
        """The registers at a moment, the holds since another; the reel begins again at its end."""
        turn, at = divmod(t_s, self.lasts_s)
        n = self._row(at)
        row = self.rows[n]
        first = self._row(max(since_s - turn * self.lasts_s, 0.0))
        held = self.rows[first : n + 1]
        live = [r[3] for r in held if r[3] > 0.0]

        def seen(value: float) -> float:
            return max(value * (1.0 + self.draw.gauss(0.0, NOISE)), 0.0)

        wh = self.energy[n] + row[4] * (at - row[0]) / 3600.0
        amps = (seen(row[1]), seen(row[2]))
        return {
            "volts_1": seen(row[3]),
            "volts_2": seen(row[3]) if self.split else 0.0,
            "amps_1": amps[0],
            "amps_2": amps[1],
            "hz": self.hz if row[3] > 0.0 else 0.0,
            "watts": seen(row[4]),
            "wh": wh + turn * self.energy[-1],
            "held_a_1": max(amps[0], *(r[1] for r in held)),
            "held_a_2": max(amps[1], *(r[2] for r in held)),
            "held_v": min(live, default=0.0),
            "beat": float(beat % 65536),
        }
