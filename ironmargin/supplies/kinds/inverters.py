"""Battery inverters, power stations and vehicles; and one beside its input."""

from __future__ import annotations

from dataclasses import replace

from ironmargin.electrics.services import hertz_of
from ironmargin.setup.inverters import Assist, BatteryInverter
from ironmargin.setup.model import Conditions
from ironmargin.supplies.source import (
    REGULATION,
    Input,
    Source,
    output_of,
    source_of,
    source_of_kind,
)

SAG_PER_C = 0.04
"""What a battery's volts fall for each C of its discharge, per unit (memory: 0.03 to 0.05 lithium,
more for lead).
"""
MAX_SAG = 0.5
IDLE_SHARE, MIN_IDLE_W, MAX_IDLE_W = 0.01, 8.0, 40.0
"""What an inverter draws itself (common practice: 20 to 40 W of one of 2 to 4 kW)."""
UNDERVOLT_S = 0.5
"""A battery inverter switches off after so long under its volts [s] (from memory)."""
MIN_LOCKOUT_K = 0.02
"""A surge rating no higher than the lasting one still rides through this much (I/In)² more [1]."""


@source_of_kind("battery-inverter")
def battery_inverter(supply: BatteryInverter, conditions: Conditions) -> Source:
    """A battery inverter: current-limited, and locked out after its surge time at full surge.

    The battery's volts sag behind a surge, about 4 % for each C of discharge (memory), and the
    surge falls with them.

    Args:
        supply: as it was stated.
        conditions: of the place.

    Returns:
        The source the start and the hours are solved with.
    """
    conductors, leg_v = output_of(supply.output, supply.voltage_v)
    nominal = supply.service_v
    continuous_a = supply.continuous_w / (conductors * leg_v)
    surge_a = supply.surge_w / (conductors * leg_v) * (1.0 - battery_sag(supply))
    lockout = max((surge_a / continuous_a) ** 2 - 1.0, MIN_LOCKOUT_K) * supply.surge_s
    return Source(
        "battery-inverter",
        leg_v,
        nominal,
        conductors,
        180.0 if conductors == 2 else 0.0,
        REGULATION * leg_v / continuous_a,
        0.0,
        hertz_of(nominal),
        limit_a=surge_a,
        continuous_a=continuous_a,
        lockout_a=continuous_a,
        starting_a=surge_a,
        lockout_k_s=lockout,
        undervolt_s=UNDERVOLT_S,
        neutral=supply.neutral or "",
    )


def battery_sag(supply: BatteryInverter) -> float:
    """What its battery's volts fall at full surge, per unit: 4 % for each C of discharge
    (memory).

    Args:
        supply: as it was stated.

    Returns:
        Share of its volts [1].
    """
    rate = supply.surge_w / supply.efficiency / supply.battery_wh
    return min(SAG_PER_C * rate, MAX_SAG)


def idle_w(supply: BatteryInverter) -> float:
    """What an inverter draws itself while it is on [W].

    Args:
        supply: battery and inverter.

    Returns:
        Watts [W].
    """
    return (
        supply.idle_w
        if supply.idle_w is not None
        else min(max(IDLE_SHARE * supply.continuous_w, MIN_IDLE_W), MAX_IDLE_W)
    )


@source_of_kind("assist")
def assist(supply: Assist, conditions: Conditions) -> Source:
    """An inverter/charger beside its input: the input gives its set limit and no more, the inverter
    the rest.

    Args:
        supply: as it was stated.
        conditions: of the place.

    Returns:
        The source the start and the hours are solved with.
    """
    behind = source_of(supply.input, conditions)
    inverter = battery_inverter(supply.inverter, conditions)
    limit = supply.input_a
    taken_from = Input(
        behind.kind,
        limit,
        behind.leg_v,
        behind.hot_ohm + behind.neutral_ohm,
        behind.also_a,
        behind.continuous_a,
        behind.breakers,
    )
    return replace(
        inverter,
        kind="assist",
        leg_v=behind.leg_v,
        limit_a=inverter.limit_a + limit,
        continuous_a=inverter.continuous_a + limit,
        lockout_a=inverter.lockout_a,
        starting_a=inverter.starting_a + limit,
        offset_a=limit,
        breakers=(),
        derate=behind.derate,
        input=taken_from,
    )
