"""The rule for continuous loads: for three hours and more, at most 80 % of a breaker's rating."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.breakers import carried_in, lasts_long, opens_after, requested_s
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Quantity
from ironmargin.setup.model import Circuit
from ironmargin.supplies.source import Breaker


@limit
class BreakerContinuous(Limit):
    """Amps averaged over on and off times against the share of the rating that continuous loads
    may use.
    """

    key = "breaker-continuous"
    quantity = Quantity.AMPS_FOR_HOURS
    consequence = Consequence.VIOLATES
    source = "NEC 210.20(A), from memory"
    formula = "margin = 1 − amps averaged over on and off times ÷ 80 % of the rating"
    settled = True
    momentary = False
    rule_alone = True

    def rows(self, view: View) -> Iterator[Row]:
        if not lasts_long(view.case):
            return
        fraction = view.case.setup.rules.continuous_fraction
        for c in carried_in(view):
            yield self.row(
                c.place,
                f"{c.name}, continuous",
                c.mean_a,
                fraction * c.rating_a,
                note="continuous",
                leg=c.leg,
                about=c.about,
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        name = row.name.removesuffix(", continuous")
        lead = "Over the rule for hours" if context.fails else "The least room is for hours"
        assert isinstance(row.about, Breaker | Circuit)
        after_s, when = opens_after(context.case, row.about, float(row.value))
        opens = f" It opens after about {when}." if after_s < requested_s(context.case) else ""
        return (
            f"{lead}: the {name} carries {float(row.value):.1f} A, averaged over on and off times, "
            f"and may carry {float(row.allowed):.1f} A.{opens}{context.mostly}"
        )

    def reason(self, row: Row) -> str:
        return (
            f"{float(row.value):.1f} A averaged over on and off times, of {float(row.allowed):.1f} "
            "A it may carry for three hours and more"
        )

    def subtitle(self, row: Row) -> str:
        return "continuous"
