"""What a generator, inverter or assisted input sustains for hours."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ironmargin.electrics.network import Figure
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.now import largest
from ironmargin.limits.sites import Place, Quantity, Site


@limit
class SupplyHours(Limit):
    """The continuous rating of a set or inverter, after heat and altitude, on its busier leg."""

    key = "supply-hours"
    quantity = Quantity.AMPS_FOR_HOURS
    source = "the nameplate, derated by SAE J1349 and ISO 2533"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        source = view.case.source
        if math.isfinite(source.continuous_a):
            amps: Figure = largest(view.now.amps)
            yield self.row(
                Place(Site.SUPPLY), "supply, running", amps, source.continuous_a, note="running"
            )
        taken_from = source.input
        if taken_from is not None and math.isfinite(taken_from.continuous_a):
            yield self.row(
                Place(Site.INPUT),
                "input, running",
                taken_from.limit_a + taken_from.also_a,
                taken_from.continuous_a,
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        where = row.name.removesuffix(", running")
        amps, allowed = float(row.value), float(row.allowed)
        if context.fails:
            return (
                f"Too much is on at once: the {where} would have to give {amps:.1f} A and can "
                f"sustain {allowed:.1f} A.{context.mostly}"
            )
        return (
            f"The least room is at the {where}: it gives {amps:.1f} A and can sustain "
            f"{allowed:.1f} A.{context.mostly}"
        )

    def subtitle(self, row: Row) -> str:
        return "running"
