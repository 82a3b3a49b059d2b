"""Battery inverters, power stations and vehicles; and an inverter/charger beside its input."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import ClassVar, Self

from ironmargin.document import Document
from ironmargin.electrics.services import nominal_of
from ironmargin.record import record
from ironmargin.setup.engines import Generator
from ironmargin.setup.fields import choice, flag, given, learned, number
from ironmargin.setup.post import Shore
from ironmargin.setup.records import Kinds, Record
from ironmargin.setup.supply import NEUTRALS, Supply, supply_kind

CHEMISTRIES = ("lithium", "lead")


INVERTER_TYPES = {"inverter": "inverter", "power-station": "power station", "vehicle": "vehicle"}
"""What a battery inverter is built as, and what it is called."""


@supply_kind
@record(kw_only=True)
class BatteryInverter(Supply):
    """A battery inverter or power station."""

    kind: ClassVar[str] = "battery-inverter"
    place: ClassVar[int] = 4
    title: ClassVar[str] = "Battery inverter"
    type: str = choice(
        "What it is: an inverter that is built in, a power station, or a vehicle's own outlets",
        tuple(INVERTER_TYPES),
        default="inverter",
    )
    continuous_w: float = number("W", "Continuous power", above=0, maximum=1e6)
    surge_w: float = number("W", "Surge power", above=0, maximum=2e6)
    surge_s: float = number("s", "How long it gives the surge", above=0, maximum=3600, default=5.0)
    voltage_v: float = number(
        "V", "Rated voltage across the output", minimum=100, maximum=250, default=120.0
    )
    output: str = choice(
        "Output: one 120 V leg, two 120 V legs, or 230 V", ("120", "120/240", "230"), default="120"
    )
    battery_wh: float = number("Wh", "Battery behind it", above=0, maximum=1e7, default=5000.0)
    usable_fraction: float = number(
        "1", "Fraction of it that may be used", above=0, maximum=1, default=0.9
    )
    efficiency: float = number("1", "Battery to AC", above=0.3, maximum=1, default=0.88)
    start_soc: float = number(
        "1", "State of charge at the beginning", minimum=0, maximum=1, default=1.0
    )
    chemistry: str = choice("Chemistry of the battery", CHEMISTRIES, default="lithium")
    peukert: float | None = number(
        "1",
        "Peukert exponent of a lead battery; 1.2 unless said",
        minimum=1.0,
        maximum=1.6,
        default=None,
    )
    battery_c: float | None = number(
        "°C", "Temperature of the battery; 20 °C unless said", minimum=-40, maximum=60, default=None
    )
    charger_w: float | None = number(
        "W", "Most its charger puts into the battery", above=0, maximum=1e5, default=None
    )
    neutral: str | None = choice("Its neutral, as the manual says", NEUTRALS, default=None)
    idle_w: float | None = number(
        "W",
        "What it draws itself while on; about 1 % of its power, 8 to 40 W, unless said",
        minimum=0,
        maximum=1000,
        default=None,
    )
    input_w: float = number(
        "W",
        "What charges its battery meanwhile, averaged over the hours: solar, an alternator, a wall "
        "charger",
        minimum=0,
        maximum=1e5,
        default=0.0,
    )
    sun_first: bool = flag(
        "Beside an input: what charges its battery feeds the loads first, the input what is left",
        default=False,
    )
    alarm_w: float | None = number(
        "W", "Load from which it sounds its alarm", above=0, maximum=1e6, default=None
    )
    off_below_w: float | None = number(
        "W", "Load below which it turns itself off (eco, sleep)", above=0, maximum=1e4, default=None
    )
    x: Document = learned()

    @property
    def words(self) -> str:
        return INVERTER_TYPES[self.type]

    @property
    def service_v(self) -> float:
        return nominal_of(self.output)

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
    place: ClassVar[int] = 5
    title: ClassVar[str] = "Inverter/charger"
    input: Shore | Generator = given(
        Kinds("The shore or generator it takes from", None, lambda: INPUT_KINDS)
    )
    input_limit_a: float = number("A", "Most it takes from the input", above=0, maximum=400)
    input_read_w: float | None = number(
        "W",
        "What it really takes at that limit, read by a meter: some take a quarter less than they "
        "are set to",
        above=0,
        maximum=1e5,
        default=None,
    )
    inverter: BatteryInverter = given(Record("The inverter and its battery", None, BatteryInverter))
    charge_efficiency: float = number("1", "AC to battery", above=0.3, maximum=1, default=0.9)
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
    def feeding(self) -> Supply:
        return self.input

    @property
    def post(self) -> Shore | None:
        return self.input.post

    @property
    def engines(self) -> tuple[Generator, ...]:
        return self.input.engines

    @property
    def limit_set_a(self) -> float | None:
        return self.input_limit_a

    @property
    def battery(self) -> BatteryInverter | None:
        return self.inverter

    @property
    def input_a(self) -> float:  # type: ignore[override]
        """Its limit, or less where a meter read less [A]."""
        read_w = self.input_read_w
        legs = 2 if self.inverter.output == "120/240" else 1
        return self.input_limit_a if read_w is None else read_w / (legs * self.service_v)

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
