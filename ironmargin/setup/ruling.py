"""How a check between fields is written down: a small named function that yields its faults."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ironmargin.electrics.services import HIGH_V, SERVICE_230, nominal_of
from ironmargin.setup.hookup import Transformer
from ironmargin.setup.model import Setup
from ironmargin.setup.supply import Supply

Found = Iterator[tuple[str, str]]
Rule = Callable[[Setup], Found]
RULES: dict[str, Rule] = {}


def rule(code: str) -> Callable[[Rule], Rule]:
    """Register a check under its stable code.

    Args:
        code: that its faults carry.

    Returns:
        A decorator that gives the check back.
    """

    def keep(check: Rule) -> Rule:
        RULES[code] = check
        return check

    return keep


def each_supply(supply: Supply, path: str = "supply") -> Iterator[tuple[str, Supply]]:
    """A supply and the supplies inside it, with their paths.

    Args:
        supply: of a setup.
        path: where it stands.

    Yields:
        Path and supply, the outer ones first.
    """
    yield path, supply
    for where, inside in supply.inner():
        yield f"{path}.{where}", inside


def fed_volts(setup: Setup) -> float:
    """Nominal leg volts at the rig's end of the path: a transformer to 230 V class changes them
    [V].

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Volts of a leg [V].
    """
    volts = setup.supply.service_v
    for item in setup.hookup:
        if (
            isinstance(item, Transformer)
            and setup.rig.service == SERVICE_230
            and item.to_v > HIGH_V
        ):
            volts = nominal_of(SERVICE_230)
    return volts
