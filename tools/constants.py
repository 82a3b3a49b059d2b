"""Which constants of the core can be changed by half without a test failing: ``python
tools/constants.py [MODULE …]``.

Each number at the top of a module (in ``NAME = 1.5``, in a tuple, or declared to the compiler) is
halved and made half as large again in a copy of the tree; the core's tests and the references run
on the copy, and what survives is listed. Slow: some seconds a number. Name modules to look at a
few.
"""

from __future__ import annotations

import ast
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
FACTORS = (0.5, 1.5)
LEAVE = (
    "MOST_",
    "LEAST_",
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
)
"""Names of numbers that bound work or rounding, not the model's."""


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
        if not names or not names[0].isupper() or names[0].startswith(LEAVE) or node.value is None:
            continue
        for part in ast.walk(node.value):
            if (
                isinstance(part, ast.Constant)
                and isinstance(part.value, int | float)
                and not isinstance(part.value, bool)
                and part.value
            ):
                yield names[0], part


def survives(copy: Path, path: Path, number: ast.Constant, factor: float) -> bool:
    """Whether every test still passes with one number changed in the copy."""
    file = copy / path.relative_to(ROOT)
    kept = file.read_text(encoding="utf-8")
    lines = kept.splitlines(keepends=True)
    line = lines[number.lineno - 1]
    changed = (
        number.value * factor
        if isinstance(number.value, float)
        else max(round(number.value * factor), 1)
    )  # type: ignore[operator]
    lines[number.lineno - 1] = (
        f"{line[: number.col_offset]}{changed!r}{line[number.end_col_offset :]}"
    )
    file.write_text("".join(lines), encoding="utf-8")
    try:
        if file.name == "engine.py":
            subprocess.run(
                [sys.executable, "tools/compile.py"], cwd=copy, check=True, capture_output=True
            )
        suites = (["-s", "tests/core"], ["-s", "tests/reference"])
        return all(
            subprocess.run(
                [sys.executable, "-m", "unittest", "discover", "-f", *suite, "-t", "."],
                cwd=copy,
                capture_output=True,
                check=False,
                timeout=300,
            ).returncode
            == 0
            for suite in suites
        )
    except (subprocess.TimeoutExpired, subprocess.CalledProcessError):
        return False
    finally:
        file.write_text(kept, encoding="utf-8")


def main() -> int:
    """List the survivors; 1 if there are any."""
    asked = sys.argv[1:] or [
        str(p.relative_to(ROOT)) for p in sorted((ROOT / "ironmargin").rglob("*.py"))
    ]
    left = tried = 0
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "tree"
        shutil.copytree(
            ROOT,
            copy,
            ignore=shutil.ignore_patterns(
                ".git", ".venv", "node_modules", "var", "web", "build", "docs"
            ),
        )
        for name in asked:
            for constant, number in numbers(ROOT / name):
                alive = [f for f in FACTORS if survives(copy, ROOT / name, number, f)]
                tried += 1
                left += bool(alive)
                if alive:
                    print(
                        f"{name}:{number.lineno} {constant} = {number.value} survives x "
                        f"{' and x '.join(map(str, alive))}",
                        flush=True,
                    )
    print(f"{tried} numbers tried, {left} can be changed by half")
    return 1 if left else 0


if __name__ == "__main__":
    sys.exit(main())
