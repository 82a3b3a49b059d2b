"""The energy of a battery in time: an input held to its limit, loads that cycle, inverter and
charger losses, charge taper.
"""

from __future__ import annotations

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.inverters import BatteryInverter

TAPER_FROM = 0.8
TAPER_END = 0.05
"""From 80 % charge the power accepted falls in a straight line to 5 % of the charger's when full
(memory).
"""
REFILL_STEP_H, LONGEST_REFILL_H = 0.05, 24.0 * 30
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
    cold = battery_temperature_c(inverter) < NO_CHARGE_BELOW_C
    if inverter.chemistry == "lithium" and cold:
        return 0.0
    taken = _tapered_w(inverter, soc)
    return min(taken, inverter.charger_w) if inverter.charger_w is not None else taken


def _tapered_w(inverter: BatteryInverter, soc: float) -> float:
    full = CHARGER_C_RATE[inverter.chemistry] * inverter.battery_wh
    if soc <= TAPER_FROM:
        return full
    return full * max(TAPER_END, 1.0 - (1.0 - TAPER_END) * (soc - TAPER_FROM) / (1.0 - TAPER_FROM))


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
    inverter: BatteryInverter, asked_w: float, most_w: float, charging: float, room_w: float
) -> Flows:
    """What input, sun and battery give to a load: the input first, up to its limit, then what
    charges the battery straight, then the battery itself. What is left charges it; sun that it does
    not take is lost, and of the input no more is drawn than it takes.

    ``(asked − input)/η_inverter`` is needed of the battery's side; ``surplus·η_charger + sun``
    charges it.

    Args:
        inverter: battery and inverter, with what charges it straight.
        asked_w: of the load at the output, the inverter's own draw with it [W].
        most_w: most the input gives [W].
        charging: share of the input that arrives in the battery [1].
        room_w: most the battery takes now [W].

    Returns:
        Watts of each.
    """
    sun_w = inverter.input_w
    if asked_w > most_w:
        needed = (asked_w - most_w) / inverter.efficiency
        into = max(min(sun_w - needed, room_w), 0.0)
        return Flows(most_w, min(sun_w, needed) + into, max(needed - sun_w, 0.0) - into)
    into = max(min((most_w - asked_w) * charging + sun_w, room_w), 0.0)
    by_sun = min(sun_w, into)
    return Flows(asked_w + (into - by_sun) / charging, by_sun, -into)


def run_battery(
    inverter: BatteryInverter,
    load_w: Real,
    step_s: float,
    *,
    input_limit_w: float = 0.0,
    charging: float = 0.9,
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
    n, hours = len(load_w), step_s / 3600.0
    capacity, efficiency = inverter.battery_wh, inverter.efficiency
    floor = 1.0 - inverter.usable_fraction
    held = inverter.start_soc if soc is None else soc
    served, taken, sun, flow = [0.0] * n, [0.0] * n, [0.0] * n, [0.0] * n
    charge = [held] * (n + 1)
    empty_h: float | None = None
    own = idle_w * efficiency  # as load at the output, so that the battery gives idle_w for it
    for at, wish in enumerate(load_w.tolist()):
        asked = wish + own
        room = min(accepted_w(inverter, held), (1.0 - held) * capacity / hours)
        now = flows_of(inverter, asked, input_limit_w, charging, room)
        served[at], taken[at], sun[at], out = wish, now.input_w, now.charge_w, now.battery_w
        most = max(held - floor, 0.0) * capacity / hours
        if out > most:
            if out * (1.0 - 1e-9) > most and empty_h is None:
                empty_h = (at + most / out) * hours
            served[at] = max(wish - (out - most) * efficiency, 0.0)
            out = most
        flow[at] = out
        held -= out * hours / capacity
        charge[at + 1] = held
    fed, took, by_sun, battery = (np.array(x) for x in (served, taken, sun, flow))
    lost = took + by_sun + battery - fed
    return BatterySeries(
        step_s, load_w, fed, took, by_sun, lost, battery, np.array(charge), empty_h
    )


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
    hours, step_h = 0.0, REFILL_STEP_H
    while hours < LONGEST_REFILL_H:
        into = -flows_of(inverter, base_w, input_w, charging, accepted_w(inverter, soc)).battery_w
        if into <= 0.0:
            return None
        rate = into / inverter.battery_wh
        if soc + rate * step_h >= back_to:
            return hours + (back_to - soc) / rate
        soc += rate * step_h
        hours += step_h
    return None


def least_input_w(
    inverter: BatteryInverter,
    load_w: Real,
    step_s: float,
    charging: float,
    most_w: float,
    idle_w: float = 0.0,
) -> float | None:
    """How far the input limit can go down and the battery still lasts: by bisection [W]; None if
    even ``most_w`` is too little.

    Args:
        inverter: with its battery.
        load_w: over time (steps,) [W].
        step_s: length of a step [s].
        charging: efficiency of the charger [1].
        most_w: the highest limit that is tried [W].
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

    if not lasts(most_w):
        return None
    low, high = 0.0, most_w
    if lasts(0.0):
        return 0.0
    for _ in range(HALVINGS):
        middle = (low + high) / 2.0
        low, high = (low, middle) if lasts(middle) else (middle, high)
    return high
