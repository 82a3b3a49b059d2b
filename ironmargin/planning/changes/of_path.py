"""Changes of what lies between supply and rig that mend a limit nobody can shed loads from: a bad
contact, a way back into the street, a neutral a guard refuses, a breaker of the wrong curve.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ironmargin.case import Case
from ironmargin.limits.backfeed import BUILDING, feeds_alone, secured, what_it_is
from ironmargin.limits.bonding import FLOATING, rejects, source_neutral
from ironmargin.path.trace import part_name
from ironmargin.planning.change import BUY, FREE, PART, Change
from ironmargin.setup.changed import with_engines
from ironmargin.setup.hookup import Cord, Inlet, Transfer
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.model import Setup


def contacts(setup: Setup, case: Case) -> Iterator[Change]:
    """Each part with worn or hot contacts replaced by a good one.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each such part.
    """
    for at, item in enumerate(setup.hookup):
        if item.condition == "good":
            continue

        def replaced(s: Setup, at: int = at) -> Setup | None:
            if at >= len(s.hookup):
                return None
            good = replace(s.hookup[at], condition="good")
            return replace(s, hookup=(*s.hookup[:at], good, *s.hookup[at + 1 :]))

        name = part_name(item)
        yield Change("replace-part", f"Replace {name}", PART, 1, f"part {at}", replaced)


def uncoiling(setup: Setup, case: Case) -> Iterator[Change]:
    """Each coiled cord laid out.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each such cord.
    """
    for at, item in enumerate(setup.hookup):
        if not isinstance(item, Cord) or not item.coiled:
            continue

        def laid_out(s: Setup, at: int = at) -> Setup | None:
            cord = s.hookup[at] if at < len(s.hookup) else None
            if not isinstance(cord, Cord):
                return None
            straight = replace(cord, coiled=False)
            return replace(s, hookup=(*s.hookup[:at], straight, *s.hookup[at + 1 :]))

        yield Change("uncoil", f"Uncoil {part_name(item)}", FREE, 0, f"cord {at}", laid_out)


def transfer_gear(setup: Setup, case: Case) -> Iterator[Change]:
    """An inlet and an interlock on a building's panel that has none: licensed work.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        One change, or none.
    """
    if not feeds_alone(case) or what_it_is(setup) != BUILDING or secured(setup):
        return

    def fitted(s: Setup) -> Setup:
        kinds = {type(item) for item in s.hookup}
        parts = s.hookup
        if Inlet not in kinds:
            parts = (*parts, Inlet(rating_a=s.rig.main_a))
        if Transfer not in kinds:
            parts = (*parts, Transfer())
        return replace(s, hookup=parts)

    what = "Have an inlet and an interlock fitted, by a licensed electrician"
    yield Change("transfer-gear", what, BUY, 4, "transfer", fitted)


def bonding(setup: Setup, case: Case) -> Iterator[Change]:
    """A floating neutral bonded at the supply, where a guard refuses it.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        One change, or none.
    """
    guard, (neutral, stated) = rejects(case), source_neutral(case)
    if guard is None or neutral != FLOATING or not stated:
        return

    def bonded(s: Setup) -> Setup | None:
        if isinstance(s.supply, BatteryInverter):
            return replace(s, supply=replace(s.supply, neutral="bonded"))
        return with_engines(s, neutral="bonded")

    what = "Bond the supply's neutral to ground once, as its manual says"
    yield Change("bond-neutral", what, PART, 1, "neutral", bonded)
