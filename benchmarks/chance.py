"""How precise the chance of a start is, and for how many starts of the engine:

    .venv/bin/python -m benchmarks.chance

A unit on an inverter set sized so that it starts about so many times in a hundred; the same
question with sixty seeds. Prints the spread over the seeds beside that of plain trials.
"""

from __future__ import annotations

import math
import statistics
from typing import Any

from ironmargin.setup.reading import read_setup
from ironmargin.starting.chance import chance_of
from ironmargin.starting.plan import Plan
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.starts import warm_heat
from ironmargin.verdict.check import examine

SEEDS = 60
ASKED = (0.5, 0.9, 0.99, 0.999)


def scenario(watts: float) -> StartScenario:
    """The start of a unit on an inverter set of so many watts."""
    unit: dict[str, Any] = {
        "id": "u", "name": "unit", "kind": "air-conditioner", "lra_a": 52, "running_a": 9.5,
    }  # fmt: skip
    supply = {"kind": "generator", "continuous_w": 0.9 * watts, "starting_w": watts}
    document = {
        "format": "iron-margin/setup", "version": 1, "name": "q", "supply": supply,
        "rig": {"name": "r", "service": "120", "main_a": 50, "loads": [unit]},
        "wanted": [{"load": "u"}],
    }  # fmt: skip
    case = examine(read_setup(document), quick=True).case
    return StartScenario(case, Plan((case.starters[0],)), warm_heat(case, (0.0, 0.0)))


def sized(requested: float) -> StartScenario:
    """The set on which the unit starts about so often."""
    low, high = 1000.0, 6000.0
    for _ in range(24):
        middle = 0.5 * (low + high)
        low, high = (
            (middle, high)
            if chance_of(scenario(middle), 2000, 1).chance < requested
            else (low, middle)
        )
    return scenario(high)


def estimates(one: StartScenario, trials: int) -> tuple[list[float], float]:
    """The chance with each seed, and how many starts of the engine one took."""
    before = one.engine.runs
    found = [chance_of(one, trials, seed).chance for seed in range(1, SEEDS + 1)]
    return found, (one.engine.runs - before) / SEEDS


def main() -> None:
    for requested in ASKED:
        one = sized(requested)
        for trials in (1000, 4000):
            found, runs = estimates(one, trials)
            mean, spread = statistics.mean(found), statistics.stdev(found)
            plain = math.sqrt(mean * (1.0 - mean) / trials)
            print(
                f"about {requested}: {trials} trials asked for, {runs:.0f} starts, {mean:.4f} ± "
                f"{spread:.4f} over {SEEDS} seeds; plain trials ± {plain:.4f}"
            )


if __name__ == "__main__":
    main()
