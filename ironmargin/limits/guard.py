"""A guard in the path: its overload, its low and high volts, at the place where it is installed."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.electrics.network import Figure
from ironmargin.limits.input_volts import input_volts
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.now import Now, largest, smallest
from ironmargin.limits.service_volts import HIGH, LOW, edge_of, volts_of
from ironmargin.limits.sites import Place, Quantity, Site
from ironmargin.path.trace import GuardPoint
from ironmargin.sustaining.steady import magnitude


def guard_name(point: GuardPoint) -> str:
    """What a guard is called.

    Args:
        point: where it sits.

    Returns:
        The name it was given, or a common one.
    """
    return point.guard.name or "guard"


def guard_amps(now: Now, point: GuardPoint) -> Figure:
    """Amps through a guard, its busiest conductor [A].

    Args:
        now: the moment that is asked about.
        point: where the guard sits.

    Returns:
        Amps, for each set that is asked about [A].
    """
    if point.at_input:
        return now.case.source.input_limit_a or 0.0
    return largest(now.amps)


def guard_volts(now: Now, point: GuardPoint) -> Figure:
    """Volts at a guard, its weaker leg: the panel's and what the path behind it drops [V].

    Args:
        now: the moment that is asked about.
        point: where the guard sits.

    Returns:
        Volts, for each set that is asked about [V].
    """
    if point.at_input:
        return input_volts(now.case)
    state, (z11, z12, z22) = now.state, point.after
    first = magnitude(state.v1 + z11 * state.i1 + z12 * state.i2)
    if now.case.feed.upstream.legs == 1:
        return first / point.turns
    second = magnitude(state.v2 + z12 * state.i1 + z22 * state.i2)
    return smallest((first, second)) / point.turns


def open_volts(now: Now, point: GuardPoint) -> float:
    """Volts at a guard without load [V].

    Args:
        now: the moment that is asked about.
        point: where the guard sits.

    Returns:
        Volts of a leg [V].
    """
    source = now.case.source
    return source.input.leg_v if source.input is not None else source.leg_v


def closes(point: GuardPoint, open_v: float) -> bool:
    """Whether a guard that is open closes at the volts it finds without load.

    Args:
        point: a guard and where it stands.
        open_v: volts without load [V].

    Returns:
        Whether it closes.
    """
    return point.guard.low_v <= open_v <= point.guard.high_v


def overload_a(point: GuardPoint) -> float | None:
    """The lower of its overload setting and its rating [A]; None where neither is known.

    Args:
        point: where the guard sits.

    Returns:
        Amps above which it opens [A].
    """
    known = [a for a in (point.guard.overload_a, point.guard.rating_a) if a is not None]
    return min(known, default=None)


@limit
class GuardAmps(Limit):
    """A guard opens over its overload setting or its rating, whichever is lower."""

    key = "guard-amps"
    check = "path"
    quantity = Quantity.AMPS_FOR_A_TIME
    source = "the guard's manual"
    formula = "margin = 1 − amps ÷ the lower of overload setting and rating"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        for point in view.case.feed.guards:
            maximum = overload_a(point)
            if maximum is not None:
                yield self.row(
                    Place(Site.GUARD, item=point.item),
                    guard_name(point),
                    guard_amps(view.now, point),
                    maximum,
                    note="guard",
                    about=point,
                )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        verb = "opens" if context.fails else "comes nearest to opening"
        return (
            f"The guard {verb}: {float(row.value):.1f} A flow through it, and it opens above "
            f"{float(row.allowed):.0f} A.{context.mostly}"
        )

    def reading(self, row: Row) -> str:
        return f"{float(row.value):.1f} of {float(row.allowed):.0f} A"

    def reason(self, row: Row) -> str:
        return f"{float(row.value):.1f} A, opens above {float(row.allowed):.0f} A"

    def subtitle(self, row: Row) -> str:
        return "overload"


@limit
class GuardVolts(Limit):
    """A guard opens below its low volts and above its high volts."""

    key = "guard-volts"
    check = "voltage"
    quantity = Quantity.VOLTS_OFF
    source = "the guard's manual; cut-offs of 102 to 104 V and 132 to 140 V are common practice"
    formula = "margin = 1 − drop ÷ drop at which it opens"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        now = view.now
        nominal = view.case.source.nominal_v
        for point in view.case.feed.guards:
            place, guard = Place(Site.GUARD, item=point.item), point.guard
            yield self.row(
                place,
                guard_name(point),
                nominal - guard_volts(now, point),
                max(nominal - guard.low_v, 1.0),
                unit="V",
                note=LOW,
                about=point,
                base=nominal,
            )
            open_v = open_volts(now, point)
            if open_v > guard.high_v:
                yield self.row(
                    place,
                    guard_name(point),
                    open_v - nominal,
                    guard.high_v - nominal,
                    unit="V",
                    note=HIGH,
                    about=point,
                    base=nominal,
                )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        if row.note == HIGH:
            return (
                f"The guard opens: {volts_of(row):.0f} V arrive without load, and it opens above "
                f"{edge_of(row):.0f} V."
            )
        return (
            f"The guard {'opens' if context.fails else 'comes nearest to opening'}: "
            f"{volts_of(row):.0f} V arrive where it is, and it opens below {edge_of(row):.0f} V."
            f"{context.mostly}{context.lost if context.fails else ''}"
        )

    def caution(self, row: Row, context: SentenceContext) -> str:
        point = row.about
        assert isinstance(point, GuardPoint)
        if row.note != LOW:
            return ""
        return (
            "Never bypass the guard: it opens for bad volts, an open ground or reversed polarity, "
            f"and waits {point.guard.delay_s:.0f} s before it closes."
        )

    def reading(self, row: Row) -> str:
        return f"{volts_of(row):.0f} V"

    def reason(self, row: Row) -> str:
        edge = "above" if row.note == HIGH else "below"
        return f"{volts_of(row):.0f} V where it is, opens {edge} {edge_of(row):.0f} V"

    def subtitle(self, row: Row) -> str:
        return "volts"
