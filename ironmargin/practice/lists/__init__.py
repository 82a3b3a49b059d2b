"""The step lists by what they are for. Each line is data: what a setup must have for it, and what
rules it out. A new list is a module of its own in this folder (CONTRIBUTING.md shows one).
"""

from __future__ import annotations

from ironmargin.practice.lines import Line
from ironmargin.practice.lists.before_need import STORM, UPKEEP
from ironmargin.practice.lists.connecting import SHUT_DOWN, START
from ironmargin.practice.lists.fitting import FIT_HARD_START, FIT_SOFT_STARTER, MEASURE, SURVEY
from ironmargin.practice.lists.hooking_up import HOOK_UP
from ironmargin.practice.lists.tripped import TRIPPED
from ironmargin.registry import load_all

LISTS: dict[str, tuple[Line, ...]] = {
    "hook-up": HOOK_UP,
    "start": START,
    "shut-down": SHUT_DOWN,
    "tripped": TRIPPED,
    "fit-soft-starter": FIT_SOFT_STARTER,
    "fit-hard-start": FIT_HARD_START,
    "measure-start": MEASURE,
    "survey": SURVEY,
    "storm": STORM,
    "upkeep": UPKEEP,
}
PLUGGED = ("plugged", "outlet-live", "set-running")
BEGINS: dict[str, tuple[str, ...]] = {
    "hook-up": (),
    "start": PLUGGED,
    "shut-down": (*PLUGGED, "valve-open"),
    "tripped": PLUGGED,
    "fit-soft-starter": PLUGGED,
    "fit-hard-start": PLUGGED,
}
"""What is so before each list that says what its steps need and make (``Line.given``, ``makes``).
"""
TITLES = {
    "hook-up": "Hook up",
    "start": "Start",
    "shut-down": "Shut down",
    "tripped": "If it trips at night",
    "fit-soft-starter": "Fit a soft starter",
    "fit-hard-start": "Fit a hard-start kit",
    "measure-start": "Measure a start",
    "survey": "Survey the rig",
    "storm": "Before a storm",
    "upkeep": "Upkeep",
}


def step_list(
    purpose: str, title: str, lines: tuple[Line, ...], begins: tuple[str, ...] | None = None
) -> None:
    """Register a list.

    Args:
        purpose: what it is for, in files and addresses.
        title: what a page calls it.
        lines: its steps.
        begins: what is so before it, where its steps say what they need and make.
    """
    LISTS[purpose], TITLES[purpose] = lines, title
    if begins is not None:
        BEGINS[purpose] = begins


load_all(__name__)
