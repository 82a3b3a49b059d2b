"""The checks between fields: each a small named rule that yields its faults.

A rule only sees a setup whose fields are each in range. Every fault says where, the rule, the value
received and what to do; its code is the rule's name.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from ironmargin.errors import Fault
from ironmargin.setup.hookup import Adapter, Cord, Guard, Transformer
from ironmargin.setup.loads import AirConditioner, Drawing, Electronic, Rotating
from ironmargin.setup.model import Setup
from ironmargin.setup.supplies import Assist, BatteryInverter, Generator, Parallel, Shore
from ironmargin.setup.work import MOST_WORK, work_of

Found = Iterator[tuple[str, str]]
Rule = Callable[[Setup], Found]
RULES: dict[str, Rule] = {}
AWG_SIZES = (4, 6, 8, 10, 12, 14, 16)


def rule(code: str) -> Callable[[Rule], Rule]:
    """Register a check under its stable code."""

    def keep(check: Rule) -> Rule:
        RULES[code] = check
        return check

    return keep


def check_rules(setup: Setup) -> list[Fault]:
    """Every fault that lies between fields, in the order of the rules."""
    return [
        Fault(path, code, message)
        for code, check in RULES.items()
        for path, message in check(setup)
    ]


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


@rule("starting-below-continuous")
def _starting(setup: Setup) -> Found:
    for path, supply in each_supply(setup.supply):
        if isinstance(supply, BatteryInverter) and supply.surge_w < supply.continuous_w:
            yield (
                f"{path}.surge_w",
                f"must be at least continuous_w {supply.continuous_w:g} (got {supply.surge_w:g})",
            )
        if isinstance(supply, Generator):
            if supply.starting_w < supply.continuous_w:
                yield (
                    f"{path}.starting_w",
                    f"must be at least continuous_w {supply.continuous_w:g} (got "
                    f"{supply.starting_w:g})",
                )
            for fuel, rating in supply.by_fuel.items():
                if rating.starting_w < rating.continuous_w:
                    yield (
                        f"{path}.by_fuel.{fuel}.starting_w",
                        f"must be at least its continuous_w {rating.continuous_w:g} (got "
                        f"{rating.starting_w:g})",
                    )


@rule("output-voltage")
def _output(setup: Setup) -> Found:
    for path, supply in each_supply(setup.supply):
        if isinstance(supply, (Generator, BatteryInverter)):
            # A split output may be stated leg to neutral or across both legs.
            low, high = {"120": (100, 130), "230": (200, 250), "120/240": (100, 250)}[supply.output]
            if not low <= supply.voltage_v <= high or (
                supply.output == "120/240" and 130 < supply.voltage_v < 200
            ):
                yield (
                    f"{path}.voltage_v",
                    f"must fit output {supply.output} (got {supply.voltage_v:g}); change "
                    "one of them",
                )
        if isinstance(supply, Shore) and supply.legs != "single" and supply.voltage_v > 180:
            yield (
                f"{path}.legs",
                f"must be single at {supply.voltage_v:g} V, give volts from leg to "
                f'neutral (got "{supply.legs}")',
            )


@rule("one-voltage")
def _one_voltage(setup: Setup) -> Found:
    supply = setup.supply
    if isinstance(supply, Parallel) and len({(u.output, u.voltage_v) for u in supply.units}) > 1:
        yield "supply.units", "must all have the same output and volts (got different ones)"
    if isinstance(supply, Assist) and service_volts(supply.input) != service_volts(supply.inverter):
        yield (
            "supply.inverter.voltage_v",
            f"must match its input's {service_volts(supply.input):g} V (got "
            f"{supply.inverter.voltage_v:g})",
        )


@rule("rig-voltage")
def _rig_voltage(setup: Setup) -> Found:
    fed, wants = fed_volts(setup), 230.0 if setup.rig.service == "230" else 120.0
    if fed != wants:
        yield (
            "rig.service",
            f"must be fed {wants:g} V a leg but the path brings {fed:g} V (got "
            f'"{setup.rig.service}"); put a transformer in the path',
        )


@rule("readings")
def _readings(setup: Setup) -> Found:
    for path, supply in each_supply(setup.supply):
        if isinstance(supply, Shore) and supply.readings:
            here = f"{path}.readings"
            if len(supply.readings) != 2:
                yield here, f"must be two readings (got {len(supply.readings)})"
                continue
            (v0, a0), (v1, a1) = sorted(supply.readings, key=lambda row: row[1])
            if a1 - a0 < 0.5:
                yield (
                    here,
                    f"must differ by at least 0.5 A to give an impedance (got {a0:g} A "
                    f"and {a1:g} A)",
                )
            elif v1 >= v0:
                yield (
                    here,
                    f"must sag as amps rise (got {v0:g} V at {a0:g} A and {v1:g} V at {a1:g} A)",
                )
            elif (v0 - v1) / (a1 - a0) > 5:
                yield (
                    here,
                    f"give more than 5 ohm, read them again (got {(v0 - v1) / (a1 - a0):.3g} ohm)",
                )


@rule("ids")
def _ids(setup: Setup) -> Found:
    for path, items in (("rig.loads", setup.rig.loads), ("rig.circuits", setup.rig.circuits)):
        seen = set()
        for at, item in enumerate(items):
            if item.id in seen:
                yield f"{path}[{at}].id", f'must be unique (got "{item.id}" again)'
            seen.add(item.id)


@rule("no-such-load")
def _wanted(setup: Setup) -> Found:
    loads = {load.id: load for load in setup.rig.loads}
    seen = set()
    for at, wanted in enumerate(setup.wanted):
        if wanted.load not in loads:
            yield (
                f"wanted[{at}].load",
                f'must be the id of one of the rig\'s loads (got "{wanted.load}")',
            )
        elif wanted.mode and not isinstance(loads[wanted.load], AirConditioner):
            yield (
                f"wanted[{at}].mode",
                f'must be left out, only an air conditioner has modes (got "{wanted.mode}")',
            )
        if wanted.load in seen:
            yield (
                f"wanted[{at}].load",
                f'must be listed once, use count for more (got "{wanted.load}" again)',
            )
        seen.add(wanted.load)


@rule("goes-with")
def _goes_with(setup: Setup) -> Found:
    known = {load.id for load in setup.rig.loads}
    for at, load in enumerate(setup.rig.loads):
        if load.goes_with is not None and (
            load.goes_with not in known or load.goes_with == load.id
        ):
            yield (
                f"rig.loads[{at}].goes_with",
                f'must be the id of another of the rig\'s loads (got "{load.goes_with}")',
            )


@rule("nothing-wanted")
def _something(setup: Setup) -> Found:
    if not setup.wanted and not any(load.always_on for load in setup.rig.loads):
        yield "wanted", "must name at least one load (got none)"


@rule("too-much")
def _work(setup: Setup) -> Found:
    """What a check computes is bounded, so that no file takes longer than some half a minute."""
    work = work_of(setup)
    if work > MOST_WORK:
        yield (
            "rules.trials",
            "must be lower, or fewer motors and loads wanted at once: it is "
            f"{work / MOST_WORK:.1f} times what a check may compute (got {setup.rules.trials})",
        )


@rule("no-such-circuit")
def _circuits(setup: Setup) -> Found:
    known = {circuit.id for circuit in setup.rig.circuits}
    for at, load in enumerate(setup.rig.loads):
        if load.circuit is not None and load.circuit not in known:
            yield (
                f"rig.loads[{at}].circuit",
                f'must be the id of one of the rig\'s circuits (got "{load.circuit}")',
            )


@rule("no-such-leg")
def _legs(setup: Setup) -> Found:
    if setup.rig.service == "120/240":
        return
    for at, circuit in enumerate(setup.rig.circuits):
        if circuit.leg != "L1":
            yield (
                f"rig.circuits[{at}].leg",
                f'must be L1, a {setup.rig.service} rig has one leg (got "{circuit.leg}")',
            )
    for at, load in enumerate(setup.rig.loads):
        if load.leg == "L2" or (load.leg == "L1L2" and load.voltage_v < 180):
            yield (
                f"rig.loads[{at}].leg",
                f'must be L1, a {setup.rig.service} rig has one leg (got "{load.leg}")',
            )


@rule("load-voltage")
def _load_voltage(setup: Setup) -> Found:
    for at, load in enumerate(setup.rig.loads):
        if setup.rig.service == "230" and load.voltage_v < 180:
            yield (
                f"rig.loads[{at}].voltage_v",
                f"must be about 230 V on a 230 rig (got {load.voltage_v:g})",
            )
        if 140 < load.voltage_v < 195:
            yield (
                f"rig.loads[{at}].voltage_v",
                f"must be near 120, 230 or 240 V (got {load.voltage_v:g})",
            )
        leg = load.leg
        if load.circuit is not None:
            leg = next((c.leg for c in setup.rig.circuits if c.id == load.circuit), leg)
        if leg == "L1L2" and load.voltage_v < 180:
            yield (
                f"rig.loads[{at}].leg",
                f'must be L1 or L2 for a {load.voltage_v:g} V load (got "L1L2")',
            )
        if setup.rig.service == "120/240" and leg in ("L1", "L2") and load.voltage_v > 180:
            yield (
                f"rig.loads[{at}].leg",
                f'must be L1L2 for a {load.voltage_v:g} V load (got "{leg}")',
            )


@rule("draw")
def _draw(setup: Setup) -> Found:
    for at, load in enumerate(setup.rig.loads):
        path = f"rig.loads[{at}]"
        if isinstance(load, Drawing):
            if load.watts is None and load.amps is None:
                yield f"{path}.watts", "must be given, or amps (got neither)"
            elif load.watts is not None and load.amps is not None:
                pf = load.power_factor if isinstance(load, Electronic) else 1.0
                expected = load.amps * load.voltage_v * pf
                if not 0.5 <= load.watts / expected <= 1.5:
                    yield (
                        f"{path}.watts",
                        f"must fit amps x volts = {expected:.4g} W, leave one out (got "
                        f"{load.watts:g})",
                    )


@rule("plate")
def _plate(setup: Setup) -> Found:
    for at, load in enumerate(setup.rig.loads):
        path = f"rig.loads[{at}]"
        if not isinstance(load, Rotating):
            continue
        running = load.running_a or (load.running_w / load.voltage_v if load.running_w else None)
        total = getattr(load, "high_cool_a", None) or getattr(load, "low_cool_a", None)
        if running is None and total is None:
            yield (
                f"{path}.running_a",
                "must be given, or running_w, or the measured amps of a cooling mode (got none)",
            )
            continue
        reference = float(running or total or 0.0)
        # A motor that draws under 1.5 times its running current at standstill is a misread plate.
        if (
            load.lra_a is not None
            and load.start not in ("inverter-drive", "universal")
            and load.lra_a < 1.5 * reference
        ):
            yield (
                f"{path}.lra_a",
                f"must be well above running amps {reference:.4g}, read the plate again "
                f"(got {load.lra_a:g})",
            )
        if load.lra_a is not None and load.lra_a > 40 * reference:
            yield (
                f"{path}.lra_a",
                f"must be under 40 times running amps {reference:.4g} (got {load.lra_a:g})",
            )
        if (load.code_letter is None) != (load.hp is None) and load.lra_a is None:
            missing = "hp" if load.hp is None else "code_letter"
            yield (
                f"{path}.{missing}",
                "must be given too: locked-rotor amps follow from code letter and hp "
                "together (got nothing)",
            )
        if (
            load.start == "soft-start"
            and load.soft_start
            and load.soft_start.peak_a
            and load.soft_start.fraction
        ):
            yield (
                f"{path}.soft_start.fraction",
                f"must be left out when peak_a is given (got {load.soft_start.fraction:g})",
            )
        if (
            load.soft_start
            and load.soft_start.peak_a
            and load.lra_a
            and load.soft_start.peak_a > load.lra_a
        ):
            yield (
                f"{path}.soft_start.peak_a",
                f"must be at most lra_a {load.lra_a:g} (got {load.soft_start.peak_a:g})",
            )


@rule("modes")
def _modes(setup: Setup) -> Found:
    for at, load in enumerate(setup.rig.loads):
        if not isinstance(load, AirConditioner):
            continue
        for fan, cool in (("fan_low_a", "low_cool_a"), ("fan_high_a", "high_cool_a")):
            blown, cooled = getattr(load, fan), getattr(load, cool)
            if blown is not None and cooled is not None and cooled <= blown:
                yield (
                    f"rig.loads[{at}].{cool}",
                    f"must be above {fan} {blown:g}, it is the total (got {cooled:g})",
                )


@rule("cord")
def _cord(setup: Setup) -> Found:
    for at, item in enumerate(setup.hookup):
        if not isinstance(item, Cord):
            continue
        if (item.awg is None) == (item.mm2 is None):
            yield f"hookup[{at}].awg", "must be given, or mm2, one of them (got both or neither)"
        elif item.awg is not None and item.awg not in AWG_SIZES:
            yield (
                f"hookup[{at}].awg",
                f"must be one of {', '.join(map(str, AWG_SIZES))} (got {item.awg})",
            )


@rule("adapter-feeds")
def _adapter(setup: Setup) -> Found:
    for at, item in enumerate(setup.hookup):
        if (
            isinstance(item, Adapter)
            and item.feeds == "both-legs"
            and setup.rig.service != "120/240"
        ):
            yield (
                f"hookup[{at}].feeds",
                f'must be L1, a {setup.rig.service} rig has one leg (got "both-legs")',
            )


@rule("guard")
def _guard(setup: Setup) -> Found:
    for at, item in enumerate(setup.hookup):
        if isinstance(item, Guard) and item.low_v >= item.high_v:
            yield (
                f"hookup[{at}].low_v",
                f"must be below high_v {item.high_v:g} (got {item.low_v:g})",
            )


@rule("transformer")
def _transformer(setup: Setup) -> Found:
    found = [(at, item) for at, item in enumerate(setup.hookup) if isinstance(item, Transformer)]
    for at, item in found:
        if item.no_load_va and item.no_load_w > item.no_load_va:
            yield (
                f"hookup[{at}].no_load_w",
                f"must be at most no_load_va {item.no_load_va:g} (got {item.no_load_w:g})",
            )
        if abs(item.from_v - service_volts(setup.supply)) > 0.15 * item.from_v:
            yield (
                f"hookup[{at}].from_v",
                f"must match the supply's {service_volts(setup.supply):g} V (got {item.from_v:g})",
            )
        if not 1.5 <= item.to_v / item.from_v <= 2.5:
            yield f"hookup[{at}].to_v", f"must step 120 V up to 230 or 240 V (got {item.to_v:g})"
    for at, _ in found[1:]:
        yield f"hookup[{at}]", "must be the only transformer of the path (got another)"
