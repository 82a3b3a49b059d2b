"""What feeds the rig: one class per kind of supply, which says all that the rest asks of a kind.

A new kind is one module of ``ironmargin/supplies/`` with its class, as these, and its model
(CONTRIBUTING.md shows one); ``tests/kinds.py`` walks it through every command and every page.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any, ClassVar, Self

from ironmargin.document import Document
from ironmargin.record import record
from ironmargin.setup.fields import choice, flag, given, learned, number, text
from ironmargin.setup.hookup import BREAKER_TRIPS
from ironmargin.setup.records import Kinds, Many, Record, Rows, Table
from ironmargin.setup.spec import Flag, Number
from ironmargin.setup.supply import Supply, supply_kind

FUELS = ("gasoline", "propane", "natural_gas", "diesel")
CHARACTERS = ("folds-back", "cuts-off")
NEUTRALS = ("floating", "bonded")
CORRECT = "correct"
TESTER = (CORRECT, "open-ground", "reversed", "open-neutral", "hot-ground-reversed")
"""What the lamps of a three-lamp outlet tester say."""
CHEMISTRIES = ("lithium", "lead")
BREAKER_STANDARDS = ("UL489", "IEC60898-B", "IEC60898-C", "IEC60898-D")


@record(kw_only=True)
class FuelRating:
    """A generator's two ratings on one fuel."""

    continuous_w: float = number("W", "Continuous (running) power on this fuel", above=0, most=1e6)
    starting_w: float = number("W", "Starting (surge) power on this fuel", above=0, most=2e6)


@record(kw_only=True)
class Noise:
    """One noise reading."""

    dba: float = number("dBA", "Sound level read or stated", least=0, most=140)
    at_m: float = number("m", "Distance of that reading", above=0, most=1000, default=7.0)
    per_doubling_db: float = number(
        "dB",
        "What each doubling of distance takes: 6 in a free field, less where walls reflect",
        least=1,
        most=12,
        default=6.02,
    )
    load_w: float | None = number(
        "W",
        "Load when it was read; a stated level is taken at a quarter of the rating unless said",
        least=0,
        most=1e6,
        default=None,
    )
    full_dba: float | None = number(
        "dBA",
        "Level at the full rating, at the same distance; 6 dB more unless said, 2 on a generator "
        "of constant speed",
        least=0,
        most=140,
        default=None,
    )


@record(kw_only=True)
class Cylinder:
    """A propane cylinder feeding the set."""

    capacity_kg: float = number(
        "kg", "Propane it holds when properly full", above=0, most=1000, default=9.1
    )
    fill: float = number(
        "1",
        "Fraction of that really in it; an exchange holds about 4.0 of 4.7 gal (common practice)",
        above=0,
        most=1,
        default=0.85,
    )
    count: int = number(
        "1", "How many feed the generator together", least=1, most=20, default=1, whole=True
    )


