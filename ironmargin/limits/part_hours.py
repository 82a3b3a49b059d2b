"""Every part of the path against the least of its three ratings, whether or not a breaker protects
it.
"""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.electrics.network import Figure
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.neutral import neutral_amps
from ironmargin.limits.now import Now, largest
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.path.trace import INPUT, SHARED, PathPart
from ironmargin.setup.hookup import Guard


def part_amps(now: Now, part: PathPart) -> Figure:
    """What a part carries, its busiest conductor: the neutral too, behind a reducer or with both
    legs in phase [A].

    Args:
        now: a settled state, of one set of loads or of many.
        part: the part.

    Returns:
        Amps, one a set of loads [A].
    """
    if part.carries == INPUT:
        return now.case.source.input_limit_a or 0.0
    if part.carries == SHARED:
        return largest(now.amps)
    both = largest(now.leg_amps(leg) for leg in range(now.case.feed.upstream.legs))
    return largest((both, neutral_amps(now) / (2 if part.halves_neutral else 1)))


def unprotected(part: PathPart) -> bool:
    """Whether no breaker before it opens at its rating.

    Args:
        part: the part.

    Returns:
        Whether it is unprotected.
    """
    return part.upstream_a is None or part.upstream_a > part.rating_a


@limit
class PartHours(Limit):
    """Amps with everything on against the rating of outlet, plug, cord and inlet. Ratings are for
    hours; a start heats nothing.
    """

    key = "part-hours"
    check = "path"
    quantity = Quantity.AMPS_FOR_HOURS
    consequence = Consequence.BURNS
    source = (
        "NEMA WD 6, IEC 60309, NEC Tables 400.5(A)(1) and 310.15(B)(1), IEC 60364-5-52, from memory"
    )
    formula = "margin = 1 − amps ÷ the least of entered rating, plug rating and ampacity"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        for part in view.case.feed.parts:
            if part.kind == Guard.kind:
                continue  # it opens: that is a limit of its own
            early_a = part.rating.early_a
            yield self.row(
                Place(Site.PART, item=part.item),
                part.name,
                part_amps(view.now, part),
                part.rating_a,
                early=early_a if early_a < part.rating_a else None,
                note=part.kind,
                about=part,
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        part = row.about
        assert isinstance(part, PathPart)
        bare = " No breaker protects it." if unprotected(part) else ""
        if not context.fails and row.early_margin is not None and float(row.early_margin) < 0.0:
            return (
                f"{row.name} has the least room: {float(row.value):.1f} A, listed for "
                f"{part.rating_a:.0f} A, but only {float(row.early or 0.0):.1f} A "
                f"{part.rating.here}.{bare}"
            )
        lead = "is overloaded" if context.fails else "has the least room"
        of = "" if part.rating.as_entered else f", which {part.rating.set_by} sets"
        return (
            f"{row.name} {lead}: {float(row.value):.1f} A on a rating of {part.rating_a:.0f} A{of}."
            f"{bare}{context.mostly}"
        )

    def caution(self, row: Row, context: SentenceContext) -> str:
        part = row.about
        assert isinstance(part, PathPart)
        said = []
        if part.upstream_a is not None and unprotected(part):
            said.append(
                f"No breaker protects {part.name}: it is rated {part.rating_a:.0f} A behind a "
                f"{part.upstream_a:.0f} A breaker, so only your own attention does."
            )
        if part.rating.overstated:
            said.append(
                f"{part.name} is entered as {part.rating.entered_a:.0f} A, but "
                f"{part.rating.set_by} allows {part.rating_a:.0f} A."
            )
        if part.rating.coiled and row.early_margin is not None and float(row.early_margin) < 0.0:
            said.append(
                f"Uncoil {part.name}: coiled up it overheats long before any breaker opens."
            )
        return " ".join(said)

    def reading(self, row: Row) -> str:
        return f"{float(row.value):.1f} of {float(row.allowed):.0f} A"

    def subtitle(self, row: Row) -> str:
        part = row.about
        return "no breaker" if isinstance(part, PathPart) and unprotected(part) else "path"

    def reason(self, row: Row) -> str:
        part = row.about
        assert isinstance(part, PathPart)
        of = "" if part.rating.as_entered else f", which {part.rating.set_by} sets"
        said = f"{float(row.value):.1f} A on a rating of {part.rating_a:.0f} A{of}"
        if row.early is not None:
            said += f"; {part.rating.here} its conductor carries {float(row.early):.1f} A"
        if unprotected(part):
            said += "; no breaker before it protects it"
        return said
