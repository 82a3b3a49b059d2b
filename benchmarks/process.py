"""How long a command takes as a process of its own, against ``python -c "import numpy"``: python
benchmarks/process.py [RUNS]. Prints figures; tests nothing.

Every check setup in turn, the two commands one after the other, so that noise meets both alike.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
NUMPY = [sys.executable, "-c", "import numpy"]


def seconds(command: list[str]) -> float:
    """Run a command as a process [s]."""
    begun = time.perf_counter()
    done = subprocess.run(command, cwd=ROOT, capture_output=True, check=False, text=True)
    took = time.perf_counter() - begun
    if "Traceback" in done.stderr:  # what falls over at once would pass for quick
        sys.exit(done.stderr)
    return took


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 11
    for file in sorted((ROOT / "tests" / "setups").glob("*.json")):
        command = [sys.executable, "-m", "ironmargin", "check", str(file)]
        pairs = [(seconds(NUMPY), seconds(command)) for _ in range(runs)]
        numpy, check = (statistics.median(times) for times in zip(*pairs, strict=True))
        minimum = min(c for _, c in pairs) / min(n for n, _ in pairs)
        print(
            f"{file.name:44} numpy {numpy * 1e3:4.0f} ms, check {check * 1e3:4.0f} ms, "
            f"ratio {check / numpy:.2f}, of the quickest {minimum:.2f}"
        )


if __name__ == "__main__":
    main()
