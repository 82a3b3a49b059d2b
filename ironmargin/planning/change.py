"""A single change a person could make to a setup, with what it costs and how much trouble it is.

A change is a function from a setup to a changed setup, or to None where it does not apply: so that
two can follow each other. Sizes offered are the generic ones of the shipped tables.
"""

from __future__ import annotations

from collections.abc import Callable

from ironmargin.record import record
from ironmargin.setup.model import Setup

FREE, PART, BUY = "free", "part", "buy"
COSTS = (FREE, PART, BUY)

Apply = Callable[[Setup], Setup | None]


@record
class Change:
    """One thing to do.

    Attributes:
        kind: the stable word of the open format; what: in words, as an instruction.
        cost: ``free``, ``part`` or ``buy``; effort: trouble beside the cost, 0 little to 5 much.
        about: what it changes; two changes about the same thing are not paired.
        apply: the changed setup, or None where it does not apply.
    """

    kind: str
    what: str
    cost: str
    effort: int
    about: str
    apply: Apply
