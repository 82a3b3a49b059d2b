"""What the places that give first are called, by the words the open format has for them."""

from __future__ import annotations

from ironmargin.loads.demand import TRANSFORMER
from ironmargin.setup.model import Setup

PLACES = {
    "supply": "the supply",
    "input": "the input",
    "breaker": "the supply's breaker",
    "guard": "the guard",
    "main": "the main breaker",
    "L1": "leg L1",
    "L2": "leg L2",
    "L1-L2": "the voltage across both legs",
    "N": "the neutral",
    "all": "a start of several at once",
    "rig": "a rule of the rig",
    TRANSFORMER: "the transformer",
}


def where_words(setup: Setup) -> dict[str, str]:
    """Words for every place of a setup: loads by their names, parts of the path by theirs.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Words by :attr:`ironmargin.limits.sites.Place.where`.
    """
    parts = {
        f"hookup[{at}]": f"the {item.name or item.kind.replace('-', ' ')}"
        for at, item in enumerate(setup.hookup)
    }
    circuits = {f"circuit {c.id}": f"the breaker of {c.name or c.id}" for c in setup.rig.circuits}
    loads = {load.id: load.name for load in setup.rig.loads}
    post = {"breaker": "the post breaker"} if setup.supply.post is not None else {}
    return PLACES | post | parts | circuits | loads
