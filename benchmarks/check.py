"""How fast a check is: python benchmarks/check.py. Prints figures; tests nothing.

A rig with 4 compressors and 20 loads on a split service: all starts, reserve, 1,000 trials each,
the coincidence; then the same with other numbers of trials and loads; memory; and one start of the
same network in ngspice beside it.
"""

from __future__ import annotations

import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine


def document(compressors: int = 4, others: int = 16, trials: int = 1000) -> dict[str, Any]:
    """The rig of the benchmark, on a 50 A post."""
    loads: list[dict[str, Any]] = [
        {
            "id": f"ac{n}",
            "name": f"Unit {n}",
            "kind": "air-conditioner",
            "running_a": 9,
            "lra_a": 48,
            "fan_high_a": 2,
            "leg": ("L1", "L2")[n % 2],
        }
        for n in range(compressors)
    ]
    kinds: list[dict[str, Any]] = [
        {"kind": "electronic", "watts": 60},
        {"kind": "resistive", "watts": 90},
        {"kind": "charger", "watts": 120},
    ]
    loads += [
        {"id": f"l{n}", "name": f"Load {n}", "leg": ("L1", "L2")[n % 2]} | kinds[n % 3]
        for n in range(others)
    ]
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "benchmark",
        "supply": {"kind": "shore", "breaker_a": 50, "legs": "split"},
        "hookup": [{"kind": "cord", "awg": 6, "length_m": 9}, {"kind": "inlet", "rating_a": 50}],
        "rig": {"name": "benchmark", "service": "120/240", "main_a": 50, "loads": loads},
        "wanted": [{"load": x["id"]} for x in loads],
        "rules": {"trials": trials},
    }


def timed(doc: dict[str, Any], runs: int = 9) -> tuple[float, float]:
    """p50 and p95 of a check [ms]."""
    setup = read_setup(doc)
    examine(setup)
    times = []
    for _ in range(runs):
        begun = time.perf_counter()
        examine(setup)
        times.append((time.perf_counter() - begun) * 1000)
    times.sort()
    return statistics.median(times), times[min(round(0.95 * len(times)), len(times) - 1)]


def spice_ms() -> float:
    """One second of one start of a network of this size in ngspice, as a transient [ms]."""
    net = [
        "* benchmark",
        "V1 s1 0 SIN(0 169.7 60)",
        "V2 s2 0 SIN(0 -169.7 60)",
        "R1 s1 a 0.1",
        "R2 s2 b 0.1",
        "RN n 0 0.1",
    ]
    for n in range(4):
        net += [f"RM{n} {'ab'[n % 2]} m{n} 1.4", f"LM{n} m{n} n 4.7m"]
    net += [f"RL{n} {'ab'[n % 2]} n 150" for n in range(16)] + [".tran 0.1m 1", ".end", ""]
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "n.cir"
        file.write_text("\n".join(net))
        begun = time.perf_counter()
        subprocess.run(
            ["ngspice", "-b", "-r", str(Path(folder) / "out"), str(file)],
            capture_output=True,
            check=False,
        )
        return (time.perf_counter() - begun) * 1000


def main() -> None:
    p50, p95 = timed(document())
    print(
        f"4 compressors, 20 loads, 1,000 trials: p50 {p50:.0f} ms, p95 {p95:.0f} ms, peak memory "
        f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"
    )
    for trials in (250, 500, 1000, 2000, 4000):
        print(f"  trials {trials:5d}: p50 {timed(document(trials=trials), 5)[0]:.0f} ms")
    for others in (4, 16, 36, 76):
        print(f"  loads  {others + 4:5d}: p50 {timed(document(others=others), 5)[0]:.0f} ms")
    for compressors in (1, 2, 4, 8):
        print(
            f"  compressors {compressors}: p50 "
            f"{timed(document(compressors, 20 - compressors), 5)[0]:.0f} ms"
        )
    spice = spice_ms()
    print(
        f"one second of one start in ngspice: {spice:.0f} ms; a whole check is "
        f"{p50 / spice:.1f} of it"
    )


if __name__ == "__main__":
    main()
