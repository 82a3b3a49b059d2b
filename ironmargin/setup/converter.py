"""The charger that feeds a rig's 12 V side, and what it draws once the battery is full."""

from __future__ import annotations

from ironmargin.setup.loads import Charger
from ironmargin.setup.model import Setup

TRICKLE = 0.06
"""What a converter draws on a full battery over what it draws at most [1] (common practice, no
source: 30 to 60 W of 400 to 1,000)."""


def converter_of(setup: Setup) -> Charger | None:
    """The charger that feeds the 12 V side; the only one unless it is named.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The charger, or None.
    """
    chargers = [x for x in setup.rig.loads if isinstance(x, Charger)]
    side = setup.rig.dc
    if side is not None and side.charger is not None:
        return next((x for x in chargers if x.id == side.charger), None)
    return chargers[0] if len(chargers) == 1 else None
