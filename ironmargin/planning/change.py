"""A single change a person could make to a setup, with what it costs and how much trouble it is.

A change is a function from a setup to a changed setup, or to None where it does not apply: so that
two can follow each other. Sizes offered are the generic ones of the shipped tables.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from ironmargin.case import Case
from ironmargin.limits.ledger import HOLDS
from ironmargin.record import record
from ironmargin.setup.model import Setup

FREE, PART, BUY = "free", "part", "buy"
COSTS = (FREE, PART, BUY)
HARDEST = 5
"""Trouble of a change that needs a technician and a day: the most there is."""
MIN_INPUT_A = 2.0
"""The least an inverter/charger's input limit can be set to (common practice: 2 to 5 A)."""
YOURSELF, TECHNICIAN, ELECTRICIAN = "yourself", "a technician", "a licensed electrician"
NUISANCE, ORDER, SETTING, GEAR, PLACE, SUPPLY, ASKED = (
    "nuisance", "order", "setting", "gear", "place", "supply", "asked",
)  # fmt: skip
RUNGS = (NUISANCE, ORDER, SETTING, GEAR, PLACE, SUPPLY, ASKED)
"""What is given up, least missed first: a load nobody would miss, the moment, a setting, money for
gear, the place, another supply or unit, and last what was asked for."""
RUNG_OF = {
    "postpone": ORDER,
    "take-turns": ORDER,
    "mode": SETTING,
    "eco-off": SETTING,
    "fuel": SETTING,
    "input-limit": SETTING,
    "uncoil": SETTING,
    "shorter-cord": SETTING,
    "thicker-cord": GEAR,
    "replace-part": GEAR,
    "bond-neutral": GEAR,
    "transfer-gear": GEAR,
    "move-leg": GEAR,
    "hard-start": GEAR,
    "soft-start": GEAR,
    "inline-soft-start": GEAR,
    "other-outlet": PLACE,
    "two-outlets": PLACE,
    "opposite-legs": PLACE,
    "50-a-pitch": PLACE,
    "second-set": SUPPLY,
    "set-that-sags": SUPPLY,
    "inverter-unit": SUPPLY,
    "smaller-unit": SUPPLY,
    "next-size": SUPPLY,
    "assist": SUPPLY,
    "transformer": SUPPLY,
    "fan-only": ASKED,
}
"""The rung of each kind of change; leaving off a load depends on the load."""
DONE_BY = {
    "hard-start": TECHNICIAN,
    "soft-start": TECHNICIAN,
    "transfer-gear": ELECTRICIAN,
    "inverter-unit": TECHNICIAN,
    "smaller-unit": TECHNICIAN,
    "assist": ELECTRICIAN,
    "transformer": ELECTRICIAN,
    "bond-neutral": ELECTRICIAN,
}
"""Who does it, where it is not yourself (common practice; local code decides)."""

Apply = Callable[[Setup], Setup | None]


@record
class Change:
    """One thing to do.

    Attributes:
        kind: the stable word of the open format.
        what: in words, as an instruction.
        cost: ``free``, ``part`` or ``buy``.
        effort: trouble beside the cost, 0 little to 5 much.
        about: what it changes; two changes about the same thing are not paired.
        apply: the changed setup, or None where it does not apply.
        rung: what is given up by it, of :data:`RUNGS`, where its kind does not say.
        gives_up: that in words, empty where nothing is missed.
        done_by: who does it, where its kind does not say and it is not yourself.
    """

    kind: str
    what: str
    cost: str
    effort: int
    about: str
    apply: Apply
    rung: str = ""
    gives_up: str = ""
    done_by: str = ""

    @property
    def step(self) -> int:
        """Its place on :data:`RUNGS`."""
        return RUNGS.index(self.rung or RUNG_OF[self.kind])

    @property
    def requested(self) -> bool:
        """Whether what was asked for is given up by it."""
        return RUNGS[self.step] == ASKED

    @property
    def by(self) -> str:
        """Who does it."""
        return self.done_by or DONE_BY.get(self.kind, YOURSELF)


Rank = tuple[int, int, bool, int, int, float]


def rank_of(changes: Sequence[Change], verdict: str, margin: float) -> Rank:
    """The one order of everything that is advised, the best smallest: by what is given up, what was
    asked for last; then one change before two, what holds before what is thin, what costs least,
    is least trouble, and gains most.

    Args:
        changes: what is done together.
        verdict: what it leads to.
        margin: what it leads to.

    Returns:
        Sorts as the advice is shown.
    """
    step = max(c.step for c in changes)
    trouble = sum(c.effort for c in changes) + 2 * (len(changes) - 1)
    cost = max(COSTS.index(c.cost) for c in changes)
    return step, len(changes), verdict != HOLDS, cost, trouble, -margin


Maker = Callable[[Setup, Case], Iterator[Change]]
MAKERS: list[Maker] = []
"""What makes changes beside those of ``changes.CHEAPEST_FIRST``, which loads all there are."""


def makes_changes(maker: Maker) -> Maker:
    """Register what makes changes of one kind.

    Args:
        maker: given a setup and the same ready to be solved, yields the changes worth trying.

    Returns:
        The maker.
    """
    MAKERS.append(maker)
    return maker
