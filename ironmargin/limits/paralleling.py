"""Which sets may be paralleled: those made for it, and of one kind."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.setup.engines import Generator, Parallel

REASONS = {
    "conventional": "nothing keeps the waves of conventional generators in step; one drives "
    "the other",
    "mixed": "nothing keeps the waves of a conventional and an inverter generator in step",
    "not-made-for-it": "a generator that is not made for paralleling does not share the load and "
    "can burn out",
}


def made_for_it(unit: Generator) -> bool:
    """Whether a set can be paralleled: inverter sets can unless said otherwise.

    Args:
        unit: a generator.

    Returns:
        Whether it has what paralleling needs.
    """
    return unit.inverter if unit.parallel_ready is None else unit.parallel_ready


def problem_of(supply: Parallel) -> str:
    """Why these sets cannot be paralleled, as a key of :data:`REASONS`; empty if they can.

    Args:
        supply: sets in parallel.

    Returns:
        The key.
    """
    inverters = [u.inverter for u in supply.units]
    if not any(inverters):
        return "conventional"
    if not all(inverters):
        return "mixed"
    return "" if all(made_for_it(u) for u in supply.units) else "not-made-for-it"


@limit
class Paralleling(Limit):
    """Sets that cannot be paralleled fail, whatever they are to run."""

    key = "paralleling"
    check = "service"
    quantity = Quantity.RULE
    consequence = Consequence.BURNS
    source = "common practice, no source: the makers' manuals"
    formula = "inverter generators made for it, or it is not allowed"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        supply = view.case.setup.supply
        if isinstance(supply, Parallel) and (problem := problem_of(supply)):
            yield self.violated(Place(Site.SUPPLY), "Paralleled sets", problem)

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return f"These generators cannot be paralleled: {REASONS[row.problem]}."

    def caution(self, row: Row, context: SentenceContext) -> str:
        return "Never connect two generators that are not made for paralleling."

    def reading(self, row: Row) -> str:
        return "not allowed"

    def reason(self, row: Row) -> str:
        return REASONS[row.problem]

    def subtitle(self, row: Row) -> str:
        return "paralleling"
