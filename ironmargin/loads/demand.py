"""From a load of the setup to what the network sees: its steady draw, and the start it makes."""

from __future__ import annotations

import math
from dataclasses import field, replace
from typing import Any

from ironmargin.loads import motor as m
from ironmargin.record import record
from ironmargin.setup.hookup import InlineSoftStart, Transformer
from ironmargin.setup.loads import (
    AirConditioner,
    Charger,
    Electronic,
    Incandescent,
    Load,
    Microwave,
    Motor,
    Resistive,
    Rotating,
)
from ironmargin.setup.model import Setup
from ironmargin.tables import code_letter_kva_per_hp

L1, L2, L1L2 = 0, 1, 2
FAN_POWER_FACTOR = 0.9
FAN_SHARE = 0.18
"""A rooftop unit's fan over its compressor's running amps where not measured (common practice)."""
DROPOUT = 0.45
"""Share of nominal volts at which electronics let go; wide-input supplies are rated from 90 V
(memory).
"""
PULLS_OUT = 0.55
"""Share at which a running motor falls out: 0.5 to 0.6 in utility tests of residential compressors
(memory).
"""
RELAY_DROPOUT = 0.55
"""Share at which a relay or contactor lets go (memory: 0.5 to 0.6)."""
HYSTERESIS = 0.05
"""Electronics come back by themselves so far above where they let go (memory: a tenth of the
lockout).
"""
RELAY_RETURNS = 0.75
"""A relay pulls in again at about three quarters of its volts (memory)."""
CORRECTED = 0.9
"""Electronics of a lower power factor have no correction: their peak current is √2/pf times their
amps (memory).
"""
ROUND_UP_A = 15.0
ROUND_UP_FROM_W = 600.0
CYCLE_S = 1200.0
"""A thermostat cycle where none is given (common practice: three an hour)."""
DEFAULT_DUTY = {"microwave": 0.15}
HEAT_REFERENCE_C = 35.0
HEAT_PER_C = 0.01 * 1.8
"""Running current rises about 1 % per °F above 95 °F (memory)."""
SMALLEST_VA = 1e-6
TRANSFORMER = "hookup.transformer"
"""Id of a path transformer seen as a load."""
TRANSFORMER_INRUSH = {"isolation": 10.0, "auto": 5.0}
"""Energising current over rated, for a few cycles (memory: up to 10; an autotransformer has the
smaller core).
"""
TRANSFORMER_INRUSH_TAU_S = 0.05


@record
class Draw:
    """A running load at rated volts.

    Attributes:
        leg: 0 on L1, 1 on L2, 2 across both.
        bus_v: volts at the panel at which it draws ``va`` [V].
        va: complex apparent power, positive imaginary part lagging [VA].
        constant_power: keeps its power as volts fall (else its impedance).
        dropout: fraction of ``bus_v`` below which it lets go; 0 never; returns: above which it
        comes back by itself.
    """

    leg: int
    bus_v: float
    va: complex
    constant_power: bool
    dropout: float = 0.0

    @property
    def returns(self) -> float:
        """Fraction of ``bus_v`` above which it comes back by itself [1]."""
        return RELAY_RETURNS if self.dropout >= RELAY_DROPOUT else self.dropout + HYSTERESIS

    @property
    def amps(self) -> float:
        """Current at rated volts [A]."""
        return abs(self.va) / self.bus_v


@record
class Inrush:
    """A start that is only an extra admittance dying away: filament, universal motor,
    transformer.
    """

    leg: int
    bus_v: float
    va: complex
    times: float
    tau_s: float


