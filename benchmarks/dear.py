"""What others wait while programs ask the dearest verdicts there may be at once, each a new one:

    .venv/bin/python -m benchmarks.dear [TOKENS [SECONDS]]

On a site of its own. Prints p50 and p95 of a signed-in page, idle and meanwhile, and what the
programs were answered.
"""

from __future__ import annotations

import sys
import threading
import time
from collections import Counter

from benchmarks.costliest import question
from benchmarks.site import Site

PORT, REQUESTS = 8077, 1000


def waits(site: Site, path: str) -> list[float]:
    """Milliseconds of some requests, sorted."""
    found = []
    for _ in range(REQUESTS):
        begun = time.perf_counter()
        status, _, _ = site.ask("GET", path)
        assert status == 200, status
        found.append((time.perf_counter() - begun) * 1000.0)
    return sorted(found)


def told(words: str, found: list[float]) -> None:
    print(
        f"{words}: p50 {found[len(found) // 2]:.0f} ms, p95 {found[int(0.95 * len(found))]:.0f} ms"
    )


def main() -> None:
    tokens = int(sys.argv[1]) if len(sys.argv) > 1 else 8
    with Site(PORT) as site:
        kept = site.ask("POST", "/api/v1/setups/", question(2, 18, 1000))
        assert kept[0] == 201, kept[0]
        path = f"/api/v1/setups/{kept[1]['id']}/verdict"
        path = path if site.ask("GET", path)[0] == 200 else f"/api/v1/setups/{kept[1]['id']}"
        waits(site, path)
        told(f"others, idle ({path})", waits(site, path))
        over, answers = threading.Event(), Counter[int]()

        def ask(number: int) -> None:
            turn = 0
            while not over.is_set():
                turn += 1
                dear = question(11, 16, 1000)
                dear["conditions"]["outdoor_c"] = 20 + number + turn / 1000.0
                status, _, headers = site.ask("POST", "/api/v1/verdicts", dear, within_s=60.0)
                answers[status] += 1
                over.wait(float(headers.get("Retry-After", 0)))

        programs = [threading.Thread(target=ask, args=(n,)) for n in range(tokens)]
        for one in programs:
            one.start()
        told("others, meanwhile", waits(site, path))
        over.set()
        for one in programs:
            one.join()
        print("programs were answered", dict(answers))


if __name__ == "__main__":
    main()
