"""kill -9 of database, worker and web in turn under acknowledged writes: nothing lost or doubled.

    .venv/bin/python -m benchmarks.faults [KILLS]

A writer makes rigs by the interface for programs, each with a name of its own, and notes every one
that was acknowledged; in between a process is killed. At the end every acknowledged rig must be
there once, and every unacknowledged one at most once. Prints how many were written, refused, lost
and doubled, and how long the site was away.
"""

from __future__ import annotations

import random
import sys
import time
from collections import Counter
from typing import Any

from benchmarks.site import READY_S, Site

PORT = 8077
VICTIMS = ("mariadbd", "db_worker", "gunicorn")
RIG = {"name": "x", "service": "120", "main_a": 30, "loads": []}
FULL = 400  # an account holds five hundred


def main() -> int:
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    with Site(PORT) as site:
        return judge(site, kills)


def judge(site: Site, kills: int) -> int:
    """Write, kill, and count what is there."""
    draw = random.Random(1)
    acknowledged: list[str] = []
    refused, written, away = 0, 0, []

    def write() -> None:
        nonlocal refused, written
        name = f"r{written}"
        written += 1
        status, _, _ = site.ask("POST", "/api/v1/rigs/", {"name": name, "document": RIG})
        acknowledged.extend([name] if status == 201 else [])
        refused += status != 201

    for n in range(kills):
        for _ in range(draw.randint(1, 4)):
            write()
        if len(acknowledged) > FULL:
            acknowledged[:] = keep_few(site, acknowledged)
        victims = site.processes(VICTIMS[n % len(VICTIMS)])
        if victims:
            draw.choice(victims).kill()
        write()  # into the fall, on purpose
        away.append(site.wait_ready())
        if (n + 1) % 100 == 0:
            print(f"{n + 1} kills, {written} writes, {refused} refused", flush=True)
    there = Counter(names(site))
    lost = [name for name in acknowledged if not there[name]]
    doubled = [name for name, times in there.items() if times > 1]
    away.sort()
    print(
        f"{kills} kills, {written} writes, {refused} refused; lost {len(lost)}, doubled "
        f"{len(doubled)}; away p50 {away[len(away) // 2]:.1f} s, longest {away[-1]:.1f} s"
    )
    return 1 if lost or doubled else 0


def read_page(site: Site, cursor: str) -> Any:
    """A page of rigs, waited for where the token has asked too often or the site is away."""
    began = time.monotonic()
    while time.monotonic() - began < READY_S:
        status, page, _ = site.ask("GET", f"/api/v1/rigs/{cursor}")
        if status == 200:
            return page
        time.sleep(0.5)
    raise SystemExit("the rigs cannot be read")


def names(site: Site) -> list[str]:
    """The names of every rig there is."""
    found: list[str] = []
    cursor = ""
    while True:
        page = read_page(site, cursor)
        found += [x["name"] for x in page["items"]]
        if page["next"] is None:
            return found
        cursor = f"?cursor={page['next']}"


def keep_few(site: Site, acknowledged: list[str]) -> list[str]:
    """Check what was written so far and make room for more."""
    there = Counter(names(site))
    lost = [name for name in acknowledged if not there[name]]
    if lost or any(times > 1 for times in there.values()):
        raise SystemExit(f"lost {lost[:5]}, or doubled")
    cursor = ""
    while True:
        page = read_page(site, cursor)
        for item in page["items"]:
            tag = f'"rig-{item["id"]}-{item["version"]}"'
            site.ask("DELETE", f"/api/v1/rigs/{item['id']}", If_Match=tag)
        if page["next"] is None:
            return []
        cursor = f"?cursor={page['next']}"


if __name__ == "__main__":
    sys.exit(main())
