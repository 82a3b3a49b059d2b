"""What a line of a step list is, and the cautions that stand at more than one of them."""

from __future__ import annotations

from ironmargin.record import record

EACH_START = "each-start"
GUARD_WAIT = -1.0
"""Stands for the guard's own delay."""


@record
class Asked:
    """A gate of a line; ``low`` and ``high`` may name a figure of the setup."""

    reading: str
    unit: str = ""
    low: float | str | None = None
    high: float | str | None = None
    words: str = ""
    if_not: str = ""
    ends: bool = False


@record
class Line:
    """One line of a list."""

    id: str
    text: str
    why: str
    needs: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    expect: str = ""
    caution: str = ""
    wait_s: float = 0.0
    tools: tuple[str, ...] = ()
    gate: Asked | None = None


BACKFEED = (
    "Backfeed kills people on the line. Main off before the inlet is live; interlock or transfer "
    "switch only. Licensed work."
)
MONOXIDE = (
    "Carbon monoxide kills: outside, exhaust away, at least 20 ft (6 m) from any opening, alarm "
    "fitted."
)
ADAPTERS = "Brown, loose, bent or warm means out of service. Never rely on the breaker."
CAPACITORS = (
    "Capacitors hold a charge with the power off: isolate, wait, discharge as the unit's maker "
    "says, measure, before touching."
)
ROOF = "Roof: footing, ladder tied, wind, somebody below."
PANEL = "Do not open a live panel to measure unless trained and equipped for it."
TESTER = "Never defeat a ground-fault device, a ground pin or a neutral bond."
REFUEL = "Hot refuelling burns: stop, cool, then fill. Propane outside, upright."
