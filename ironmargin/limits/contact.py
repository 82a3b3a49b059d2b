"""Contacts in poor condition: out of service when hot, limited by their watts when worn."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ironmargin.limits.ledger import Limit, Row, SentenceContext, View, limit
from ironmargin.limits.part_hours import part_amps
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.path.trace import PathPart
from ironmargin.record import record

CONTACT_W = 6.0
"""Watts a plug contact sheds at the temperature rise its standard allows, 30 K (UL 498; the watts
from memory)."""
RISE_K = 30.0
KELVIN_PER_WATT = RISE_K / CONTACT_W
WARMS_TAU_S = 300.0
"""Time constant at which a plug warms (common practice: five minutes)."""
MELTS_K = 90.0
"""Rise over the air at which a plug's plastic softens (from memory: 110 to 130 °C)."""


@record
class ContactHeat:
    """A contact as it warms: watts now [W], its rise over the air follows
    ``τ·dΔT/dt = R·P − ΔT``.
    """

    watts: float

    def rise_after(self, rise_k: float, seconds: float) -> float:
        """The rise after some seconds at these watts [K].

        Args:
            rise_k: rise over the air to begin with [K].
            seconds: length of the span [s].

        Returns:
            Rise [K].
        """
        goal = self.watts * KELVIN_PER_WATT
        return goal + (rise_k - goal) * math.exp(-seconds / WARMS_TAU_S)

    def melts_s(self, rise_k: float) -> float:
        """Seconds until it melts; infinite if it never does.

        Args:
            rise_k: rise over the air to begin with [K].

        Returns:
            Time [s].
        """
        goal = self.watts * KELVIN_PER_WATT
        if rise_k >= MELTS_K:
            return 0.0
        if goal <= MELTS_K:
            return math.inf
        return WARMS_TAU_S * math.log((goal - rise_k) / (goal - MELTS_K))


@limit
class Contact(Limit):
    """A hot contact is out of service at any current; a worn one carries the amps at which it sheds
    its watts: ``√(P ÷ R)``.
    """

    key = "contact"
    check = "path"
    quantity = Quantity.CONTACT_WATTS
    consequence = Consequence.BURNS
    source = "UL 498, temperature rise of 30 K; the watts from memory"
    formula = "margin = 1 − amps ÷ √(6 W ÷ resistance of the contact)"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        for part in view.case.feed.parts:
            place = Place(Site.PART, item=part.item)
            if part.condition == "hot":
                yield self.violated(place, part.name, "hot", part, "W")
            elif part.contact_ohm > 0.0:
                amps = part_amps(view.now, part)
                yield self.row(
                    place,
                    part.name,
                    amps,
                    math.sqrt(CONTACT_W / part.contact_ohm),
                    note="contact",
                    about=part,
                )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        part = row.about
        assert isinstance(part, PathPart)
        if row.problem == "hot":
            return f"{row.name} has a hot contact: take it out of service, whatever it carries."
        amps = float(row.value)
        lead = "overheats" if context.fails else "runs warm"
        return (
            f"The worn contact of {row.name} {lead}: {amps:.1f} A makes "
            f"{amps * amps * part.contact_ohm:.0f} W in it, and it sheds {CONTACT_W:.0f} W."
            f"{context.mostly}"
        )

    def caution(self, row: Row, context: SentenceContext) -> str:
        if row.problem == "hot":
            return (
                f"{row.name} has been hot: brown, loose or bent contacts are out of service. No "
                "breaker opens for them."
            )
        return f"{row.name} has worn contacts: feel the plug after ten minutes, and replace it."

    def reading(self, row: Row) -> str:
        if row.problem == "hot":
            return "out of service"
        part = row.about
        assert isinstance(part, PathPart)
        watts = float(np.square(row.value)) * part.contact_ohm
        return f"{watts:.0f} of {CONTACT_W:.0f} W"

    def reason(self, row: Row) -> str:
        return f"contact: {self.reading(row)}"

    def subtitle(self, row: Row) -> str:
        return "contact"
