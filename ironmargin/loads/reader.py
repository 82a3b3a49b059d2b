"""Each kind of load read into what the network sees of it, and what had to be assumed for that."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from ironmargin.electrics import motor as m
from ironmargin.electrics.services import HIGH_V
from ironmargin.loads.demand import (
    DROPOUT,
    FAN_POWER_FACTOR,
    FAN_SHARE,
    PULLS_OUT,
    RELAY_DROPOUT,
    ROUND_UP_A,
    ROUND_UP_FROM_W,
    SMALLEST_VA,
    Demand,
    Draw,
    Inrush,
    cycles_per_hour,
    duty_of,
    heat_factor,
    lagging,
    leg_of,
    locked_rotor_amps,
    plate_amps,
    rest_s,
)
from ironmargin.registry import load_all
from ironmargin.setup.converter import TRICKLE, converter_of
from ironmargin.setup.hookup import InlineSoftStart
from ironmargin.setup.loads import (
    AirConditioner,
    Charger,
    Electronic,
    Incandescent,
    Microwave,
    Motor,
    Resistive,
    Rotating,
    usual_gear,
)
from ironmargin.setup.model import Setup

FILAMENT_INRUSH = 10.0, 0.04
"""A cold filament: inrush over rated [1] and its time constant [s] (from memory: about ten times
for 50 to 100 ms)."""
UNIVERSAL_INRUSH = 2.5, 0.15
"""A universal motor's (common practice, no source)."""
MICROWAVE_POWER_FACTOR = 0.97
"""Of an oven with its transformer or inverter (common practice, no source)."""
DRIVE_POWER_FACTOR = 0.95
"""Of an inverter drive (common practice, no source)."""
UNIVERSAL_POWER_FACTOR = 0.95
"""Of a universal motor (common practice, no source)."""
USUAL_RAMP_S = 0.6
"""A soft starter's ramp where nobody says [s] (common practice, no source)."""
MIN_COMPRESSOR_A = 0.1
"""What a unit's fan leaves of its amps at least [A]."""
MAX_LOADED = 1.6
"""A compressor on the hottest day is asked for no more than this of its full load [1]: its
overload protector opens (common practice, no source)."""


