"""Two hundred people at once, each thinking five to ten seconds: what they wait and what it costs.

    ./start (in another shell), then
    .venv/bin/locust -f benchmarks/load.py --headless -u 200 -r 4 -t 10m \
        --host http://127.0.0.1:8000

Prints locust's percentiles, and the memory of each process of the site before and after.
"""

from __future__ import annotations

import random
import re
from typing import Any

import psutil
from locust import HttpUser, between, events, task

PAGES = ("setups/", "rigs/", "supplies/")
OF_A_SETUP = ("setups/{}/", "now/{}/", "log/{}/", "hours/{}/", "steps/{}/")
MB = 1 << 20


def processes() -> dict[str, float]:
    """Resident memory of each process of the site [MB]."""
    found = {}
    for process in psutil.process_iter(["cmdline", "memory_info"]):
        words = " ".join(process.info["cmdline"] or ())
        for name in ("gunicorn", "db_worker", "read_meters", "mariadbd"):
            if name in words:
                found[f"{name} {process.pid}"] = process.info["memory_info"].rss / MB
    return found


BEFORE: dict[str, float] = {}
ENTERED: dict[str, str] = {}


@events.test_start.add_listener
def begin(**_: Any) -> None:
    BEFORE.update(processes())


@events.test_stop.add_listener
def end(**_: Any) -> None:
    after = processes()
    for name in sorted(set(BEFORE) | set(after)):
        print(f"{name}: {BEFORE.get(name, 0):.0f} -> {after.get(name, 0):.0f} MB")


class Person(HttpUser):
    """Somebody in the demo: looks at setups, presses loads, moves a slider."""

    wait_time = between(5, 10)

    def on_start(self) -> None:
        # All come from one address here, and the demo lets so many in a minute: one entry for all.
        if not ENTERED:
            page = self.client.get("/account/sign-in/", name="sign in").text
            token = re.findall(r'csrfmiddlewaretoken" value="([^"]+)', page)[0]
            self.client.post("/account/demo/", {"csrfmiddlewaretoken": token}, name="enter")
            ENTERED.update(self.client.cookies.get_dict())
        self.client.cookies.update(ENTERED)
        listed = self.client.get("/setups/", name="/setups/").text
        self.setups = sorted(set(re.findall(r"/setups/(\d+)/", listed))) or ["1"]

    @task(2)
    def a_list(self) -> None:
        where = random.choice(PAGES)
        self.client.get(f"/{where}", name=f"/{where}")

    @task(6)
    def a_page(self) -> None:
        where = random.choice(OF_A_SETUP)
        self.client.get("/" + where.format(random.choice(self.setups)), name=f"/{where}")

    @task(2)
    def a_slider(self) -> None:
        pk = random.choice(self.setups)
        heat = random.randint(60, 110)
        self.client.get(
            f"/hours/{pk}/?outdoor={heat}", headers={"HX-Request": "true", "HX-Target": "hours"},
            name="/hours/{}/ slider",
        )  # fmt: skip
