"""The neutral: the phasor sum of the legs, and third harmonics that do not cancel."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Figure
from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.now import Now
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.loads.demand import CORRECTED, L1L2, Demand

THIRD_OF_HARMONICS = 0.76
"""Third harmonic over all harmonics of a rectifier without correction (IEEE 1100, from memory: at
power factor 0.65 it is 0.58 of the amps, so that three phases make 1.7 times one)."""


def third_harmonic_a(demand: Demand) -> float:
    """Third harmonic of a demand's current [A]; 0 for what is corrected or linear.

    With its fundamental in phase, distortion alone makes the power factor:
    ``I_harmonics = I·√(1 − pf²)``.

    Args:
        demand: a load as it runs.

    Returns:
        Amps [A].
    """
    power_factor = float(getattr(demand.load, "power_factor", 1.0))
    if power_factor >= CORRECTED or demand.leg == L1L2:
        return 0.0
    amps = sum(d.amps for d in demand.steady)
    return THIRD_OF_HARMONICS * amps * math.sqrt(1.0 - power_factor**2)


def shares_neutral(case: Case) -> bool:
    """Whether two legs share the neutral, so that it carries what they do not cancel.

    Args:
        case: the setup, ready to be solved.

    Returns:
        Whether there are two legs of opposite phase.
    """
    return case.feed.upstream.legs == 2 and not case.feed.upstream.tied


def neutral_amps(now: Now) -> Figure:
    """Amps in the neutral, the third harmonics of uncorrected electronics added up [A].

    Between legs 120° apart third harmonics add; between opposite legs those of two equal rectifiers
    would cancel, but two makes of them conduct at different moments. Nobody knows how far they
    cancel, so that they count in full.

    Args:
        now: a settled state, of one set of loads or of many.

    Returns:
        Amps, one a set of loads [A].
    """
    thirds = [(now.share(at), third_harmonic_a(d)) for at, d in enumerate(now.case.demands)]
    third: Figure = sum((share * a for share, a in thirds if a), 0.0)
    found: Figure = np.hypot(now.state.neutral_a, third)
    return found


@limit
class Neutral(Limit):
    """What the neutral of a two-leg service carries against the weakest part it passes."""

    key = "neutral"
    quantity = Quantity.AMPS_FOR_HOURS
    consequence = Consequence.BURNS
    source = "phasor sum; IEEE 1100 for third harmonics, from memory"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        case = view.case
        if case.feed.neutral_rating_a < math.inf and shares_neutral(case):
            yield self.row(
                Place(Site.NEUTRAL), "neutral", neutral_amps(view.now), case.feed.neutral_rating_a
            )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        lead = "The neutral" if context.fails else "The least room is in the neutral: it"
        return (
            f"{lead} carries {float(row.value):.1f} A on a rating of {float(row.allowed):.1f} A, "
            f"and no breaker watches it.{context.mostly}"
        )

    def subtitle(self, row: Row) -> str:
        return "both legs"
