"""A wanted load that the service cannot feed at all."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site

PROBLEMS = {
    "no-240": "needs 240 V between two opposite legs, and this path brings none",
    "no-leg": "is on leg L2, and this path leaves L2 de-energized",
    "low-volts": "gets far less than its rated volts",
}


@limit
class Served(Limit):
    """The service brings what the load needs, or it does not."""

    key = "served"
    check = "service"
    quantity = Quantity.RULE
    consequence = Consequence.DROPS_OUT
    formula = "the service brings what the load needs, or it does not"

    def rows(self, view: View) -> Iterator[Row]:
        for load, problem in view.case.unserved:
            yield self.violated(Place(Site.SERVICE, load.id), load.name, problem, load)

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return f"{row.name} {PROBLEMS[row.problem]}."

    def reading(self, row: Row) -> str:
        return row.problem.replace("-", " ")

    def reason(self, row: Row) -> str:
        return "This path cannot feed it at all."

    def subtitle(self, row: Row) -> str:
        return "service"
