"""A network that has no settled state at all."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.sustaining.steady import Steady


@limit
class Settles(Limit):
    """Volts and amps that never settle are an outcome with a reason, never a number."""

    key = "settles"
    quantity = Quantity.SOURCE_STRENGTH
    consequence = Consequence.DROPS_OUT
    source = "the settled network; docs/model.md"
    formula = "volts and amps settle, or there is no verdict"

    def rows(self, view: View) -> Iterator[Row]:
        state = view.now.state
        if isinstance(state, Steady) and not state.converged:
            yield self.violated(Place(Site.SUPPLY), "no settled state", state.reason)

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return f"No verdict: {row.problem}. Check the supply's figures and the loads."

    def reading(self, row: Row) -> str:
        return "never settles"

    def reason(self, row: Row) -> str:
        return row.problem

    def subtitle(self, row: Row) -> str:
        return "settled"
