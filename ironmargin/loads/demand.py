"""From a load of the setup to what the network sees: its steady draw, and the start it makes."""

from __future__ import annotations

import math
from dataclasses import field

from ironmargin.electrics import motor as m
from ironmargin.electrics.services import HIGH_V
from ironmargin.record import record
from ironmargin.setup.hookup import Transformer
from ironmargin.setup.loads import Load, Resistive, Rotating
from ironmargin.setup.model import Setup
from ironmargin.tables import code_letter_kva_per_hp

L1, L2, L1L2 = 0, 1, 2
FAN_POWER_FACTOR = 0.9
FAN_SHARE = 0.18
"""A rooftop unit's fan over its compressor's running amps where not measured (common practice)."""
DROPOUT = 0.45
"""Share of nominal volts at which electronics drop out; wide-input supplies are rated from 90 V
(memory).
"""
PULLS_OUT = 0.55
"""Share at which a running motor falls out: 0.5 to 0.6 in utility tests of residential compressors
(memory).
"""
RELAY_DROPOUT = 0.55
"""Share at which a relay or contactor drops out (memory: 0.5 to 0.6)."""
HYSTERESIS = 0.05
"""Electronics come back by themselves so far above where they drop out (memory: a tenth of the
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
MAGNETIZING_POWER_FACTOR = 0.2
"""Of a transformer's inrush (from memory)."""
MIN_LOCKED = 1.5
"""Locked-rotor over running amps below which a plate or a code letter was misread [1]."""
MIN_HEAT_FACTOR = 0.7
"""A compressor's amps fall no further however cool the day is (common practice, no source)."""


@record
class Draw:
    """A running load at rated volts.

    Attributes:
        leg: 0 on L1, 1 on L2, 2 across both.
        bus_v: volts at the panel at which it draws ``va`` [V].
        va: complex apparent power, positive imaginary part lagging [VA].
        constant_power: keeps its power as volts fall (else its impedance).
        dropout: fraction of ``bus_v`` below which it drops out; 0 never.
        pickup: above which it comes back by itself.
    """

    leg: int
    bus_v: float
    va: complex
    constant_power: bool
    dropout: float = 0.0

    @property
    def pickup(self) -> float:
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
        single_concurrent: draws of ONE unit running beside its starting motor (its fan).
        one: draws of one settled unit.
        plate: plate of the motor that starts, or None.
        ratio: turns ratio between panel and load, 1 unless a transformer feeds it.
        series_ohm: impedance of that transformer at the load's side [ohm].
        assumed: (field, value, provenance) of inputs that were not given.
        cycles_per_h, duty: how often it starts [1/h], and the share of the time it runs that limits
            count with: a unit under a thermostat may run for three hours without a break [1].
        hours_duty: the share of the time it runs over the hours asked, by its thermostat [1].
        off_s: how long it rests between two starts [s], 0 where it does not cycle.
    """

    load: Load
    mode: str | None
    leg: int
    steady: tuple[Draw, ...]
    one: tuple[Draw, ...]
    single_concurrent: tuple[Draw, ...] = ()
    plate: m.MotorPlate | None = None
    inrush: Inrush | None = None
    ratio: float = 1.0
    series_ohm: complex = 0.0
    duty: float = 1.0
    cycles_per_h: float = 0.0
    hours_duty: float = 1.0
    off_s: float = 0.0
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

    Args:
        outdoor_c: air outdoors [°C].
        measured: whether the amps were read, not printed.

    Returns:
        The factor [1].
    """
    factor = 1.0 + HEAT_PER_C * (outdoor_c - HEAT_REFERENCE_C)
    return max(factor, 1.0) if measured else max(factor, MIN_HEAT_FACTOR)


def leg_of(setup: Setup, load: Load) -> int:
    """Leg a load hangs on: its circuit's, its own, else L1, or both at 240 V on a split rig.

    Args:
        setup: supply, path, rig and rules of the question.
        load: a load of the rig.

    Returns:
        L1, L2 or both.
    """
    leg = load.leg
    for circuit in setup.rig.circuits:
        if circuit.id == load.circuit:
            leg = circuit.leg
    if leg is None:
        leg = "L1L2" if load.voltage_v > HIGH_V and setup.rig.service == "120/240" else "L1"
    return {"L1": L1, "L2": L2, "L1L2": L1L2}[leg]


