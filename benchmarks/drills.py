"""A thousand drills: python benchmarks/drills.py [--count N]. Prints what it found; tests nothing.

Each must have a margin in its difficulty's band, and one answer by the engine; the mean size of the
margin must fall from easy to hard; no two may be the same.
"""

from __future__ import annotations

import argparse
import json
import statistics
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.practice.drills import BANDS, THEMES, drill
from ironmargin.setup.reading import write_setup


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=1000)
    count = parser.parse_args().count
    begun = time.perf_counter()
    margins: dict[str, list[float]] = {band: [] for band in BANDS}
    seen: set[str] = set()
    asks: dict[str, int] = {}
    pairs = [(theme, band) for theme in THEMES for band in BANDS]
    outside = 0
    for n in range(count):
        theme, band = pairs[n % len(pairs)]
        one = drill(n, theme, band)
        low, high = BANDS[band]
        outside += not low <= abs(one.margin) < high
        margins[band].append(abs(one.margin))
        asks[one.asks] = asks.get(one.asks, 0) + 1
        seen.add(json.dumps(write_setup(one.setup), sort_keys=True))
    means = {band: round(statistics.mean(found), 3) for band, found in margins.items()}
    seconds = time.perf_counter() - begun
    print(
        f"{count} drills in {seconds:.0f} s: {outside} outside their band, "
        f"{count - len(seen)} the same as another, asked as {asks}; mean margins {means}"
    )


if __name__ == "__main__":
    main()
