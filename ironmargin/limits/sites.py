"""Where a limit acts, what it is about, and what happens beyond it."""

from __future__ import annotations

from enum import Enum
from typing import assert_never

from ironmargin.record import record


class Quantity(Enum):
    """What a limit limits."""

    AMPS_FOR_HOURS = "amps for hours"
    AMPS_FOR_A_TIME = "amps for a time"
    AMPS_AT_ONCE = "amps at once"
    VOLTS_OFF = "volts off nominal"
    VOLTS = "volts"
    CONTACT_WATTS = "watts in a contact"
    HOURS = "hours"
    SOURCE_STRENGTH = "strength of the supply"
    CHANCE = "chance of a start"
    RULE = "a rule"
    SOUND = "sound level"


class Consequence(Enum):
    """What happens beyond a limit."""

    OPENS = "opens"
    BURNS = "burns"
    DROPS_OUT = "drops out"
    STALLS = "stalls"
    WEARS = "wears"
    VIOLATES = "violates code"
    RUNS_OUT = "runs out"
    DISTURBS = "disturbs"

    @property
    def words(self) -> str:
        """What happens, as the end of a sentence that begins with the place."""
        match self:
            case Consequence.OPENS:
                return "opens"
            case Consequence.BURNS:
                return "can burn, and nothing opens in time"
            case Consequence.DROPS_OUT:
                return "drops out"
            case Consequence.STALLS:
                return "stalls"
            case Consequence.WEARS:
                return "wears out early"
            case Consequence.VIOLATES:
                return "violates code"
            case Consequence.RUNS_OUT:
                return "runs out"
            case Consequence.DISTURBS:
                return "disturbs the neighbors"
        assert_never(self)


class Site(Enum):
    """Kinds of places a limit acts at, in the order in which current flows and time passes."""

    RULE = "rule"
    SERVICE = "service"
    SUPPLY = "supply"
    INPUT = "input"
    SUPPLY_BREAKER = "breaker"
    PART = "part"
    GUARD = "guard"
    MAIN = "main"
    LEG = "leg"
    CIRCUIT = "circuit"
    NEUTRAL = "neutral"
    LOAD_START = "start"
    TOGETHER = "coincidence"
    LOAD = "load"
    VOLTS = "volts"
    TIME = "hours"


@record
class Place:
    """Where a limit acts.

    Attributes:
        site: what kind of place.
        ident: id of its load or circuit, or the leg's name.
        item: its number in the path, where it is a part or guard.
    """

    site: Site
    ident: str = ""
    item: int = -1

    @property
    def where(self) -> str:
        """The place as the open format writes it. Nothing reads it back."""
        match self.site:
            case Site.PART:
                return f"hookup[{self.item}]"
            case Site.CIRCUIT:
                return f"circuit {self.ident}"
            case Site.NEUTRAL:
                return "N"
            case Site.TIME:
                return "supply"
            case Site.TOGETHER:
                return "all"
            case Site.SERVICE | Site.LEG | Site.LOAD_START | Site.LOAD | Site.VOLTS:
                return self.ident
            case Site.RULE:
                return self.ident or "rig"
            case Site.SUPPLY | Site.INPUT | Site.SUPPLY_BREAKER | Site.MAIN | Site.GUARD:
                return str(self.site.value)
        assert_never(self.site)
