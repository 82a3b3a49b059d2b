"""What opened in a start, read from the engine's code."""

from __future__ import annotations

from enum import Enum

from ironmargin.record import record
from ironmargin.starting import codes


class Opener(Enum):
    """Kinds of things that open in a start, by the engine's code."""

    LOCKOUT = codes.LOCKOUT
    LOW_VOLTS_LOCKOUT = codes.UNDERVOLT_LOCKOUT
    CUT_OFF = codes.CUT_OFF
    GUARD_LOW_VOLTS = codes.GUARD_LOW
    GUARD_OVERLOAD = codes.GUARD_OVER
    BREAKER = codes.BREAKER
    BRANCH = codes.BRANCH


@record
class Opening:
    """What opened: its kind, and the number of the breaker row or of the branch."""

    opener: Opener
    number: int = 0


def opening_of(code: int) -> Opening | None:
    """What a code of the engine stands for; None where nothing opened.

    Args:
        code: of the engine.

    Returns:
        What opened, and which one of several.
    """
    if code >= codes.BRANCH:
        return Opening(Opener.BRANCH, code - codes.BRANCH)
    if code >= codes.BREAKER:
        return Opening(Opener.BREAKER, code - codes.BREAKER)
    return Opening(Opener(code)) if code else None