@supply_kind
@record(kw_only=True)
class Generator(Supply):
    """An engine-driven set, inverter or conventional."""

    kind: ClassVar[str] = "generator"
    title: ClassVar[str] = "Generator"
    continuous_w: float = number("W", "Continuous (running) power rating", above=0, most=1e6)
    starting_w: float = number(
        "W", "Starting (surge) power rating, good for a few seconds", above=0, most=2e6
    )
    voltage_v: float = number(
        "V", "Rated voltage across the winding", least=100, most=250, default=120.0
    )
    output: str = choice(
        "Output: one 120 V leg, two 120 V legs, or 230 V", ("120", "120/240", "230"), default="120"
    )
    inverter: bool = flag("An inverter generator (true) or a conventional one", default=True)
    eco: bool = flag("Eco (idle) mode is on during the start", default=False)
    fuel: str = choice("Fuel it runs on now", FUELS, default="gasoline")
    ratings_for: str = choice("Fuel the two ratings are stated for", FUELS, default="gasoline")
    by_fuel: Document = given(
        Table(
            "Ratings stated for other fuels; they win over the derate",
            None,
            FUELS,
            Record(of=FuelRating),
        ),
        default={},
    )
    character: str | None = choice(
        "What its electronics do at their limit: hold the current and let the volts sag, or cut "
        "off within half a second",
        CHARACTERS,
        default=None,
    )
    neutral: str | None = choice("Its neutral, as the manual says", NEUTRALS, default=None)
    parallel_ready: bool | None = given(
        Flag("Made to be paralleled; inverter generators are unless said"), default=None
    )
    limit_headroom: float = number(
        "1",
        "Current limit of the electronics over starting power",
        least=1.0,
        most=1.5,
        default=1.08,
    )
    leg_limit_a: float | None = number(
        "A", "Breaker of each leg, or of the outlet in use", above=0, most=1000, default=None
    )
    tank_l: float | None = number("l", "Fuel tank", above=0, most=2000, default=None)
    fuel_points: tuple[Any, ...] = given(
        Rows(
            "Known points: load and hours on a tank",
            None,
            (
                Number("Load", None, "W", least=0, most=1e6),
                Number("Hours", None, "h", above=0, most=1000),
            ),
        ),
        default=(),
    )
    cylinder: Cylinder | None = given(Record("Propane cylinder", None, Cylinder), default=None)
    noise: Noise | None = given(Record("Noise reading", None, Noise), default=None)
    mass_kg: float | None = number(
        "kg", "Mass, to know who lifts it", above=0, most=20000, default=None
    )
    x: Document = learned()

    @property
    def words(self) -> str:
        return "generator"

    @property
    def service_v(self) -> float:
        return 230.0 if self.output == "230" else 120.0

    @property
    def carrying(self) -> tuple[Generator, ...]:
        return (self,)

    def scaled(self, factor: float) -> Self:
        """Both ratings, on each fuel they are stated for.

        Args:
            factor: over what it is [1].

        Returns:
            The set.
        """
        by_fuel = {
            fuel: replace(r, continuous_w=r.continuous_w * factor, starting_w=r.starting_w * factor)
            for fuel, r in self.by_fuel.items()
        }
        continuous_w, starting_w = self.continuous_w * factor, self.starting_w * factor
        return replace(self, continuous_w=continuous_w, starting_w=starting_w, by_fuel=by_fuel)

    def with_carrying(self, change: Callable[[Generator], Generator]) -> Self:
        return change(self)  # type: ignore[return-value]


@supply_kind
@record(kw_only=True)
class Parallel(Supply):
    """Inverter sets joined by a parallel cable set."""

    kind: ClassVar[str] = "parallel"
    title: ClassVar[str] = "Generators in parallel"
    units: tuple[Generator, ...] = given(
        Many("The sets joined", None, Record(of=Generator), least=2, most=8)
    )
    kit_limit_a: float | None = number(
        "A", "Rating of the kit's outlet and cord", above=0, most=1000, default=None
    )
    imbalance: float = number(
        "1", "What uneven sharing costs of the sum", least=0, most=0.5, default=0.05
    )
    x: Document = learned()

    @property
    def words(self) -> str:
        return f"pair of {len(self.units)} generators"

    @property
    def noun(self) -> str:
        return "generator"

    @property
    def subject(self) -> str:
        return "the generators"

    @property
    def service_v(self) -> float:
        return self.units[0].service_v

    @property
    def carrying(self) -> tuple[Generator, ...]:
        return self.units

    def inner(self) -> Iterator[tuple[str, Supply]]:
        yield from ((f"units[{at}]", unit) for at, unit in enumerate(self.units))

    def scaled(self, factor: float) -> Self:
        return self.with_carrying(lambda unit: unit.scaled(factor))

    def with_carrying(self, change: Callable[[Generator], Generator]) -> Self:
        return replace(self, units=tuple(change(unit) for unit in self.units))


