"""How fast many setups are checked: python benchmarks/sweep.py [--count N]. Prints figures; tests
nothing.

The shared check setups, over and over with another heat each, on one worker and on two; memory of
this process and of its children at the end.
"""

from __future__ import annotations

import argparse
import json
import resource
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.reaching.sweep import items_of, sweep  # noqa: E402

SETUPS = sorted((ROOT / "tests" / "setups").glob("*.setup.json"))


def lines(count: int) -> str:
    """So many setups as JSON lines."""
    documents = [json.loads(f.read_text()) for f in SETUPS if not f.name.startswith("12")]
    found = []
    for n in range(count):
        document = dict(documents[n % len(documents)])
        document["conditions"] = dict(document.get("conditions", {})) | {"outdoor_c": 20 + n % 17}
        found.append(json.dumps(document))
    return "\n".join(found) + "\n"


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=2000)
    count = parser.parse_args().count
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "many.jsonl"
        source.write_text(lines(count))
        rates = []
        for workers in (1, 2):
            begun = time.perf_counter()
            out = Path(folder) / f"out{workers}.csv"
            rows = sweep(items_of([], str(source)), [], str(out), workers=workers)
            seconds = time.perf_counter() - begun
            rates.append(count / seconds)
            own, children = (
                resource.getrusage(who).ru_maxrss / 1024
                for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)
            )
            print(
                f"{workers} worker(s): {len(rows)} setups in {seconds:.1f} s, {rates[-1]:.0f} a "
                f"second; memory {own:.0f} MB here, {children:.0f} MB the largest child"
            )
        print(f"efficiency from one to two: {100 * rates[1] / (2 * rates[0]):.0f} %")


if __name__ == "__main__":
    main()
