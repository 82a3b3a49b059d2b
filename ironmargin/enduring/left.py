"""What is left as the hours go: the level of fuel or charge, and a battery by an air conditioner's
mode.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics.network import Real
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.found import Lasting
from ironmargin.enduring.fuel import WH_PER_L, on_board_wh
from ironmargin.record import record
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.supply import Supply

BAND = 0.10
"""How far a night's mean load differs from the one computed, nine nights of ten (common practice,
no source)."""


def level_of(supply: Supply, found: Lasting, step_s: float) -> tuple[Real, Real, Real, str]:
    """Share left over time [1]: level, low and high of its band, and what of (``fuel``,
    ``charge``); empty where neither is known.

    A tank or cylinder that runs dry is full again at once. From the first refill on there is no
    band: where in a filling one stands is then anybody's guess.

    Args:
        supply: of whichever kind.
        found: hours and series of its setup.
        step_s: step of the series [s].

    Returns:
        Three series [1], each (n,), and what they are of.
    """
    if "soc" in found.series:
        soc = found.series["soc"]
        used = abs(soc[0] - soc)
        return soc, soc - BAND * used, soc + BAND * used, "charge"
    units = supply.engines
    boards = [on_board_wh(u, u.fuel) for u in units]
    rate = found.series.get("fuel_l_per_h")
    if not units or rate is None or not all(boards):
        return np.zeros(0), np.zeros(0), np.zeros(0), ""
    litres = sum(b[1] for b in boards if b) / WH_PER_L[units[0].fuel]
    burnt = np.cumsum(rate) * step_s / 3600.0 / litres

    def left(times: float) -> Real:
        return np.asarray(1.0 - np.mod(times * burnt, 1.0))

    level = left(1.0)
    whole = float(burnt[-1]) <= 1.0 - BAND
    return level, left(1.0 + BAND) if whole else level, left(1.0 - BAND) if whole else level, "fuel"


@record
class ModeHours:
    """How long a battery lasts with the air conditioner in one mode [h], None for all the hours
    wanted; the charge after those [1]; and whether it is the mode asked.
    """

    mode: str
    battery_h: float | None
    soc_after: float | None
    now: bool


def by_mode(setup: Setup, found: Lasting, step_s: float) -> tuple[ModeHours, ...]:
    """A battery by the modes of the first air conditioner wanted; none without either.

    Args:
        setup: supply, path, rig and rules of the question.
        found: of the setup as it is.
        step_s: step of the series [s].

    Returns:
        A row a mode.
    """
    kinds = {load.id: load for load in setup.rig.loads}
    cool = next((w for w in setup.wanted if isinstance(kinds.get(w.load), AirConditioner)), None)
    if "soc" not in found.series or cool is None:
        return ()
    rows = []
    for mode in COOLING_MODES:
        e = found.endurance
        if mode != cool.mode:
            wanted = tuple(replace(w, mode=mode) if w is cool else w for w in setup.wanted)
            case = prepare(replace(setup, wanted=wanted))
            e = lasting(case, step_s=step_s, one_more=False).endurance
        rows.append(ModeHours(mode, e.battery_h, e.soc_after, mode == cool.mode))
    return tuple(rows)
