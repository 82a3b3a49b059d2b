"""Whether breaking a rule of the verdict is noticed: ``./test mutants``, once a night.

Each row breaks one rule in a copy of the tree; the core's tests run on it until one fails. Then who
may what and what is kept (``tools/mutants_web.py``), and the constants of every module that judges,
learns or advises are changed by half (``tools/constants.py``). What
survives is listed, and the exit code is 1. ``python tools/mutants.py rules`` runs the rows alone.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import NamedTuple

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tools.constants import ROOT, compiled, passes

CHAIN = ("electrics", "loads", "path", "protection", "supplies", "starting", "sustaining",
         "enduring", "limits", "verdict", "learning", "planning")  # fmt: skip
"""The packages a verdict goes through, and those that learn and advise."""

WEB = (sys.executable, str(ROOT / "tools" / "mutants_web.py"))


class Mutant(NamedTuple):
    """A rule and how it is broken: the module, its words, and the words put for them."""

    rule: str
    module: str
    words: str
    broken: str


MUTANTS = (
    Mutant("an early breaker makes it thin", "limits/breaker_starts.py",
           'return THIN if row.problem == "early"', 'return HOLDS if row.problem == "early"'),
    Mutant("what else hangs on a post warms its breaker (early)", "limits/breaker_starts.py",
           "also = case.source.also_a if breaker.where", "also = 0.0 if breaker.where"),
    Mutant("what else hangs on a post warms its breaker", "starting/starts.py",
           "case.source.also_a if breaker.where", "0.0 if breaker.where"),
    Mutant("pressures are equal after a rest", "electrics/motor.py",
           "return EQUALIZED_TAUS * EQUALIZING_TAU_S[metering]",
           "return 1.5 * EQUALIZED_TAUS * EQUALIZING_TAU_S[metering]"),
    Mutant("the bound of sets that hold", "limits/bounds.py",
           "float(row.allowed) - also", "0.8 * float(row.allowed) - also"),
    Mutant("the bound of sets that hold leaves out what hangs there", "limits/bounds.py",
           "float(row.allowed) - also", "float(row.allowed)"),
    Mutant("three hours exactly are continuous", "limits/breakers.py",
           "target >= CONTINUOUS_FROM_H", "target > CONTINUOUS_FROM_H"),
    Mutant("a branch carries its loads by their duty", "limits/breakers.py",
           "sum((a * duty for a, duty in each), 0.0)", "sum((a for a, duty in each), 0.0)"),
    Mutant("a guard opens above its high volts", "limits/guard.py",
           "if open_v > guard.high_v:", "if open_v > 9.0 * guard.high_v:"),
    Mutant("a fan running up draws three times", "starting/starts.py",
           "d.va * FAN_INRUSH", "d.va * 2.0"),
    Mutant("the window of a coincidence from below", "starting/nights.py",
           "min(max(seconds, SHORTEST_S), LONGEST_S)", "min(max(seconds, 0.1), LONGEST_S)"),
    Mutant("the window of a coincidence from above", "starting/nights.py",
           "min(max(seconds, SHORTEST_S), LONGEST_S)", "min(max(seconds, SHORTEST_S), 99.0)"),
    Mutant("a regulator forces the field", "starting/supply.py",
           "        if self.forced:", "        if self.forced and h < 0.0:"),
    Mutant("draws are spread wider than what was found", "learning/proposals.py",
           "spread = WIDER**2 * spread", "spread = 0.5 * spread"),
    Mutant("draws keep some spread where one carries all", "learning/proposals.py",
           " + np.diag((OF_PRIOR * sds) ** 2)", ""),
    Mutant("a breaker cools while all is dead", "bench/clock.py",
           "math.exp(-seconds / USUAL_BREAKER.tau_s)", "1.0"),
    Mutant("the air stands against a cylinder's pressure", "enduring/boiloff.py",
           " - isa_pressure_hpa(altitude_m) * 100.0", " - 101_325.0"),
)  # fmt: skip


def broken(copy: Path, mutant: Mutant) -> bool:
    """Whether every test still passes on the copy with one rule broken."""
    file = copy / "ironmargin" / mutant.module
    stored = file.read_text(encoding="utf-8")
    if stored.count(mutant.words) < 1:
        sys.exit(f"{mutant.module} has no “{mutant.words}” any more: renew the row")
    file.write_text(stored.replace(mutant.words, mutant.broken), encoding="utf-8")
    try:
        compiled(copy, file)
        return passes(copy, f"ironmargin/{mutant.module}")
    finally:
        file.write_text(stored, encoding="utf-8")
        compiled(copy, file)


def survivors() -> list[Mutant]:
    """The rules that can be broken unnoticed."""
    left = ("." + x for x in ("git", "venv"))
    leave = shutil.ignore_patterns(*left, "node_modules", "var", "web", "build", "docs")
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "tree"
        shutil.copytree(ROOT, copy, ignore=leave)
        found = []
        for mutant in MUTANTS:
            alive = broken(copy, mutant)
            print(f"{'SURVIVES' if alive else 'noticed'}: {mutant.rule}", flush=True)
            found += [mutant] if alive else []
        return found


def main() -> int:
    """Break the rules of the verdict, those of the web, then the constants; 1 if any survives."""
    left = bool(survivors()) | subprocess.run(WEB, cwd=ROOT, check=False).returncode
    if sys.argv[1:] == ["rules"]:
        return int(left)
    modules = [
        str(p.relative_to(ROOT))
        for x in CHAIN
        for p in sorted((ROOT / "ironmargin" / x).rglob("*.py"))
    ]
    constants = [sys.executable, str(ROOT / "tools" / "constants.py"), *modules]
    return int(left) | subprocess.run(constants, cwd=ROOT, check=False).returncode


if __name__ == "__main__":
    sys.exit(main())