class Reader:
    """Builds demands for one setup; collects what had to be assumed.

    Attributes:
        setup, at, load, mode: the question, the load's number in it, the load, its mode.
        leg, bus_v: leg it hangs on, and volts of the panel at which it has its rated ones [V].
    """

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
        """Note that a figure is typical.

        Args:
            name: the field that was not given.
            value: what is taken for it, in the field's unit.

        Returns:
            The same value.
        """
        self.assumed.append((f"rig.loads[{self.at}].{name}", round(value, 3), "typical"))
        return value

    def draw(self, amps: float, power_factor: float, *, power: bool, dropout: float = 0.0) -> Draw:
        """What one unit draws, rounded up where the rules ask for it.

        Args:
            amps: at the load's rated volts [A].
            power_factor: of them, lagging [1].
            power: keeps its power as volts fall; else its impedance.
            dropout: share of rated volts below which it drops out [1]; 0 never.

        Returns:
            The draw, on its leg.
        """
        va = max(amps * self.load.voltage_v, SMALLEST_VA)
        rounded = (
            self.setup.rules.round_up and self.load.provenance != "measured" and self.bus_v < HIGH_V
        )
        if rounded and va >= ROUND_UP_FROM_W:
            va = max(va, ROUND_UP_A * self.bus_v)
        return Draw(self.leg, self.bus_v, lagging(va, power_factor), power, dropout)

    def demand(
        self,
        one: tuple[Draw, ...],
        *,
        single_concurrent: tuple[Draw, ...] = (),
        plate: m.MotorPlate | None = None,
        inrush: Inrush | None = None,
    ) -> Demand:
        """All of the load's count, from what one unit draws.

        Args:
            one: draws of one settled unit.
            single_concurrent: of them those of one that runs beside its starting motor.
            plate: of the motor that starts.
            inrush: of a start without a motor.

        Returns:
            The demand, with the load's cycle.
        """
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
            hours_duty=duty_of(load),
            off_s=rest_s(load),
            assumed=tuple(self.assumed),
            single_concurrent=single_concurrent,
            plate=plate,
            inrush=inrush,
        )

    def _full(self) -> bool:
        """Whether the 12 V battery is full before the start."""
        side = self.setup.rig.dc
        return side is not None and side.full

    # one method per kind

    def simple(self) -> Demand:
        """Watts or amps at a power factor; a cold filament rushes.

        Returns:
            The demand.
        """
        load = self.load
        pf = load.power_factor if isinstance(load, Electronic | Charger) else 1.0
        amps = load.amps if load.amps is not None else load.watts / (load.voltage_v * pf)
        if isinstance(load, Charger) and load == converter_of(self.setup) and self._full():
            amps *= TRICKLE
        electronic = isinstance(load, Electronic | Charger)
        draw = self.draw(amps, pf, power=electronic, dropout=DROPOUT if electronic else 0.0)
        if isinstance(load, Incandescent):
            return self.demand((draw,), inrush=self.inrush(draw, FILAMENT_INRUSH))
        return self.demand((draw,))

    def driven(self, amps: float) -> Draw:
        """What an inverter drive takes.

        Args:
            amps: at rated volts [A].

        Returns:
            The draw.
        """
        return self.draw(amps, DRIVE_POWER_FACTOR, power=True, dropout=DROPOUT)

    def inrush(self, draw: Draw, times_and_tau: tuple[float, float]) -> Inrush:
        """The inrush of what draws so much once it is on.

        Args:
            draw: when on.
            times_and_tau: of its inrush: over rated [1], and its time constant [s].

        Returns:
            The inrush.
        """
        return Inrush(self.leg, self.bus_v, draw.va, *times_and_tau)

    def microwave(self) -> Demand:
        """Its input watts behind a relay.

        Returns:
            The demand.
        """
        draw = self.draw(
            self.load.watts / (self.load.voltage_v * MICROWAVE_POWER_FACTOR),
            MICROWAVE_POWER_FACTOR,
            power=True,
            dropout=RELAY_DROPOUT,
        )
        return self.demand((draw,))

    def plate(self, running_a: float, load_torque: float, wait_s: float) -> m.MotorPlate:
        """The motor that starts, with its gear.

        Args:
            running_a: running amps [A].
            load_torque: of its rated torque once it runs [1].
            wait_s: how long it rested [s].

        Returns:
            Its plate.
        """
        load = self.load
        lra, typical = locked_rotor_amps(load, running_a)
        if load.lra_a is None and typical:
            self.assume("lra_a", lra)
        breakaway = load.breakaway
        if breakaway is None:
            breakaway = m.breakaway_after(wait_s, load.metering)
        after = m.load_after_start(wait_s, load.metering)
        plate = m.MotorPlate(
            load.voltage_v,
            lra,
            running_a,
            load.start_gear,
            load_torque,
            breakaway,
            max(after, breakaway),
            typical,
        )
        if load.start_gear != "soft-start":
            return self.behind_inline(plate)
        soft = load.soft_start
        if soft is not None and soft.peak_a is not None:
            learned = soft.peak_a / lra
        elif soft is not None and soft.fraction is not None:
            learned = soft.fraction
        else:
            learned = 0.0
        gear = (soft.gear if soft else None) or (
            usual_gear(load.voltage_v) if isinstance(load, AirConditioner) else "run-capacitor"
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
            ramp_s=soft.ramp_s if soft else USUAL_RAMP_S,
        )

    def behind_inline(self, plate: m.MotorPlate) -> m.MotorPlate:
        """An inline soft starter at the pedestal holds every start to its fraction (common
        practice: about 0.5).

        Args:
            plate: a motor without a starter of its own.

        Returns:
            The same behind the inline one, where there is one.
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
        """A motor by its start gear.

        Returns:
            The demand.
        """
        load = self.load
        running = plate_amps(load) or 0.0
        if load.start_gear == "inverter-drive":
            return self.demand((self.driven(running),))
        if load.start_gear == "universal":
            draw = self.draw(running, UNIVERSAL_POWER_FACTOR, power=False)
            return self.demand((draw,), inrush=self.inrush(draw, UNIVERSAL_INRUSH))
        draw = self.draw(running, m.RUNNING_POWER_FACTOR, power=True, dropout=PULLS_OUT)
        return self.demand((draw,), plate=self.plate(running, 1.0, load.wait_s))

    def air_conditioner(self) -> Demand:
        """Fan and compressor in a mode, on a day as hot as this one.

        Returns:
            The demand.
        """
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
        compressor = (
            max(total - fan, MIN_COMPRESSOR_A) if total is not None else float(plate_a or 0.0)
        )
        rla = plate_a or compressor
        if load.start_gear == "inverter-drive":
            return self.demand((fan_draw, self.driven(compressor * factor)))
        running = self.draw(
            compressor * factor, m.RUNNING_POWER_FACTOR, power=True, dropout=PULLS_OUT
        )
        return self.demand(
            (fan_draw, running),
            single_concurrent=(fan_draw,),
            plate=self.plate(rla, min(compressor * factor / rla, MAX_LOADED), load.wait_s),
        )


DemandOf = Callable[[Reader], Demand]
DEMANDS: dict[str, DemandOf] = {
    Resistive.kind: Reader.simple,
    Incandescent.kind: Reader.simple,
    Electronic.kind: Reader.simple,
    Charger.kind: Reader.simple,
    Microwave.kind: Reader.microwave,
    Motor.kind: Reader.motor,
    AirConditioner.kind: Reader.air_conditioner,
}
"""The model of each kind of load."""


def demand_of_kind(kind: str) -> Callable[[DemandOf], DemandOf]:
    """Register the model of a kind of load.

    Args:
        kind: its name in files.

    Returns:
        A decorator of the function that makes a demand of such a load, with a :class:`Reader`'s
        help.
    """

    def registered(model: DemandOf) -> DemandOf:
        DEMANDS[kind] = model
        return model

    return registered


def demand_of(
    setup: Setup, at: int, mode: str | None, ratio: float = 1.0, series_ohm: complex = 0.0
) -> Demand:
    """What the network sees of load number ``at`` of the rig in ``mode``.

    Args:
        setup: supply, path, rig and rules of the question.
        at: number of the load in the rig.
        mode: mode of an air conditioner; None for its usual one.
        ratio: turns ratio of the transformer that feeds it.
        series_ohm: that transformer's impedance at the load's side [ohm].

    Returns:
        Its draw, inrush, motor and cycle.
    """
    reader = Reader(setup, at, mode, ratio, series_ohm)
    load_all("ironmargin.loads.kinds")
    return DEMANDS[reader.load.kind](reader)
