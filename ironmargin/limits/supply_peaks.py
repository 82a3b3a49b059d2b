"""The peaks of uncorrected electronics against the current limit of an inverter."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ironmargin.electrics.network import Figure
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.now import Now, largest
from ironmargin.limits.sites import Place, Quantity, Site
from ironmargin.loads.demand import L1L2


def crest_amps(now: Now) -> Figure | None:
    """What uncorrected electronics that run add to the peak of the busier conductor [A]; None where
    there are none.

    Args:
        now: the moment that is asked about.

    Returns:
        Amps, for each set that is asked about [A].
    """
    case = now.case
    conductors: list[Figure] = [0.0, 0.0]
    found = False
    for at, demand in enumerate(case.demands):
        if not demand.crest_a:
            continue
        found = True
        for leg in (0, 1) if demand.leg == L1L2 else (demand.leg,):
            conductors[leg] = conductors[leg] + now.share(at) * demand.crest_a
    single = case.feed.upstream.legs == 1 or case.feed.upstream.tied
    if not found:
        return None
    return conductors[0] + conductors[1] if single else largest(conductors)


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
        crest = crest_amps(view.now)
        if crest is not None and math.isfinite(case.source.limit_a):
            yield self.row(
                Place(Site.SUPPLY),
                "supply, peaks of uncorrected electronics",
                largest(view.now.amps) + crest,
                case.source.limit_a,
                note="crest",
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return (
            f"The current peaks of uncorrected electronics reach {float(row.value):.1f} A, and the "
            f"supply's electronics hold {float(row.allowed):.1f} A.{context.mostly}"
        )

    def subtitle(self, row: Row) -> str:
        return "peaks"
