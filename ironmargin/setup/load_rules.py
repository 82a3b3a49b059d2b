"""The checks between the fields of loads and circuits: legs, volts, plates, modes."""

from __future__ import annotations

from ironmargin.electrics import motor as m
from ironmargin.electrics.services import HIGH_V
from ironmargin.setup.loads import (
    AirConditioner,
    Charger,
    Drawing,
    Electronic,
    Rotating,
    usual_gear,
)
from ironmargin.setup.model import Setup
from ironmargin.setup.ruling import Found, rule

MIN_LOCKED_OVER_RUNNING = 2.0
"""Locked-rotor over running amps of any plate that was read right (common practice: 4 to 6)."""
RESERVED = ("post", "supply", "main", "set-outlet", "charger", "set", "guard", "contact")
WATTS_FIT = 0.5, 1.5
"""Watts over amps times volts, where both are given: further off one of them is a slip [1]."""
NO_SERVICE_V = 140.0, 195.0
"""Between these no load is rated for any service there is [V]."""
MAX_LOCKED_OVER_RUNNING = 40.0
"""More is a slip of the pen: small shaded motors have 1.5, the hardest compressors some 10 (common
practice, no source)."""


@rule("no-such-circuit")
def _circuits(setup: Setup) -> Found:
    known = {circuit.id for circuit in setup.rig.circuits}
    for at, load in enumerate(setup.rig.loads):
        if load.circuit is not None and load.circuit not in known:
            yield (
                f"rig.loads[{at}].circuit",
                f'must be the id of one of the rig\'s circuits (got "{load.circuit}")',
            )


@rule("no-such-lockout")
def _lockouts(setup: Setup) -> Found:
    known = {load.id for load in setup.rig.loads}
    for at, lockout in enumerate(setup.rig.lockouts):
        for key in ("first", "second"):
            ident = getattr(lockout, key)
            if ident not in known:
                yield (
                    f"rig.lockouts[{at}].{key}",
                    f'must be the id of one of the rig\'s loads (got "{ident}")',
                )
        if lockout.first == lockout.second:
            yield (
                f"rig.lockouts[{at}].second",
                f'must be another load than the first (got "{lockout.second}")',
            )