def duty_of(load: Load) -> float:
    """Fraction of the time a load runs [1].

    Args:
        load: of the rig.

    Returns:
        Its own figure, or a usual one of its kind [1].
    """
    if load.duty is not None:
        return load.duty
    if load.on_s is not None:
        return load.on_s / (load.on_s + (load.off_s or 0.0))
    return DEFAULT_DUTY.get(load.kind, 1.0)


def rest_s(load: Load) -> float:
    """How long a load that cycles rests between two starts [s]; 0 for one that does not.

    Args:
        load: of the rig.

    Returns:
        Seconds [s].
    """
    if load.on_s is not None:
        return load.off_s or 0.0
    return (1.0 - load.duty) * CYCLE_S if load.duty is not None else 0.0


def cycles_per_hour(load: Load) -> float:
    """Starts an hour of a load that cycles by figures of its own [1/h]; what a thermostat does is
    added by :mod:`ironmargin.case`.

    Args:
        load: of the rig.

    Returns:
        Starts an hour [1/h]; 0 for one that does not cycle.
    """
    if load.on_s is not None and load.off_s:
        return 3600.0 / (load.on_s + load.off_s)
    if load.duty is not None and load.duty < 1.0:
        return 3600.0 / CYCLE_S
    return 0.0


def plate_amps(load: Rotating) -> float | None:
    """Running amps of the plate [A], from its watts where it gives only those; None if it gives
    neither.

    Args:
        load: a load with a motor.

    Returns:
        Amps [A], or None.
    """
    if load.running_a is not None or load.running_w is None:
        return load.running_a
    return load.running_w / (load.voltage_v * m.RUNNING_POWER_FACTOR)


def locked_rotor_amps(load: Rotating, running_a: float) -> tuple[float, bool]:
    """LRA of a motor [A] and whether it is only typical.

    From the plate; else code letter and horsepower by NEC Table 430.7(B), middle of the band; else
    five times running amps (common practice), marked typical.

    Args:
        load: a load with a motor.
        running_a: running amps [A].

    Returns:
        Amps [A], and whether they are typical.
    """
    if load.lra_a is not None:
        return load.lra_a, load.provenance == "typical"
    if load.code_letter is not None and load.hp is not None:
        return max(
            code_letter_kva_per_hp(load.code_letter) * load.hp * 1000.0 / load.voltage_v,
            MIN_LOCKED * running_a,
        ), False
    return m.LOCKED_OVER_RUNNING * running_a, True


def lagging(va: float, power_factor: float) -> complex:
    """Watts and lagging volt-amperes reactive.

    Args:
        va: volt-amperes [VA].
        power_factor: of them [1].

    Returns:
        Complex power [VA].
    """
    return complex(va * power_factor, va * math.sqrt(max(1.0 - power_factor**2, 0.0)))


def transformer_demand(item: Transformer, panel_v: float) -> Demand:
    """A transformer of the path as a load of its own: its no-load draw, and the rush when it is
    energised.

    Args:
        item: the transformer.
        panel_v: volts of the panel [V].

    Returns:
        Its draw.
    """
    reactive = math.sqrt(max(item.no_load_va**2 - item.no_load_w**2, 0.0))
    idle = Draw(L1, panel_v, complex(max(item.no_load_w, SMALLEST_VA), reactive), False)
    rush = Inrush(
        L1,
        panel_v,
        lagging(item.va, MAGNETIZING_POWER_FACTOR),
        TRANSFORMER_INRUSH[item.type],
        TRANSFORMER_INRUSH_TAU_S,
    )
    load = Resistive(
        id=TRANSFORMER, name=item.name or "Transformer", watts=max(item.no_load_w, SMALLEST_VA)
    )
    return Demand(load, None, L1, (idle,), (idle,), inrush=rush)
