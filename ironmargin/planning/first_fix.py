"""The first fix: the first single change that makes a failing setup hold."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ironmargin.limits.asking import settled_margin
from ironmargin.limits.ledger import FAILS
from ironmargin.limits.now import now_of_sets
from ironmargin.planning.change import COSTS, Change
from ironmargin.planning.remedy import Remedy, cords_blamed, worth_trying
from ironmargin.setup.changed import together_with
from ironmargin.setup.rules import check_rules
from ironmargin.setup.work import work_of
from ironmargin.verdict.check import Checked, certain_to_fail, examine, with_chance

MAX_FIRST_FIX = 500_000
"""Work the first fix may take, as :func:`ironmargin.setup.work.work_of` counts it: it is part
of every page that fails.
"""
STARTS_SHARE = 10
"""What part of a quick check's work its starts alone are, each run once."""
OFF_KINDS = ("leave-off", "postpone")
GEAR_KINDS = ("hard-start", "soft-start", "inline-soft-start")
NEAR = 1e-3
"""Margins of many sets at once are known so well."""


def first_fix(checked: Checked) -> tuple[Remedy | None, bool]:
    """The first single change that makes a failing setup hold, in the order a person at the post
    would try, None if none does; and whether all were tried that had to be.

    The order is that of :func:`rank_of`, as far as it is known before the change is tried: what is
    missed least comes first, what was asked for last. Where the cords are to blame they come before
    all else.

    Args:
        checked: a check that fails.

    Returns:
        The remedy or None, and whether all were tried.
    """
    setup = checked.setup

    def key(change: Change) -> tuple[bool, int, int, int]:
        return (
            not cords_blamed(checked, [change]),
            change.step,
            COSTS.index(change.cost),
            change.effort,
        )

    spent, hopeless = 0, _hopeless(checked)
    for change in sorted(worth_trying(checked), key=key):
        if spent > MAX_FIRST_FIX:
            return None, False
        if hopeless(change):
            continue
        changed = change.apply(setup)
        if changed is None or changed == setup or check_rules(changed):
            continue
        work = work_of(changed, chances=False)
        spent += work // STARTS_SHARE
        if certain_to_fail(changed):
            continue
        spent += work
        quick = examine(changed, quick=True)
        if quick.result.verdict == FAILS or quick.result.iron_margin <= checked.result.iron_margin:
            continue
        spent += work_of(changed) - work
        full = with_chance(quick)
        if full.result.verdict != FAILS:
            found = full.result
            return Remedy((change,), changed, found.verdict, found.iron_margin, ""), True
    return None, True


def _hopeless(checked: Checked) -> Callable[[Change], bool]:
    """Which changes leave a settled limit exceeded, as is known without trying them: start gear
    changes nothing that is settled, and what each load left off leaves is asked of all loads at
    once.
    """
    case, now = checked.case, checked.now
    if not case.demands or float(np.min(settled_margin(now))) >= 0.0:
        return lambda change: False
    ids = [d.load.id for d in case.demands]
    gone = {ident: together_with(case.setup, ident) for ident in ids}
    on = np.array([[x not in gone[ident] for x in ids] for ident in ids], dtype=float)
    left = np.broadcast_to(np.asarray(settled_margin(now_of_sets(case, on))), len(ids))
    short = {ident for ident, margin in zip(ids, left.tolist(), strict=True) if margin < -NEAR}

    def leaves_it(change: Change) -> bool:
        return change.kind in GEAR_KINDS or (change.kind in OFF_KINDS and change.about in short)

    return leaves_it
