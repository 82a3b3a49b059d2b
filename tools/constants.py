"""Which constants of the core can be changed by half without a test failing: ``python
tools/constants.py [MODULE[:NAME,NAME…] …]``.

Each number at the top of a module (in ``NAME = 1.5``, in a tuple, or declared to the compiler) is
halved and made half as large again in a copy of the tree; the core's tests and the references run
on the copy until one fails, those that name the module, that failed before and that are quick
first, and what survives is listed. A number costs some seconds, a survivor minutes. Name
modules, or some of a module's constants, to look at a few. With ``--quick`` a survivor costs half a
minute: only the core's own tests run, without what walks over everything, and what survives is to
be looked at again without. With ``--near`` only those run that name the module or its package: a
first look at many numbers.
"""

from __future__ import annotations

import ast
import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tools.compile import COMPILED  # noqa: E402

FACTORS = (0.5, 1.5)
BROKEN = "IRONMARGIN_BROKEN"
"""Set where tests run on a copy with something broken in it."""
LONGEST_S = 900
"""A number with which a test does not end is noticed [s]."""
QUICK, NEAR = "--quick", "--near"
RUNNER = """
import json, os, sys, time, unittest
import tests
from hypothesis import settings
# The same examples each time, none remembered: what fails must fail by the number alone.
patient = settings.get_profile("patient")
settings.register_profile("alike", patient, derandomize=True, database=None)
settings.load_profile("alike")
found = []

def flat(suite):
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            flat(one)
        else:
            found.append(one)

for folder in ["tests/core", *(["tests/reference"] if "quick" not in sys.argv else [])]:
    flat(unittest.defaultTestLoader.discover(folder, top_level_dir="."))
took = json.load(open("took.json")) if os.path.exists("took.json") else {}
changed = sys.argv[1]

def far(test):
    file = sys.modules[type(test).__module__].__file__ or ""
    words = open(file).read() if os.path.exists(file) else ""
    return 0 if changed in words else 1 if changed.rpartition(".")[0] in words else 2

found.sort(key=lambda test: (far(test), took.get(test.id(), 0.0)))
if "near" in sys.argv:
    found = [test for test in found if far(test) <= 1]
for test in found:
    begun, result = time.monotonic(), unittest.TestResult()
    unittest.TestSuite([test]).run(result)
    if not result.wasSuccessful():
        # One that has failed before is tried as if it took no time.
        json.dump(took | {test.id(): 0.02 * took.get(test.id(), 0.0)}, open("took.json", "w"))
        sys.exit(1)
    took.setdefault(test.id(), time.monotonic() - begun)
json.dump(took, open("took.json", "w"))
"""
"""Runs every test, those that failed before and the quickest first, until one fails."""
LEAVE = (
    "MAX_",
    "MIN_",
    "CHUNK",
    "ROUGH",
    "TOLERANCE",
    "STEPS",
    "PASSES",
    "TINY",
    "SMALLEST",
    "CALM",
    "RINGS",
    "FIRST_",
    "CHECK_STEP",
    "NEVER",
    "TRIALS_",
    "SLOPES",
    "BELIEF",
    "DOUBT",
    "CELLS",
    "REFILL_STEP",
    "HALVINGS",
    "BITS",
    "SERVED",
    "COARSE",
    "STRONGEST",
    "STEP_M",
    "FURTHEST_M",
    "GRID_W",
    "REACH_SD",
    "NAMED",
    "KEPT",
    "CORES",
    "PICTURED",
    "IDEAL",
    "FAR_",
)
"""Names of numbers that bound work, memory, pictures or rounding, not the model's."""
LABELS = re.compile(
    r"UNDECIDED|STARTS|STALLS|TRIPS|VOLTS_STAY_LOW|DROPS_OUT|UNSOLVED|OUTCOMES|L1|RANK|ORDER|"
    r"PLACES|DISTANCES_M|RANKS|BREAKER|BRANCH|EXAMPLE|SEED|BAD_INPUT|TROUBLE"
)
"""Numbers that are names or ranks: any other would do."""


