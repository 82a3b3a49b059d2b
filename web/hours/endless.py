"""What is said where nothing runs out: why not, or what has to be known for it."""

from __future__ import annotations

from ironmargin.enduring.fuel import unknown_store
from ironmargin.setup.model import Setup
from web.setups.stations import Answer


def endless(setup: Setup) -> Answer:
    """The answer of a question whose supply does not run out as far as is known."""
    supply, store = setup.supply, unknown_store(setup.supply.engines)
    if store:
        whose = "generator’s" if len(supply.engines) == 1 else "generators’"
        said = f"The {whose} {store} is not known."
        todo = "Type it at the supply to see how long the fuel lasts."
        return Answer(f"{store.capitalize()} not known", f"{said} {todo}")
    if supply.engines:
        return Answer("No limit", "Natural gas by pipe does not run out by itself.", "holds")
    if supply.battery is None:
        return Answer("No limit", "A post does not run out by itself.", "holds")
    by = f"the {supply.feeding.words}" if supply.limit_set_a is not None else "what charges it"
    return Answer("No limit", f"The battery does not run out: {by} carries the load.", "holds")
