"""What a load manager sheds: the loads that can wait before those that are wanted, of equal ones
the largest; never what must run (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import TypeVar

from ironmargin.listed import listed
from ironmargin.setup.hookup import LoadManager
from ironmargin.setup.loads import Load
from ironmargin.setup.model import Setup
from ironmargin.setup.ways import rough_va

L = TypeVar("L", bound=Load)
SHED_FIRST = ("wait", "want")
"""Priorities in the order in which they are shed."""


def manager_of(setup: Setup) -> LoadManager | None:
    """The load manager of a setup's path, or None.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The manager, or None.
    """
    return next((x for x in setup.hookup if isinstance(x, LoadManager)), None)


def unmanaged(setup: Setup) -> Setup:
    """The setup without its load manager: for whoever asks what it would be asked to carry.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The changed setup.
    """
    if manager_of(setup) is None:
        return setup
    return replace(setup, hookup=tuple(x for x in setup.hookup if not isinstance(x, LoadManager)))


def shed_order(loads: Iterable[L]) -> list[L]:
    """The loads a manager may shed, the first to go first.

    Args:
        loads: loads, or what goes with them.

    Returns:
        Those it may shed, in order.
    """
    may = [x for x in loads if x.priority in SHED_FIRST]
    return sorted(may, key=lambda x: (SHED_FIRST.index(x.priority), -rough_va(x)))


def spare_a(manager: LoadManager, amps: float) -> float:
    """Amps that a leg has left before its manager sheds, less than nought where it does: what a
    device does at its own setting, which is no limit that anything is judged by [A].

    Args:
        manager: the load manager.
        amps: amps of the leg [A].

    Returns:
        Amps [A].
    """
    return manager.limit_a - amps


def manages_words(setup: Setup) -> str:
    """What a setup's load manager does by itself, for whoever turns loads on beside it.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        A sentence; empty without a manager, or where it may shed nothing.
    """
    manager = manager_of(setup)
    names = [x.name for x in shed_order(setup.rig.loads)]
    if manager is None or not names:
        return ""
    many = len(names) > 1
    order = f"{names[0]} first, then {listed(names[1:])}" if many else names[0]
    return (
        f"Above {manager.limit_a:g} A on a leg the load manager turns off {order} by itself, and "
        f"keeps {'each' if many else 'it'} off for at least {manager.restore_s / 60.0:.0f} min."
    )
