"""How a check between fields is written down: a small named function that yields its faults."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from ironmargin.setup.hookup import Transformer
from ironmargin.setup.model import Setup
from ironmargin.setup.supplies import Assist, Parallel, Shore

Found = Iterator[tuple[str, str]]
Rule = Callable[[Setup], Found]
RULES: dict[str, Rule] = {}


def rule(code: str) -> Callable[[Rule], Rule]:
    """Register a check under its stable code."""

    def keep(check: Rule) -> Rule:
        RULES[code] = check
        return check

    return keep


def each_supply(supply: Any, path: str = "supply") -> Iterator[tuple[str, Any]]:
    """A supply and the supplies inside it, with their paths."""
    yield path, supply
    if isinstance(supply, Parallel):
        for at, unit in enumerate(supply.units):
            yield f"{path}.units[{at}]", unit
    if isinstance(supply, Assist):
        yield f"{path}.input", supply.input
        yield f"{path}.inverter", supply.inverter


def service_volts(supply: Any) -> float:
    """Volts from leg to neutral that a supply nominally brings [V]."""
    if isinstance(supply, Parallel):
        return service_volts(supply.units[0])
    if isinstance(supply, Assist):
        return service_volts(supply.inverter)
    if isinstance(supply, Shore):
        return 230.0 if supply.voltage_v > 180 else 120.0
    return 230.0 if supply.output == "230" else 120.0


def fed_volts(setup: Setup) -> float:
    """Nominal leg volts at the rig's end of the path: a transformer to 230 V class changes them
    [V].
    """
    volts = service_volts(setup.supply)
    for item in setup.hookup:
        if isinstance(item, Transformer) and setup.rig.service == "230" and item.to_v > 180:
            volts = 230.0
    return volts
