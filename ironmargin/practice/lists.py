"""The step lists by what they are for. Each line is data: what a setup must have for it, and what
rules it out.
"""

from __future__ import annotations

from ironmargin.practice.before_need import STORM, UPKEEP
from ironmargin.practice.connecting import SHUT_DOWN, START
from ironmargin.practice.fitting import FIT_HARD_START, FIT_SOFT_STARTER, MEASURE, SURVEY
from ironmargin.practice.hooking_up import HOOK_UP
from ironmargin.practice.lines import Line
from ironmargin.practice.tripped import TRIPPED

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
