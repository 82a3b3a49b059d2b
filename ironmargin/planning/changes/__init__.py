"""Every single change worth trying of a setup. A new one is a module of its own in this folder
(CONTRIBUTING.md shows one): what it registers comes after these.
"""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.case import Case
from ironmargin.planning.change import MAKERS, Change
from ironmargin.planning.changes import of_path as path
from ironmargin.planning.changes import of_rig as rig
from ironmargin.planning.changes import of_supply as supply
from ironmargin.registry import load_all
from ironmargin.setup.model import Setup

CHEAPEST_FIRST = (
    path.uncoiling,
    path.contacts,
    path.bonding,
    path.transfer_gear,
    rig.leaving_off,
    rig.taking_turns,
    rig.modes,
    rig.running_the_set,
    rig.start_gear,
    rig.legs,
    rig.cords,
    supply.posts,
    supply.sets,
    supply.additions,
)


def changes_of(setup: Setup, case: Case) -> Iterator[Change]:
    """Every single change worth trying, cheapest kinds first.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change, with what it costs and asks for.
    """
    load_all(__name__)
    for maker in (*CHEAPEST_FIRST, *MAKERS):
        yield from maker(setup, case)
