"""Settled volts at a motor or a microwave, judged by its own rated voltage, not by the service."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ironmargin.electrics.network import Figure
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.service_volts import HIGH, LOW, edge_of, volts_of
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.loads.demand import Demand
from ironmargin.setup.loads import AirConditioner, Microwave, Motor
from ironmargin.sustaining.steady import Steady

TOLERANCE = 0.10
"""Motors run at rated voltage plus or minus 10 % (NEMA MG 1, 12.44, from memory)."""


def volts_range(demand: Demand) -> tuple[float, float, float]:
    """Lowest, rated and highest volts of a load at its terminals [V]: 10 % beyond its nameplate, or
    beyond both ends of the range on it.

    Args:
        demand: a load as it runs.

    Returns:
        Three figures [V].
    """
    load = demand.load
    low = load.voltage_min_v if load.voltage_min_v is not None else load.voltage_v
    high = load.voltage_max_v if load.voltage_max_v is not None else load.voltage_v
    return (1.0 - TOLERANCE) * low, load.voltage_v, (1.0 + TOLERANCE) * high


@limit
class LoadVolts(Limit):
    """A motor on low volts draws more, heats and stalls; on high volts it saturates."""

    key = "load-volts"
    check = "voltage"
    quantity = Quantity.VOLTS_OFF
    consequence = Consequence.WEARS
    source = "NEMA MG 1, 12.44: rated voltage plus or minus 10 %, from memory"
    formula = "margin = 1 − drop below rated volts ÷ allowed drop"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        now = view.now
        state = now.state
        gone = state.dropped_out if isinstance(state, Steady) else ()
        for at, demand in enumerate(view.case.demands):
            load = demand.load
            # What drops out altogether is told by a limit of its own.
            if at in gone or not isinstance(load, Motor | AirConditioner | Microwave):
                continue
            low, rated, high = volts_range(demand)
            volts = now.volts(demand.leg) * demand.ratio
            on, place = now.share(at), Place(Site.LOAD, load.id)
            yield self.row(
                place,
                load.name,
                on * (rated - volts),
                rated - low,
                unit="V",
                note=LOW,
                about=demand,
                leg=demand.leg,
                base=rated,
            )
            above: Figure = volts - rated
            if np.any(above > high - rated) and np.any(on * above > high - rated):
                yield self.row(
                    place,
                    load.name,
                    on * above,
                    high - rated,
                    unit="V",
                    note=HIGH,
                    about=demand,
                    leg=demand.leg,
                    base=rated,
                )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        edge = f"{'at most' if row.note == HIGH else 'at least'} {edge_of(row):.0f} V"
        return (
            f"{row.name} gets {volts_of(row):.0f} V, and its nameplate of {row.base:.0f} V needs "
            f"{edge}.{context.mostly}{context.lost if context.fails else ''}"
        )

    def reading(self, row: Row) -> str:
        return f"{volts_of(row):.1f} V"

    def reason(self, row: Row) -> str:
        edge = "at most" if row.note == HIGH else "at least"
        return f"{row.name}: {volts_of(row):.1f} V, {edge} {edge_of(row):.0f} V (NEMA MG 1)"

    def subtitle(self, row: Row) -> str:
        return "settled"
