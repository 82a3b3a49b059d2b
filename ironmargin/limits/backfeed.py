"""A set, inverter or vehicle that feeds a building's panel needs an inlet and a transfer switch or
interlock, or it can feed the street.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from ironmargin.case import Case
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.setup.hookup import Inlet, Transfer
from ironmargin.setup.model import Setup

BUILDING, UNKNOWN = "building", "unknown"
WORDS = {
    "vehicle": "rv|trailer|wagon|wheel|van|motorhome|camper|caravan|coach|truck|bus|vehicle",
    "boat": "boat|yacht|sailboat|houseboat",
    "stall": "stall|stand|booth|market",
    BUILDING: "house|home|cabin|cottage|clinic|garage|barn|shop|office|church|apartment|building"
    "|farm|shed",
}
HOUSEHOLD = "well pump|sump|furnace blower|central (air|unit)|condens|whole house|septic"
"""Loads that only a building has (common practice, no source)."""
CAUTION = (
    "Back-feed kills people on the line: a transfer switch or interlock and an inlet, main off "
    "and locked first. Licensed work."
)


def what_it_is(setup: Setup) -> str:
    """What a setup's rig is.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        As :func:`kind_of` has it.
    """
    rig = setup.rig
    return kind_of(rig.what, rig.name, (load.name for load in rig.loads))


def kind_of(what: str | None, name: str, loads: Iterable[str]) -> str:
    """What a rig is: as it says, else by words in its name, else by what it has and runs.

    Args:
        what: what it says.
        name: what it is called.
        loads: what its loads are called.

    Returns:
        ``building``, ``vehicle``, ``boat``, ``stall``, or ``unknown``.
    """
    if what is not None:
        return what
    for kind in ("boat", BUILDING, "stall", "vehicle"):
        if re.search(rf"\b({WORDS[kind]})s?\b", name.lower()):
            return kind
    if any(re.search(HOUSEHOLD, load.lower()) for load in loads):
        return BUILDING
    return UNKNOWN


def feeds_alone(case: Case) -> bool:
    """Whether the supply is not the street itself, so that it could feed into it.

    Args:
        case: the prepared setup.

    Returns:
        Whether it could.
    """
    return case.setup.supply.post is None


def secured(setup: Setup) -> bool:
    """Whether the path has an inlet and a transfer switch or interlock.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Whether it has both.
    """
    kinds = {type(item) for item in setup.hookup}
    return Inlet in kinds and Transfer in kinds


@limit
class Backfeed(Limit):
    """At any voltage and number of legs. A rig of which nobody knows what it is gets the caution
    and does not fail.
    """

    key = "backfeed"
    check = "code"
    quantity = Quantity.RULE
    consequence = Consequence.VIOLATES
    source = "NEC 702.5, from memory"
    formula = "an inlet and a transfer switch or interlock, or it is not allowed"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        case = view.case
        if not feeds_alone(case) or what_it_is(case.setup) != BUILDING or secured(case.setup):
            return
        yield self.violated(Place(Site.RULE, "backfeed"), "Back-feed", "no-transfer")

    def sentence(self, row: Row, context: SentenceContext) -> str:
        kinds = {type(item) for item in context.case.setup.hookup}
        missing = [
            words
            for kind, words in ((Inlet, "an inlet"), (Transfer, "a transfer switch or interlock"))
            if kind not in kinds
        ]
        return (
            f"This feeds a building's panel without {' and '.join(missing)}: it can feed the "
            "street and kill a lineman. It violates code."
        )

    def caution(self, row: Row, context: SentenceContext) -> str:
        return CAUTION

    def reading(self, row: Row) -> str:
        return "violates code"

    def reason(self, row: Row) -> str:
        return "a building's panel needs an inlet and a transfer switch or interlock (NEC 702.5)"

    def subtitle(self, row: Row) -> str:
        return "code"
