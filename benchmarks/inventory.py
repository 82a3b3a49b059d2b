"""How fast the inventory is: python benchmarks/inventory.py [--base URL], with ./start running.
Prints figures; tests nothing.

Makes an account of its own with a rig of 60 loads: the page, an in-place edit to its answer, and an
import of 500 rows.
"""

from __future__ import annotations

import argparse
import http.cookiejar
import json
import re
import secrets
import statistics
import time
import urllib.parse
import urllib.request
from collections.abc import Callable

ROUNDS = 60


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--base", default="http://127.0.0.1:8000")
    base = parser.parse_args().base
    jar = http.cookiejar.CookieJar()
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))

    def send(path: str, fields: dict[str, str] | None = None) -> tuple[str, str]:
        token = next((c.value or "" for c in jar if c.name == "csrftoken"), "")
        data = urllib.parse.urlencode(fields).encode() if fields is not None else None
        with opener.open(
            urllib.request.Request(base + path, data, {"X-CSRFToken": token, "Referer": base}),
            timeout=60,
        ) as answer:
            return answer.read().decode(), answer.geturl()

    def timed(words: str, work: Callable[[int], object]) -> None:
        times = []
        for n in range(ROUNDS):
            begun = time.perf_counter()
            work(n)
            times.append((time.perf_counter() - begun) * 1000)
        times.sort()
        print(
            f"{words}: p50 {statistics.median(times):.0f} ms, p95 "
            f"{times[int(0.95 * ROUNDS)]:.0f} ms, worst {times[-1]:.0f} ms"
        )

    send("/account/sign-up/")
    password = secrets.token_urlsafe(16)
    send(
        "/account/sign-up/",
        {"username": f"bench-{secrets.token_hex(6)}", "password1": password, "password2": password},
    )
    _, url = send("/rigs/", {"name": "Sixty", "service": "120/240"})
    rig = re.search(r"/rigs/\d+/", url)[0]  # type: ignore[index]

    def version() -> str:
        return re.search(r'id="rig-version" value="(\d+)"', send(rig)[0])[1]  # type: ignore[index]

    rows = "name,kind,watts [W],leg\n" + "".join(
        f"Load {n},electronic,{50 + n},L{n % 2 + 1}\n" for n in range(60)
    )
    send(f"{rig}import/", {"raw": rows})
    page, _ = send(rig)
    print(f"rig page with 60 loads: {len(page.encode()) / 1000:.0f} kB of HTML")
    timed("rig page with 60 loads", lambda n: send(rig))
    now = [int(version())]

    def edit(n: int) -> None:
        send(
            f"{rig}edit/",
            {"load": "load-5", "column": "draw", "value": str(100 + n), "version": str(now[0])},
        )
        now[0] += 1

    timed("in-place edit to updated totals", edit)
    _, url = send("/rigs/", {"name": "Large", "service": "120"})
    large = re.search(r"/rigs/\d+/", url)[0]  # type: ignore[index]
    rows = "name,kind,watts [W]\n" + "".join(f"Load {n},electronic,{n + 1}\n" for n in range(500))
    begun = time.perf_counter()
    send(f"{large}import/", {"raw": rows})
    print(f"import of 500 rows, page of them included: {time.perf_counter() - begun:.2f} s")
    print(json.dumps({"rounds": ROUNDS}))


if __name__ == "__main__":
    main()
