"""The peak trip criterion: no start may exceed the rating of a breaker it passes."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.starting.starts import Start

PEAK = "peak"


@limit
class StartPeak(Limit):
    """What an ideal supply would see at a start against the smallest rated current on the way."""

    key = "start-peak"
    check = "start"
    quantity = Quantity.AMPS_AT_ONCE
    consequence = Consequence.VIOLATES
    source = "common practice, no source: the cautious of two trip criteria"
    formula = "margin = 1 − peak amps ÷ the smallest breaker rating on the way"

    def rows(self, view: View) -> Iterator[Row]:
        ratings = [b.rating_a for b, _ in view.case.breakers]
        if not ratings:
            return
        for start in view.starts:
            load = view.case.demands[start.starters[0].demand].load
            yield self.row(
                Place(Site.LOAD_START, load.id),
                load.name,
                start.wanted_a + view.case.source.also_a,
                min(ratings),
                criterion=PEAK,
                about=start,
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        concurrent = f" with {context.names} running" if context.names else ""
        over = "goes over" if context.fails else "comes closest to"
        return (
            f"{row.name}'s start {over} the {float(row.allowed):.0f} A breaker rating{concurrent}: "
            f"{float(row.value):.0f} A at the peak."
        )

    def subtitle(self, row: Row) -> str:
        return "start, peak"

    def reason(self, row: Row) -> str:
        return f"{float(row.value):.1f} A at the peak, on a {float(row.allowed):.0f} A breaker"

    def reading(self, row: Row) -> str:
        start = row.about
        assert isinstance(start, Start)
        return f"{float(row.value):.0f} of {float(row.allowed):.0f} A"
