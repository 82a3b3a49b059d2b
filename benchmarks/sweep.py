"""How fast many setups are checked: python benchmarks/sweep.py [--count N]. Prints figures; tests
nothing.

The shared check setups, over and over with another heat each: in one process, in two that know
nothing of each other (what the machine itself gives), and on two workers; memory of this process
and of its children at the end.
"""

from __future__ import annotations

import argparse
import json
import multiprocessing
import resource
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.reaching.sweep import Item, in_this_process, items_of, sweep

SETUPS = sorted((ROOT / "tests" / "setups").glob("*.setup.json"))


def write_lines(count: int, path: Path) -> None:
    """So many setups as JSON lines; written one by one, for memory is measured."""
    documents = [json.loads(f.read_text()) for f in SETUPS if not f.name.startswith("12")]
    with path.open("w", encoding="utf-8") as file:
        for n in range(count):
            document = dict(documents[n % len(documents)])
            document["conditions"] = dict(document.get("conditions", {}), outdoor_c=20 + n % 17)
            file.write(json.dumps(document) + "\n")


def judge_batches(items: list[Item]) -> int:
    """Judge items here, keeping nothing."""
    return sum(len(rows) for rows in in_this_process(items, []))


def bare(items: list[Item]) -> float:
    """Seconds that two processes take for half of the setups each, started before."""
    halves = [items[::2], items[1::2]]
    with multiprocessing.get_context("spawn").Pool(2) as pool:
        pool.starmap(judge_batches, [(half[:40],) for half in halves])
        begun = time.perf_counter()
        pool.starmap(judge_batches, [(half,) for half in halves], chunksize=1)
        return time.perf_counter() - begun


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=2000)
    count = parser.parse_args().count
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "many.jsonl"
        write_lines(count, source)
        rates = []
        for workers in (1, 2):
            begun = time.perf_counter()
            out = Path(folder) / f"out{workers}.csv"
            counts = sweep(items_of([], str(source)), [], str(out), workers=workers)
            seconds = time.perf_counter() - begun
            rates.append(count / seconds)
            own, children = (
                resource.getrusage(who).ru_maxrss / 1024
                for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)
            )
            print(
                f"{workers} worker(s): {counts.total()} setups in {seconds:.1f} s, "
                f"{rates[-1]:.0f} a second; "
                f"memory {own:.0f} MB here, {children:.0f} MB the largest child"
            )
        alone = count / bare(items_of([], str(source)))
        print(
            f"two bare processes: {alone:.0f} a second, {50 * alone / rates[0]:.0f} % of twice one"
        )
        print(
            f"efficiency from one to two: {50 * rates[1] / rates[0]:.0f} %, "
            f"of what two bare processes reach {100 * rates[1] / alone:.0f} %"
        )


if __name__ == "__main__":
    main()
