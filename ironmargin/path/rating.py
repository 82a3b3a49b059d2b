"""What a part of the path may carry for hours: the least of three ratings.

The rating somebody entered, the rating of its plug type (NEMA WD 6, IEC 60309, national household
plugs) and the ampacity of its conductor (NEC Table 400.5(A)(1), IEC 60364-5-52). Both ampacity
tables assume 30 °C of air: on a hotter day the conductor carries less (NEC Table 310.15(B)(1), IEC
60364-5-52 Table B.52.14), and much less while it is still coiled up. A listed cord carrying its
table ampacity on a hot day is used as listed, so the table value is the nominal limit and the
corrected value its early edge. Ratings are for hours; a start of a second heats nothing.
"""

from __future__ import annotations

from bisect import bisect_right
from functools import cache

from ironmargin.record import record
from ironmargin.setup.hookup import Adapter, Cord, Guard, HookupItem, Splitter, Transformer
from ironmargin.tables import cord_ampacity_a, rows

COILED = 0.5
"""What a cord on its drum carries over the same cord laid out (common practice: 0.3 to 0.6)."""
MIN_CORRECTION = 0.29


@record
class Rating:
    """A part's ratings [A]; what is not known is None.

    Attributes:
        entered_a: as typed or printed.
        plug_a: of its weaker plug type.
        conductor_a: ampacity of its conductor at 30 °C.
        here_a: the same at this temperature, coiled or not.
        coiled: whether it is still coiled up.
    """

    entered_a: float | None
    plug_a: float | None
    conductor_a: float | None
    here_a: float | None
    coiled: bool = False

    @property
    def here(self) -> str:
        """What lowers its conductor's ampacity, in words."""
        return "while it is coiled up" if self.coiled else "in this heat"

    @property
    def nominal_a(self) -> float:
        """The least of the three [A]."""
        return min(a for a in (self.entered_a, self.plug_a, self.conductor_a) if a is not None)

    @property
    def early_a(self) -> float:
        """The least of the three with the conductor corrected for heat and coil [A]."""
        return min(a for a in (self.entered_a, self.plug_a, self.here_a) if a is not None)

    @property
    def set_by(self) -> str:
        """Which of the three is the least, in words."""
        if self.as_entered:
            return "its rating"
        return "its plug" if self.nominal_a == self.plug_a else "its conductor"

    @property
    def as_entered(self) -> bool:
        """Whether the entered rating is the least."""
        return self.nominal_a == self.entered_a

    @property
    def overstated(self) -> bool:
        """Whether the entered rating is above what plug or conductor allow."""
        return self.entered_a is not None and self.entered_a > self.nominal_a


@cache
def plug_rating_a(plug: str) -> float | None:
    """Rating of a plug type [A], or None for a type that is not in the table.

    Args:
        plug: its type, in capitals or not.

    Returns:
        Amps [A].
    """
    for row in rows("plugs"):
        if row["type"].lower() == plug.strip().lower():
            return float(row["rating_a"])
    return None


@cache
def ambient_correction(conductor: str, outdoor_c: float) -> float:
    """Ampacity on a day of ``outdoor_c`` over that at 30 °C [1].

    Args:
        conductor: ``awg`` (NEC, 60 °C column) or ``mm2`` (IEC, PVC).
        outdoor_c: air [°C].

    Returns:
        The factor of the table's row [1].
    """
    for row in rows("ambient_correction"):
        if row["conductor"] == conductor and outdoor_c <= float(row["up_to_c"]):
            return float(row["factor"])
    return MIN_CORRECTION


def conductor_ampacity_a(cord: Cord) -> float:
    """Ampacity of a cord's conductor at 30 °C [A] (NEC Table 400.5(A)(1); mm² from memory).

    Args:
        cord: with its size in AWG or mm².

    Returns:
        Amps [A].
    """
    if cord.awg is not None:
        return cord_ampacity_a(cord.awg)
    table = [(float(row["mm2"]), float(row["ampacity_a"])) for row in rows("cord_ampacity_mm2")]
    at = bisect_right([size for size, _ in table], cord.mm2 or 0.0)
    return table[max(at - 1, 0)][1]


def _plugs_of(item: HookupItem) -> tuple[str, ...]:
    """The plug types a part has."""
    if isinstance(item, Adapter):
        return item.from_type, item.to_type
    if isinstance(item, Splitter):
        return item.from_types
    return (getattr(item, "type", ""),) if not isinstance(item, Transformer) else ()


def rating_of(item: HookupItem, outdoor_c: float) -> Rating | None:
    """The ratings of a part on a day of ``outdoor_c`` [°C]; None where nothing is known of it.

    Args:
        item: a part of the path.
        outdoor_c: air [°C].

    Returns:
        Amps by what is stated, by plugs, by conductor, and here [A].
    """
    if isinstance(item, Transformer):
        return Rating(item.va / item.from_v, None, None, None)
    plugs = [a for plug in _plugs_of(item) if (a := plug_rating_a(plug)) is not None]
    if isinstance(item, Cord):
        ampacity = conductor_ampacity_a(item)
        kind = "awg" if item.awg is not None else "mm2"
        here = ampacity * ambient_correction(kind, outdoor_c) * (COILED if item.coiled else 1.0)
        return Rating(item.rating_a, min(plugs, default=None), ampacity, here, item.coiled)
    entered = item.rating_a if isinstance(item, Guard) else getattr(item, "rating_a", None)
    if entered is None and not plugs:
        return None
    return Rating(entered, min(plugs, default=None), None, None)
