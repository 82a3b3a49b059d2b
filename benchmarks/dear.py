"""What others wait while programs and people ask for what costs most, each a new one:

    .venv/bin/python -m benchmarks.dear [TOKENS]

On a site of its own. Prints p50 and p95 of a usual verdict, idle and beside each kind of dear work,
and how often that was answered: the dearest verdicts by so many tokens; benches wound on by hours,
maps, drills, prints and photographs of plates by two people who do nothing else. And how long each
of those takes alone and beside the programs.
"""

from __future__ import annotations

import random
import re
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterable

import requests

from benchmarks.costliest import question
from benchmarks.plates import made
from benchmarks.site import Site

PORT, REQUESTS = 8077, 1000
HOURS_AHEAD = 12
"""Presses that wind a bench on, before another is begun."""


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
        f"{words}: p50 {found[len(found) // 2]:.0f} ms, p95 {found[int(0.95 * len(found))]:.0f} ms",
        flush=True,
    )


class Person:
    """Somebody in the demo, at its pages."""

    def __init__(self, port: int) -> None:
        self.base, self.session = f"http://127.0.0.1:{port}", requests.Session()
        page = self.session.get(f"{self.base}/account/sign-in/").text
        self.token = re.findall(r'csrfmiddlewaretoken" value="([^"]+)', page)[0]
        self.post("/account/demo/")
        listed = self.get("/setups/").text
        self.setups = sorted(set(re.findall(r"/setups/(\d+)/", listed)))
        self.rig = re.findall(r"/rigs/(\d+)/", self.get("/rigs/").text)[0]
        self.draw = random.Random(1)

    def get(self, path: str) -> requests.Response:
        return self.session.get(f"{self.base}{path}", timeout=120)

    def post(self, path: str, data: dict[str, str] | None = None, **more: object) -> (
        requests.Response
    ):  # fmt: skip
        sent = {"csrfmiddlewaretoken": self.session.cookies.get("csrftoken", self.token)}
        return self.session.post(
            f"{self.base}{path}", sent | (data or {}), timeout=120,
            headers={"Referer": f"{self.base}/"}, **more,  # type: ignore[arg-type]
        )  # fmt: skip

    def any(self) -> str:
        return self.draw.choice(self.setups)


def benches(person: Person) -> Iterable[int]:
    """Begin a bench and wind it on, again and again."""
    while True:
        page = person.post(f"/bench/{person.any()}/begin/", {"how": "as-wanted"})
        run = page.url.rstrip("/").rpartition("/")[2]
        yield page.status_code
        for _ in range(HOURS_AHEAD):
            yield person.post(f"/bench/run/{run}/press/", {"next": "1"}).status_code


def maps(person: Person) -> Iterable[int]:
    """Maps over two figures, of a day never asked before."""
    while True:
        low = person.draw.uniform(15.0, 25.0)
        yield person.get(f"/reach/{person.any()}/?cool={low:.3f}&hot={low + 15:.3f}").status_code


def drills(person: Person) -> Iterable[int]:
    """The next drill, of any difficulty."""
    while True:
        yield person.get(f"/drills/?difficulty={person.draw.choice(['easy', 'hard'])}").status_code


def prints(person: Person) -> Iterable[int]:
    """Reports and panels on paper."""
    while True:
        for kind in ("report", "panel"):
            yield person.get(f"/verdicts/{person.any()}/{kind}.pdf").status_code


def photographs(person: Person) -> Iterable[int]:
    """Photographed plates, hard to read."""
    for seed in range(10_000):
        picture = {"photo": ("plate.jpg", made(seed, hard=True).raw, "image/jpeg")}
        found = person.post(f"/rigs/{person.rig}/plate/photo/", files=picture)
        yield found.status_code
        if found.status_code == 429:
            time.sleep(5.0)


def programs(site: Site, tokens: int, over: threading.Event, answers: Counter[str]) -> (
    list[threading.Thread]
):  # fmt: skip
    """Programs that ask the dearest verdicts there may be at once."""

    def ask(number: int) -> None:
        turn = 0
        while not over.is_set():
            turn += 1
            dear = question(11, 16, 1000)
            dear["conditions"]["outdoor_c"] = 20 + number + turn / 1000.0
            status, _, headers = site.ask("POST", "/api/v1/verdicts", dear, within_s=60.0)
            answers[f"verdicts {status}"] += 1
            over.wait(float(headers.get("Retry-After", 0)))

    return [threading.Thread(target=ask, args=(n,)) for n in range(tokens)]


def people(
    kind: Callable[[Person], Iterable[int]], over: threading.Event, answers: Counter[str]
) -> list[threading.Thread]:
    """Two people who do nothing else."""

    def work() -> None:
        for status in kind(Person(PORT)):
            answers[f"{kind.__name__} {status}"] += 1
            if over.is_set():
                return

    return [threading.Thread(target=work) for _ in range(2)]


def took(kind: Callable[[Person], Iterable[int]], count: int) -> list[float]:
    """Milliseconds of some of one person's dear requests, sorted."""
    requested, found = iter(kind(Person(PORT))), []
    for _ in range(count):
        begun = time.perf_counter()
        status = next(requested)
        assert status == 200, (kind.__name__, status)
        found.append((time.perf_counter() - begun) * 1000.0)
    return sorted(found)


COUNTS = {benches: 80, maps: 60, drills: 60, prints: 8, photographs: 8}
"""Requests of each kind that are timed; photographs are few in five minutes."""


def main() -> None:
    tokens = int(sys.argv[1]) if len(sys.argv) > 1 else 8
    with Site(PORT, demo=True) as site:
        stored = site.ask("POST", "/api/v1/setups/", question(2, 18, 1000))
        assert stored[0] == 201, stored[0]
        path = f"/api/v1/setups/{stored[1]['id']}/verdict"
        path = path if site.ask("GET", path)[0] == 200 else f"/api/v1/setups/{stored[1]['id']}"
        waits(site, path)
        for kind in (None, benches, maps, drills, prints, photographs):
            told("others, idle", waits(site, path))
            over, answers = threading.Event(), Counter[str]()
            busy = people(kind, over, answers) if kind else programs(site, tokens, over, answers)
            for one in busy:
                one.start()
            name = kind.__name__ if kind else "dearest verdicts"
            told(f"others, beside {name}", waits(site, path))
            over.set()
            for one in busy:
                one.join()
            print(f"  answered: {dict(answers)}", flush=True)
            if kind is None:
                alone = {one: took(one, count) for one, count in COUNTS.items()}
                over.clear()
                busy = programs(site, tokens, over, answers)
                for each in busy:
                    each.start()
                for one, count in COUNTS.items():
                    told(f"{one.__name__}, alone", alone[one])
                    told(f"{one.__name__}, beside {name}", took(one, count))
                over.set()
                for each in busy:
                    each.join()


if __name__ == "__main__":
    main()
