"""Every kind of supply as one thing: electromotive force, impedance, limits, latches and breakers.

Below its limit an inverter set behaves as a voltage source with a small internal resistance. At its
limit it is a current source: the electronics hold ``I_lim = starting_W/V·headroom``, somewhat more
in the first second, and volts fold back to ``I_lim/|Y|``. Thin or hot air takes nothing from the
electronics; it takes the engine's power, which is the second limit. A set folds back (it holds its
current and lets the volts sag for a while) or cuts off (it opens within half a second above its
limit); which of the two is its character. Two lockouts open the output until it is reset by hand:
overload ``Σ((I/I_cont)² − 1)·dt > k`` and volts below 60 % for about 2.5 s (common practice).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from ironmargin.record import record
from ironmargin.setup.model import Conditions
from ironmargin.setup.supplies import Assist, BatteryInverter, Generator, Parallel, Shore
from ironmargin.setup.supply import Supply
from ironmargin.supplies.derate import DerateStep, derating_chain

LATCH_K_S = 1.7
UNDERVOLT_S = 2.5
SHORT_TIME = 1.25
"""Most current held for the first second, over starting W/V (common practice). What a set holds
lies between its lasting limit and this, each value as likely.
"""
CUT_OFF_S = 0.5
"""How long a set that cuts off stays at its limit before it opens (common practice)."""
SAG_PER_C = 0.04
"""What a battery's volts fall for each C of its discharge, per unit (memory: 0.03 to 0.05 lithium,
more for lead).
"""
MOST_SAG = 0.5
IDLE_SHARE, LEAST_IDLE_W, MOST_IDLE_W = 0.01, 8.0, 40.0
"""What an inverter draws itself (common practice: 20 to 40 W of one of 2 to 4 kW)."""
REGULATION = 0.02
"""Internal resistance of an inverter set, per unit of its rating: 0.1 to 0.2 ohm on a small 120 V
set (common practice).
"""
TRANSIENT_REACTANCE = 0.20
"""Transient reactance of a small conventional alternator, per unit (memory, 0.15 to 0.3)."""
NEVER = math.inf
LEG_NAMES = ("L1", "L2")
DEG_OF_LEGS = {"split": 180.0, "same-leg": 0.0, "network-208": 120.0}


@record
class Breaker:
    """A breaker of the supply, the path or the rig: where it is, its rating [A], its standard, and
    how it trips against its curve.
    """

    where: str
    name: str
    rating_a: float
    standard: str = "UL489"
    trips: str = "on-curve"


@record
class Input:
    """What an inverter/charger takes its power from.

    Attributes:
        kind: of the supply there.
        limit_a: most it takes [A].
        leg_v: open-circuit volts there [V].
        ohm: impedance behind them, hot and neutral [ohm].
        also_a: other loads on the same circuit [A].
        continuous_a: what that supply gives for hours [A].
        breakers: its breakers.
    """

    kind: str
    limit_a: float
    leg_v: float
    ohm: complex
    also_a: float
    continuous_a: float
    breakers: tuple[Breaker, ...]


@record
class Source:
    """A supply here and now; currents are per hot conductor.

    Attributes:
        leg_v: open-circuit volts, leg to neutral [V].
        nominal_v: nominal volts of a leg [V].
        conductors: hot conductors it brings, 1 or 2.
        leg_deg: angle of the second behind the first [°].
        hot_ohm, neutral_ohm: impedance when settled [ohm].
        transient_ohm: added in the first second of a start.
        limit_a: current its electronics hold [A].
        short_factor: the most they may hold in the first second over that [1].
        limit_w: power its engine can give, flywheel and bus apart [W]; infinite where none.
        forced: a regulator forces its field (a conventional alternator).
        continuous_a: current it sustains [A].
        latch_a: current its overload latch counts from [A].
        offset_a: current an assisted input carries before it [A].
        latch_k_s: k of the overload lockout [s], infinite where none; undervolt_s likewise.
        cut_off_s: how long it stays at its limit before it opens, infinite where it folds back [s].
        eco: engine at idle when the start comes.
        also_a: another load on the same breaker [A].
        breakers: its own breakers.
        derate: derating chain of each engine.
        input: of an inverter/charger, what it takes from.
        neutral: ``floating`` or ``bonded`` as stated, empty where it is not known.
    """

    kind: str
    leg_v: float
    nominal_v: float
    conductors: int
    leg_deg: float
    hot_ohm: complex
    neutral_ohm: complex
    frequency_hz: float
    transient_ohm: complex = 0.0
    limit_a: float = NEVER
    short_factor: float = 1.0
    limit_w: float = NEVER
    forced: bool = False
    latch_a: float = NEVER
    continuous_a: float = NEVER
    starting_a: float = NEVER
    offset_a: float = 0.0
    latch_k_s: float = NEVER
    undervolt_s: float = NEVER
    cut_off_s: float = NEVER
    eco: bool = False
    also_a: float = 0.0
    same_leg: bool = False
    breakers: tuple[Breaker, ...] = ()
    derate: tuple[DerateStep, ...] = ()
    input: Input | None = None
    neutral: str = ""

    @property
    def input_limit_a(self) -> float | None:
        """Most an inverter/charger takes from its input [A]; None for every other supply."""
        return self.input.limit_a if self.input is not None else None


def _output(output: str, voltage_v: float) -> tuple[int, float]:
    """Hot conductors and volts of each, leg to neutral."""
    if output == "120/240":
        return 2, voltage_v / 2.0 if voltage_v > 180 else voltage_v
    return 1, voltage_v


def generator(supply: Generator, conditions: Conditions) -> Source:
    """An engine-driven set after its derates.

    An inverter set folds back at its current limit. A conventional one instead dips behind its
    transient reactance until its regulator has forced the field, and is limited by its engine's
    power (ISO 8528-5 bounds its recovery); its breaker protects it. The ratings of the fuel in use
    hold for the electronics too.

    Args:
        supply: as it was stated.
        conditions: height, heat and fuel of the place.

    Returns:
        The source the start and the hours are solved with.
    """
    steps = derating_chain(supply, conditions)
    on_fuel = [step for step in steps if step.key in ("plate", "fuel")][-1]
    continuous_w, starting_w = steps[-1].continuous_w, steps[-1].starting_w
    conductors, leg_v = _output(supply.output, supply.voltage_v)
    nominal = supply.service_v
    continuous_a = continuous_w / (conductors * leg_v)
    starting_a = starting_w / (conductors * leg_v)
    breaker_a = supply.leg_limit_a or (None if supply.inverter else continuous_a)
    breakers = (Breaker("supply", "generator's own breaker", breaker_a),) if breaker_a else ()
    base = Source(
        "generator",
        leg_v,
        nominal,
        conductors,
        180.0 if conductors == 2 else 0.0,
        REGULATION * leg_v / continuous_a,
        0.0,
        50.0 if nominal == 230.0 else 60.0,
        continuous_a=continuous_a,
        starting_a=starting_a,
        eco=supply.eco and supply.inverter,
        limit_w=starting_w * supply.limit_headroom,
        breakers=breakers,
        derate=steps,
        neutral=supply.neutral or "",
    )
    if not supply.inverter:
        return replace(
            base, transient_ohm=1j * TRANSIENT_REACTANCE * leg_v / continuous_a, forced=True
        )
    cuts_off = supply.character == "cuts-off"
    held_a = on_fuel.starting_w / (conductors * leg_v)
    return replace(
        base,
        limit_a=held_a * supply.limit_headroom,
        short_factor=1.0 if cuts_off else max(SHORT_TIME / supply.limit_headroom, 1.0),
        cut_off_s=CUT_OFF_S if cuts_off else NEVER,
        latch_a=on_fuel.continuous_w / (conductors * leg_v),
        latch_k_s=LATCH_K_S,
        undervolt_s=UNDERVOLT_S,
    )


def parallel(supply: Parallel, conditions: Conditions) -> Source:
    """Sets in parallel: at their limits they are current sources, so the limits add, equal or not.

    Running, they share in proportion to rating less the imbalance. When one latches off, the other
    gets everything and follows, so the pair latches as one.

    Args:
        supply: as it was stated.
        conditions: height and heat of the place.

    Returns:
        The source the start and the hours are solved with.
    """
    units = [generator(unit, conditions) for unit in supply.units]
    fair = 1.0 - supply.imbalance

    def summed(each: Callable[[Source], float]) -> float:
        return sum(each(unit) for unit in units)

    conductance = sum(1.0 / unit.hot_ohm for unit in units)
    kit = (
        (Breaker("supply", "parallel cable set", supply.kit_limit_a),) if supply.kit_limit_a else ()
    )
    first = units[0]
    return replace(
        first,
        kind="parallel",
        hot_ohm=1.0 / conductance,
        transient_ohm=first.transient_ohm / len(units),
        continuous_a=summed(lambda u: u.continuous_a) * fair,
        latch_a=summed(lambda u: u.latch_a) * fair,
        starting_a=summed(lambda u: u.starting_a),
        limit_a=summed(lambda u: u.limit_a),
        limit_w=summed(lambda u: u.limit_w),
        short_factor=min(u.short_factor for u in units),
        latch_k_s=min(u.latch_k_s for u in units),
        cut_off_s=min(u.cut_off_s for u in units),
        eco=any(u.eco for u in units),
        breakers=kit,
        derate=tuple(dict.fromkeys(s for u in units for s in u.derate)),
    )


def thevenin(shore: Shore) -> tuple[float, float]:
    """Open-circuit volts and impedance of a post, from two readings where there are two [V],
    [ohm].

    Args:
        shore: the post.

    Returns:
        Volts [V] and impedance [ohm].
    """
    if not shore.readings:
        return shore.voltage_v, shore.source_ohm
    (v0, a0), (v1, a1) = shore.readings
    ohm = (v0 - v1) / (a1 - a0)
    return v0 + ohm * a0, ohm


def shore(supply: Shore, conditions: Conditions) -> Source:
    """A post: a Thevenin source behind its breaker. Half of its impedance is taken to lie in the
    neutral.

    Args:
        supply: as it was stated.
        conditions: of the place.

    Returns:
        The source the start and the hours are solved with.
    """
    volts, ohm = thevenin(supply)
    nominal = supply.service_v
    standard = supply.breaker_standard
    if nominal == 230.0 and standard == "UL489":
        standard = "IEC60898-C"
    single = supply.legs == "single"
    return Source(
        "shore",
        volts - supply.also_on_circuit_a * ohm,
        nominal,
        1 if single else 2,
        DEG_OF_LEGS.get(supply.legs, 0.0),
        ohm / 2,
        ohm / 2,
        50.0 if nominal == 230.0 else 60.0,
        also_a=supply.also_on_circuit_a,
        same_leg=supply.legs == "same-leg",
        breakers=(
            Breaker("post", "post breaker", supply.breaker_a, standard, supply.breaker_trips),
        ),
        neutral="bonded",
    )


def battery_inverter(supply: BatteryInverter, conditions: Conditions) -> Source:
    """A battery inverter: current-limited, and latched after its surge time at full surge.

    The battery's volts sag behind a surge, about 4 % for each C of discharge (memory), and the
    surge falls with them.

    Args:
        supply: as it was stated.
        conditions: of the place.

    Returns:
        The source the start and the hours are solved with.
    """
    conductors, leg_v = _output(supply.output, supply.voltage_v)
    nominal = supply.service_v
    continuous_a = supply.continuous_w / (conductors * leg_v)
    surge_a = supply.surge_w / (conductors * leg_v) * (1.0 - battery_sag(supply))
    latch = max((surge_a / continuous_a) ** 2 - 1.0, 0.02) * supply.surge_s
    return Source(
        "battery-inverter",
        leg_v,
        nominal,
        conductors,
        180.0 if conductors == 2 else 0.0,
        REGULATION * leg_v / continuous_a,
        0.0,
        50.0 if nominal == 230.0 else 60.0,
        limit_a=surge_a,
        continuous_a=continuous_a,
        latch_a=continuous_a,
        starting_a=surge_a,
        latch_k_s=latch,
        undervolt_s=0.5,
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
    return min(SAG_PER_C * rate, MOST_SAG)


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
        else min(max(IDLE_SHARE * supply.continuous_w, LEAST_IDLE_W), MOST_IDLE_W)
    )


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
    limit = supply.input_limit_a
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
        latch_a=inverter.latch_a,
        starting_a=inverter.starting_a + limit,
        offset_a=limit,
        breakers=(),
        derate=behind.derate,
        input=taken_from,
    )


SOURCES: dict[str, Callable[[Any, Conditions], Source]] = {
    "generator": generator,
    "parallel": parallel,
    "shore": shore,
    "battery-inverter": battery_inverter,
    "assist": assist,
}
"""One row per kind of supply."""


def source_of(supply: Supply, conditions: Conditions) -> Source:
    """Any supply of the setup format as a :class:`Source` in these conditions.

    Args:
        supply: of whichever kind.
        conditions: weather and height.

    Returns:
        Volts, impedance and limits of each conductor.
    """
    return SOURCES[supply.kind](supply, conditions)
