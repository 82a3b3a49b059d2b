"""Engine-driven supplies: one set, or several in parallel."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any, ClassVar, Self

from ironmargin.document import Document
from ironmargin.electrics.services import nominal_of
from ironmargin.record import record
from ironmargin.setup.fields import choice, flag, given, learned, number
from ironmargin.setup.records import Many, Record, Rows, Table
from ironmargin.setup.spec import Flag, Number
from ironmargin.setup.supply import NEUTRALS, Supply, supply_kind

FUELS = ("gasoline", "propane", "natural_gas", "diesel")


CHARACTERS = ("folds-back", "cuts-off")


@record(kw_only=True)
class FuelRating:
    """A generator's two ratings on one fuel."""

    continuous_w: float = number(
        "W", "Continuous (running) power on this fuel", above=0, maximum=1e6
    )
    starting_w: float = number("W", "Starting (surge) power on this fuel", above=0, maximum=2e6)


@record(kw_only=True)
class Noise:
    """One noise reading."""

    dba: float = number("dBA", "Sound level read or stated", minimum=0, maximum=140)
    at_m: float = number("m", "Distance of that reading", above=0, maximum=1000, default=7.0)
    per_doubling_db: float = number(
        "dB",
        "What each doubling of distance takes: 6 in a free field, less where walls reflect",
        minimum=1,
        maximum=12,
        default=6.02,
    )
    load_w: float | None = number(
        "W",
        "Load when it was read; a stated level is taken at a quarter of the rating unless said",
        minimum=0,
        maximum=1e6,
        default=None,
    )
    full_dba: float | None = number(
        "dBA",
        "Level at the full rating, at the same distance; 6 dB more unless said, 2 on a generator "
        "of constant speed",
        minimum=0,
        maximum=140,
        default=None,
    )


@record(kw_only=True)
class Cylinder:
    """A propane cylinder feeding the set."""

    capacity_kg: float = number(
        "kg", "Propane it holds when properly full", above=0, maximum=1000, default=9.1
    )
    fill: float = number(
        "1",
        "Fraction of that really in it; an exchange holds about 4.0 of 4.7 gal (common practice)",
        above=0,
        maximum=1,
        default=0.85,
    )
    count: int = number(
        "1", "How many feed the generator together", minimum=1, maximum=20, default=1, whole=True
    )


@supply_kind
@record(kw_only=True)
class Generator(Supply):
    """An engine-driven set, inverter or conventional."""

    kind: ClassVar[str] = "generator"
    place: ClassVar[int] = 1
    title: ClassVar[str] = "Generator"
    continuous_w: float = number("W", "Continuous (running) power rating", above=0, maximum=1e6)
    starting_w: float = number(
        "W", "Starting (surge) power rating, good for a few seconds", above=0, maximum=2e6
    )
    voltage_v: float = number(
        "V", "Rated voltage across the winding", minimum=100, maximum=250, default=120.0
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
    limit_over_surge: float = number(
        "1",
        "Current limit of the electronics over starting power",
        minimum=1.0,
        maximum=1.5,
        default=1.08,
    )
    leg_limit_a: float | None = number(
        "A", "Breaker of each leg, or of the outlet in use", above=0, maximum=1000, default=None
    )
    tank_l: float | None = number("l", "Fuel tank", above=0, maximum=2000, default=None)
    fuel_points: tuple[Any, ...] = given(
        Rows(
            "Known points: load and hours on a tank",
            None,
            (
                Number("Load", None, "W", minimum=0, maximum=1e6),
                Number("Hours", None, "h", above=0, maximum=1000),
            ),
        ),
        default=(),
    )
    cylinder: Cylinder | None = given(Record("Propane cylinder", None, Cylinder), default=None)
    noise: Noise | None = given(Record("Noise reading", None, Noise), default=None)
    mass_kg: float | None = number(
        "kg", "Mass, to know who lifts it", above=0, maximum=20000, default=None
    )
    x: Document = learned()

    @property
    def words(self) -> str:
        return "generator"

    @property
    def service_v(self) -> float:
        return nominal_of(self.output)

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
    place: ClassVar[int] = 2
    title: ClassVar[str] = "Generators in parallel"
    units: tuple[Generator, ...] = given(
        Many("The sets joined", None, Record(of=Generator), minimum=2, maximum=8)
    )
    kit_limit_a: float | None = number(
        "A", "Rating of the kit's outlet and cord", above=0, maximum=1000, default=None
    )
    imbalance: float = number(
        "1", "What uneven sharing costs of the sum", minimum=0, maximum=0.5, default=0.05
    )
    x: Document = learned()

    @property
    def words(self) -> str:
        count = len(self.units)
        return "pair of generators" if count == 2 else f"set of {count} paralleled generators"

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
