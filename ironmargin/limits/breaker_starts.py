"""A start against breakers at the early edge of their band. The nominal edge is in the start."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ironmargin.case import Case
from ironmargin.limits.breakers import breaker_curve, site_of
from ironmargin.limits.ledger import HOLDS, THIN, Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Place, Quantity, Site
from ironmargin.protection.breaker import EARLY, Curve
from ironmargin.setup.model import Circuit
from ironmargin.starting.protection import branch_curve
from ironmargin.starting.scenario import Trace
from ironmargin.starting.starts import Start
from ironmargin.supplies.source import Breaker


def trips_along(
    trace: Trace, leg: int, rating_a: float, curve: Curve, heat: float, also_a: float
) -> bool:
    """Whether a curve trips along a start.

    Args:
        trace: amps of the start over time.
        leg: source conductor.
        rating_a: of the breaker [A].
        curve: of the breaker, at an edge of its band.
        heat: before the start, in units of (I/In)² [1].
        also_a: other loads on it [A].

    Returns:
        Whether it opens before the start is over.
    """
    xs = (trace.a[min(leg, len(trace.a) - 1)][:-1] + also_a) / rating_a
    # Heat goes towards x²: below the curve's own multiple it never gets there.
    if not len(xs) or max(float(xs.max()) ** 2, heat) < curve.multiple**2:
        return False
    for x, seconds in zip(xs.tolist(), np.diff(trace.t_s).tolist(), strict=True):
        heat = curve.heat_after(x, seconds, heat)
        if heat >= curve.multiple**2 or x >= curve.magnetic:
            return True
    return False


def warm_of(case: Case, breaker: Breaker, leg: int, warm_a: tuple[float, ...]) -> float:
    """Heat of a breaker before the largest start, in units of (I/In)² [1].

    Args:
        case: the prepared setup.
        breaker: a breaker of supply, path, panel or branch.
        leg: L1 or L2.
        warm_a: amps of each conductor before the start [A].

    Returns:
        Heat [1].
    """
    also = case.source.also_a if breaker.where == "post" else 0.0
    return min(((warm_a[min(leg, len(warm_a) - 1)] + also) / breaker.rating_a) ** 2, 1.0)


def branch_trips(case: Case, start: Start, circuit: Circuit, curve: Curve) -> bool:
    """Whether a branch breaker of this curve opens in a start, from what its load would draw on an
    ideal supply in the share of it that this one gives.

    Args:
        case: the setup, ready to be solved.
        start: as it was followed on this supply.
        circuit: behind the breaker.
        curve: of the breaker, at an edge of its band.

    Returns:
        Whether it opens.
    """
    demand = case.demands[start.starters[0].demand]
    if demand.plate is None:
        return False
    plate = demand.plate
    dip = min(start.lowest_v / case.source.nominal_v, 1.0)
    drawn = plate.lra_a * (plate.soft_fraction or dip)
    concurrent = sum(
        sum(x.amps for x in d.steady)
        for d in case.demands
        if d.load.circuit == circuit.id and d is not demand
    )
    x = (drawn + concurrent) / circuit.breaker_a
    heat = min((concurrent / circuit.breaker_a) ** 2, 1.0)
    return x >= curve.magnetic or curve.trip_s(x, heat) <= start.seconds


@limit
class BreakerStarts(Limit):
    """A start that opens a breaker at the early edge of its band is thin."""

    key = "breaker-starts"
    check = "start"
    quantity = Quantity.AMPS_FOR_A_TIME
    source = "UL 489 and IEC 60898-1 calibration points, from memory"
    formula = "thin where a breaker at the early edge of its band opens on a start"
    in_margin = False
    at_most = THIN

    def rows(self, view: View) -> Iterator[Row]:
        case = view.case
        if not view.warm_a:
            return
        for breaker, leg in case.breakers:
            curve = breaker_curve(case, breaker, EARLY)
            heat = warm_of(case, breaker, leg, view.warm_a)
            also = case.source.also_a if breaker.where == "post" else 0.0
            if any(
                trips_along(s.trace, leg, breaker.rating_a, curve, heat, also) for s in view.starts
            ):
                yield self.violated(Place(site_of(breaker)), breaker.name, "early", breaker)
        for circuit in case.setup.rig.circuits:
            curve = branch_curve(case, circuit, EARLY)
            on_it = [
                s
                for s in view.starts
                if case.demands[s.starters[0].demand].load.circuit == circuit.id
            ]
            if any(branch_trips(case, s, circuit, curve) for s in on_it):
                name = f"branch {circuit.name or circuit.id}"
                yield self.violated(Place(Site.CIRCUIT, circuit.id), name, "early", circuit)

    def verdict(self, row: Row, thin_below: float) -> str:
        return THIN if row.problem == "early" else HOLDS

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return f"{self.why(row)}."

    def why(self, row: Row) -> str:
        return f"{row.name}: one that trips early opens on a start"

    def reason(self, row: Row) -> str:
        return "one that trips early opens on a start"

    def reading(self, row: Row) -> str:
        return "an early one opens"

    def subtitle(self, row: Row) -> str:
        return "starts"
