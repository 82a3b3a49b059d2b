"""The hours asked against what tank, cylinder or battery last."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.enduring.found import Endurance
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site

SHARES = (
    (0.9, "almost all"),
    (0.7, "three quarters"),
    (0.6, "two thirds"),
    (0.4, "half"),
    (0.3, "a third"),
    (0.2, "a quarter"),
    (0.1, "a tenth or two"),
)


def share_words(share: float) -> str:
    """A share of what was asked, in words.

    Args:
        share: of the hours or nights asked for [1].

    Returns:
        The words.
    """
    return next((words for minimum, words in SHARES if share >= minimum), "hardly any")


@limit
class Lasting(Limit):
    """What is on board for the hours asked; never worse than −100 %, which is nothing at all."""

    key = "hours"
    check = "endurance"
    quantity = Quantity.HOURS
    consequence = Consequence.RUNS_OUT
    source = "fuel curves, boil-off and battery as docs/model.md says"
    formula = (
        "margin = 1 − hours wanted ÷ hours it lasts; where it falls short, hours it lasts ÷ hours "
        "wanted − 1"
    )

    def rows(self, view: View) -> Iterator[Row]:
        end, target = view.endurance, view.case.setup.conditions.target_hours
        if end is None or end.margin is None or target is None or end.lasts_h is None:
            return
        yield Row(
            self,
            Place(Site.TIME),
            "hours",
            target,
            end.lasts_h,
            end.margin,
            end.lasts_h_worst,
            end.margin_worst,
            unit="h",
            about=end,
        )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        end = row.about
        assert isinstance(end, Endurance)
        lasts, requested = float(row.allowed), float(row.value)
        cold = ""
        if end.starves_h is not None:
            at_start = " at a compressor start" if end.starves_at_start else ""
            cold = f" The cylinder gets too cold to feed the generator{at_start}."
        short = (
            f", {share_words(lasts / requested)} of what you asked for" if lasts < requested else ""
        )
        return f"It lasts {lasts:.1f} h of the {requested:g} h wanted{short}.{cold}"

    def reading(self, row: Row) -> str:
        return f"{float(row.allowed):.1f} h"

    def reason(self, row: Row) -> str:
        end = row.about
        assert isinstance(end, Endurance)
        return f"mean load {end.mean_w:.0f} W"

    def subtitle(self, row: Row) -> str:
        return f"{float(row.value):g} h wanted"
