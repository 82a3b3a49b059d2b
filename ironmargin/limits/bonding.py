"""Where the neutral is bonded to ground: floating, once, or twice; and what a guard does then."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.case import Case
from ironmargin.limits.backfeed import BUILDING, what_it_is
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Place, Quantity, Site
from ironmargin.record import record
from ironmargin.setup.hookup import Guard, Transfer, Transformer

FLOATING, BONDED = "floating", "bonded"


@record
class Bonding:
    """The bonds of a supply's neutral.

    Attributes:
        bonds: how many bonds to ground the neutral has at the panel, 0, 1 or 2.
        stated: whether all of that was said, or some of it is only usual.
        sentence: what that means here.
    """

    bonds: int
    stated: bool
    sentence: str


def source_neutral(case: Case) -> tuple[str, bool]:
    """Whether the supply's neutral floats or is bonded, and whether that was stated. Portable
    inverter sets and inverters mostly float, the street is bonded (common practice, no source).

    Args:
        case: the prepared setup.

    Returns:
        ``floating`` or ``bonded``, and whether it was stated.
    """
    for item in case.setup.hookup:
        if isinstance(item, Transformer):
            derived = item.neutral or ("derived" if item.type == "isolation" else "passed-through")
            if derived == "derived":
                return BONDED, item.neutral is not None
    stated = case.source.neutral
    return (stated, True) if stated else (FLOATING, False)


def bonding_of(case: Case) -> Bonding:
    """The bonds of the neutral, in numbers and words.

    Args:
        case: the prepared setup.

    Returns:
        The bonds.
    """
    neutral, stated = source_neutral(case)
    kind = case.setup.supply.noun
    transfer = next((x for x in case.setup.hookup if isinstance(x, Transfer)), None)
    house = what_it_is(case.setup) == BUILDING and case.source.kind != "shore"
    usual = "" if stated else " (usual of its kind; look in its manual)"
    if not house:
        bonds = int(neutral == BONDED)
        said = f"The {kind}'s neutral is {'bonded to ground once' if bonds else 'floating'}{usual}."
        return Bonding(bonds, stated, said)
    switched = transfer is not None and transfer.switched_neutral
    bonds = int(neutral == BONDED) + int(not switched)
    if bonds == 2:
        said = (
            f"The {kind}'s neutral is bonded at the {kind} and again in the house{usual}: the "
            "transfer gear does not switch the neutral, so one bond has to come out."
        )
    elif bonds == 1:
        where = f"at the {kind}" if switched else "in the house"
        said = f"The neutral is bonded once, {where}{usual}."
    else:
        said = (
            f"The transfer switch switches the neutral and the {kind}'s floats{usual}: bond it "
            f"once, at the {kind}."
        )
    return Bonding(bonds, stated, said)


def rejects(case: Case) -> Guard | None:
    """A guard that refuses a supply without a bond, if there is one.

    Args:
        case: the prepared setup.

    Returns:
        The guard, or None.
    """
    return next((p.guard for p in case.feed.guards if p.guard.open_ground is not False), None)


@limit
class GroundSeen(Limit):
    """A guard that refuses an open ground never closes behind a floating neutral."""

    key = "guard-ground"
    check = "voltage"
    quantity = Quantity.RULE
    source = "the guard's manual; common practice, no source"
    formula = "a guard that refuses an open ground needs one bond before it"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        case = view.case
        guard, (neutral, stated) = rejects(case), source_neutral(case)
        if guard is None or guard.open_ground is None or not stated or neutral == BONDED:
            return
        for point in case.feed.guards:
            if point.guard is guard:
                place = Place(Site.GUARD, item=point.item)
                yield self.violated(place, guard.name or "guard", "floating", point)

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return (
            "The guard does not close: the supply's neutral is floating, which it reads as an open "
            "ground. Bond the neutral once at the supply, as its manual says."
        )

    def reading(self, row: Row) -> str:
        return "stays open"

    def reason(self, row: Row) -> str:
        return "refuses a floating neutral as an open ground"

    def subtitle(self, row: Row) -> str:
        return "ground"
