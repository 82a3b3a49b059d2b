"""The bench's speeds: python benchmarks/bench.py [--base URL], with ./start running. Prints
figures; tests nothing.

In process: eight hours of a six-load rig. Over the web: a press with 20 loads to its whole answer,
and twenty benches running at once.
"""

from __future__ import annotations

import argparse
import http.cookiejar
import json
import re
import statistics
import sys
import threading
import time
import urllib.parse
import urllib.request
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from benchmarks import check
from ironmargin.bench.clock import Bench
from ironmargin.bench.script import Begin
from ironmargin.setup.reading import read_setup


class Visitor:
    """One signed-in visitor of the demo."""

    def __init__(self, base: str) -> None:
        self.base, self.jar = base, http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.send("/")
        self.send("/account/demo/", {})

    def send(self, path: str, fields: dict[str, str] | None = None, hx: bool = False) -> Any:
        token = next((c.value or "" for c in self.jar if c.name == "csrftoken"), "")
        data = urllib.parse.urlencode(fields).encode() if fields is not None else None
        headers = {"X-CSRFToken": token, "Referer": self.base}
        if hx:
            headers["HX-Request"] = "true"
        request = urllib.request.Request(self.base + path, data, headers)
        with self.opener.open(request, timeout=60) as answer:
            return answer.url, answer.read().decode()

    def upload(self, path: str, body: str, boundary: str) -> str:
        """Send a file; where it led to."""
        token = next((c.value or "" for c in self.jar if c.name == "csrftoken"), "")
        kind = f"multipart/form-data; boundary={boundary}"
        headers = {"X-CSRFToken": token, "Referer": self.base, "Content-Type": kind}
        request = urllib.request.Request(self.base + path, body.encode(), headers)
        with self.opener.open(request, timeout=60) as answer:
            return str(answer.url)

    def bench(self, setup: int, how: str) -> str:
        """The address of a bench begun."""
        url, _ = self.send(f"/bench/{setup}/begin/", {"how": how})
        return urllib.parse.urlparse(url).path


def in_process() -> None:
    """How fast time passes in the core."""
    setup = read_setup(check.document(2, 4))
    bench = Bench(setup, Begin(all="as-wanted"))
    begun = time.perf_counter()
    bench.advance(8 * 3600.0)
    seconds = time.perf_counter() - begun
    print(f"eight hours of six loads: {seconds:.2f} s ({8 * 3600 / seconds:.0f} times real time)")


def spread(times: list[float]) -> str:
    """p50 and p95 [ms]."""
    times.sort()
    p95 = times[min(round(0.95 * len(times)), len(times) - 1)]
    return f"p50 {1000 * statistics.median(times):.0f} ms, p95 {1000 * p95:.0f} ms"


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--base", default="http://127.0.0.1:8000")
    base = parser.parse_args().base
    in_process()
    visitor = Visitor(base)
    document = check.document(2, 18) | {"name": f"benchmark {time.time():.0f}"}
    boundary = "x" * 24
    body = (
        f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="b.json"\r\n\r\n'
        f"{json.dumps(document)}\r\n--{boundary}--\r\n"
    )
    url = visitor.upload("/setups/import/", body, boundary)
    setup = int(re.search(r"/setups/(\d+)/", url)[1])  # type: ignore[index]
    run = visitor.bench(setup, "as-wanted")
    times = []
    for n in range(60):
        begun = time.perf_counter()
        visitor.send(f"{run}press/", {"do": f"load/l{n % 18}/{'off' if n < 30 else 'on'}"}, hx=True)
        times.append(time.perf_counter() - begun)
    print(f"a press with 20 loads: {spread(times)}")
    runs = [visitor.bench(setup, "as-wanted") for _ in range(20)]
    for one in runs:
        visitor.send(f"{one}press/", {"speed": "60"}, hx=True)
    times = []

    def watch(address: str) -> None:
        own = Visitor(base)
        for _ in range(15):
            begun = time.perf_counter()
            own.send(f"{address}press/", {"version": "0"}, hx=True)
            times.append(time.perf_counter() - begun)
            time.sleep(max(1.0 - (time.perf_counter() - begun), 0.0))

    threads = [threading.Thread(target=watch, args=[one]) for one in runs]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    print(f"twenty benches at once, each asked every second: {spread(times)}")


if __name__ == "__main__":
    main()
