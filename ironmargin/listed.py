"""Names as a person lists them, and hours as a clock shows them."""

from __future__ import annotations

from collections.abc import Iterable


def listed(names: Iterable[str]) -> str:
    """Names in a sentence: a, b and c.

    Args:
        names: in the order they are said.

    Returns:
        The words.
    """
    *first, last = [*names] or [""]
    return f"{', '.join(first)} and {last}" if first else last


def counted(number: int, noun: str) -> str:
    """How many of something: 1 step, 9 steps.

    Args:
        number: how many.
        noun: in the singular.

    Returns:
        The words.
    """
    return f"{number} {noun}{'' if number == 1 else 's'}"


def clock(hour: float) -> str:
    """An hour on the 24 h clock; hours past midnight wrap.

    Args:
        hour: hours since midnight [h].

    Returns:
        As 22:05.
    """
    minutes = round(hour * 60.0) % 1440
    return f"{minutes // 60:02d}:{minutes % 60:02d}"
