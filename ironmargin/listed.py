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
    minutes = round(hour * 60.0) % (24 * 60)
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def clock_after(begins: float, hours: float) -> str:
    """The clock some hours later; with the day where the same time has passed before.

    Args:
        begins: on the clock, hours since midnight [h].
        hours: how long after that [h].

    Returns:
        As 22:05, 18:17 the next day or 18:17 3 days later.
    """
    days = int(hours // 24)
    if days == 0:
        return clock(begins + hours)
    later = "the next day" if days == 1 else f"{days} days later"
    return f"{clock(begins + hours)} {later}"
