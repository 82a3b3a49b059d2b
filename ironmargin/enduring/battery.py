"""The energy of a battery in time: an input held to its limit, loads that cycle, inverter and
charger losses, charge taper.
"""

from __future__ import annotations

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.enduring.cells import Cells
from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.inverters import BatteryInverter

TAPER_FROM = 0.8
TAPER_END = 0.05
"""From 80 % charge the power accepted falls in a straight line to 5 % of the charger's when full
(memory).
"""
CHARGER_C_RATE = {"lithium": 0.5, "lead": 0.2}
"""What a battery accepts, as a share of its capacity an hour (memory)."""
USUAL_C = 20.0
"""A battery inside the rig, unless its temperature is said [°C]."""
COLD = {
    "lithium": ((-20.0, 0.70), (-10.0, 0.80), (0.0, 0.90), (20.0, 1.0)),
    "lead": ((-20.0, 0.50), (0.0, 0.80), (25.0, 1.0)),
}
"""Capacity at a temperature [°C] over the rated one (from memory)."""
NO_CHARGE_BELOW_C = 0.0
"""A lithium iron phosphate battery is not charged below freezing (its makers; from memory)."""
PEUKERT, RATED_OVER_H = 1.2, 20.0
"""Peukert exponent of a lead battery, whose capacity is rated over 20 h (common practice)."""
CHARGING = 0.9
"""AC to battery through a charger of its own, where nothing is said (from memory)."""
SERIES = ("soc", "input", "charge", "battery", "unserved")
"""Rows of a battery stepped through a load."""


@record
class BatterySeries:
    """Energy flows over time; every array has one value a step, ``soc`` one more.

    Attributes:
        step_s: length of a step [s].
        load_w: asked [W].
        served_w: fed [W].
        input_w: taken from the input [W].
        charge_w: of what charges it straight, as much as is used [W].
        loss_w: lost in inverter and charger [W].
        battery_w: out of the battery, negative into it [W].
        soc: state of charge at the edges [1].
        empty_h: when the low-battery stop first came, or None [h].
    """

    step_s: float
    load_w: Real
    served_w: Real
    input_w: Real
    charge_w: Real
    loss_w: Real
    battery_w: Real
    soc: Real
    empty_h: float | None

    def imbalance(self) -> float:
        """Energy in less energy out, over energy moved: nought up to rounding [1].

        Returns:
            The share [1].
        """
        given = self.input_w.sum() + self.charge_w.sum()
        out = self.served_w.sum() + self.loss_w.sum()
        off = given + self.battery_w.sum() - out
        return float(abs(off) / max(self.served_w.sum() + given, 1.0))


def battery_temperature_c(inverter: BatteryInverter) -> float:
    """Temperature of the battery [°C]: as stated, else that of a room.

    Args:
        inverter: with its battery.

    Returns:
        Degrees [°C].
    """
    return USUAL_C if inverter.battery_c is None else inverter.battery_c


def capacity_wh(inverter: BatteryInverter, mean_w: float) -> float:
    """What the battery gives here at a mean draw [Wh].

    Colder gives less; a lead battery also gives less the faster it is drained, by Peukert:
    ``C·((C/20 h) ÷ P)^(k − 1)``, never more than rated.

    Args:
        inverter: with its battery.
        mean_w: mean draw at the inverter's output [W].

    Returns:
        Watt-hours at the battery [Wh].
    """
    known_c, shares = zip(*COLD[inverter.chemistry], strict=True)
    cold = float(np.interp(battery_temperature_c(inverter), list(known_c), list(shares)))
    rated = inverter.battery_wh * cold
    if inverter.chemistry != "lead" or mean_w <= 0.0:
        return rated
    exponent = (inverter.peukert if inverter.peukert is not None else PEUKERT) - 1.0
    slow_w = inverter.battery_wh / RATED_OVER_H
    return rated * float(min(slow_w * inverter.efficiency / mean_w, 1.0) ** exponent)


def accepted_w(inverter: BatteryInverter, soc: float) -> float:
    """What a battery takes at a state of charge [W], at its terminals: no more than its charger
    gives, and nothing of a lithium battery below freezing.

    Args:
        inverter: battery and inverter.
        soc: state of charge [1].

    Returns:
        Watts [W].
    """
    return cells_of(inverter).accepted_w(soc)


def cells_of(inverter: BatteryInverter) -> Cells:
    """Its cells, to be stepped in time.

    Args:
        inverter: battery and inverter.

    Returns:
        The cells; those of a lithium battery below freezing take no charge.
    """
    frozen = inverter.chemistry == "lithium" and battery_temperature_c(inverter) < NO_CHARGE_BELOW_C
    return Cells(
        inverter.battery_wh,
        inverter.efficiency,
        inverter.input_w,
        0.0 if frozen else CHARGER_C_RATE[inverter.chemistry] * inverter.battery_wh,
        np.inf if inverter.charger_w is None else inverter.charger_w,
        (TAPER_FROM, TAPER_END),
        inverter.sun_first,
    )


