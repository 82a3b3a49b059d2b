"""What a day's plan may promise: which loads this supply runs at all, and which of them never
together. The ledger of limits is asked, by the same search that makes the running order.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np

from ironmargin.planning.together import Together
from ironmargin.record import record
from ironmargin.setup.changed import released
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup, Wanted

MAX_LOADS = 24
"""Of more loads only the first are asked for in pairs."""


@record
class Promise:
    """What may be promised: loads that cannot run at all, and pairs that never run together."""

    cannot: tuple[str, ...]
    apart: tuple[tuple[str, str], ...]


def promise_of(setup: Setup, modes: dict[str, str | None]) -> Promise:
    """Ask the ledger of the loads of a day.

    Args:
        setup: supply, path, rig and rules of the question.
        modes: mode of each load by its id, None for one without modes.

    Returns:
        What runs, what cannot, and which pairs may not.
    """
    cooling = {x.id for x in setup.rig.loads if isinstance(x, AirConditioner)}
    wanted = tuple(
        Wanted(load=ident, mode=mode if ident in cooling else None) for ident, mode in modes.items()
    )
    loads = tuple(x for x in setup.rig.loads if x.id in modes)
    requested = released(replace(setup, wanted=wanted, rig=replace(setup.rig, loads=loads)))
    together = Together.of(requested)
    served = together.switchable_ids
    cannot = [ident for ident in modes if ident not in served]
    if not served:
        return Promise(tuple(cannot), ())
    alone = together.may(np.eye(len(served), dtype=bool))
    cannot += [ident for ident, fine in zip(served, alone, strict=True) if not fine]
    runs = [at for at, fine in enumerate(alone) if fine][:MAX_LOADS]
    pairs = list(combinations(runs, 2))
    masks = np.zeros((len(pairs), len(served)), dtype=bool)
    for row, pair in enumerate(pairs):
        masks[row, list(pair)] = True
    may = together.may(masks) if pairs else np.zeros(0, dtype=bool)
    apart = [(served[a], served[b]) for (a, b), fine in zip(pairs, may, strict=True) if not fine]
    return Promise(tuple(cannot), tuple(apart))
