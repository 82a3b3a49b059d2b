"""How fast the running order is: python benchmarks/order.py. Prints figures; tests nothing.

24 switchable loads on a 30 A reducer and on a 50 A post; the start sequence of 8 motors; a large
rig by the solver.
"""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.planning.order import sequence_of
from ironmargin.planning.sets import interlocks, maximal_sets, trades
from ironmargin.planning.together import Together
from ironmargin.setup.reading import read_setup

REDUCER = [{"kind": "adapter", "from": "TT-30", "to": "14-50", "rating_a": 30}]


def document(
    count: int, motors: int, seed: int = 1, *, split: bool = True, small: bool = False
) -> dict[str, Any]:
    """A rig of ``count`` loads, ``motors`` of them air conditioners."""
    draw = random.Random(seed)
    loads: list[dict[str, Any]] = [
        {
            "id": f"ac{n}",
            "name": f"Unit {n}",
            "kind": "air-conditioner",
            "running_a": 4 if small else 11,
            "lra_a": 20 if small else 55,
            "leg": ("L1", "L2")[n % 2],
        }
        for n in range(motors)
    ]
    for n in range(count - motors):
        loads.append(
            {
                "id": f"l{n}",
                "name": f"Load {n}",
                "leg": ("L1", "L2")[n % 2],
                "kind": draw.choice(("resistive", "electronic")),
                "watts": draw.choice((40, 90, 150, 300, 600, 900, 1200, 1500)),
            }
        )
    supply: dict[str, Any] = (
        {"kind": "shore", "breaker_a": 50, "legs": "split"}
        if split
        else {"kind": "shore", "breaker_a": 30}
    )
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "benchmark",
        "supply": supply,
        "hookup": [] if split else REDUCER,
        "rig": {"name": "b", "service": "120/240", "main_a": 50, "loads": loads},
        "wanted": [{"load": x["id"]} for x in loads[:motors]],
    }


def timed(label: str, work: Any) -> None:
    """Run once and print the seconds."""
    begun = time.perf_counter()
    words = work()
    print(f"{label}: {time.perf_counter() - begun:.2f} s, {words}")


def main() -> None:
    for split in (True, False):
        for seed in (1, 2, 3):
            together = Together.of(read_setup(document(24, 3, seed, split=split)))

            def whole(together: Together = together) -> str:
                sets, proven = maximal_sets(together)
                return (
                    f"{len(sets)} sets, proven {proven}, {len(trades(together))} trades, "
                    f"{len(interlocks(together))} interlocks"
                )

            timed(f"24 loads on {'50 A split' if split else 'a 30 A reducer'}, seed {seed}", whole)
    eight = Together.of(read_setup(document(8, 8, small=True)))
    timed("sequence of 8 motors", lambda: f"feasible {sequence_of(eight).feasible}")
    large = Together.of(read_setup(document(32, 3)))
    timed(
        "32 loads by the solver",
        lambda: (lambda found: f"{len(found[0])} sets, proven {found[1]}")(maximal_sets(large)),
    )


if __name__ == "__main__":
    main()