@record
class Demand:
    """One wanted load (all of its count), in its mode.

    Attributes:
        steady: draws when settled, hot-day included, of all units of its count.
        single_beside: draws of ONE unit running beside its starting motor (its fan).
        one: draws of one settled unit.
        plate: plate of the motor that starts, or None.
        ratio: turns ratio between panel and load, 1 unless a transformer feeds it.
        series_ohm: impedance of that transformer at the load's side [ohm].
        assumed: (field, value, provenance) of inputs that were not given.
        cycles_per_h, duty: how often and how long it runs.
    """

    load: Load
    mode: str | None
    leg: int
    steady: tuple[Draw, ...]
    one: tuple[Draw, ...]
    single_beside: tuple[Draw, ...] = ()
    plate: m.MotorPlate | None = None
    inrush: Inrush | None = None
    ratio: float = 1.0
    series_ohm: complex = 0.0
    duty: float = 1.0
    cycles_per_h: float = 0.0
    assumed: tuple[tuple[str, float, str], ...] = field(default=())

    @property
    def crest_a(self) -> float:
        """Amps that the peaks of its current add, for electronics without correction, all of its
        count [A].

        ``I·(1/pf − 1)``: a source that can give a peak of √2·I_lim is fuller by that much (memory).
        """
        pf = getattr(self.load, "power_factor", 1.0)
        return sum(d.amps for d in self.steady) * (1.0 / pf - 1.0) if pf < CORRECTED else 0.0

    @property
    def starts(self) -> bool:
        """Whether it makes a start worth watching."""
        return self.plate is not None or self.inrush is not None


def heat_factor(outdoor_c: float, measured: bool) -> float:
    """Running current on a day of ``outdoor_c`` over its rated value at 95 °F (memory).

    A measured figure gets no credit for a cool day: nobody wrote down what day it was measured on.
    """
    factor = 1.0 + HEAT_PER_C * (outdoor_c - HEAT_REFERENCE_C)
    return max(factor, 1.0) if measured else max(factor, 0.7)


def leg_of(setup: Setup, load: Load) -> int:
    """Leg a load hangs on: its circuit's, its own, else L1, or both at 240 V on a split rig."""
    leg = load.leg
    for circuit in setup.rig.circuits:
        if circuit.id == load.circuit:
            leg = circuit.leg
    if leg is None:
        leg = "L1L2" if load.voltage_v > 180 and setup.rig.service == "120/240" else "L1"
    return {"L1": L1, "L2": L2, "L1L2": L1L2}[leg]


def duty_of(load: Load) -> float:
    """Fraction of the time a load runs [1]."""
    if load.duty is not None:
        return load.duty
    if load.on_s is not None:
        return load.on_s / (load.on_s + (load.off_s or 0.0))
    return DEFAULT_DUTY.get(load.kind, 1.0)


def cycles_per_hour(load: Load) -> float:
    """Starts an hour of a load that cycles [1/h]; a cooling unit without figures has three (common
    practice).
    """
    if load.on_s is not None and load.off_s:
        return 3600.0 / (load.on_s + load.off_s)
    if isinstance(load, AirConditioner) or (load.duty is not None and load.duty < 1.0):
        return 3600.0 / CYCLE_S
    return 0.0


def plate_amps(load: Rotating) -> float | None:
    """Running amps of the plate [A], from its watts where it gives only those; None if it gives
    neither.
    """
    if load.running_a is not None or load.running_w is None:
        return load.running_a
    return load.running_w / (load.voltage_v * m.RUNNING_POWER_FACTOR)


def locked_rotor_amps(load: Rotating, running_a: float) -> tuple[float, bool]:
    """LRA of a motor [A] and whether it is only typical.

    From the plate; else code letter and horsepower by NEC Table 430.7(B), middle of the band; else
    five times running amps (common practice), marked typical.
    """
    if load.lra_a is not None:
        return load.lra_a, load.provenance == "typical"
    if load.code_letter is not None and load.hp is not None:
        return max(
            code_letter_kva_per_hp(load.code_letter) * load.hp * 1000.0 / load.voltage_v,
            1.5 * running_a,
        ), False
    return m.LOCKED_OVER_RUNNING * running_a, True


def _lagging(va: float, power_factor: float) -> complex:
    return complex(va * power_factor, va * math.sqrt(max(1.0 - power_factor**2, 0.0)))


