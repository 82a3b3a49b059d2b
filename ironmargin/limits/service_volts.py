"""Settled volts at every place that feeds a load, against the range of its service."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ironmargin.electrics.network import Figure
from ironmargin.electrics.services import nominal_of
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.now import Now, largest
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.tables import number_of

VOLTAGE_RANGE = {120.0: "B utilisation", 230.0: "EN 50160"}
"""Which row of the table of voltage ranges settled volts are judged by: ANSI C84.1 range B, EN
50160 −10 %.
"""
PLACES = ("L1", "L2", "L1-L2")
LOW, HIGH = "low", "high"


def volt_limits(nominal_v: float) -> tuple[float, float]:
    """The lowest and highest settled volts on a service of 120 or 230 V [V].

    Args:
        nominal_v: nominal volts [V].

    Returns:
        Lowest and highest volts [V].
    """
    row = VOLTAGE_RANGE[nominal_v]
    low, high = (
        number_of("voltage_ranges", "range", row, column) for column in ("low_v", "high_v")
    )
    return low, high


def panel_nominal_v(now: Now) -> float:
    """Nominal volts of the rig's service, leg to neutral [V].

    Args:
        now: the moment that is asked about.

    Returns:
        Volts [V].
    """
    return nominal_of(now.case.setup.rig.service)


def place_ratio(now: Now, place: int) -> float:
    """Volts between the two conductors of a place over those of a leg [1].

    Args:
        now: the moment that is asked about.
        place: 0 and 1 for the legs, 2 between them.

    Returns:
        The ratio [1].
    """
    up = now.case.feed.upstream
    if place < 2:
        return 1.0
    return abs(up.e1_v - up.e2_v) / now.case.source.leg_v


def volts_of(row: Row) -> float:
    """The volts behind a row about volts [V].

    Args:
        row: a limit at one place.

    Returns:
        Volts [V].
    """
    sign = 1.0 if row.note == HIGH else -1.0
    return row.base + sign * float(row.value)


def edge_of(row: Row) -> float:
    """The volts at which such a row fails [V].

    Args:
        row: a limit at one place.

    Returns:
        Volts [V].
    """
    sign = 1.0 if row.note == HIGH else -1.0
    return row.base + sign * float(row.allowed)


@limit
class ServiceVolts(Limit):
    """Volts on a leg, or between the legs, within the range of the service."""

    key = "service-volts"
    check = "voltage"
    quantity = Quantity.VOLTS_OFF
    consequence = Consequence.WEARS
    source = "ANSI C84.1 range B utilization, EN 50160, from memory"
    formula = "margin = 1 − drop ÷ allowed drop"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        now = view.now
        nominal = panel_nominal_v(now)
        low_v, high_v = volt_limits(nominal)
        for at in sorted({d.leg for d in view.case.demands}):
            ratio = place_ratio(now, at)
            volts = now.volts(at)
            place = Place(Site.VOLTS, PLACES[at])
            yield self.row(
                place,
                f"volts on {PLACES[at]}",
                nominal * ratio - volts,
                (nominal - low_v) * ratio,
                unit="V",
                note=LOW,
                leg=at,
                base=nominal * ratio,
            )
            over: Figure = volts - nominal * ratio
            if np.any(over > (high_v - nominal) * ratio):
                # A leg that nothing hangs on may rise; one that sags, sags less than the other.
                on = [now.share(n) for n, d in enumerate(view.case.demands) if d.leg == at]
                over = largest(on) * over
            if np.any(over > (high_v - nominal) * ratio):
                yield self.row(
                    place,
                    f"volts on {PLACES[at]} (too high)",
                    over,
                    (high_v - nominal) * ratio,
                    unit="V",
                    note=HIGH,
                    leg=at,
                    base=nominal * ratio,
                )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        if row.note == HIGH:
            return (
                f"Volts on {row.place.ident} stand at {volts_of(row):.1f} V; the most they may be "
                f"is {edge_of(row):.0f} V. Do not plug in."
            )
        return (
            f"Volts on {row.place.ident} settle at {volts_of(row):.1f} V; the least they may be is "
            f"{edge_of(row):.0f} V.{context.mostly}{context.lost if context.fails else ''}"
        )

    def reading(self, row: Row) -> str:
        return f"{volts_of(row):.1f} V"

    def reason(self, row: Row) -> str:
        edge = "at most" if row.note == HIGH else "at least"
        return (
            f"{row.place.ident}: {volts_of(row):.1f} V, {edge} {edge_of(row):.0f} V (ANSI C84.1 "
            "range B or EN 50160)"
        )

    def subtitle(self, row: Row) -> str:
        return "settled"
