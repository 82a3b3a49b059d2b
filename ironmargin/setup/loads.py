"""What the rig wants to run: one dataclass per kind of load. A new kind is one module of
``ironmargin/loads/`` with its class, as these, and its model (CONTRIBUTING.md shows one).
"""

from __future__ import annotations

from typing import ClassVar, TypeVar

from ironmargin.record import record
from ironmargin.registry import load_all
from ironmargin.setup.fields import choice, flag, given, number, text
from ironmargin.setup.records import Record

PROVENANCES = ("measured", "plate", "typical", "rounded-up")
LEGS = ("L1", "L2", "L1L2")
MOTOR_STARTS = (
    "run-capacitor",
    "start-capacitor",
    "hard-start",
    "soft-start",
    "inverter-drive",
    "universal",
)
COOLING_STARTS = MOTOR_STARTS[:-1]
CODE_LETTERS = tuple("ABCDEFGHJKLMNPRSTUV")
METERINGS = ("capillary", "valve", "none")
COOLING_METERINGS = METERINGS[:-1]
COMPRESSORS = ("reciprocating", "rotary", "scroll")
COOLING_MODES = ("fan-low", "fan-high", "low-cool", "high-cool")


@record(kw_only=True)
class SoftStart:
    """A soft starter on one motor."""

    peak_a: float | None = number(
        "A", "Learned peak of the motor's current", above=0, maximum=1000, default=None
    )
    fraction: float | None = number(
        "1", "Learned peak as a fraction of locked-rotor amps", above=0.05, maximum=1, default=None
    )
    ramp_s: float = number(
        "s", "Length of the ramp at full volts", minimum=0.1, maximum=5, default=0.6
    )
    learned_starts: int = number(
        "1", "Starts it has learned from so far", minimum=0, maximum=1000, default=5, whole=True
    )
    gear: str | None = choice(
        "Start gear behind it; unless said an air conditioner under 200 V has a start capacitor, "
        "any other motor a run capacitor",
        ("run-capacitor", "start-capacitor"),
        default=None,
    )


@record(kw_only=True)
class Load:
    """Common to every load."""

    kind: ClassVar[str] = ""
    id: str = text("Short name used to refer to it", maximum=60, filled=True)
    name: str = text("What you call it", maximum=120, filled=True)
    voltage_v: float = number("V", "Rated voltage", minimum=100, maximum=250, default=120.0)
    voltage_min_v: float | None = number(
        "V",
        "Lowest volts of a nameplate that gives a range, as 208 of 208/230",
        minimum=90,
        maximum=250,
        default=None,
    )
    voltage_max_v: float | None = number(
        "V", "Highest volts of such a nameplate", minimum=90, maximum=280, default=None
    )
    circuit: str | None = text("Circuit it hangs on", default=None, maximum=60)
    leg: str | None = choice("Leg, where it has no circuit", LEGS, default=None)
    count: int = number("1", "How many of them", minimum=1, maximum=50, default=1, whole=True)
    duty: float | None = number(
        "1", "Fraction of the time it runs", above=0, maximum=1, default=None
    )
    on_s: float | None = number("s", "Runs this long", above=0, maximum=86400, default=None)
    off_s: float | None = number(
        "s", "then rests this long", minimum=0, maximum=86400, default=None
    )
    priority: str = choice("How badly it is needed", ("must", "want", "wait"), default="must")
    goes_with: str | None = text(
        "The load it cannot run without, as a condenser its blower; left off together",
        default=None,
        maximum=60,
    )
    always_on: bool = flag("Always on, without being switched", default=False)
    provenance: str = choice(
        "Where its figures come from", PROVENANCES, default="typical", key="from"
    )

    @property
    def on_gas(self) -> bool:
        """Whether its work goes on, on gas, while it is off here."""
        return bool(getattr(self, "gas", False))

    @property
    def off_words(self) -> str:
        """What it is called in a list of what to turn off."""
        return f"{self.name} (run it on gas)" if self.on_gas else self.name


@record(kw_only=True)
class Drawing(Load):
    """Common to the loads given by watts or amps."""

    watts: float | None = number("W", "Power", above=0, maximum=1e6, default=None)
    amps: float | None = number(
        "A", "Current at rated voltage", above=0, maximum=2000, default=None
    )


LOAD_KINDS: dict[str, type[Load]] = {}
"""Those that have registered themselves so far, by name."""
SomeLoad = TypeVar("SomeLoad", bound=Load)


def load_kinds() -> dict[str, type[Load]]:
    """Every kind of load there is; each is a module that registers itself.

    Returns:
        The classes by their names in files.
    """
    load_all("ironmargin.loads.kinds")
    return LOAD_KINDS


def load_kind(cls: type[SomeLoad]) -> type[SomeLoad]:
    """Register a kind of load.

    Args:
        cls: its class, with a ``kind`` of its own.

    Returns:
        The class.
    """
    LOAD_KINDS[cls.kind] = cls
    return cls


@record(kw_only=True)
class Resistive(Drawing):
    """Heater, kettle, water heater: constant impedance."""

    kind: ClassVar[str] = "resistive"
    gas: bool = flag(
        "It runs on gas as well, as many refrigerators and water heaters do", default=False
    )


@record(kw_only=True)
class Incandescent(Drawing):
    """Filament lamp: resistive with a cold inrush."""

    kind: ClassVar[str] = "incandescent"


