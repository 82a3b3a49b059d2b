"""What an outlet tester showed at the post: miswired, it is out of service until a later look."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site

SHOWS = {
    "open-ground": "an open ground: what touches the rig can carry line volts",
    "reversed": "hot and neutral reversed: a switch that is off leaves the load live",
    "open-neutral": "an open neutral: with two legs one of them can rise to 240 V",
    "hot-ground-reversed": "hot and ground reversed: the rig's metal is live",
}
CAUTION = "Plug nothing in and touch nothing. The post is for a licensed electrician."


@limit
class OutletWiring(Limit):
    """A post at which a tester last showed a wiring fault fails at any current."""

    key = "outlet-wiring"
    check = "code"
    quantity = Quantity.RULE
    consequence = Consequence.VIOLATES
    source = "NEC 406.4 and 250.114, from memory"
    formula = "the last look with an outlet tester says correct, or nothing may be plugged in"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        post = view.case.setup.supply.post
        if post is not None and post.miswired:
            yield self.violated(Place(Site.RULE, "wiring"), "Outlet wiring", "miswired")

    def sentence(self, row: Row, context: SentenceContext) -> str:
        post = context.case.setup.supply.post
        assert post is not None
        return f"The tester shows {SHOWS[post.tester or '']}. Plug nothing in here."

    def caution(self, row: Row, context: SentenceContext) -> str:
        return CAUTION

    def reading(self, row: Row) -> str:
        return "miswired"

    def reason(self, row: Row) -> str:
        return "an outlet tester showed a wiring fault at this post"

    def subtitle(self, row: Row) -> str:
        return "outlet"
