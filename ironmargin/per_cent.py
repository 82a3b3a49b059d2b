"""Shares and margins as a person reads them: whole per cent, and no further than they tell
anything.
"""

from __future__ import annotations

PLACES = 6
"""Decimal places of a margin in a file: with fewer, whole per cent of what was rounded before
would at times be others than those of the margin itself.
"""
MAX = 999
"""Per cent; how many times too little it is beyond that tells nobody more."""


def percent(share: float) -> str:
    """A share as whole per cent, never minus nought.

    Args:
        share: a share [1].

    Returns:
        As 14 %.
    """
    whole = abs(round(share * 100))
    return f"{whole:d} %" if whole <= MAX else f"over {MAX} %"


def signed_percent(margin: float) -> str:
    """A margin as signed whole per cent, as +14 % or −34 %; what fails is never called nought.

    Args:
        margin: a margin [1].

    Returns:
        As +14 %.
    """
    whole = max(abs(round(margin * 100)), 1 if margin < 0 else 0)
    sign = "−" if margin < 0 else "+"
    return f"{sign}{whole} %" if whole <= MAX else f"{'<' if margin < 0 else '>'} {sign}{MAX} %"
