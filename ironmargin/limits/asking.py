"""Every limit asked: of a whole check, or of a settled state alone."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ironmargin.electrics.network import Figure
from ironmargin.limits.ledger import FAILS, LIMITS, VIOLATED, Limit, Row, View
from ironmargin.limits.now import Now, smallest
from ironmargin.registry import load_all


def all_limits() -> tuple[Limit, ...]:
    """Every limit there is.

    Returns:
        In the order of their modules' names.
    """
    load_all("ironmargin.limits")
    return tuple(LIMITS.values())


def rows_of(view: View) -> list[Row]:
    """Every limit at every place of a check, in no particular order.

    Args:
        view: what a check has seen.

    Returns:
        One row for each limit at each place.
    """
    return [row for one in all_limits() for row in one.rows(view)]


def settled_rows(now: Now) -> list[Row]:
    """Every limit that is read off a settled state, of one set of loads or of many.

    Args:
        now: a settled state, of one set of loads or of many.

    Returns:
        One row for each limit at each place.
    """
    view = View(now)
    return [row for one in all_limits() if one.settled for row in one.rows(view)]


def settled_margin(now: Now) -> Figure:
    """The smallest settled margin [1]; −1 where nothing settles or a load drops out.

    Args:
        now: a settled state, of one set of loads or of many.

    Returns:
        Margin, one a set of loads [1].
    """
    minimum = smallest([row.margin for row in settled_rows(now) if row.limit.in_margin] or [1.0])
    found: Figure = np.where(now.settles, minimum, VIOLATED)
    return found


def by_criterion(rows: Iterable[Row], criterion: str) -> list[Row]:
    """The rows that count under a trip criterion.

    Args:
        rows: limits at their places.
        criterion: ``peak`` or ``time-current``.

    Returns:
        Those that count.
    """
    return [row for row in rows if row.criterion in ("", criterion)]


def breaks_a_rule_alone(rows: Iterable[Row], thin_below: float) -> bool:
    """Whether all that fails is a rule: everything starts and runs.

    Args:
        rows: limits at their places.
        thin_below: margin under which a limit is thin [1].

    Returns:
        Whether only rules fail.
    """
    broken = [row for row in rows if row.verdict(thin_below) == FAILS]
    return bool(broken) and all(row.limit.rule_alone for row in broken)
