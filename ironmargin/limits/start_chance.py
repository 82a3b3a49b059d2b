"""How often a start passes, over rigs and days."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import FAILS, HOLDS, THIN, Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site

SURE = 0.99
EVEN = 0.5


@limit
class StartChance(Limit):
    """A start that passes less than every second time fails; less than 99 times in 100 is thin."""

    key = "start-chance"
    check = "start"
    quantity = Quantity.CHANCE
    consequence = Consequence.STALLS
    source = "trials over what is not known of the rig, and what differs from day to day"
    formula = "fails below 1 start in 2, thin below 99 in 100"
    in_margin = False

    def rows(self, view: View) -> Iterator[Row]:
        for start in view.starts:
            if start.chance is None:
                continue
            load = view.case.demands[start.starters[0].demand].load
            yield Row(
                self,
                Place(Site.LOAD_START, load.id),
                load.name,
                start.chance.chance,
                EVEN,
                start.chance.chance - EVEN,
                unit="",
                about=start,
            )

    def verdict(self, row: Row, thin_below: float) -> str:
        chance = float(row.value)
        return FAILS if chance < EVEN else THIN if chance < SURE else HOLDS

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return f"{self.why(row)}."

    def why(self, row: Row) -> str:
        rule = "less than every second time" if float(row.value) < EVEN else "not every time"
        return f"{row.name} starts {float(row.value) * 100:.0f} times in 100: {rule}"

    def reason(self, row: Row) -> str:
        return f"starts {float(row.value) * 100:.0f} times in 100"