@record(kw_only=True)
class Electronic(Drawing):
    """Constant power: television, router, LED, induction hob."""

    kind: ClassVar[str] = "electronic"
    power_factor: float = number("1", "Power factor", minimum=0.2, maximum=1, default=0.95)


@record(kw_only=True)
class Charger(Drawing):
    """Battery charger: constant power while the battery is low."""

    kind: ClassVar[str] = "charger"
    power_factor: float = number(
        "1", "Power factor; 0.98 if corrected", minimum=0.2, maximum=1, default=0.95
    )


@record(kw_only=True)
class Microwave(Load):
    """Microwave oven: fan and lamp at once, the magnetron later."""

    kind: ClassVar[str] = "microwave"
    watts: float = number(
        "W", "Input power (about 1.5 times the cooking power)", above=0, maximum=1e5
    )
    delay_s: float = number("s", "Delay of the magnetron", minimum=0, maximum=60, default=5.0)


USUAL_FROM_V = 200.0
"""From these volts up an air conditioner has a run capacitor alone, unless it is said: condensing
units and large window units come so; rooftop units of 120 V come with a start capacitor (common
practice, no source)."""


def usual_gear(voltage_v: float) -> str:
    """What starts an air conditioner's compressor where nothing is said of it.

    Args:
        voltage_v: rated volts of the unit [V].

    Returns:
        One of :data:`COOLING_STARTS`.
    """
    return "run-capacitor" if voltage_v >= USUAL_FROM_V else "start-capacitor"


@record(kw_only=True)
class Rotating(Load):
    """Common to motors: the plate figures of the machine that starts."""

    running_a: float | None = number(
        "A", "Running (rated-load) amps", above=0, maximum=2000, default=None
    )
    running_w: float | None = number("W", "Running power", above=0, maximum=1e6, default=None)
    lra_a: float | None = number(
        "A", "Locked-rotor amps (LRA)", above=0, maximum=5000, default=None
    )
    lra_spread: float | None = number(
        "1",
        "Standard deviation of typical locked-rotor amps, where measured units stand behind them",
        minimum=0.01,
        maximum=0.6,
        default=None,
    )
    code_letter: str | None = choice("NEC code letter", CODE_LETTERS, default=None)
    hp: float | None = number("hp", "Rated horsepower", above=0, maximum=500, default=None)
    soft_start: SoftStart | None = given(Record("Its soft starter", None, SoftStart), default=None)
    breakaway: float | None = number(
        "1", "Breakaway torque over full-load torque", above=0, maximum=2, default=None
    )
    start: str | None = choice("Start gear", MOTOR_STARTS, default="run-capacitor")
    metering: str = choice(
        "What meters its refrigerant: a capillary or fixed orifice lets pressures equalize within "
        "a minute or two, an expansion valve takes several; none for a fan, a pump or a saw",
        METERINGS,
        default="capillary",
    )
    compressor: str | None = choice(
        "What compresses, where it is a compressor: a scroll that came without start gear is "
        "given no kit",
        COMPRESSORS,
        default=None,
    )
    wait_s: float = number(
        "s",
        "Rest since it last stopped; after a short one it restarts against pressure",
        minimum=0,
        maximum=1e6,
        default=900.0,
    )

    @property
    def start_gear(self) -> str:
        """What starts it: as said, or as usual at its volts."""
        return self.start or usual_gear(self.voltage_v)

    @property
    def takes_kit(self) -> bool:
        """Whether a hard-start kit may be offered: it is made for compressors, and a scroll starts
        unloaded; its maker fits start gear or rules it out (common practice, no source).
        """
        return self.metering != "none" and (
            self.compressor != "scroll" or self.start_gear == "start-capacitor"
        )


@record(kw_only=True)
class Motor(Rotating):
    """A motor: pump, compressor, saw."""

    kind: ClassVar[str] = "motor"


@record(kw_only=True)
class AirConditioner(Rotating):
    """A rooftop or window unit: fan, and a compressor some seconds later."""

    kind: ClassVar[str] = "air-conditioner"
    start: str | None = choice(
        "Start gear of the compressor; unless said a start capacitor, and from 200 V up its run "
        "capacitor alone",
        COOLING_STARTS,
        default=None,
    )
    metering: str = choice(
        "What meters its refrigerant: a capillary or fixed orifice lets pressures equalize within "
        "a minute or two, an expansion valve takes several",
        COOLING_METERINGS,
        default="capillary",
    )
    fan_low_a: float | None = number("A", "Total amps, fan low", above=0, maximum=200, default=None)
    fan_high_a: float | None = number(
        "A", "Total amps, fan high", above=0, maximum=200, default=None
    )
    low_cool_a: float | None = number(
        "A", "Total amps, low cool", above=0, maximum=500, default=None
    )
    high_cool_a: float | None = number(
        "A", "Total amps, high cool", above=0, maximum=500, default=None
    )
    inside_dba: float | None = number(
        "dBA", "Noise indoors while it cools", minimum=20, maximum=100, default=None
    )
    compressor_delay_s: float = number(
        "s", "Delay of the compressor behind the fan", minimum=0, maximum=600, default=5.0
    )


for cls in (AirConditioner, Motor, Resistive, Incandescent, Electronic, Charger, Microwave):
    load_kind(cls)
