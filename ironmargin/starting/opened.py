"""What opened in a start, read from the engine's code."""

from __future__ import annotations

from enum import Enum

from ironmargin.record import record

BREAKER_CODE, BRANCH_CODE = 100, 200
"""Codes of the engine from which on the number of the breaker or branch is added."""


class Opener(Enum):
    """Kinds of things that open in a start, by the engine's code."""

    LOCKOUT = 1
    LOW_VOLTS_LOCKOUT = 2
    CUT_OFF = 3
    GUARD_LOW_VOLTS = 4
    GUARD_OVERLOAD = 5
    BREAKER = BREAKER_CODE
    BRANCH = BRANCH_CODE


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
    if code >= BRANCH_CODE:
        return Opening(Opener.BRANCH, code - BRANCH_CODE)
    if code >= BREAKER_CODE:
        return Opening(Opener.BREAKER, code - BREAKER_CODE)
    return Opening(Opener(code)) if code else None