@rule("no-such-charger")
def _converter(setup: Setup) -> Found:
    side = setup.rig.dc
    chargers = {load.id for load in setup.rig.loads if isinstance(load, Charger)}
    if side is not None and side.charger is not None and side.charger not in chargers:
        yield (
            "rig.dc.charger",
            f'must be the id of one of the rig\'s chargers (got "{side.charger}")',
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
        if load.leg == "L2" or (load.leg == "L1L2" and load.voltage_v < HIGH_V):
            yield (
                f"rig.loads[{at}].leg",
                f'must be L1, a {setup.rig.service} rig has one leg (got "{load.leg}")',
            )


@rule("load-voltage")
def _load_voltage(setup: Setup) -> Found:
    for at, load in enumerate(setup.rig.loads):
        if setup.rig.service == "230" and load.voltage_v < HIGH_V:
            yield (
                f"rig.loads[{at}].voltage_v",
                f"must be about 230 V on a 230 rig (got {load.voltage_v:g})",
            )
        if NO_SERVICE_V[0] < load.voltage_v < NO_SERVICE_V[1]:
            yield (
                f"rig.loads[{at}].voltage_v",
                f"must be near 120, 230 or 240 V (got {load.voltage_v:g})",
            )
        leg = load.leg
        if load.circuit is not None:
            leg = next((c.leg for c in setup.rig.circuits if c.id == load.circuit), leg)
        if leg == "L1L2" and load.voltage_v < HIGH_V:
            yield (
                f"rig.loads[{at}].leg",
                f'must be L1 or L2 for a {load.voltage_v:g} V load (got "L1L2")',
            )
        if setup.rig.service == "120/240" and leg in ("L1", "L2") and load.voltage_v > HIGH_V:
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
                if not WATTS_FIT[0] <= load.watts / expected <= WATTS_FIT[1]:
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
        # A motor that draws under twice its running amps at standstill is a misread plate.
        if (
            load.lra_a is not None
            and load.start_gear not in ("inverter-drive", "universal")
            and load.lra_a < MIN_LOCKED_OVER_RUNNING * reference
        ):
            yield (
                f"{path}.lra_a",
                f"must be at least twice the running amps {reference:.4g}, read the plate again "
                f"(got {load.lra_a:g})",
            )
        if load.lra_a is not None and load.lra_a > MAX_LOCKED_OVER_RUNNING * reference:
            yield (
                f"{path}.lra_a",
                f"must be under {MAX_LOCKED_OVER_RUNNING:g} times running amps {reference:.4g} "
                f"(got {load.lra_a:g})",
            )
        if (load.code_letter is None) != (load.hp is None) and load.lra_a is None:
            missing = "hp" if load.hp is None else "code_letter"
            yield (
                f"{path}.{missing}",
                "must be given too: locked-rotor amps follow from code letter and hp "
                "together (got nothing)",
            )
        if (
            load.start_gear == "soft-start"
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


@rule("soft-start-turns")
def _soft_start(setup: Setup) -> Found:
    """A soft starter whose peak cannot turn its rotor never learned it: a clamp on the wrong wire,
    or another motor's locked-rotor amps.
    """
    for at, load in enumerate(setup.rig.loads):
        if not isinstance(load, Rotating) or load.start_gear != "soft-start":
            continue
        soft, running = load.soft_start, load.running_a
        if soft is None or load.lra_a is None or running is None:
            continue
        if load.lra_a < MIN_LOCKED_OVER_RUNNING * running:
            continue  # told by its own rule
        usual = usual_gear(load.voltage_v) if isinstance(load, AirConditioner) else "run-capacitor"
        gear = soft.gear or usual
        locked = m.locked_torque(load.voltage_v, load.lra_a, running)
        rested = min(load.breakaway or m.BREAKAWAY_EQUALISED, m.BREAKAWAY_EQUALISED)
        minimum = m.min_soft_fraction(locked, gear, rested)
        min_a = minimum * load.lra_a
        path = f"rig.loads[{at}].soft_start"
        if soft.peak_a is not None and soft.peak_a < min_a:
            yield (
                f"{path}.peak_a",
                f"must be at least {min_a:.3g} A to turn a rotor of {load.lra_a:g} locked-rotor "
                f"amps, measure it again (got {soft.peak_a:g})",
            )
        elif soft.fraction is not None and soft.fraction < minimum:
            yield (
                f"{path}.fraction",
                f"must be at least {minimum:.2g} to turn a rotor of {load.lra_a:g} locked-rotor "
                f"amps, measure it again (got {soft.fraction:g})",
            )


@rule("voltage-range")
def _voltage_range(setup: Setup) -> Found:
    for at, load in enumerate(setup.rig.loads):
        path = f"rig.loads[{at}]"
        if load.voltage_min_v is not None and load.voltage_min_v > load.voltage_v:
            yield (
                f"{path}.voltage_min_v",
                f"must be at most the rated {load.voltage_v:g} V (got {load.voltage_min_v:g})",
            )
        if load.voltage_max_v is not None and load.voltage_max_v < load.voltage_v:
            yield (
                f"{path}.voltage_max_v",
                f"must be at least the rated {load.voltage_v:g} V (got {load.voltage_max_v:g})",
            )


@rule("circuit-names")
def _circuit_names(setup: Setup) -> Found:
    """The bench calls breakers by name: a branch cannot be called like the post or the main."""
    for at, circuit in enumerate(setup.rig.circuits):
        if circuit.id in RESERVED:
            yield (
                f"rig.circuits[{at}].id",
                f"must not be {', '.join(RESERVED[:-1])} or {RESERVED[-1]}, these are other "
                f'breakers (got "{circuit.id}")',
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
        # Low cool may be less than the rating, and so may what was measured on a cool day or what
        # an inverter drives; on a plate everything on high cool is not less than the compressor.
        if load.provenance == "measured" or load.start_gear == "inverter-drive":
            continue
        running, high = load.running_a, load.high_cool_a
        blows = load.fan_high_a or 0.0
        if running is not None and high is not None and blows < high < running:
            yield (
                f"rig.loads[{at}].high_cool_a",
                f"must be at least the compressor's running amps {running:g}, it is the total "
                f"(got {high:g})",
            )
