"""Every start: how much weaker the supply, or the path, could be and the load still start."""

from __future__ import annotations

from collections.abc import Iterator
from typing import assert_never

import numpy as np

from ironmargin.case import Case
from ironmargin.limits.ledger import FAILS, Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.listed import listed
from ironmargin.per_cent import percent
from ironmargin.starting.opened import Opener
from ironmargin.starting.starts import PATH, Start
from ironmargin.supplies.source import NEVER

MUCH_STRONGER = 4.0
VERBS = {
    "stalls": "stalls when it starts",
    "trips": "trips the supply when it starts",
    "unsolved": "cannot be solved",
    "volts-stay-low": "starts, but the volts stay low",
    "lets-go": "starts, but not everything else stays on",
}


def opened_words(start: Start) -> str:
    """What opened in a start, as a noun; empty where nothing did.

    Args:
        start: as it was followed.

    Returns:
        The noun with its article.
    """
    if start.opened is None:
        return ""
    opener = start.opened.opener
    match opener:
        case Opener.LOCKOUT:
            return "the overload lockout"
        case Opener.LOW_VOLTS_LOCKOUT:
            return "the low-volts lockout"
        case Opener.CUT_OFF:
            return "the supply, which cuts off at its limit,"
        case Opener.GUARD_LOW_VOLTS | Opener.GUARD_OVERLOAD:
            return "the guard"
        case Opener.BRANCH:
            return "its branch breaker"
        case Opener.BREAKER:
            return "a breaker"
    assert_never(opener)


def stronger(margin: float, by_path: bool) -> str:
    """How much stronger what gives first would have to be.

    Args:
        margin: what a start lacks, negative [1].
        by_path: whether the path lacks it, not the supply.

    Returns:
        A sentence.
    """
    if margin <= -MUCH_STRONGER:
        return "Nothing near this size would start it."
    if by_path:
        return (
            "It is the cords and contacts on the way: they would have to lose "
            f"{percent(1.0 - 1.0 / (1.0 - margin))} less; a bigger supply does not help."
        )
    return f"It would have to be {percent(margin)} stronger."


@limit
class StartReserve(Limit):
    """The weakest source strength at which the start still passes, found by bisection."""

    key = "start"
    check = "start"
    quantity = Quantity.SOURCE_STRENGTH
    consequence = Consequence.STALLS
    source = "the start engine; docs/model.md"
    formula = (
        "margin = 1 − the weakest supply (or path, whichever gives first) that still starts it, "
        "found by bisection between a fifth of this one and six times it"
    )

    def rows(self, view: View) -> Iterator[Row]:
        for start in view.starts:
            load = view.case.demands[start.starters[0].demand].load
            yield Row(
                self,
                Place(Site.LOAD_START, load.id),
                load.name,
                start.factor,
                1.0,
                start.margin,
                unit="",
                about=start,
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        start = row.about
        assert isinstance(start, Start)
        concurrent = f" with {context.names} running" if context.names else ""
        by_path = start.gives_first == PATH
        if start.passes:
            where = ", and it is the cords that give first" if by_path else ""
            return (
                f"The least room is at {row.name}'s start{concurrent}: the volts dip to "
                f"{start.lowest_v:.0f} V, and it is up to speed in {start.seconds:.1f} s{where}."
            )
        concurrent = "" if start.outcome == "lets-go" and start.off else concurrent
        figures = self._figures(row, start, context)
        return f"{row.name} {self._verb(start, context)}{concurrent}: {figures}"

    def _verb(self, start: Start, context: SentenceContext) -> str:
        if start.outcome == "lets-go" and start.off:
            off = [context.case.demands[at].load.name for at in start.off]
            return f"starts, but {listed(off)} drop{'s' if len(off) == 1 else ''} out"
        opened = opened_words(start)
        by_branch = start.opened is not None and start.opened.opener is Opener.BRANCH
        if opened and (start.outcome == "trips" or by_branch):
            return f"trips {opened} when it starts"
        return VERBS[start.outcome]

    def _figures(self, row: Row, start: Start, context: SentenceContext) -> str:
        supply, limit_a = context.case.setup.supply.subject, context.case.source.limit_a
        by_path = start.gives_first == PATH
        if start.opened is not None and start.opened.opener is Opener.BRANCH:
            return (
                f"it takes {start.wanted_a:.0f} A for a moment. Fit a breaker of another curve, "
                "or a soft starter."
            )
        holds = (
            f"{supply} can hold {limit_a:.0f} A here"
            if limit_a < NEVER and not by_path
            else f"{supply} gives {start.peak_a:.0f} A"
        )
        sag = (
            f"and {start.lowest_v:.0f} V arrive"
            if by_path
            else f"and {'sag' if supply.endswith('s') else 'sags'} to {start.lowest_v:.0f} V"
        )
        return (
            f"it needs {start.wanted_a:.0f} A, {holds} {sag}. "
            f"{stronger(float(row.margin), by_path)}"
        )

    def reading(self, row: Row) -> str:
        start = row.about
        assert isinstance(start, Start)
        if start.passes:
            return f"{start.lowest_v:.0f} V, {start.seconds:.1f} s"
        return f"{start.outcome.replace('-', ' ')}, {start.lowest_v:.0f} V"

    def reason(self, row: Row) -> str:
        start = row.about
        assert isinstance(start, Start)
        return (
            f"an ideal supply would see {start.wanted_a:.1f} A; this one gives at most "
            f"{start.peak_a:.1f} A and dips to {start.lowest_v:.1f} V"
        )

    def verdict(self, row: Row, thin_below: float) -> str:
        start = row.about
        assert isinstance(start, Start)
        return super().verdict(row, thin_below) if start.passes else FAILS

    def subtitle(self, row: Row) -> str:
        return "start"


AT_LIMIT = 0.97
"""From this share of what its electronics hold a set's overload lamp is red (common practice, no
source)."""


def red_seconds(case: Case, start: Start) -> float:
    """How long the overload lamp of an inverter set is red at a start [s].

    Args:
        case: the prepared setup.
        start: the start.

    Returns:
        Time [s].
    """
    if not all(u.inverter for u in case.setup.supply.carrying):
        return 0.0
    trace, limit_a = start.trace, case.source.limit_a
    if not len(trace.t_s) or not np.isfinite(limit_a):
        return 0.0
    at_limit = trace.a.max(axis=0) >= AT_LIMIT * limit_a
    return float(np.diff(trace.t_s, append=trace.t_s[-1])[at_limit].sum())