class _Reader:
    """Builds demands for one setup; collects what had to be assumed."""

    def __init__(
        self, setup: Setup, at: int, mode: str | None, ratio: float, series_ohm: complex
    ) -> None:
        self.setup, self.at, self.mode, self.ratio, self.series_ohm = (
            setup,
            at,
            mode,
            ratio,
            series_ohm,
        )
        self.load: Any = setup.rig.loads[at]
        self.leg = leg_of(setup, self.load)
        self.bus_v = self.load.voltage_v / ratio
        self.assumed: list[tuple[str, float, str]] = []
        if self.load.provenance in ("typical", "rounded-up") and not isinstance(
            self.load, Rotating
        ):
            given = getattr(self.load, "watts", None) or getattr(self.load, "amps", None)
            self.assumed.append(
                (
                    f"rig.loads[{at}].{'watts' if getattr(self.load, 'watts', None) else 'amps'}",
                    float(given or 0),
                    self.load.provenance,
                )
            )

    def assume(self, name: str, value: float) -> float:
        self.assumed.append((f"rig.loads[{self.at}].{name}", round(value, 3), "typical"))
        return value

    def draw(self, amps: float, power_factor: float, *, power: bool, dropout: float = 0.0) -> Draw:
        va = max(amps * self.load.voltage_v, SMALLEST_VA)
        rounded = (
            self.setup.rules.round_up and self.load.provenance != "measured" and self.bus_v < 180
        )
        if rounded and va >= ROUND_UP_FROM_W:
            va = max(va, ROUND_UP_A * self.bus_v)
        return Draw(self.leg, self.bus_v, _lagging(va, power_factor), power, dropout)

    def demand(self, one: tuple[Draw, ...], **more: Any) -> Demand:
        load = self.load
        steady = tuple(
            Draw(d.leg, d.bus_v, d.va * load.count, d.constant_power, d.dropout) for d in one
        )
        return Demand(
            load,
            self.mode,
            self.leg,
            steady,
            one,
            ratio=self.ratio,
            series_ohm=self.series_ohm,
            duty=duty_of(load),
            cycles_per_h=cycles_per_hour(load),
            assumed=tuple(self.assumed),
            **more,
        )

    # one method per kind

    def simple(self) -> Demand:
        load = self.load
        pf = load.power_factor if isinstance(load, Electronic | Charger) else 1.0
        amps = load.amps if load.amps is not None else load.watts / (load.voltage_v * pf)
        electronic = isinstance(load, Electronic | Charger)
        draw = self.draw(amps, pf, power=electronic, dropout=DROPOUT if electronic else 0.0)
        if isinstance(load, Incandescent):
            # Cold filament: about ten times for 50 to 100 ms (memory).
            return self.demand((draw,), inrush=Inrush(self.leg, self.bus_v, draw.va, 10.0, 0.04))
        return self.demand((draw,))

    def microwave(self) -> Demand:
        draw = self.draw(
            self.load.watts / (self.load.voltage_v * 0.97), 0.97, power=True, dropout=RELAY_DROPOUT
        )
        return self.demand((draw,))

    def plate(self, running_a: float, load_torque: float, wait_s: float) -> m.MotorPlate:
        load = self.load
        lra, typical = locked_rotor_amps(load, running_a)
        if load.lra_a is None and typical:
            self.assume("lra_a", lra)
        breakaway = load.breakaway if load.breakaway is not None else m.breakaway_after(wait_s)
        after = m.LOAD_AFTER_START if wait_s >= m.EQUALISING_S else 1.0
        plate = m.MotorPlate(
            load.voltage_v,
            lra,
            running_a,
            load.start,
            load_torque,
            breakaway,
            max(after, breakaway),
            typical,
        )
        if load.start != "soft-start":
            return self.behind_inline(plate)
        soft = load.soft_start
        if soft is not None and soft.peak_a is not None:
            learned = soft.peak_a / lra
        elif soft is not None and soft.fraction is not None:
            learned = soft.fraction
        else:
            learned = 0.0
        gear = (soft.gear if soft else None) or (
            "start-capacitor" if isinstance(load, AirConditioner) else "run-capacitor"
        )
        locked = m.locked_torque(load.voltage_v, lra, running_a)
        rested = load.breakaway if load.breakaway is not None else m.BREAKAWAY_EQUALISED
        if not learned:
            learned, gain = (
                self.assume("soft_start.fraction", m.learned_fraction(locked, gear, rested)),
                m.SOFT_TORQUE,
            )
        else:
            gain = m.soft_torque_of(learned, locked, gear, rested)
        fraction = m.soft_fraction_after(
            learned, soft.learned_starts if soft else m.STARTS_TO_LEARN
        )
        return replace(
            plate,
            gear=gear,
            soft_fraction=fraction,
            soft_torque=gain,
            ramp_s=soft.ramp_s if soft else 0.6,
        )

    def behind_inline(self, plate: m.MotorPlate) -> m.MotorPlate:
        """An inline soft starter at the pedestal holds every start to its fraction (common
        practice: about 0.5).
        """
        for item in self.setup.hookup:
            if isinstance(item, InlineSoftStart):
                return replace(
                    plate,
                    start="soft-start",
                    gear=plate.start,
                    soft_fraction=item.fraction,
                    soft_torque=m.SOFT_TORQUE,
                )
        return plate

    def motor(self) -> Demand:
        load = self.load
        running = plate_amps(load) or 0.0
        if load.start == "inverter-drive":
            return self.demand((self.draw(running, 0.95, power=True, dropout=DROPOUT),))
        if load.start == "universal":
            draw = self.draw(running, 0.95, power=False)
            return self.demand((draw,), inrush=Inrush(self.leg, self.bus_v, draw.va, 2.5, 0.15))
        draw = self.draw(running, m.RUNNING_POWER_FACTOR, power=True, dropout=PULLS_OUT)
        return self.demand((draw,), plate=self.plate(running, 1.0, load.wait_s))

    def air_conditioner(self) -> Demand:
        load = self.load
        self.mode = mode = self.mode or "high-cool"
        speed = "low" if mode.endswith("low") or mode == "low-cool" else "high"
        total = getattr(load, f"{speed}_cool_a") or load.high_cool_a or load.low_cool_a
        plate_a = plate_amps(load)
        fan = getattr(load, f"fan_{speed}_a") or load.fan_high_a or load.fan_low_a
        if fan is None:
            fan = self.assume(f"fan_{speed}_a", FAN_SHARE * float(plate_a or total or 0.0))
        fan_draw = self.draw(fan, FAN_POWER_FACTOR, power=False)
        if mode.startswith("fan"):
            return self.demand((fan_draw,))
        factor = heat_factor(self.setup.conditions.outdoor_c, total is not None)
        compressor = max(total - fan, 0.1) if total is not None else float(plate_a or 0.0)
        rla = plate_a or compressor
        if load.start == "inverter-drive":
            return self.demand(
                (fan_draw, self.draw(compressor * factor, 0.95, power=True, dropout=DROPOUT))
            )
        running = self.draw(
            compressor * factor, m.RUNNING_POWER_FACTOR, power=True, dropout=PULLS_OUT
        )
        return self.demand(
            (fan_draw, running),
            single_beside=(fan_draw,),
            plate=self.plate(rla, min(compressor * factor / rla, 1.6), load.wait_s),
        )


