"""Engine-driven sets, one or several in parallel."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ironmargin.electrics.services import hertz_of
from ironmargin.setup.engines import Generator, Parallel
from ironmargin.setup.model import Conditions
from ironmargin.supplies.derate import derating_chain
from ironmargin.supplies.source import NEVER, REGULATION, Breaker, Source, output_of, source_of_kind

LOCKOUT_K_S = 1.7
UNDERVOLT_S = 2.5
SHORT_TIME = 1.25
"""Most current held for the first second, over starting W/V (common practice). What a set holds
lies between its lasting limit and this, each value as likely.
"""
CUT_OFF_S = 0.5
"""How long a set that cuts off stays at its limit before it opens (common practice)."""
TRANSIENT_REACTANCE = 0.20
"""Transient reactance of a small conventional alternator, per unit (memory, 0.15 to 0.3)."""


@source_of_kind("generator")
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
    conductors, leg_v = output_of(supply.output, supply.voltage_v)
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
        hertz_of(nominal),
        continuous_a=continuous_a,
        starting_a=starting_a,
        eco=supply.eco and supply.inverter,
        limit_w=starting_w * supply.limit_over_surge,
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
        limit_a=held_a * supply.limit_over_surge,
        short_factor=1.0 if cuts_off else max(SHORT_TIME / supply.limit_over_surge, 1.0),
        cut_off_s=CUT_OFF_S if cuts_off else NEVER,
        lockout_a=on_fuel.continuous_w / (conductors * leg_v),
        lockout_k_s=LOCKOUT_K_S,
        undervolt_s=UNDERVOLT_S,
    )


@source_of_kind("parallel")
def parallel(supply: Parallel, conditions: Conditions) -> Source:
    """Sets in parallel: at their limits they are current sources, so the limits add, equal or not.

    Running, they share in proportion to rating less the imbalance. When one locks out, the other
    gets everything and follows, so the pair locks out as one.

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
        lockout_a=summed(lambda u: u.lockout_a) * fair,
        starting_a=summed(lambda u: u.starting_a),
        limit_a=summed(lambda u: u.limit_a),
        limit_w=summed(lambda u: u.limit_w),
        short_factor=min(u.short_factor for u in units),
        lockout_k_s=min(u.lockout_k_s for u in units),
        cut_off_s=min(u.cut_off_s for u in units),
        eco=any(u.eco for u in units),
        breakers=kit,
        derate=tuple(dict.fromkeys(s for u in units for s in u.derate)),
    )
