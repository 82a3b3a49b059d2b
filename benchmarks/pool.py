"""How long a pass over the typical figures takes, and what it is worth: python benchmarks/pool.py.
Prints figures; tests nothing.

Accounts with one to three rigs, each with measured units; then what a new unit of each class is
predicted as, against the truth and against the printed table alone.
"""

from __future__ import annotations

import math
import sys
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[0] = str(ROOT)  # not this folder: its queue.py is not the library's

from ironmargin.learning.pool import Unit, typicals
from ironmargin.tables import rows, spread_of


def units(accounts: int, seed: int) -> tuple[list[Unit], dict[str, tuple[float, float]]]:
    """Measured units of so many accounts, and each class's true middle and spread."""
    draw = np.random.default_rng(seed)
    keys = [r["key"] for r in rows("typical_loads") if r["lra_a"] and "soft" not in r["key"]]
    table = {r["key"]: float(r["lra_a"]) for r in rows("typical_loads") if r["lra_a"]}
    truth = {
        key: (math.log(table[key]) + 0.12 * draw.standard_normal(), draw.uniform(0.05, 0.12))
        for key in keys
    }
    found = []
    for account in range(accounts):
        for _ in range(draw.integers(1, 7)):
            key = keys[draw.integers(len(keys))]
            middle, spread = truth[key]
            sd = float(draw.uniform(0.03, 0.09))
            log = middle + spread * draw.standard_normal() + sd * draw.standard_normal()
            found.append(Unit(account, key, float(log), sd))
    return found, truth


def main() -> None:
    for accounts in (30, 300, 1_000, 10_000, 20_000):
        made, truth = units(accounts, accounts)
        begun = time.perf_counter()
        found = typicals(made)
        seconds = time.perf_counter() - begun
        draw = np.random.default_rng(1)
        hits, widths = [], []
        plain = spread_of("locked-rotor amps", "typical")
        for one in found:
            middle, spread = truth[one.key]
            new = np.exp(middle + spread * draw.standard_normal(400))
            hits.append(float(np.mean((new >= one.low) & (new <= one.high))))
            widths.append(plain / one.sd)
        print(
            f"{accounts:6} accounts, {len(made):6} units: {seconds:.2f} s, {len(found)} figures, "
            f"new units inside nine tenths {np.mean(hits) if hits else 0:.2f}, "
            f"sharper than the table by {np.mean(widths) if widths else 1:.1f} times"
        )


if __name__ == "__main__":
    main()
