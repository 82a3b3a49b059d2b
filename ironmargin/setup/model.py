"""A setup: one supply, one path, one rig, the conditions, what must run, and by which rules to
judge.
"""

from __future__ import annotations

from ironmargin.document import Document
from ironmargin.record import record
from ironmargin.setup.fields import choice, flag, given, learned, number, text
from ironmargin.setup.hookup import BREAKER_TRIPS, HOOKUP_KINDS, HookupItem
from ironmargin.setup.loads import COOLING_MODES, LEGS, Load, load_kinds
from ironmargin.setup.post import BREAKER_STANDARDS
from ironmargin.setup.records import Kinds, Many, Record
from ironmargin.setup.spec import Anything
from ironmargin.setup.supply import Supply, supply_kinds

FORMAT = "iron-margin/setup"
RIG_KINDS = ("vehicle", "boat", "building", "stall")
INSULATIONS = ("poor", "fair", "good")


@record(kw_only=True)
class Conditions:
    """Where and when."""

    outdoor_c: float = number("°C", "Outdoor temperature", minimum=-40, maximum=60, default=35.0)
    altitude_m: float = number("m", "Height above the sea", minimum=-430, maximum=6000, default=0.0)
    humidity_pct: float = number(
        "%",
        "Relative humidity; engines lose power in damp air",
        minimum=0,
        maximum=100,
        default=60.0,
    )
    target_hours: float | None = number(
        "h", "How long it must hold", above=0, maximum=8760, default=None
    )


@record(kw_only=True)
class Prices:
    """What energy costs; what is not given is not counted."""

    gasoline_per_l: float | None = number("1/l", "Gasoline", minimum=0, maximum=1000, default=None)
    diesel_per_l: float | None = number("1/l", "Diesel", minimum=0, maximum=1000, default=None)
    propane_per_kg: float | None = number("1/kg", "Propane", minimum=0, maximum=1000, default=None)
    propane_per_exchange: float | None = number(
        "1", "One cylinder exchanged for a full one", minimum=0, maximum=10000, default=None
    )
    propane_per_fill: float | None = number(
        "1", "One's own cylinder filled", minimum=0, maximum=10000, default=None
    )
    natural_gas_per_kwh: float | None = number(
        "1/kWh", "Natural gas, by energy", minimum=0, maximum=1000, default=None
    )
    shore_per_kwh: float | None = number(
        "1/kWh", "Electricity from the post", minimum=0, maximum=1000, default=None
    )


@record(kw_only=True)
class Site:
    """What the place asks for."""

    quiet_from_h: float | None = number(
        "h", "Quiet hours begin, on the 24 h clock", minimum=0, maximum=24, default=None
    )
    quiet_to_h: float | None = number("h", "Quiet hours end", minimum=0, maximum=24, default=None)
    starts_at_h: float = number(
        "h", "When the evening begins, on the 24 h clock", minimum=0, maximum=24, default=18.0
    )
    neighbour_m: float = number(
        "m", "How far the nearest ear is", above=0, maximum=5000, default=15.24
    )
    limit_dba: float = number("dBA", "Level allowed there", minimum=20, maximum=120, default=60.0)


@record(kw_only=True)
class Circuit:
    """One branch breaker of the rig's panel."""

    id: str = text("Short name", maximum=60, filled=True)
    name: str = text("What it feeds", default="", maximum=120)
    breaker_a: float = number("A", "Breaker rating", above=0, maximum=400)
    leg: str = choice("Leg it hangs on", LEGS, default="L1")
    breaker_standard: str | None = choice(
        "Standard of its breaker; UL489, on a 230 V rig IEC60898-B, unless said",
        BREAKER_STANDARDS,
        default=None,
    )
    breaker_trips: str = choice(
        "How its breaker trips against its curve", BREAKER_TRIPS, default="on-curve"
    )


@record(kw_only=True)
class Room:
    """The space its air conditioners cool together."""

    area_m2: float = number("m2", "Floor area", above=1, maximum=2000, default=22.0)
    insulation: str = choice("How well it is insulated", INSULATIONS, default="fair")
    target_c: float = number("°C", "Thermostat setting", minimum=10, maximum=35, default=24.0)


@record(kw_only=True)
class Lockout:
    """Two loads that never run together: an interlock, a changeover relay, or a habit kept."""

    first: str = text("Id of one load", maximum=60, filled=True)
    second: str = text("Id of the other", maximum=60, filled=True)


