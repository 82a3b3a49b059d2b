"""The same question with something changed: a load left off, figures of a load or of the engine
sets replaced.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ironmargin.setup.model import Setup
from ironmargin.setup.supplies import Generator, Parallel


def together_with(setup: Setup, load_id: str) -> tuple[str, ...]:
    """A load and everything that cannot run without it, over any number of steps."""
    gone = [load_id]
    for ident in gone:
        gone += [x.id for x in setup.rig.loads if x.goes_with == ident and x.id not in gone]
    return tuple(gone)


def leave_off(setup: Setup, load_id: str) -> Setup:
    """The same question without one load, and without what cannot run without it."""
    gone = together_with(setup, load_id)
    wanted = tuple(w for w in setup.wanted if w.load not in gone)
    loads = tuple(replace(x, always_on=False) if x.id in gone else x for x in setup.rig.loads)
    return replace(setup, wanted=wanted, rig=replace(setup.rig, loads=loads))


def released(setup: Setup) -> Setup:
    """The same question with nothing always on: what was is switched like everything else."""
    loads = tuple(replace(x, always_on=False) if x.always_on else x for x in setup.rig.loads)
    return replace(setup, rig=replace(setup.rig, loads=loads))


def with_load(setup: Setup, load_id: str, **new: Any) -> Setup:
    """The same question with some figures of one load changed."""
    loads = tuple(replace(x, **new) if x.id == load_id else x for x in setup.rig.loads)
    return replace(setup, rig=replace(setup.rig, loads=loads))


def with_engines(setup: Setup, **new: Any) -> Setup:
    """The same question with some figures of its engine sets changed."""
    supply = setup.supply
    if isinstance(supply, Generator):
        return replace(setup, supply=replace(supply, **new))
    if isinstance(supply, Parallel):
        units = tuple(replace(u, **new) for u in supply.units)
        return replace(setup, supply=replace(supply, units=units))
    return setup


def with_engines_scaled(setup: Setup, factor: float) -> Setup:
    """The same question with every engine set ``factor`` times as strong, on each fuel its rating
    is stated for.
    """

    def scaled(unit: Generator) -> Generator:
        by_fuel = {
            fuel: replace(r, continuous_w=r.continuous_w * factor, starting_w=r.starting_w * factor)
            for fuel, r in unit.by_fuel.items()
        }
        return replace(
            unit,
            continuous_w=unit.continuous_w * factor,
            starting_w=unit.starting_w * factor,
            by_fuel=by_fuel,
        )

    supply = setup.supply
    if isinstance(supply, Generator):
        return replace(setup, supply=scaled(supply))
    if isinstance(supply, Parallel):
        units = tuple(scaled(u) for u in supply.units)
        return replace(setup, supply=replace(supply, units=units))
    return setup
