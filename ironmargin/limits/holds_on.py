"""A wanted load that drops out at the settled volts."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.listed import listed
from ironmargin.loads.demand import Demand
from ironmargin.sustaining.steady import Steady, holding_factor

MIN_MISSING = -0.002


def dropout_v(demand: Demand) -> float:
    """Volts below which a load drops out, at its place in the panel [V].

    Args:
        demand: a load as it runs.

    Returns:
        Volts [V].
    """
    return max(d.dropout for d in demand.steady) * demand.steady[0].bus_v


@limit
class HoldsOn(Limit):
    """How much stronger supply and path would have to be for every load to stay on."""

    key = "holds-on"
    check = "voltage"
    quantity = Quantity.VOLTS
    consequence = Consequence.DROPS_OUT
    source = "from memory: 0.45 of rated volts electronics, 0.55 relays and running motors"
    formula = "margin = 1 − how many times as strong supply and path would have to be"

    def rows(self, view: View) -> Iterator[Row]:
        state = view.now.state
        if not isinstance(state, Steady) or not state.dropped_out:
            return
        margin = min(1.0 - holding_factor(view.case), MIN_MISSING)
        for at in state.dropped_out:
            demand = view.case.demands[at]
            yield Row(
                self,
                Place(Site.LOAD, demand.load.id),
                demand.load.name,
                state.volts(demand.leg),
                dropout_v(demand),
                margin,
                unit="V",
                about=demand,
                problem="drops-out",
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        state, demand = context.now.state, row.about
        assert isinstance(state, Steady)
        assert isinstance(demand, Demand)
        names = [context.case.demands[at].load.name for at in state.dropped_out]
        return (
            f"{listed(names)} drop{'s' if len(names) == 1 else ''} out: {float(row.value):.0f} V "
            f"arrive, and {row.name} holds on down to {float(row.allowed):.0f} V.{context.lost}"
        )

    def reading(self, row: Row) -> str:
        return f"{float(row.value):.0f} V"

    def reason(self, row: Row) -> str:
        return f"gets {float(row.value):.0f} V, holds on down to {float(row.allowed):.0f} V"

    def subtitle(self, row: Row) -> str:
        return "drops out"
