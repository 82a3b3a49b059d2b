"""What a line of a step list is, and the cautions that stand at more than one of them."""

from __future__ import annotations

from ironmargin.record import record

EACH_START = "each-start"
GUARD_WAIT = -1.0
"""Stands for the guard's own delay."""


@record
class Requested:
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
    gate: Requested | None = None
    given: tuple[str, ...] = ()
    makes: tuple[str, ...] = ()


BACKFEED = (
    "Backfeed kills people on the line. Turn the main off before the inlet is live, and use only "
    "an interlock or a transfer switch. Licensed work."
)
ADAPTERS = "Brown, loose, bent or warm: take it out of service. Never rely on the breaker."
LOCKED = "Lock or tag what you turned off. Somebody may turn it back on."
CAPACITORS = (
    "Capacitors hold a charge with the power off. Before you touch them: isolate, wait, "
    "discharge as the unit's manufacturer says, measure."
)
ROOF = "On the roof: mind your footing and the wind, tie the ladder, have somebody below."
PANEL = "Do not open a live panel to measure unless trained and equipped for it."
TESTER = "Never defeat a ground-fault device, a ground pin or a neutral bond."
REFUEL = (
    "Refueling hot starts fires: stop it, let it cool, then fill. Keep propane outside and upright."
)
CHILDREN = (
    "Dry hands, dry plugs, and never stand in water. Use a GFCI outlet where there is one. Keep "
    "children and animals away from the cord and the supply."
)
FLAMES = "Gas appliances: vents open, and every flame out while anything is refueled."
GAS = "Gas: no flame, no cigarette, and no switch until every joint is tight."
BONDS = (
    "One bond, never two. With a house's panel, or with a generator that is already bonded, the "
    "ground wire would carry neutral current."
)
LICENSED = "Neutral, ground and bonding are licensed work. Local code decides."
LICENSED_GAS = "A gas line and its connector are licensed work. Local code decides."
ENGINE_BY_ITSELF = (
    "A hybrid starts its engine by itself: keep it outdoors, exhaust away from every opening, "
    "never in a garage. Carbon monoxide kills."
)
HEAT_OF_BATTERIES = (
    "If a battery swells, smells or is hot to the touch: switch it off and get away from it, "
    "outside."
)
RED_LAMP = (
    "After a red overload light: turn the loads off, wait five minutes, then restart the "
    "generator. If it happens again, stop."
)
RESETS = (
    "Never hold a breaker in, never install a bigger one, never bypass a guard. A breaker that "
    "opens again is doing its job."
)
