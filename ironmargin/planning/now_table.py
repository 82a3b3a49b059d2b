"""Now for a device without a network: what every press would find, computed before it is made.

While a rig has few loads, every set of them; of more, what two presses from the present state lead
to. A press of a mode is one, too.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from ironmargin.document import Document
from ironmargin.per_cent import PLACES
from ironmargin.planning.present import Chip, Present, State, present, presents
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from ironmargin.setup.model import Setup

MAX_STATES = 256
"""So many states of a rig go to a device: every set of eight loads."""
OFF = "off"


def key_of(on: dict[str, str | None], off: frozenset[str]) -> str:
    """What a state is known by: a line for each load that is on, with its mode, and for each that
    was switched off though it is on by preference.

    Args:
        on: loads that are on, by id, and their mode.
        off: loads that are always on by preference and were switched off.

    Returns:
        Lines in alphabetical order.
    """
    lines = [f"{ident}={mode or ''}" for ident, mode in on.items()]
    return "\n".join(sorted([*lines, *(f"{ident}={OFF}" for ident in off)]))


def states_of(setup: Setup, on: dict[str, str | None], off: frozenset[str]) -> list[State]:
    """The states that presses from this one lead to, itself the first, each once.

    Args:
        setup: supply, path, rig and rules of the question.
        on: loads that are on, by id, and their mode.
        off: loads that are always on by preference and were switched off.

    Returns:
        What is on, and what was switched off, of each.
    """
    found: dict[str, State] = {}
    for state in _reachable(setup, on, off):
        if len(found) >= MAX_STATES:
            break
        found.setdefault(key_of(*state), state)
    return list(found.values())


def _reachable(setup: Setup, on: dict[str, str | None], off: frozenset[str]) -> Iterator[State]:
    """Every press, then two presses, then every set."""
    here = {chip.load: chip for chip in present(setup, on, off).chips}
    loads = [x.id for x in setup.rig.loads]
    yield on, off
    for ident in loads:
        yield _pressed(here[ident], on, off)
    for load in setup.rig.loads:
        if isinstance(load, AirConditioner) and load.id in on:
            for mode in COOLING_MODES:
                yield on | {load.id: mode}, off
    for some in range(2, len(loads) + 1):
        for several in combinations(loads, some):
            state: State = (on, off)
            for ident in several:
                state = _pressed(here[ident], *state)
            yield state


def _pressed(chip: Chip, on: dict[str, str | None], off: frozenset[str]) -> State:
    """The state after a load's chip is pressed."""
    runs = chip.load in on or (chip.always_on and chip.load not in off)
    if runs:
        left = {k: m for k, m in on.items() if k != chip.load}
        return left, off | {chip.load} if chip.always_on else off
    return on | {chip.load: chip.mode}, off - {chip.load}


def now_table(setup: Setup, on: dict[str, str | None], off: frozenset[str]) -> Document:
    """Every state by its key, as plain data.

    Args:
        setup: supply, path, rig and rules of the question.
        on: loads that are on, by id, and their mode.
        off: ids of always-on loads that were switched off.

    Returns:
        The JSON object.
    """
    states = states_of(setup, on, off)
    found = zip(states, presents(setup, states), strict=True)
    return {"states": {key_of(*state): plain(now) for state, now in found}}


def plain(found: Present) -> Document:
    """What a page shows of a state, as plain data.

    Args:
        found: the rig in a state.

    Returns:
        An object that JSON can hold.
    """
    return {
        "legs": [
            {"name": leg.name, "amps": round(leg.amps, 1), "volts": round(leg.volts)}
            for leg in found.legs
        ],
        "watts": round(found.watts),
        "margin": round(found.margin, PLACES),
        "cycle": list(found.cycle),
        "chips": {chip.load: _plain_chip(chip) for chip in found.chips},
    }


def _plain_chip(chip: Chip) -> Document:
    return {
        "say": chip.say,
        "first_off": list(chip.first_off),
        "margin": None if chip.margin is None else round(chip.margin, PLACES),
        "amps": None if chip.amps is None else round(chip.amps, 1),
        "cycle": list(chip.cycle),
    }