@record(kw_only=True)
class DcUse:
    """Something that runs off 12 V."""

    name: str = text("What you call it", maximum=80, filled=True)
    amps: float = number("A", "What it draws at 12 V", minimum=0, maximum=1000)
    hours: float = number("h", "Hours of a night it runs", minimum=0, maximum=24)


@record(kw_only=True)
class DcSide:
    """The 12 V side: what hangs on it, its battery, and the converter that charges it."""

    battery_ah: float | None = number(
        "Ah", "Battery of the 12 V side", above=0, maximum=100000, default=None
    )
    volts: float = number("V", "Its volts", minimum=6, maximum=60, default=12.8)
    usable_fraction: float = number(
        "1", "Share of it that may be used: half of a lead one", above=0, maximum=1, default=0.5
    )
    charger: str | None = text("Id of the charger that feeds it", default=None, maximum=60)
    full: bool = flag("The battery is full before the start", default=False)
    uses: tuple[DcUse, ...] = given(
        Many("What runs off it", None, Record(of=DcUse), maximum=60), default=()
    )


@record(kw_only=True)
class Rig:
    """A trailer, van or house: its main, its circuits and its loads."""

    name: str = text("What you call it", maximum=120, filled=True)
    what: str | None = choice("What it is", RIG_KINDS, default=None)
    service: str = choice("Service it is built for", ("120", "120/240", "230"), default="120")
    main_a: float = number("A", "Main breaker", above=0, maximum=400)
    main_trips: str = choice(
        "How the main breaker trips against its curve", BREAKER_TRIPS, default="on-curve"
    )
    room: Room | None = given(
        Record("The space its air conditioners cool", None, Room), default=None
    )
    dc: DcSide | None = given(Record("Its 12 V side", None, DcSide), default=None)
    circuits: tuple[Circuit, ...] = given(
        Many("Branch breakers", None, Record(of=Circuit), maximum=60), default=()
    )
    lockouts: tuple[Lockout, ...] = given(
        Many("Loads that never run together, in pairs", None, Record(of=Lockout), maximum=6),
        default=(),
    )
    loads: tuple[Load, ...] = given(Many("Loads", None, Kinds(of=load_kinds), maximum=500))
    x: Document = learned()


@record(kw_only=True)
class Wanted:
    """A load that must be able to run, and in which mode."""

    load: str = text("The load's id", maximum=60, filled=True)
    mode: str | None = choice("Mode of an air conditioner", COOLING_MODES, default=None)


@record(kw_only=True)
class Rules:
    """How to judge."""

    trip_criterion: str = choice(
        "May a start exceed the breaker rating for a moment?",
        ("time-current", "peak"),
        default="time-current",
    )
    continuous_fraction: float = number(
        "1",
        "Share of a breaker rating that loads of three hours and more may use",
        above=0,
        maximum=1,
        default=0.8,
    )
    thin_below: float = number(
        "1", "A margin below this is thin", minimum=0, maximum=0.9, default=0.15
    )
    trials: int = number(
        "1", "Trials of each start", minimum=0, maximum=20000, default=1000, whole=True
    )
    seed: int = number(
        "1", "Seed of the trials", minimum=0, maximum=2**31 - 1, default=1, whole=True
    )
    round_up: bool = flag(
        "Cautious rule: count every appliance of 600 W or more that was not measured as 15 A",
        default=False,
    )


@record(kw_only=True)
class Setup:
    """One question to the core."""

    format: str = choice("Always iron-margin/setup", (FORMAT,), default=FORMAT)
    version: int = number("1", "Version of the format", minimum=1, maximum=1, default=1, whole=True)
    name: str = text("What you call it", maximum=200, filled=True)
    notes: str = text("Notes", default="", maximum=5000)
    conditions: Conditions = given(Record("Where and when", None, Conditions), default=Conditions())
    supply: Supply = given(Kinds("What feeds the rig", None, supply_kinds))
    hookup: tuple[HookupItem, ...] = given(
        Many(
            "From the supply to the rig, in order", None, Kinds(of=lambda: HOOKUP_KINDS), maximum=30
        ),
        default=(),
    )
    rig: Rig = given(Record("The rig", None, Rig))
    wanted: tuple[Wanted, ...] = given(
        Many("What must be able to run together", None, Record(of=Wanted), maximum=500), default=()
    )
    prices: Prices = given(Record("What energy costs", None, Prices), default=Prices())
    site: Site = given(Record("What the place asks for", None, Site), default=Site())
    rules: Rules = given(Record("How to judge", None, Rules), default=Rules())
    x: Document = given(Anything("Kept and ignored"), default={})
