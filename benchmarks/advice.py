"""What advice takes: every fix of a setup, its first three, each list of steps, the night's list.

    IRONMARGIN_TESTING=1 .venv/bin/python -m benchmarks.advice

Every check setup and every setup of the demo; seconds of this process, the best of three. The
slowest are printed first, with what was asked: all fixes 1.0 s, the first three 0.3 s, a list of
steps 0.3 s.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial

import django

from ironmargin.errors import SetupError
from ironmargin.planning import remedies
from ironmargin.planning.remedy import Remedy
from ironmargin.practice.steps import PURPOSES, steps_of
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from tests.shared import document

TURNS, SHOWN, FIRST, BAD_FILE, CHECK_SETUPS = 3, 6, 3, 12, 22


def setups() -> list[Setup]:
    """Every check setup that can be read, and the demo's."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "web.project.settings")
    django.setup()
    from web.setups.demo import documents

    numbers = [n for n in range(1, CHECK_SETUPS + 1) if n != BAD_FILE]
    return [read_setup(x) for x in [*map(document, numbers), *documents()]]


def best(work: Callable[[], float]) -> float:
    """The least of some turns [s]."""
    return min(work() for _ in range(TURNS))


def every_fix(setup: Setup) -> float:
    """Seconds until the search for fixes has ended."""
    begun = time.perf_counter()
    remedies.find_remedies(setup)
    return time.perf_counter() - begun


def first_three(setup: Setup) -> float:
    """Seconds until three fixes are known, or the search has ended."""
    begun = time.perf_counter()
    found: list[Remedy] = []

    def enough() -> bool:
        return len(found) >= FIRST

    made = remedies.Remedy
    try:
        remedies.Remedy = lambda *given: found.append(made(*given)) or found[-1]  # type: ignore
        remedies.find_remedies(setup, stop=enough)
    finally:
        remedies.Remedy = made  # type: ignore[misc]
    return time.perf_counter() - begun


def steps(setup: Setup, purpose: str) -> float:
    """Seconds for one list of steps."""
    begun = time.perf_counter()
    steps_of(setup, purpose)
    return time.perf_counter() - begun


def main() -> None:
    """Time everything and say the slowest."""
    found: dict[str, list[tuple[float, str]]] = {}
    for setup in setups():
        timed = {"every fix": every_fix, "first three": first_three}
        timed |= {f"steps: {each}": partial(steps, purpose=each) for each in PURPOSES}
        for what, work in timed.items():
            with suppress(SetupError):  # a list that is not for this supply
                took = best(partial(work, setup))
                found.setdefault(what, []).append((took, setup.name))
    for what, rows in found.items():
        rows.sort(reverse=True)
        print(f"{what}: " + ", ".join(f"{took:.2f} s {name}" for took, name in rows[:SHOWN]))


if __name__ == "__main__":
    main()
