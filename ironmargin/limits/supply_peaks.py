"""The peaks of uncorrected electronics against the current limit of an inverter."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ironmargin.limits.ledger import Limit, Place, Quantity, Row, Site, Telling, View, limit
from ironmargin.limits.now import largest
from ironmargin.starting.model import crest_amps


@limit
class SupplyPeaks(Limit):
    """Electronics without power-factor correction draw their current in peaks: the settled amps
    and what the peaks add stay under the limit of the supply's electronics.
    """

    key = "supply-peaks"
    quantity = Quantity.AMPS_AT_ONCE
    source = "from memory: peak current √2 ÷ power factor times the amps"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        case = view.case
        crest = crest_amps(case)
        if crest > 0.0 and math.isfinite(case.source.limit_a):
            yield self.row(
                Place(Site.SUPPLY),
                "supply, peaks of uncorrected electronics",
                largest(view.now.amps) + crest,
                case.source.limit_a,
                note="crest",
            )

    def sentence(self, row: Row, told: Telling) -> str:
        return (
            f"The current peaks of uncorrected electronics reach {float(row.value):.1f} A, and the "
            f"supply's electronics hold {float(row.allowed):.1f} A.{told.most}"
        )

    def subtitle(self, row: Row) -> str:
        return "peaks"
