"""How fast a week is: python benchmarks/endure.py. A week at 10 s steps with 20 duty-cycled loads
on a battery with assist; prints figures.
"""

from __future__ import annotations

import statistics
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.case import prepare
from ironmargin.enduring.battery import run_battery
from ironmargin.enduring.duty import load_series
from ironmargin.setup.reading import read_setup

WEEK_H, STEP_S = 168.0, 10.0


def main() -> None:
    loads = [
        {
            "id": f"l{n}",
            "name": f"Load {n}",
            "kind": "resistive",
            "watts": 80 + 10 * n,
            "voltage_v": 230,
            "on_s": 120 + 30 * n,
            "off_s": 600 + 40 * n,
        }
        for n in range(20)
    ]
    supply = {
        "kind": "assist",
        "input": {"kind": "shore", "breaker_a": 16, "voltage_v": 230},
        "input_limit_a": 4,
        "inverter": {
            "kind": "battery-inverter",
            "continuous_w": 5000,
            "surge_w": 9000,
            "voltage_v": 230,
            "output": "230",
            "battery_wh": 20000,
        },
    }
    setup = read_setup(
        {
            "format": "iron-margin/setup",
            "version": 1,
            "name": "week",
            "supply": supply,
            "wanted": [{"load": x["id"]} for x in loads],
            "rig": {"name": "week", "service": "230", "main_a": 32, "loads": loads},
        }
    )
    case = prepare(setup)
    times = []
    for _ in range(9):
        begun = time.perf_counter()
        load = load_series(case, WEEK_H, STEP_S)
        run_battery(setup.supply.inverter, load, STEP_S, input_limit_w=920.0)
        times.append((time.perf_counter() - begun) * 1000)
    times.sort()
    print(
        f"a week at {STEP_S:g} s, {len(load):,} steps, 20 loads: p50 "
        f"{statistics.median(times):.0f} ms, worst {times[-1]:.0f} ms"
    )


if __name__ == "__main__":
    main()
