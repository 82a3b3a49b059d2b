"""How fast the page recomputes: python benchmarks/page.py [--base URL], with ./start running.
Prints figures; tests nothing.

Posts the first setup of a new account's page a hundred times, each with another starting power, so
that nothing repeats, and prints p50 and p95 of the time to the whole answer, with the size of the
page as sent.
"""

from __future__ import annotations

import argparse
import http.cookiejar
import json
import re
import statistics
import sys
import time
import urllib.parse
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from benchmarks import check

REQUESTS = 100


STATIONS = ("verdict", "reach", "order", "bench", "hours", "log", "steps")


def stations(send: Callable[..., bytes], large: dict[str, Any]) -> None:
    """The partial of each station after a change, for 20 loads and 2 compressors on a post."""
    post = {"kind": "shore", "breaker_a": 50, "legs": "split"}
    name = f"benchmark {time.time():.0f}"
    document = large | {"supply": post, "name": name}
    whole = send("/setups/save/", {"document": json.dumps(document), "units": "si"}).decode()
    pk = re.search(r'name="saved" value="(\d+)"', whole)[1]
    salt = time.time() % 1 / 20
    for at, station in enumerate(STATIONS):
        times = []
        for n in range(REQUESTS // 2):
            requested = document | {"conditions": {"outdoor_c": 20 + at + n / 60 + salt}}
            fields = {"document": json.dumps(requested), "units": "si", "saved": pk, "version": "1"}
            begun = time.perf_counter()
            send("/setups/preview/", fields | {"station": station})
            times.append((time.perf_counter() - begun) * 1000)
        times.sort()
        print(
            f"station {station}: p50 {statistics.median(times):.0f} ms, "
            f"p95 {times[int(0.95 * len(times))]:.0f} ms"
        )
    send(f"/kept/setup/{pk}/delete/", {})


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--base", default="http://127.0.0.1:8000")
    base = parser.parse_args().base
    jar = http.cookiejar.CookieJar()
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))

    def send(path: str, fields: dict[str, str] | None = None) -> bytes:
        token = next((c.value or "" for c in jar if c.name == "csrftoken"), "")
        data = urllib.parse.urlencode(fields).encode() if fields is not None else None
        request = urllib.request.Request(
            base + path,
            data,
            {"X-CSRFToken": token, "Referer": base, "Accept-Encoding": "identity"},
        )
        with opener.open(request, timeout=30) as answer:
            return answer.read()

    send("/")
    send("/account/demo/", {})
    page = send("/setups/new/?typical=1").decode()
    document = json.loads(
        re.search(r'name="document" value="([^"]*)"', page)[1]
        .replace("&quot;", '"')
        .replace("&#x27;", "'")
    )
    salt = time.time() % 1 / 20  # a question of an earlier run would be found again
    for words, low_w in (("one set, fails", 2000.0), ("one set, holds", 4000.0)):
        times = []
        for n in range(REQUESTS):
            document["supply"] |= {"continuous_w": low_w - 300, "starting_w": low_w + n + salt}
            begun = time.perf_counter()
            send("/setups/preview/", {"document": json.dumps(document), "units": "si"})
            times.append((time.perf_counter() - begun) * 1000)
        times.sort()
        print(
            f"{words}: {REQUESTS} recomputes, p50 {statistics.median(times):.0f} ms, p95 "
            f"{times[94]:.0f} ms, worst {times[-1]:.0f} ms"
        )
    large = check.document(2, 18)
    for words, supply in (
        ("20 loads, 2 compressors, 50 A post", {"kind": "shore", "breaker_a": 50, "legs": "split"}),
        (
            "20 loads, 2 compressors, 7 kW set",
            {
                "kind": "generator",
                "continuous_w": 5500,
                "starting_w": 7000,
                "output": "120/240",
                "voltage_v": 240,
            },
        ),
    ):
        times = []
        for n in range(REQUESTS):
            document = large | {"supply": supply, "conditions": {"outdoor_c": 25 + n / 10 + salt}}
            begun = time.perf_counter()
            send("/setups/preview/", {"document": json.dumps(document), "units": "si"})
            times.append((time.perf_counter() - begun) * 1000)
        times.sort()
        print(
            f"{words}: p50 {statistics.median(times):.0f} ms, p95 {times[94]:.0f} ms, "
            f"worst {times[-1]:.0f} ms"
        )
    stations(send, large)
    begun = time.perf_counter()
    send("/setups/preview/", {"document": json.dumps(document), "units": "si"})
    print(f"the same again, from what is kept: {(time.perf_counter() - begun) * 1000:.0f} ms")
    print(f"a page on typical figures: {len(page.encode()) / 1000:.0f} kB of HTML")
    first = send("/").decode()
    with opener.open(
        urllib.request.Request(base + "/", headers={"Accept-Encoding": "gzip"}), timeout=30
    ) as answer:
        weight = len(answer.read())
    for path in dict.fromkeys(re.findall(r'(?:href|src)="(/static/[^"]+)"', first)):
        requested = urllib.request.Request(base + path, headers={"Accept-Encoding": "gzip, br"})
        with opener.open(requested, timeout=30) as answer:
            weight += len(answer.read())
    print(
        f"the demo's first page: {len(first.encode()) / 1000:.0f} kB of HTML, "
        f"{weight / 1000:.0f} kB sent with styles, scripts and the preloaded font"
    )


if __name__ == "__main__":
    main()