@supply_kind
@record(kw_only=True)
class Shore(Supply):
    """A park pedestal, a house outlet or a field post."""

    kind: ClassVar[str] = "shore"
    title: ClassVar[str] = "Shore post"
    breaker_a: float = number("A", "Rating of the post's breaker", above=0, most=400)
    voltage_v: float = number(
        "V", "Open-circuit volts, leg to neutral", least=90, most=260, default=120.0
    )
    legs: str = choice(
        "Legs it brings", ("single", "split", "same-leg", "network-208"), default="single"
    )
    source_ohm: float = number(
        "ohm",
        "Impedance of the service behind the post, one leg and neutral",
        least=0,
        most=5,
        default=0.15,
    )
    readings: tuple[Any, ...] = given(
        Rows(
            "Two readings at the post: volts and amps; they replace volts and ohms",
            None,
            (
                Number("Volts", None, "V", above=0, most=300),
                Number("Amps", None, "A", least=0, most=400),
            ),
            most=2,
        ),
        default=(),
    )
    also_on_circuit_a: float = number(
        "A", "Another load already on the same breaker", least=0, most=400, default=0.0
    )
    breaker_standard: str = choice(
        "Standard of the breaker; a 230 V post is IEC unless said",
        BREAKER_STANDARDS,
        default="UL489",
    )
    breaker_trips: str = choice(
        "How its breaker trips against its curve", BREAKER_TRIPS, default="on-curve"
    )
    breaker_at: str = text("Where its breaker is, and who can reset it", default="", most=200)
    tester: str | None = choice("What an outlet tester showed here last", TESTER, default=None)
    x: Document = learned()

    @property
    def miswired(self) -> bool:
        """Whether an outlet tester last showed a wiring fault here."""
        return self.tester not in (None, CORRECT)

    @property
    def words(self) -> str:
        return "post"

    @property
    def service_v(self) -> float:
        return 230.0 if self.voltage_v > 180 else 120.0

    @property
    def post(self) -> Shore | None:
        return self

    def scaled(self, factor: float) -> Self:
        """Its breaker, and the impedance behind it.

        Args:
            factor: over what it is [1].

        Returns:
            The post.
        """
        ohm = self.source_ohm / factor
        return replace(self, breaker_a=self.breaker_a * factor, source_ohm=ohm)

    def with_post(self, change: Callable[[Shore], Shore]) -> Self:
        return change(self)  # type: ignore[return-value]


INVERTER_TYPES = {"inverter": "inverter", "power-station": "power station", "vehicle": "vehicle"}
"""What a battery inverter is built as, and what it is called."""


@supply_kind
@record(kw_only=True)
class BatteryInverter(Supply):
    """A battery inverter or power station."""

    kind: ClassVar[str] = "battery-inverter"
    title: ClassVar[str] = "Battery inverter"
    type: str = choice(
        "What it is: an inverter that is built in, a power station, or a vehicle's own outlets",
        tuple(INVERTER_TYPES),
        default="inverter",
    )
    continuous_w: float = number("W", "Continuous power", above=0, most=1e6)
    surge_w: float = number("W", "Surge power", above=0, most=2e6)
    surge_s: float = number("s", "How long it gives the surge", above=0, most=3600, default=5.0)
    voltage_v: float = number(
        "V", "Rated voltage across the output", least=100, most=250, default=120.0
    )
    output: str = choice(
        "Output: one 120 V leg, two 120 V legs, or 230 V", ("120", "120/240", "230"), default="120"
    )
    battery_wh: float = number("Wh", "Battery behind it", above=0, most=1e7, default=5000.0)
    usable_fraction: float = number(
        "1", "Fraction of it that may be used", above=0, most=1, default=0.9
    )
    efficiency: float = number("1", "Battery to AC", above=0.3, most=1, default=0.88)
    start_soc: float = number("1", "State of charge at the beginning", least=0, most=1, default=1.0)
    chemistry: str = choice("Chemistry of the battery", CHEMISTRIES, default="lithium")
    peukert: float | None = number(
        "1",
        "Peukert exponent of a lead battery; 1.2 unless said",
        least=1.0,
        most=1.6,
        default=None,
    )
    battery_c: float | None = number(
        "°C", "Temperature of the battery; 20 °C unless said", least=-40, most=60, default=None
    )
    charger_w: float | None = number(
        "W", "Most its charger puts into the battery", above=0, most=1e5, default=None
    )
    neutral: str | None = choice("Its neutral, as the manual says", NEUTRALS, default=None)
    idle_w: float | None = number(
        "W",
        "What it draws itself while on; about 1 % of its power, 8 to 40 W, unless said",
        least=0,
        most=1000,
        default=None,
    )
    input_w: float = number(
        "W",
        "What charges its battery meanwhile, averaged over the hours: solar, an alternator, a wall "
        "charger",
        least=0,
        most=1e5,
        default=0.0,
    )
    alarm_w: float | None = number(
        "W", "Load from which it sounds its alarm", above=0, most=1e6, default=None
    )
    off_below_w: float | None = number(
        "W", "Load below which it turns itself off (eco, sleep)", above=0, most=1e4, default=None
    )
    x: Document = learned()

    @property
    def input_a(self) -> float:  # type: ignore[override]
        """What charges its battery, as amps at the output: it goes through the inverter [A]."""
        return self.input_w * self.efficiency / self.service_v

    @property
    def charging(self) -> float:  # type: ignore[override]
        """What is left of it charges the battery straight, not through the inverter [1]."""
        return 1.0 / self.efficiency if self.input_w else 1.0

    @property
    def words(self) -> str:
        return INVERTER_TYPES[self.type]

    @property
    def service_v(self) -> float:
        return 230.0 if self.output == "230" else 120.0

    @property
    def battery(self) -> BatteryInverter | None:
        return self

    def scaled(self, factor: float) -> Self:
        """Continuous and surge power.

        Args:
            factor: over what it is [1].

        Returns:
            The inverter.
        """
        surge_w = self.surge_w * factor
        return replace(self, continuous_w=self.continuous_w * factor, surge_w=surge_w)