def numbers(path: Path) -> Iterator[tuple[str, ast.Constant]]:
    """Name and place of every number a module's constants are made of."""
    for node in ast.parse(path.read_text(encoding="utf-8")).body:
        target = (
            node.targets[0]
            if isinstance(node, ast.Assign)
            else node.target
            if isinstance(node, ast.AnnAssign)
            else None
        )
        names = (
            [x.id for x in ast.walk(target) if isinstance(x, ast.Name)]
            if target is not None
            else []
        )
        if not names or not names[0].isupper() or node.value is None:
            continue
        if names[0].startswith(LEAVE) or LABELS.fullmatch(names[0]):
            continue
        for part in ast.walk(node.value):
            if (
                isinstance(part, ast.Constant)
                and isinstance(part.value, int | float)
                and not isinstance(part.value, bool)
                and part.value
            ):
                yield names[0], part


def changed_by(number: ast.Constant, factor: float) -> float:
    """A number's other value; a whole one stays whole and another."""
    value = number.value
    assert isinstance(value, int | float)
    if isinstance(value, float):
        return value * factor
    other = max(round(value * factor), 1)
    return other if other != value else value + 1


def passes(copy: Path, name: str = "ironmargin.", *more: str) -> bool:
    """Whether every test passes on the copy with a file of that name changed; with ``near``, every
    test that names it.
    """
    if QUICK in sys.argv or NEAR in sys.argv:
        more = (*more, "quick")
    if NEAR in sys.argv:
        more = (*more, "near")
    module = name.removesuffix(".py").replace("/", ".")
    try:
        done = subprocess.run(
            [sys.executable, "-c", RUNNER, module, *more],
            cwd=copy,
            capture_output=True,
            check=False,
            timeout=LONGEST_S,
            env=os.environ
            | {BROKEN: "1"}
            | ({"IRONMARGIN_WALKS": "none"} if "quick" in more else {}),
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def compiled(copy: Path, file: Path) -> None:
    """Compile the copy where the file is one of the compiled."""
    if any(file == copy / "ironmargin" / one for one in COMPILED):
        subprocess.run(
            [sys.executable, "tools/compile.py"], cwd=copy, check=True, capture_output=True
        )


def survives(copy: Path, file: Path, number: ast.Constant, factor: float) -> bool:
    """Whether every test still passes with one number changed in the copy."""
    stored = file.read_text(encoding="utf-8")
    lines = stored.splitlines(keepends=True)
    line = lines[number.lineno - 1]
    lines[number.lineno - 1] = (
        f"{line[: number.col_offset]}{changed_by(number, factor)!r}{line[number.end_col_offset :]}"
    )
    file.write_text("".join(lines), encoding="utf-8")
    try:
        compiled(copy, file)
        return passes(copy, str(file.relative_to(copy)))
    except subprocess.CalledProcessError:
        return False
    finally:
        file.write_text(stored, encoding="utf-8")


def main() -> int:
    """List the survivors; 1 if there are any."""
    requested = [name for name in sys.argv[1:] if name not in (QUICK, NEAR)] or [
        str(p.relative_to(ROOT)) for p in sorted((ROOT / "ironmargin").rglob("*.py"))
    ]
    left = tried = 0
    # Read before anything is tried: the tree may be worked on meanwhile, the copy is not.
    planned = []
    for module in requested:
        name, _, only = module.partition(":")
        found = numbers(ROOT / name)
        planned.append((name, [x for x in found if not only or x[0] in only.split(",")]))
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "tree"
        shutil.copytree(
            ROOT,
            copy,
            ignore=shutil.ignore_patterns(
                ".git", ".venv", "node_modules", "var", "web", "build", "docs"
            ),
        )
        if not passes(copy):
            sys.exit("the tests fail as they are: mend them first")
        for name, of_it in planned:
            for constant, number in of_it:
                alive = [f for f in FACTORS if survives(copy, copy / name, number, f)]
                tried += 1
                left += bool(alive)
                if alive:
                    print(
                        f"{name}:{number.lineno} {constant} = {number.value} survives x "
                        f"{' and x '.join(map(str, alive))}",
                        flush=True,
                    )
            compiled(copy, copy / name)
            if of_it and not passes(copy, name, "near"):
                sys.exit(f"the tests fail as they are, after {name}: what was tried is void")
            print(f"{name}: {len(of_it)} tried", file=sys.stderr, flush=True)
    print(f"{tried} numbers tried, {left} can be changed by half")
    return 1 if left else 0


if __name__ == "__main__":
    sys.exit(main())
