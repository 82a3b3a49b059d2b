"""What lies between supply and rig: one dataclass per kind of path part."""

from __future__ import annotations

from typing import ClassVar, get_args

from ironmargin.record import record
from ironmargin.setup.fields import choice, flag, given, number, text
from ironmargin.setup.records import Many
from ironmargin.setup.spec import Flag, Text

CONDITIONS_OF_PARTS = ("good", "worn", "hot")
BREAKER_TRIPS = ("on-curve", "early", "late")
"""How a breaker trips against the curve of its standard: a worn one drifts either way."""


@record(kw_only=True)
class Part:
    """Common to every part of the path."""

    name: str = text("What you call it", default="", maximum=120)
    condition: str = choice("Condition of its contacts", CONDITIONS_OF_PARTS, default="good")


@record(kw_only=True)
class Outlet(Part):
    """An outlet."""

    kind: ClassVar[str] = "outlet"
    type: str = text("Outlet type, as TT-30", default="", maximum=20)
    rating_a: float = number("A", "Rating", above=0, maximum=400)
    breaker_a: float | None = number("A", "Its own breaker", above=0, maximum=400, default=None)
    breaker_trips: str = choice(
        "How that breaker trips against its curve", BREAKER_TRIPS, default="on-curve"
    )


@record(kw_only=True)
class Adapter(Part):
    """An adapter ("dog bone")."""

    kind: ClassVar[str] = "adapter"
    from_type: str = text("Plug", default="", maximum=20, key="from")
    to_type: str = text("Socket", default="", maximum=20, key="to")
    rating_a: float = number("A", "Rating of its weaker end", above=0, maximum=400)
    feeds: str | None = choice(
        "Does one hot conductor feed both legs, or only L1", ("both-legs", "L1"), default=None
    )


@record(kw_only=True)
class Splitter(Part):
    """Joins two outlets into one."""

    kind: ClassVar[str] = "splitter"
    from_types: tuple[str, ...] = given(
        Many("The two plugs", "from", Text(maximum=20), minimum=2, maximum=2), default=("", "")
    )
    to_type: str = text("Socket", default="", maximum=20, key="to")
    rating_a: float = number("A", "Rating of each plug", above=0, maximum=400)


@record(kw_only=True)
class Cord(Part):
    """A length of flexible cord or fixed cable."""

    kind: ClassVar[str] = "cord"
    awg: int | None = number(
        "AWG", "Conductor size", minimum=4, maximum=16, whole=True, default=None
    )
    mm2: float | None = number(
        "mm2", "Conductor cross-section", above=0.2, maximum=120, default=None
    )
    length_m: float = number("m", "Length", above=0, maximum=500)
    rating_a: float | None = number(
        "A", "Rating; otherwise the cord's ampacity", above=0, maximum=400, default=None
    )
    type: str = text("Plug type on its ends, as 5-15", default="", maximum=20)
    coiled: bool = flag("Still coiled up or on a drum, so that it cannot shed heat", default=False)


@record(kw_only=True)
class Guard(Part):
    """A surge and voltage guard at the post."""

    kind: ClassVar[str] = "guard"
    low_v: float = number("V", "Opens below", minimum=80, maximum=250, default=102.0)
    high_v: float = number("V", "Opens above", minimum=100, maximum=280, default=140.0)
    overload_a: float | None = number(
        "A", "Opens above this current", above=0, maximum=400, default=None
    )
    delay_s: float = number(
        "s", "Waits before it closes again", minimum=0, maximum=3600, default=150.0
    )
    rating_a: float | None = number("A", "Rating", above=0, maximum=400, default=None)
    open_ground: bool | None = given(
        Flag("Refuses a supply whose neutral is not bonded to ground; most do"), default=None
    )


@record(kw_only=True)
class InlineSoftStart(Part):
    """A soft starter for the whole rig, in the cord."""

    kind: ClassVar[str] = "inline-soft-start"
    fraction: float = number(
        "1", "Fraction of locked-rotor amps it lets through", above=0.1, maximum=1, default=0.5
    )
    rating_a: float | None = number("A", "Rating", above=0, maximum=400, default=None)


@record(kw_only=True)
class Transformer(Part):
    """A step-up transformer for the loads at its output voltage."""

    kind: ClassVar[str] = "transformer"
    type: str = choice("Two windings or one tapped", ("isolation", "auto"), default="isolation")
    va: float = number("VA", "Rating", above=0, maximum=1e6)
    from_v: float = number("V", "Input", minimum=100, maximum=250, default=120.0)
    to_v: float = number("V", "Output", minimum=100, maximum=250, default=240.0)
    no_load_w: float = number("W", "No-load loss", minimum=0, maximum=1e4, default=0.0)
    no_load_va: float = number(
        "VA", "No-load volt-amperes, mostly reactive", minimum=0, maximum=1e5, default=0.0
    )
    impedance_pct: float = number("%", "Series impedance", minimum=0, maximum=20, default=4.0)
    neutral: str | None = choice(
        "Its neutral: derived anew (and then bonded once), or passed through",
        ("derived", "passed-through"),
        default=None,
    )
    permanent: bool = flag(
        "Built in, so that it is switched on before everything it feeds", default=True
    )


@record(kw_only=True)
class Inlet(Part):
    """The rig's or house's inlet."""

    kind: ClassVar[str] = "inlet"
    rating_a: float = number("A", "Rating", above=0, maximum=400)
    type: str = text("Plug type, as L14-30", default="", maximum=20)


@record(kw_only=True)
class Transfer(Part):
    """Interlock or transfer switch."""

    kind: ClassVar[str] = "transfer"
    type: str = choice("Kind of transfer gear", ("interlock", "switch"), default="interlock")
    switched_neutral: bool = flag("It switches the neutral, too", default=False)
    rating_a: float | None = number("A", "Rating", above=0, maximum=400, default=None)


@record(kw_only=True)
class LoadManager(Part):
    """A load manager: sheds loads by priority when the amps of a leg are short, and lets them come
    back.
    """

    kind: ClassVar[str] = "load-manager"
    limit_a: float = number("A", "Sheds above this current of a leg", above=0, maximum=400)
    delay_s: float = number("s", "Waits before it sheds", minimum=0, maximum=600, default=2.0)
    restore_s: float = number(
        "s", "Keeps a load off for at least so long", minimum=0, maximum=7200, default=300.0
    )
    rating_a: float | None = number("A", "Rating", above=0, maximum=400, default=None)


HookupItem = (
    Outlet
    | Adapter
    | Splitter
    | Cord
    | Guard
    | InlineSoftStart
    | Transformer
    | Inlet
    | Transfer
    | LoadManager
)
HOOKUP_KINDS: dict[str, type[HookupItem]] = {cls.kind: cls for cls in get_args(HookupItem)}