@supply_kind
@record(kw_only=True)
class Assist(Supply):
    """An inverter/charger that caps what it takes from its input and covers the rest."""

    kind: ClassVar[str] = "assist"
    title: ClassVar[str] = "Inverter/charger"
    input: Shore | Generator = given(
        Kinds("The shore or generator it takes from", None, lambda: INPUT_KINDS)
    )
    input_limit_a: float = number("A", "Most it takes from the input", above=0, most=400)
    input_read_w: float | None = number(
        "W",
        "What it really takes at that limit, read by a meter: some take a quarter less than they "
        "are set to",
        above=0,
        most=1e5,
        default=None,
    )
    inverter: BatteryInverter = given(Record("The inverter and its battery", None, BatteryInverter))
    charge_efficiency: float = number("1", "AC to battery", above=0.3, most=1, default=0.9)
    x: Document = learned()

    @property
    def words(self) -> str:
        return "inverter/charger"

    @property
    def noun(self) -> str:
        return "inverter"

    @property
    def subject(self) -> str:
        return f"the {self.input.words} with its inverter"

    @property
    def service_v(self) -> float:
        return self.inverter.service_v

    @property
    def post(self) -> Shore | None:
        return self.input.post

    @property
    def engines(self) -> tuple[Generator, ...]:
        return self.input.engines

    @property
    def battery(self) -> BatteryInverter | None:
        return self.inverter

    @property
    def input_a(self) -> float:  # type: ignore[override]
        """Its limit, or less where a meter read less [A]."""
        read_w = self.input_read_w
        return self.input_limit_a if read_w is None else read_w / self.service_v

    @property
    def charging(self) -> float:  # type: ignore[override]
        return self.charge_efficiency

    def inner(self) -> Iterator[tuple[str, Supply]]:
        yield from (("input", self.input), ("inverter", self.inverter))

    def scaled(self, factor: float) -> Self:
        """Its inverter; the input stays as it is.

        Args:
            factor: over what it is [1].

        Returns:
            The inverter beside its input.
        """
        return replace(self, inverter=self.inverter.scaled(factor))

    def with_post(self, change: Callable[[Shore], Shore]) -> Self:
        return replace(self, input=self.input.with_post(change))


INPUT_KINDS: dict[str, type[Shore | Generator]] = {cls.kind: cls for cls in (Shore, Generator)}
