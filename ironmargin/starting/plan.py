"""Which motors a start plans, and which branch circuits carry them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ironmargin.case import Case, Starter
from ironmargin.electrics.network import Real
from ironmargin.loads.demand import Draw
from ironmargin.record import record

Whole = NDArray[np.intc]


@record
class Plan:
    """A moment to watch.

    Attributes:
        starting: who starts.
        off: demands left off.
        breakaway: breakaway torque instead of the plate's, for a restart at once.
        concurrent: draws of the starting unit itself while its motor starts, instead of its fan
            as the mode has it.
    """

    starting: tuple[Starter, ...]
    off: frozenset[int] = frozenset()
    breakaway: float | None = None
    concurrent: tuple[Draw, ...] | None = None


def whole(values: list[int]) -> Whole:
    """Whole numbers as the engine takes them.

    Args:
        values: numbers.

    Returns:
        The same (n,).
    """
    return np.array(values, dtype=np.intc)


def real(values: list[float]) -> Real:
    """Figures as the engine takes them.

    Args:
        values: figures.

    Returns:
        The same (n,).
    """
    return np.array(values, dtype=float)


def branches_of(case: Case, plan: Plan) -> dict[str, int]:
    """Number of each branch breaker that a start of this plan passes, by the id of its circuit.

    Args:
        case: the prepared setup.
        plan: who starts, and what runs beside.

    Returns:
        Number by id.
    """
    starting = {case.demands[s.demand].load.circuit for s in plan.starting}
    passed = [c.id for c in case.setup.rig.circuits if c.id in starting]
    return {ident: number for number, ident in enumerate(passed)}


def branch_number(numbers: dict[str, int], circuit: str | None) -> int:
    """Number of the branch breaker that carries a load.

    Args:
        numbers: of :func:`branches_of`.
        circuit: its id, if the load is on one.

    Returns:
        The number, −1 for a load that is on none a start passes.
    """
    return -1 if circuit is None else numbers.get(circuit, -1)
