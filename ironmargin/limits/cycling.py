"""A unit that cycles restarts after the rest its own cycle gives it, against the pressure left."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.ledger import FAILS, HOLDS, Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.starting.starts import Start

PASSES = "starts"


@limit
class Cycling(Limit):
    """What starts once and does not restart at its next thermostat cycle does not hold."""

    key = "cycling"
    check = "start"
    quantity = Quantity.SOURCE_STRENGTH
    consequence = Consequence.STALLS
    source = "pressures equalize within a minute or several: common practice, no source"
    formula = "it restarts after the rest its own cycle gives it, or it does not hold"
    in_margin = False

    def rows(self, view: View) -> Iterator[Row]:
        for start in view.starts:
            if start.cycle is None or not start.passes:
                continue
            load = view.case.demands[start.starters[0].demand].load
            place = Place(Site.LOAD_START, load.id)
            problem = "" if start.cycle == PASSES else start.cycle
            margin = 0.0 if problem else 1.0
            yield Row(
                self, place, load.name, margin, 1.0, margin, about=start, problem=problem, unit=""
            )

    def verdict(self, row: Row, thin_below: float) -> str:
        return FAILS if row.problem else HOLDS

    def _rest_s(self, row: Row, context: SentenceContext) -> float:
        start = row.about
        assert isinstance(start, Start)
        return context.case.demands[start.starters[0].demand].off_s

    def sentence(self, row: Row, context: SentenceContext) -> str:
        if not row.problem:
            return f"{row.name} restarts after {self._rest_s(row, context):.0f} s of rest."
        return (
            f"{row.name} starts once but does not restart at its next cycle: after "
            f"{self._rest_s(row, context):.0f} s of rest its pressures are not equal yet. Set the "
            "thermostat so that it rests longer, or run it without a break."
        )

    def why(self, row: Row) -> str:
        return f"{row.name} does not restart after the rest its own cycle gives it"

    def reading(self, row: Row) -> str:
        return "does not restart" if row.problem else "restarts"

    def reason(self, row: Row) -> str:
        return f"at its next cycle it {self.reading(row)}"
