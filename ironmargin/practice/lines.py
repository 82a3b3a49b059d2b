"""What a line of a step list is, and the cautions that stand at more than one of them."""

from __future__ import annotations

from ironmargin.record import record

EACH_START = "each-start"
GUARD_WAIT = -1.0
"""Stands for the guard's own delay."""


@record
class Asked:
    """A gate of a line; ``low`` and ``high`` may name a figure of the setup, ``must`` where nobody
    goes on without a reading.
    """

    reading: str
    unit: str = ""
    low: float | str | None = None
    high: float | str | None = None
    words: str = ""
    if_not: str = ""
    ends: bool = False
    must: bool = False


@record
class Line:
    """One line of a list.

    Attributes:
        id, text, why: its name, what to do, and why.
        needs, without: facts of a setup that bring it in, and that keep it out.
        other_way: the other way through, where practitioners differ, and what it costs.
        expect, caution, wait_s, tools, gate: what is to be seen, who can be hurt, a wait [s], what
            is in hand, and what must be read before the hands go on.
        given: what must be so before it, as ``plugged`` or ``-plugged``.
        makes: what is so after it. A test walks every list with them: nothing is asked that the
            steps before made impossible or dangerous.
    """

    id: str
    text: str
    why: str
    needs: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    other_way: str = ""
    expect: str = ""
    caution: str = ""
    wait_s: float = 0.0
    tools: tuple[str, ...] = ()
    gate: Asked | None = None
    given: tuple[str, ...] = ()
    makes: tuple[str, ...] = ()


BACKFEED = (
    "Backfeed kills people on the line. Main off before the inlet is live; interlock or transfer "
    "switch only. Licensed work."
)
MONOXIDE = (
    "Carbon monoxide kills: outside, exhaust away, at least 20 ft (6 m) from any opening, alarm "
    "fitted."
)
ADAPTERS = "Brown, loose, bent or warm means out of service. Never rely on the breaker."
LOCKED = "Lock or tag what you opened; somebody below may put it back."
CAPACITORS = (
    "Capacitors hold a charge with the power off: isolate, wait, discharge as the unit's maker "
    "says, measure, before touching."
)
ROOF = "Roof: footing, ladder tied, wind, somebody below."
PANEL = "Do not open a live panel to measure unless trained and equipped for it."
TESTER = "Never defeat a ground-fault device, a ground pin or a neutral bond."
REFUEL = "Hot refuelling burns: stop, cool, then fill. Propane outside, upright."
CHILDREN = (
    "Dry hands, dry plugs, never standing in water; a GFCI outlet where there is one. Children and "
    "animals stay away from cord and set."
)
GAS = "Gas: no flame, no cigarette, no switch until the joints are tight."
BONDS = (
    "One bond, never two: with a house's panel, or a set that is bonded itself, the ground wire "
    "would carry neutral current."
)
LICENSED = "Neutral, ground and bond are licensed work; local code decides."
LICENSED_GAS = "A gas line and its connector are licensed work; local code decides."
ENGINE_BY_ITSELF = (
    "A hybrid starts its engine by itself: outdoors, exhaust away from every opening, never in a "
    "garage. Carbon monoxide kills."
)
HEAT_OF_BATTERIES = (
    "A battery that swells, smells or is hot to the hand: off, away from it, and outside."
)
RED_LAMP = (
    "After a red lamp: loads off, five minutes, then restart the set. Twice in a row means stop."
)
RESETS = (
    "Never hold a breaker in, never fit a bigger one, never bypass a guard. A warm one that opens "
    "again has done its work."
)
