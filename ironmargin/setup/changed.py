"""The same question with something changed: a load left off, figures of a load or of the engine
sets replaced.
"""

from __future__ import annotations

from dataclasses import replace

from ironmargin.document import Document
from ironmargin.setup.model import Setup


def together_with(setup: Setup, load_id: str) -> tuple[str, ...]:
    """A load and everything that cannot run without it, over any number of steps.

    Args:
        setup: supply, path, rig and rules of the question.
        load_id: id of the load.

    Returns:
        Ids, the load's first.
    """
    gone = [load_id]
    for ident in gone:
        gone += [x.id for x in setup.rig.loads if x.goes_with == ident and x.id not in gone]
    return tuple(gone)


def leave_off(setup: Setup, load_id: str) -> Setup:
    """The same question without one load, and without what cannot run without it.

    Args:
        setup: supply, path, rig and rules of the question.
        load_id: id of the load.

    Returns:
        The changed setup.
    """
    gone = together_with(setup, load_id)
    wanted = tuple(w for w in setup.wanted if w.load not in gone)
    loads = tuple(replace(x, always_on=False) if x.id in gone else x for x in setup.rig.loads)
    return replace(setup, wanted=wanted, rig=replace(setup.rig, loads=loads))


def released(setup: Setup) -> Setup:
    """The same question with nothing always on: what was is switched like everything else.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The changed setup.
    """
    loads = tuple(replace(x, always_on=False) if x.always_on else x for x in setup.rig.loads)
    return replace(setup, rig=replace(setup.rig, loads=loads))


def with_load(setup: Setup, load_id: str, **new: object) -> Setup:
    """The same question with some figures of one load changed.

    Args:
        setup: supply, path, rig and rules of the question.
        load_id: id of the load.
        **new: fields and their new values.

    Returns:
        The changed setup.
    """
    figures: Document = new
    loads = tuple(replace(x, **figures) if x.id == load_id else x for x in setup.rig.loads)
    return replace(setup, rig=replace(setup.rig, loads=loads))


def with_engines(setup: Setup, **new: object) -> Setup:
    """The same question with some figures changed of the engine sets that carry the load.

    Args:
        setup: supply, path, rig and rules of the question.
        **new: fields and their new values.

    Returns:
        The changed setup.
    """
    figures: Document = new
    return replace(setup, supply=setup.supply.with_carrying(lambda unit: replace(unit, **figures)))


def with_engines_scaled(setup: Setup, factor: float) -> Setup:
    """The same question with every engine set that carries the load ``factor`` times as strong.

    Args:
        setup: supply, path, rig and rules of the question.
        factor: how many times as strong [1].

    Returns:
        The changed setup.
    """
    return replace(setup, supply=setup.supply.with_carrying(lambda unit: unit.scaled(factor)))