def transformer_demand(item: Transformer, panel_v: float) -> Demand:
    """A transformer of the path as a load of its own: its no-load draw, and the rush when it is
    energised.
    """
    reactive = math.sqrt(max(item.no_load_va**2 - item.no_load_w**2, 0.0))
    idle = Draw(L1, panel_v, complex(max(item.no_load_w, SMALLEST_VA), reactive), False)
    rush = Inrush(
        L1, panel_v, _lagging(item.va, 0.2), TRANSFORMER_INRUSH[item.type], TRANSFORMER_INRUSH_TAU_S
    )
    load = Resistive(
        id=TRANSFORMER, name=item.name or "Transformer", watts=max(item.no_load_w, SMALLEST_VA)
    )
    return Demand(load, None, L1, (idle,), (idle,), inrush=rush)


READERS = {
    Resistive.kind: _Reader.simple,
    Incandescent.kind: _Reader.simple,
    Electronic.kind: _Reader.simple,
    Charger.kind: _Reader.simple,
    Microwave.kind: _Reader.microwave,
    Motor.kind: _Reader.motor,
    AirConditioner.kind: _Reader.air_conditioner,
}
"""One row per kind of load."""


def demand_of(
    setup: Setup, at: int, mode: str | None, ratio: float = 1.0, series_ohm: complex = 0.0
) -> Demand:
    """What the network sees of load number ``at`` of the rig in ``mode``.

    Args:
        ratio: turns ratio of the transformer that feeds it; series_ohm: that transformer's
        impedance at the load's side [ohm].
    """
    reader = _Reader(setup, at, mode, ratio, series_ohm)
    return READERS[reader.load.kind](reader)
