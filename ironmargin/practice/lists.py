"""The step lists by what they are for. Each line is data: what a setup must have for it, and what
rules it out.
"""

from __future__ import annotations

from ironmargin.practice.before_need import STORM, UPKEEP
from ironmargin.practice.connecting import HOOK_UP, SHUT_DOWN, START
from ironmargin.practice.fitting import FIT_HARD_START, FIT_SOFT_STARTER, MEASURE, SURVEY
from ironmargin.practice.lines import Line

LISTS: dict[str, tuple[Line, ...]] = {
    "hook-up": HOOK_UP,
    "start": START,
    "shut-down": SHUT_DOWN,
    "fit-soft-starter": FIT_SOFT_STARTER,
    "fit-hard-start": FIT_HARD_START,
    "measure-start": MEASURE,
    "survey": SURVEY,
    "storm": STORM,
    "upkeep": UPKEEP,
}
TITLES = {
    "hook-up": "Hook up",
    "start": "Start",
    "shut-down": "Shut down",
    "fit-soft-starter": "Fit a soft starter",
    "fit-hard-start": "Fit a hard-start kit",
    "measure-start": "Measure a start",
    "survey": "Survey the rig",
    "storm": "Before a storm",
    "upkeep": "Upkeep",
}
