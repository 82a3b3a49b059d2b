"""The whole answer to a setup: the check, its sentence, and the first fix where it fails."""

from __future__ import annotations

from dataclasses import replace

from ironmargin.limits.ledger import FAILS
from ironmargin.setup.model import Setup
from ironmargin.verdict.check import Checked, examine
from ironmargin.verdict.result import Result
from ironmargin.verdict.sentences import say
from ironmargin.verdict.tonight import tonight


def check_fully(setup: Setup, *, picture: str | None = None, remedy: bool = True) -> Checked:
    """Check a setup, with the sentence and (if ``remedy``) the first fix, keeping what
    pictures need.

    Args:
        setup: supply, path, rig and rules of the question.
        picture: id of the load whose start is to be drawn with its band of trials.
        remedy: look for the nearest one, too.

    Returns:
        The check, its sentence in it.
    """
    checked = examine(setup, picture=picture)
    looked, found = False, None
    if remedy and checked.result.verdict == FAILS:
        # Late: a command that needs none starts sooner.
        from ironmargin.planning.first_fix import first_fix

        found, looked = first_fix(checked)
    weakest = say(checked, found, looked=looked)
    night = tonight(checked, weakest.remedy or "")
    return replace(checked, result=replace(checked.result, weakest=weakest, tonight=night))


def check(setup: Setup) -> Result:
    """Check a setup.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The result of the open format: verdict, iron margin, weakest link with its sentence, and
        every check.
    """
    return check_fully(setup).result
