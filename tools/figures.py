"""Draws the figures of docs/figures.md from the core itself, into docs/drawn (not committed):
``python tools/figures.py``. ``./manual`` does so before it builds the reference.
"""

from __future__ import annotations

import math
import sys
from pathlib import Path

import matplotlib as mpl
import numpy as np
from matplotlib import pyplot as plt
from matplotlib.axes import Axes

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.electrics import motor  # noqa: E402
from ironmargin.enduring.boiloff import boil_off  # noqa: E402
from ironmargin.protection.breaker import EDGES, curve  # noqa: E402
from ironmargin.setup.engines import Generator  # noqa: E402
from ironmargin.setup.model import Conditions, Setup  # noqa: E402
from ironmargin.setup.reading import load_setup  # noqa: E402
from ironmargin.supplies.derate import derating_chain  # noqa: E402
from ironmargin.verdict.check import examine  # noqa: E402
from ironmargin.verdict.picture import picture_of  # noqa: E402

OUT = ROOT / "docs" / "drawn"
STARTS = (("04-same-with-soft-start", "a soft starter"), ("03-unaided-on-a-2000", "unaided"))
"""Two check setups: the same unit on the same set."""
RATED_V, LRA_A, RLA_A = 115.0, 60.0, 12.0
"""The compressor of the torque curves."""


def axes(x: str, y: str) -> Axes:
    """A fresh figure with its axes named."""
    _, found = plt.subplots(figsize=(7.0, 3.6), layout="constrained")
    found.set_xlabel(x)
    found.set_ylabel(y)
    found.grid(alpha=0.3)
    return found


def save(name: str) -> None:
    """Write the figure at hand."""
    plt.legend(frameon=False, fontsize=8, loc="center left", bbox_to_anchor=(1.0, 0.5))
    plt.savefig(OUT / f"{name}.svg", metadata={"Date": None})
    plt.close()


def torque() -> None:
    """Torque of one compressor over its speed, what start gear makes of it at standstill, and what
    it has to turn.
    """
    plot = axes("speed over synchronous [1]", "torque over full load [1]")
    circuit = motor.circuit_of(RATED_V, LRA_A, RLA_A)
    speeds = np.linspace(0.0, 0.99, 150)
    bare = [motor.torque(circuit, RATED_V, 1.0 - s) for s in speeds]
    plot.plot(speeds, bare, label="the rotor alone")
    for gear, factor in motor.GEAR_TORQUE.items():
        plot.plot([0.0], [factor * bare[0]], "o", label=f"{gear}, at standstill")
    for wait_s, words in ((600.0, "asked, pressures equal"), (0.0, "asked, just stopped")):
        breakaway = motor.breakaway_after(wait_s, "capillary")
        at_speed = motor.load_after_start(wait_s, "capillary")
        requested = [motor.load_torque(s, breakaway, at_speed) for s in speeds]
        plot.plot(speeds, requested, "--", color="grey", label=words)
    save("torque")


def breaker() -> None:
    """When a 30 A breaker opens: its band, cold and in a hot box."""
    plot = axes("amps over rating [1]", "opens after [s]")
    multiples = np.geomspace(1.01, 8.0, 200)
    for outdoor_c, style in ((20.0, "-"), (43.0, "--")):
        for edge in EDGES:
            held = curve("UL489", 30.0, edge, outdoor_c)
            times = [t if math.isfinite(t := held.trip_s(x)) else math.nan for x in multiples]
            plot.plot(multiples, times, style, label=f"{edge}, {outdoor_c:.0f} °C outdoors")
    plot.set_xscale("log")
    plot.set_yscale("log")
    plot.set_ylim(0.01, 1e4)
    save("breaker")


def start() -> None:
    """Volts through the start of one unit on a 2,000 W set, with and without a soft starter."""
    plot = axes("time [s]", "volts at the panel [V]")
    for name, words in STARTS:
        setup: Setup = load_setup(ROOT / "tests" / "setups" / f"{name}.setup.json")
        first = examine(setup, quick=True).starts[0]
        load = setup.rig.loads[0].id
        checked = examine(setup, trials=20, picture=load)
        shown = picture_of(checked, next(iter(checked.starts)))
        plot.plot(shown.t_s, shown.volts, label=f"{words}: {first.outcome}")
    save("start")


def derate() -> None:
    """What height and heat leave of a set."""
    plot = axes("height above the sea [m]", "share of the plate left [1]")
    heights = np.linspace(0.0, 3000.0, 60)
    for outdoor_c in (15.0, 30.0, 43.0):
        for fuel, style in (("gasoline", "-"), ("propane", "--")):
            unit = Generator(continuous_w=1800.0, starting_w=2200.0, fuel=fuel)
            left = [
                derating_chain(unit, Conditions(outdoor_c=outdoor_c, altitude_m=float(h)))[
                    -1
                ].continuous_w
                / unit.continuous_w
                for h in heights
            ]
            plot.plot(heights, left, style, label=f"{fuel}, {outdoor_c:.0f} °C")
    save("derate")


def cylinder() -> None:
    """The gauge pressure of a 20 lb cylinder that feeds a set, by the air around it."""
    plot = axes("hours", "pressure in the cylinder over the air [kPa]")
    for air_c in (20.0, 0.0, -10.0):
        found = boil_off(9.07, 1.0, 1, air_c, 0.55, altitude_m=0.0, starts=True, step_s=60.0)
        plot.plot(found.t_s / 3600.0, found.gauge_pa / 1000.0, label=f"air at {air_c:.0f} °C")
    plot.set_ylim(bottom=0.0)
    save("cylinder")


def main() -> None:
    """Draw them all."""
    mpl.use("svg")
    plt.rcParams |= {"svg.hashsalt": "iron margin", "font.size": 10}
    OUT.mkdir(exist_ok=True)
    for draw in (torque, breaker, start, derate, cylinder):
        draw()


if __name__ == "__main__":
    main()
