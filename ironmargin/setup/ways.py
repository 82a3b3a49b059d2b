"""The ways a rig with lockouts can run: loads that never run together are never judged together."""

from __future__ import annotations

from collections.abc import Iterable

from ironmargin.setup.changed import leave_off
from ironmargin.setup.loads import Load
from ironmargin.setup.model import Lockout, Setup


def running_ids(setup: Setup) -> set[str]:
    """Everything that is asked to run: what is wanted, and what is always on.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Ids.
    """
    return {w.load for w in setup.wanted} | {x.id for x in setup.rig.loads if x.always_on}


def _conflicts(setup: Setup) -> list[Lockout]:
    """The lockouts both of whose loads are asked to run."""
    if not setup.rig.lockouts:
        return []
    running = running_ids(setup)
    return [x for x in setup.rig.lockouts if {x.first, x.second} <= running]


def most_ways(setup: Setup) -> int:
    """How many ways there are at most, before they are looked for.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Their number.
    """
    return int(2 ** len(_conflicts(setup)))


def never_with(setup: Setup, load_id: str) -> list[str]:
    """The loads that are kept off while one runs.

    Args:
        setup: supply, path, rig and rules of the question.
        load_id: id of the load.

    Returns:
        Ids.
    """
    pairs = [(x.first, x.second) for x in setup.rig.lockouts]
    return [b if a == load_id else a for a, b in pairs if load_id in (a, b)]


def ways(setup: Setup) -> tuple[Setup, ...]:
    """The setup with one load of each lockout left off, each way once; itself where none is in
    conflict.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        One setup a way.
    """
    conflicts = _conflicts(setup)
    if not conflicts:
        return (setup,)
    found: dict[frozenset[str], Setup] = {}
    for off in (conflicts[0].second, conflicts[0].first):
        for way in ways(leave_off(setup, off)):
            found.setdefault(frozenset(running_ids(way)), way)
    return tuple(found.values())


def heaviest(setup: Setup) -> Setup:
    """The way that draws most, where only one can be looked at.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        That way.
    """
    if not _conflicts(setup):
        return setup
    return max(ways(setup), key=lambda way: sum(rough_va(x) for x in running_loads(way)))


def running_loads(setup: Setup) -> Iterable[Load]:
    """The loads that are asked to run.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The loads, in the rig's order.
    """
    running = running_ids(setup)
    return (x for x in setup.rig.loads if x.id in running)


def rough_va(load: Load) -> float:
    """About what a load draws, by whatever figure is given of it [VA].

    Args:
        load: a load of the rig.

    Returns:
        Apparent power [VA].
    """
    watts = getattr(load, "watts", None) or getattr(load, "running_w", None)
    amps = next(
        (a for f in ("high_cool_a", "running_a", "amps") if (a := getattr(load, f, None))), 0.0
    )
    return float(load.count * (watts or amps * load.voltage_v))