@record
class Flows:
    """What feeds a load in one moment.

    Attributes:
        input_w: from the input [W].
        charge_w: of what charges the battery straight, as much as is used [W].
        battery_w: out of the battery, negative into it [W].
    """

    input_w: float
    charge_w: float
    battery_w: float


def flows_of(
    inverter: BatteryInverter, requested_w: float, max_w: float, charging: float, room_w: float
) -> Flows:
    """What input, sun and battery give to a load (:meth:`ironmargin.enduring.cells.Cells.share`).

    Args:
        inverter: battery and inverter, with what charges it straight.
        requested_w: of the load at the output, the inverter's own draw with it [W].
        max_w: most the input gives [W].
        charging: share of the input that arrives in the battery [1].
        room_w: most the battery takes now [W].

    Returns:
        Watts of each.
    """
    cells = cells_of(inverter)
    cells.share(requested_w, max_w, charging, room_w)
    return Flows(cells.input_w, cells.charge_w, cells.battery_w)


def run_battery(
    inverter: BatteryInverter,
    load_w: Real,
    step_s: float,
    *,
    input_limit_w: float = 0.0,
    charging: float = CHARGING,
    idle_w: float = 0.0,
    soc: float | None = None,
) -> BatterySeries:
    """Step a battery through a load.

    At the low-battery stop the load beyond the input, and beyond what charges the battery
    meanwhile, is not fed. :func:`flows_of` says who gives what.

    Args:
        inverter: battery and inverter.
        load_w: draw at the inverter's output at each step (n,) [W].
        step_s: step of the series [s].
        input_limit_w: most the input gives [W].
        charging: share of the input that arrives in the battery [1].
        idle_w: what the inverter draws itself [W].
        soc: charge to begin with [1]; the battery's own where None.

    Returns:
        Charge, input, output and losses over time (n,).

    Raises:
        SetupError: an empty series.
    """
    if not len(load_w):
        raise SetupError([Fault("load_w", "empty", "must have at least one step (got none)")])
    begun = inverter.start_soc if soc is None else soc
    own_w = idle_w * inverter.efficiency  # as load at the output: the battery gives idle_w for it
    rows = np.empty((len(SERIES), len(load_w)))
    empty_h = cells_of(inverter).run(
        load_w,
        step_s / 3600.0,
        begun,
        1.0 - inverter.usable_fraction,
        own_w,
        input_limit_w,
        charging,
        rows,
    )
    fed, took, by_sun, battery, held = rows
    lost = took + by_sun + battery - fed
    charge = np.concatenate(([begun], held))
    return BatterySeries(step_s, load_w, fed, took, by_sun, lost, battery, charge, empty_h)


HALVINGS = 10
"""Of a search for the least input: to a thousandth of its limit."""


def refill_hours(
    inverter: BatteryInverter,
    soc: float,
    back_to: float,
    input_w: float,
    charging: float,
    base_w: float = 0.0,
) -> float | None:
    """Hours until the charge is back with only a base load running [h]; None if it never is.

    Args:
        inverter: with its battery.
        soc: state of charge to begin with [1].
        back_to: state of charge it is to have [1].
        input_w: the input's limit [W].
        charging: efficiency of the charger [1].
        base_w: of the load meanwhile [W].

    Returns:
        Hours [h].
    """
    if soc >= back_to:
        return 0.0
    hours = cells_of(inverter).refill(soc, back_to, base_w, input_w, charging)
    return hours if hours >= 0.0 else None


def min_input_w(
    inverter: BatteryInverter,
    load_w: Real,
    step_s: float,
    charging: float,
    max_w: float,
    idle_w: float = 0.0,
) -> float | None:
    """How far the input limit can go down and the battery still lasts: by bisection [W]; None if
    even ``max_w`` is too little.

    Args:
        inverter: with its battery.
        load_w: over time (steps,) [W].
        step_s: length of a step [s].
        charging: efficiency of the charger [1].
        max_w: the highest limit that is tried [W].
        idle_w: what the inverter takes for itself [W].

    Returns:
        Watts [W].
    """

    def lasts(limit: float) -> bool:
        return (
            run_battery(
                inverter, load_w, step_s, input_limit_w=limit, charging=charging, idle_w=idle_w
            ).empty_h
            is None
        )

    if not lasts(max_w):
        return None
    low, high = 0.0, max_w
    if lasts(0.0):
        return 0.0
    for _ in range(HALVINGS):
        middle = (low + high) / 2.0
        low, high = (low, middle) if lasts(middle) else (middle, high)
    return high
