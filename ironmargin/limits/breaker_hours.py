"""A breaker against its settled amps, by the same curve that judges a start."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.limits.breakers import breaker_curve, carried_in, opens_after, requested_s
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Quantity
from ironmargin.protection.breaker import LATE
from ironmargin.setup.model import Circuit
from ironmargin.supplies.source import Breaker

HOUR_S = 3600.0


@limit
class BreakerHours(Limit):
    """With everything on for the hours asked: a nominal breaker that opens fails, one that only an
    early breaker would do is thin.
    """

    key = "breaker-hours"
    quantity = Quantity.AMPS_FOR_A_TIME
    source = "UL 489 and IEC 60898-1 calibration points, from memory"
    formula = "margin = 1 − amps ÷ the amps a nominal breaker carries for the hours wanted"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        seconds = requested_s(view.case)
        for c in carried_in(view):
            yield self.row(
                c.place,
                c.name,
                c.amps,
                c.rating_a * c.nominal.holds_x(seconds),
                early=c.rating_a * c.early.holds_x(seconds),
                leg=c.leg,
                about=c.about,
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        about = row.about
        assert isinstance(about, Breaker | Circuit)
        rating = about.rating_a if isinstance(about, Breaker) else about.breaker_a
        amps = float(row.value)
        if not context.fails:
            return (
                f"The least room is at {row.name}, a {rating:.0f} A breaker: it carries {amps:.1f} "
                f"A. In this heat one that trips early opens above {float(row.early or 0.0):.1f} A."
            )
        _, when = opens_after(context.case, about, amps)
        return (
            f"{row.name[:1].upper()}{row.name[1:]} carries {amps:.1f} A, and a {rating:.0f} A "
            f"breaker opens after about {when} in this heat.{context.mostly}"
        )

    def caution(self, row: Row, context: SentenceContext) -> str:
        """A late breaker may hold what burns a weaker part behind it.

        Args:
            row: the breaker with its amps.
            context: the case and its moment.

        Returns:
            The caution in words; empty where no part is weaker than what it may hold.
        """
        about = row.about
        if not isinstance(about, Breaker) or about.where == "main":
            return ""
        late = breaker_curve(context.case, about, LATE)
        amps = float(row.value)
        if late.trip_s(amps / about.rating_a) < HOUR_S:
            return ""
        weak = [p.name for p in context.case.feed.parts if p.rating_a < amps]
        if not weak:
            return ""
        return (
            f"A {about.rating_a:.0f} A breaker may hold {amps:.0f} A for an hour; {weak[0]} may "
            "not. Feel it, and turn something off."
        )

    def subtitle(self, row: Row) -> str:
        return "running"

    def reason(self, row: Row) -> str:
        early = float(row.early) if row.early is not None else float(row.allowed)
        return (
            f"{row.name}: {float(row.value):.1f} A; an early one opens above {early:.1f} A, a "
            f"nominal one above {float(row.allowed):.1f} A"
        )
