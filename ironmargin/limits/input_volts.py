"""The volts an inverter/charger finds at its input, with all that hangs on that circuit."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.case import Case
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.service_volts import edge_of, volt_limits, volts_of
from ironmargin.limits.sites import Consequence, Place, Quantity, Site


def input_volts(case: Case) -> float:
    """Settled volts at the input of an inverter/charger [V]: behind the post's impedance with all
    that hangs on its circuit, and the path with what it takes.

    Args:
        case: the setup, ready to be solved.

    Returns:
        Volts of a leg [V].
    """
    taken_from = case.source.input
    if taken_from is None:
        return case.source.leg_v
    drop = abs(taken_from.ohm + case.feed.input_ohm) * taken_from.limit_a
    return taken_from.leg_v - drop


@limit
class InputVolts(Limit):
    """Below the range of the service an inverter/charger drops its input."""

    key = "input-volts"
    check = "voltage"
    quantity = Quantity.VOLTS_OFF
    consequence = Consequence.DROPS_OUT
    source = "ANSI C84.1 range B utilization, EN 50160, from memory"
    formula = "margin = 1 − drop ÷ allowed drop"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        case = view.case
        if case.source.input is None:
            return
        nominal = case.source.nominal_v
        low, _ = volt_limits(nominal)
        yield self.row(
            Place(Site.INPUT),
            "volts at the input",
            nominal - input_volts(case),
            nominal - low,
            unit="V",
            note="volts",
            base=nominal,
        )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return (
            f"The inverter's input {'gets' if context.fails else 'still gets'} "
            f"{volts_of(row):.0f} V; "
            f"below {edge_of(row):.0f} V it drops the {context.case.setup.supply.feeding.words}."
        )

    def reason(self, row: Row) -> str:
        return f"drops {float(row.value):.1f} V of {float(row.allowed):.0f} V allowed"

    def reading(self, row: Row) -> str:
        return self.reason(row)

    def subtitle(self, row: Row) -> str:
        return "volts"
