"""The checks between the fields of supply, readings and wishes."""

from __future__ import annotations

from ironmargin.electrics.services import HIGH_V, nominal_of
from ironmargin.setup.engines import Generator, Parallel
from ironmargin.setup.inverters import Assist, BatteryInverter
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.post import Shore
from ironmargin.setup.ruling import Found, each_supply, fed_volts, rule
from ironmargin.setup.work import MAX_WORK, work_of

RATED_V = {
    "120": ((100.0, 130.0),), "230": ((200.0, 250.0),), "120/240": ((100.0, 130.0), (200.0, 250.0)),
}  # fmt: skip
"""What an output may be rated at [V]; a split one is stated leg to neutral or across both legs."""
MIN_APART_A = 0.5
"""Two readings of a post nearer each other than this tell no impedance [A]."""
MAX_POST_OHM = 5.0
"""No service has more: 30 A would be 150 V less [ohm]."""


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
        if isinstance(supply, (Generator, BatteryInverter)) and not any(
            low <= supply.voltage_v <= high for low, high in RATED_V[supply.output]
        ):
            yield (
                f"{path}.voltage_v",
                f"must fit output {supply.output} (got {supply.voltage_v:g}); change one of them",
            )
        if isinstance(supply, Shore) and supply.legs != "single" and supply.voltage_v > HIGH_V:
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
    if isinstance(supply, Assist) and supply.input.service_v != supply.inverter.service_v:
        yield (
            "supply.inverter.voltage_v",
            f"must match its input's {supply.input.service_v:g} V (got "
            f"{supply.inverter.voltage_v:g})",
        )


@rule("rig-voltage")
def _rig_voltage(setup: Setup) -> Found:
    fed, wants = fed_volts(setup), nominal_of(setup.rig.service)
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
            if a1 - a0 < MIN_APART_A:
                yield (
                    here,
                    f"must differ by at least {MIN_APART_A:g} A to give an impedance (got {a0:g} A "
                    f"and {a1:g} A)",
                )
            elif v1 >= v0:
                yield (
                    here,
                    f"must sag as amps rise (got {v0:g} V at {a0:g} A and {v1:g} V at {a1:g} A)",
                )
            elif (v0 - v1) / (a1 - a0) > MAX_POST_OHM:
                yield (
                    here,
                    f"give more than {MAX_POST_OHM:g} ohm, read them again "
                    f"(got {(v0 - v1) / (a1 - a0):.3g} ohm)",
                )


@rule("ids")
def _ids(setup: Setup) -> Found:
    named = {"rig.loads": [x.id for x in setup.rig.loads]}
    named["rig.circuits"] = [x.id for x in setup.rig.circuits]
    for path, idents in named.items():
        for at, ident in enumerate(idents):
            if ident in idents[:at]:
                yield f"{path}[{at}].id", f'must be unique (got "{ident}" again)'


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
    if work > MAX_WORK:
        yield (
            "rules.trials",
            "must be lower, or fewer motors and loads wanted at once: it is "
            f"{work / MAX_WORK:.1f} times what a check may compute (got {setup.rules.trials})",
        )
