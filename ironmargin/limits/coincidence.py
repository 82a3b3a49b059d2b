"""All cycling motors starting in one moment: it can be avoided by order and waits."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import HOLDS, THIN, Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.limits.start_peak import PEAK
from ironmargin.limits.start_reserve import StartReserve
from ironmargin.starting.starts import Start

NIGHTS_OF_TEN_YEARS = 3650


def how_often(per_night: float) -> str:
    """How often something happens, as a person would say it.

    Args:
        per_night: times in a night of ten hours.

    Returns:
        A few words.
    """
    if per_night >= 1.0:
        return f"about {per_night:.0f} times a night"
    if per_night * NIGHTS_OF_TEN_YEARS < 1.0:
        return "hardly ever in ten years"
    return f"about once in {1.0 / per_night:.0f} nights"


@limit
class Coincidence(Limit):
    """As for one start, kept out of the iron margin: by itself it makes a verdict thin at most."""

    key = "coincidence"
    check = "coincidence"
    quantity = Quantity.SOURCE_STRENGTH
    consequence = Consequence.STALLS
    source = StartReserve.source
    formula = "as for one start, all motors in the same moment; kept out of the iron margin"
    in_margin = False
    at_most = THIN

    def rows(self, view: View) -> Iterator[Row]:
        start, case = view.together, view.case
        if start is None:
            return
        place, name = Place(Site.TOGETHER), "All cycling motors in one moment"
        yield Row(self, place, name, start.factor, 1.0, start.margin, unit="", about=start)
        ratings = [b.rating_a for b, _ in case.breakers]
        if ratings:
            yield self.row(
                place,
                name,
                start.wanted_a + case.source.also_a,
                min(ratings),
                criterion=PEAK,
                about=start,
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return "If all motors start in the same moment, one of them does not start."

    def why(self, row: Row) -> str:
        return "all motors starting in the same moment: one does not start"

    def verdict(self, row: Row, thin_below: float) -> str:
        start = row.about
        assert isinstance(start, Start)
        return THIN if float(row.margin) < 0.0 or not start.passes else HOLDS

    def reason(self, row: Row) -> str:
        return StartReserve().reason(row)

    def reading(self, row: Row) -> str:
        return StartReserve().reading(row)

    def subtitle(self, row: Row) -> str:
        return "same moment"
