"""The entries of a log: one class per kind of reading."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any, ClassVar, TypeVar

from ironmargin.document import Document
from ironmargin.record import record
from ironmargin.registry import load_all
from ironmargin.setup.engines import FUELS
from ironmargin.setup.fields import FieldOf, choice, flag, given, number, text
from ironmargin.setup.loads import COOLING_MODES
from ironmargin.setup.model import Setup
from ironmargin.setup.post import TESTER
from ironmargin.setup.records import Many, Record, Rows
from ironmargin.setup.spec import Anything, Faults, Number, Spec, Text

INSTRUMENTS = (
    "inrush-clamp",
    "clamp",
    "watt-meter",
    "monitor",
    "set-display",
    "starter-report",
    "trace",
    "by-ear",
    "by-sound",
)


CLAMPED = ("supply", "leg", "compressor-wire", "whole-cord")


FELT = ("as-the-air", "lukewarm", "warm", "hot", "cannot-hold")


OUTCOMES = ("starts", "stalls", "trips")


TRIPPED = "post, main, a circuit's id, set, guard or inverter"


MAX_POINTS = 20_000


@record
class When(Spec):
    """A moment in ISO 8601 with its offset, not in the future; kept as it was written."""

    def read(self, value: object, path: str, faults: Faults) -> object:
        try:
            at = datetime.fromisoformat(value) if isinstance(value, str) else None
        except ValueError:
            at = None
        if at is None:
            rule = "must be a date and time as 2026-07-04T14:05:00-06:00"
            return self.fail(faults, path, "when", rule, value)
        at = at if at.tzinfo else at.replace(tzinfo=UTC)
        if at > datetime.now(UTC) + timedelta(days=1):
            return self.fail(faults, path, "future", "must not lie in the future", value)
        return value

    def schema(self) -> Document:
        return {"type": "string", "format": "date-time"}


def written_at(at: str) -> datetime:
    """The moment an entry was written at; UTC where no offset was given.

    Args:
        at: ISO 8601, with or without an offset.

    Returns:
        The moment, with its zone.
    """
    found = datetime.fromisoformat(at)
    return found if found.tzinfo else found.replace(tzinfo=UTC)


def _amps(doc: str) -> FieldOf:
    return number("A", doc, minimum=0, maximum=5000, default=None)


def _volts(doc: str) -> FieldOf:
    return number("V", doc, minimum=0, maximum=300, default=None)


def _loads(doc: str, default: object = None) -> FieldOf:
    return given(
        Many(doc, None, Text("A load's id", maximum=60, filled=True), maximum=100), default=default
    )


@record(kw_only=True)
class Entry:
    """Common to every entry.

    Attributes:
        kind: its name in files; title: what a form calls it; of_engine: whether it tells of an
            engine, so that a form asks for it where there is one.
    """

    kind: ClassVar[str] = ""
    title: ClassVar[str] = ""
    of_engine: ClassVar[bool] = False
    at: str | None = given(When("When it was read"), default=None)
    was: Document = given(
        Anything("The setup's gear, supply and weather when it was read"), default={}
    )
    notes: str = text("Notes", default="", maximum=2000)

    def says(self, setup: Setup) -> str:
        """What it says of a setup, where its kind corrects no figure and is judged by itself.

        Args:
            setup: as it was before the log.

        Returns:
            A sentence; empty where there is nothing to say.
        """
        return ""


ENTRY_KINDS: dict[str, type[Entry]] = {}
"""Those that have registered themselves so far, by name."""


SomeEntry = TypeVar("SomeEntry", bound=Entry)


def entry_kinds() -> dict[str, type[Entry]]:
    """Every kind of entry there is; each is a module that registers itself.

    Returns:
        The classes by their names in files.
    """
    load_all("ironmargin.learning.kinds")
    return ENTRY_KINDS


def entry_kind(cls: type[SomeEntry]) -> type[SomeEntry]:
    """Register a kind of entry. A new one is a module of its own in ``learning/kinds``
    (CONTRIBUTING.md shows one).

    Args:
        cls: its class, with a ``kind`` and a ``title`` of its own.

    Returns:
        The class.
    """
    ENTRY_KINDS[cls.kind] = cls
    return cls


@entry_kind
@record(kw_only=True)
class StartEntry(Entry):
    """One start: what was seen of it."""

    kind: ClassVar[str] = "start"
    title: ClassVar[str] = "A start"
    load: str = text("The load that started", maximum=60, filled=True)
    mode: str | None = choice("Mode of an air conditioner", COOLING_MODES, default=None)
    outcome: str | None = choice("How it ended", OUTCOMES, default=None)
    with_running: tuple[str, ...] | None = _loads("What ran beside; else everything wanted")
    peak_a: float | None = _amps("Highest current read")
    lowest_v: float | None = _volts("Lowest volts read")
    lowest_hz: float | None = number(
        "Hz", "Lowest frequency of a generator, heard or read", above=0, maximum=500, default=None
    )
    seconds: float | None = number("s", "Until up to speed", above=0, maximum=120, default=None)
    settled_a: float | None = _amps("Current just after it")
    settled_v: float | None = _volts("Volts just after it")
    instrument: str = choice("What it was read with", INSTRUMENTS, default="inrush-clamp")
    on: str = choice("Where it was clamped", CLAMPED, default="supply")
    changed: Document = given(Anything("What differed from the setup"), default={})
    trace: tuple[Any, ...] = given(
        Rows(
            "Time, amps and volts",
            None,
            (
                Number("Time", None, "s", minimum=-60, maximum=600),
                Number("Amps", None, "A", minimum=0, maximum=5000),
                Number("Volts", None, "V", minimum=0, maximum=300),
            ),
            maximum=MAX_POINTS,
        ),
        default=(),
    )


@entry_kind
@record(kw_only=True)
class RunEntry(Entry):
    """One load running."""

    kind: ClassVar[str] = "run"
    title: ClassVar[str] = "A load running"
    load: str = text("The load", maximum=60, filled=True)
    mode: str | None = choice("Mode of an air conditioner", COOLING_MODES, default=None)
    amps: float | None = _amps("Current")
    watts: float | None = number("W", "Power", minimum=0, maximum=1e6, default=None)
    va: float | None = number(
        "VA", "Apparent power, where the meter shows that", minimum=0, maximum=1e6, default=None
    )
    volts: float | None = _volts("Volts beside it")
    volts_off: float | None = _volts("Volts just before it was switched on")
    dc_a: float | None = number(
        "A", "Battery current by a battery monitor", minimum=0, maximum=5000, default=None
    )
    dc_v: float | None = number("V", "Battery volts then", minimum=0, maximum=100, default=None)
    return_c: float | None = number(
        "°C", "Air into an air conditioner", minimum=-40, maximum=60, default=None
    )
    outlet_c: float | None = number("°C", "Air out of it", minimum=-40, maximum=60, default=None)
    instrument: str = choice("What it was read with", INSTRUMENTS, default="watt-meter")
    on: str | None = choice("Where it was clamped", CLAMPED, default=None)
    changed: Document = given(Anything("What differed from the setup"), default={})


@record(kw_only=True)
class Step:
    """One step of a survey: what was on, and what the meter showed."""

    on: tuple[str, ...] = _loads("What was on", ())
    mode: str | None = choice(
        "Mode of the air conditioners among them", COOLING_MODES, default=None
    )
    amps: float | None = number("A", "Current of the supply", minimum=0, maximum=5000, default=None)
    watts: float | None = number(
        "W", "Power of the supply, where no amps are shown", minimum=0, maximum=1e6, default=None
    )
    volts: float | None = _volts("Volts beside it")


@entry_kind
@record(kw_only=True)
class SurveyEntry(Entry):
    """One thing switched on after the other."""

    kind: ClassVar[str] = "survey"
    title: ClassVar[str] = "A survey"
    instrument: str = choice("What it was read with", INSTRUMENTS, default="monitor")
    steps: tuple[Step, ...] = given(
        Many("The steps", None, Record(of=Step), minimum=1, maximum=200)
    )


@entry_kind
@record(kw_only=True)
class SupplyEntry(Entry):
    """The supply by itself."""

    kind: ClassVar[str] = "supply"
    title: ClassVar[str] = "The supply"
    volts: float | None = _volts("Volts")
    amps: float | None = _amps("Current at these volts")
    hz: float | None = number("Hz", "Frequency", above=0, maximum=500, default=None)
    tester: str | None = choice("What an outlet tester says", TESTER, default=None)


@entry_kind
@record(kw_only=True)
class NoiseEntry(Entry):
    """A sound level."""

    kind: ClassVar[str] = "noise"
    title: ClassVar[str] = "Noise"
    of_engine: ClassVar[bool] = True
    dba: float = number("dBA", "Level", minimum=10, maximum=140)
    at_m: float = number("m", "Distance", above=0, maximum=1000)
    side: str = choice("Side of the generator", ("exhaust", "beside", "away"), default="beside")
    eco: bool = flag("In eco", default=False)
    load_w: float = number("W", "Load", minimum=0, maximum=1e6, default=0.0)
    inside: bool = flag("Inside the rig", default=False)
    background_dba: float | None = number(
        "dBA", "Level with the generator off", minimum=0, maximum=140, default=None
    )


@entry_kind
@record(kw_only=True)
class FuelEntry(Entry):
    """A fill and what it lasted."""

    kind: ClassVar[str] = "fuel"
    title: ClassVar[str] = "Fuel"
    of_engine: ClassVar[bool] = True
    fuel: str = choice("Fuel", FUELS, default="gasoline")
    litres: float = number("l", "Burnt", above=0, maximum=10000)
    hours: float = number("h", "Hours it ran", above=0, maximum=10000)
    mean_w: float = number("W", "Mean load", minimum=0, maximum=1e6)
    cost: float | None = number("1", "Paid", minimum=0, maximum=1e6, default=None)
    ended: str = choice("How it ended", ("empty", "starved", "stopped"), default="stopped")


@entry_kind
@record(kw_only=True)
class EnergyEntry(Entry):
    """Energy over hours, by one's own meter and by the park's."""

    kind: ClassVar[str] = "energy"
    title: ClassVar[str] = "Energy"
    hours: float = number("h", "Hours", above=0, maximum=10000)
    kwh: float | None = number("kWh", "By one's own meter", minimum=0, maximum=1e5, default=None)
    park_kwh: float | None = number("kWh", "By the park's", minimum=0, maximum=1e5, default=None)


@entry_kind
@record(kw_only=True)
class TripEntry(Entry):
    """Something opened."""

    kind: ClassVar[str] = "trip"
    title: ClassVar[str] = "It tripped"
    where: str = text(f"What opened: {TRIPPED}", maximum=60, filled=True)
    running: tuple[str, ...] = _loads("What ran", ())
    after_s: float | None = number("s", "After so long", minimum=0, maximum=1e6, default=None)


@record(kw_only=True)
class Warmth:
    """How warm a plug was, some minutes after the load was put on."""

    minute: float = number("min", "Minutes under load", minimum=0, maximum=600)
    surface_c: float | None = number("°C", "Its outside", minimum=-40, maximum=200, default=None)
    felt: str | None = choice("What the back of a hand felt", FELT, default=None)


@entry_kind
@record(kw_only=True)
class PlugEntry(Entry):
    """A plug or connector felt while it carried known amps."""

    kind: ClassVar[str] = "plug"
    title: ClassVar[str] = "A plug felt"
    item: int = number("1", "Which part of the hook-up, from 0", minimum=0, maximum=99, whole=True)
    amps: float = number("A", "Amps through it", above=0, maximum=500)
    air_c: float = number("°C", "Air beside it, in the shade", minimum=-40, maximum=60)
    by: str = choice("What it was read with", ("infrared", "pocket", "hand"), default="infrared")
    readings: tuple[Warmth, ...] = given(
        Many("How warm it was", None, Record(of=Warmth), minimum=1, maximum=60)
    )
