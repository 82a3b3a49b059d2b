"""Follow the path from the supply to the rig's panel: what each part carries, adds and is rated
for.
"""

from __future__ import annotations

from bisect import bisect_right
from typing import Any

from ironmargin.electrics.network import Upstream, phasor
from ironmargin.record import record
from ironmargin.setup.hookup import Adapter, Cord, Guard, Outlet, Splitter, Transformer
from ironmargin.setup.model import Setup
from ironmargin.supplies.source import Breaker, Source
from ironmargin.tables import conductor_ohm_per_m, cord_ampacity_a, rows

CONTACT_OHM = {"good": 0.0, "worn": 0.02, "hot": 0.045}
"""What a contact in poor condition adds: 10 to 50 mΩ (memory)."""
COPPER_OHM_MM2_PER_M = 0.0214
"""Stranded copper at 75 °C [ohm·mm²/m]; agrees with NEC Chapter 9 Table 8 at 10 AWG."""
SHARED, PER_LEG, INPUT = "shared", "per-leg", "input"


@record
class PathPart:
    """A part of the path as the checks see it.

    Attributes:
        carries: ``shared`` (the source's one hot conductor, both legs together), ``per-leg``, or
        ``input`` (before an assisting inverter).
        rating_a: what it may carry continuously [A]; ohm: of its hot conductor [ohm]; contact_ohm:
        part of it in bad contacts.
        upstream_a: smallest breaker before it [A], or None.
        halves_neutral: its neutral is doubled (two plugs of a splitter).
    """

    item: int
    name: str
    kind: str
    carries: str
    rating_a: float
    ohm: float
    contact_ohm: float
    upstream_a: float | None
    halves_neutral: bool = False


@record
class Feed:
    """The path traced: what the panel sees, its parts, its breakers, its transformer.

    ``transient`` is ``upstream`` in the first second of a start; ``wiring`` the path alone, behind
    a supply without impedance.
    """

    upstream: Upstream
    transient: Upstream
    wiring: Upstream
    parts: tuple[PathPart, ...]
    breakers: tuple[Breaker, ...]
    transformer: Transformer | None
    guard: Guard | None
    neutral_rating_a: float


def cord_ohm_per_m(cord: Cord) -> float:
    """Resistance of one conductor of a cord [ohm/m]."""
    return (
        conductor_ohm_per_m(cord.awg)
        if cord.awg is not None
        else COPPER_OHM_MM2_PER_M / (cord.mm2 or 1.0)
    )


def cord_rating_a(cord: Cord) -> float:
    """What a cord may carry [A]: its own rating, else its ampacity (NEC Table 400.5(A)(1), or by
    mm² from memory).
    """
    if cord.rating_a is not None:
        return cord.rating_a
    if cord.awg is not None:
        return cord_ampacity_a(cord.awg)
    table = [(float(row["mm2"]), float(row["ampacity_a"])) for row in rows("cord_ampacity_mm2")]
    at = bisect_right([size for size, _ in table], cord.mm2 or 0.0)
    return table[max(at - 1, 0)][1]


def plug_legs(plug: str) -> int | None:
    """Legs a plug type brings, or None for a type not in the table (NEMA, IEC 60309)."""
    for row in rows("plugs"):
        if row["type"].lower() == plug.strip().lower():
            return int(row["legs"])
    return None


def _rating(item: Any, source: Source) -> float | None:
    if isinstance(item, Cord):
        return cord_rating_a(item)
    if isinstance(item, Guard):
        return item.rating_a or item.overload_a
    if isinstance(item, Transformer):
        return item.va / item.from_v
    return getattr(item, "rating_a", None)


def _part_name(item: Any) -> str:
    if item.name:
        return str(item.name)
    if isinstance(item, Cord):
        size = f"{item.awg} AWG" if item.awg is not None else f"{item.mm2:g} mm²"
        return f"cord {size}, {item.length_m:g} m"
    if isinstance(item, Adapter | Splitter):
        return f"{item.kind} to {item.to_type}" if item.to_type else item.kind
    if isinstance(item, Outlet) and item.type:
        return f"{item.type} outlet"
    return str(item.kind.replace("-", " "))


def trace(setup: Setup, source: Source) -> Feed:
    """Walk the path of a setup.

    A one-leg outlet or plug leaves one hot conductor; an adapter that feeds both legs ties them to
    it; a splitter takes both outlets of the post. Impedances of supply and parts add up as
    :mod:`ironmargin.electrics.network` says.
    """
    wants_two = setup.rig.service == "120/240"
    live, tied = source.conductors, False
    hot_before: complex = 0.0
    neutral: complex = 0.0
    hot_after: complex = 0.0
    breakers = list(source.breakers)
    parts: list[PathPart] = []
    transformer: Transformer | None = None
    guard: Guard | None = None
    neutral_rating = float("inf")
    limits = [b.rating_a for b in breakers] + (
        [source.continuous_a] if source.latch_k_s != float("inf") else []
    )
    if source.input_limit_a is not None:
        # An inverter/charger lives in the rig: the path lies before it, carries what it takes, and
        # leaves its output alone.
        before = source.input_capacity_a
        for at, item in enumerate(setup.hookup):
            ohm = CONTACT_OHM[item.condition] + (
                cord_ohm_per_m(item) * item.length_m if isinstance(item, Cord) else 0.0
            )
            rating = _rating(item, source)
            if rating is not None:
                parts.append(
                    PathPart(
                        at,
                        _part_name(item),
                        item.kind,
                        INPUT,
                        rating,
                        ohm,
                        CONTACT_OHM[item.condition],
                        before,
                    )
                )
    for at, item in enumerate(setup.hookup if source.input_limit_a is None else ()):
        splits = isinstance(item, Splitter)
        contact = CONTACT_OHM[item.condition]
        ohm = contact + (cord_ohm_per_m(item) * item.length_m if isinstance(item, Cord) else 0.0)
        if (
            isinstance(item, Outlet)
            and plug_legs(item.type) == 1
            and not any(h.kind == "splitter" for h in setup.hookup[at + 1 :])
        ):
            live = 1
        if isinstance(item, Adapter):
            if plug_legs(item.from_type) == 1 or item.feeds is not None:
                live = 1
            tied = wants_two and live == 1 and item.feeds != "L1"
        if splits and live == 1 and wants_two:
            tied = True
        rating = _rating(item, source)
        if rating is not None:
            carries = (
                SHARED
                if live == 1 and not (tied and not isinstance(item, Adapter | Splitter))
                else PER_LEG
            )
            upstream = min(limits) if limits else None
            parts.append(
                PathPart(
                    at, _part_name(item), item.kind, carries, rating, ohm, contact, upstream, splits
                )
            )
            if not isinstance(item, Transformer):
                neutral_rating = min(neutral_rating, rating * (2 if splits else 1))
        if tied and not isinstance(item, Adapter | Splitter):
            hot_after += ohm
        else:
            hot_before += ohm
        neutral += ohm / 2 if splits else ohm
        if isinstance(item, Outlet) and item.breaker_a is not None:
            breakers.append(Breaker(f"outlet {at}", f"{_part_name(item)} breaker", item.breaker_a))
            limits.append(item.breaker_a)
        transformer = item if isinstance(item, Transformer) else transformer
        guard = item if isinstance(item, Guard) else guard
    breakers.append(
        Breaker(
            "main",
            "main breaker",
            setup.rig.main_a,
            "IEC60898-C" if setup.rig.service == "230" else "UL489",
        )
    )
    legs = 2 if wants_two and (live == 2 or tied) else 1
    whole = transformer is not None and setup.rig.service == "230"
    turns = transformer.to_v / transformer.from_v if transformer is not None and whole else 1.0

    def seen(hot: complex, neutral: complex) -> Upstream:
        e1 = complex(source.leg_v * turns)
        extra = turns**2
        series = transformer_ohm(transformer) if transformer is not None and whole else 0.0
        if legs == 1:
            return Upstream(
                e1, 0j, (hot + hot_after + neutral) * extra + series, 0j, 1 + 0j, 1, False
            )
        if tied:
            shared = hot + neutral
            return Upstream(e1, e1, shared + hot_after, shared, shared + hot_after, 2, True)
        e2 = phasor(source.leg_v, -source.leg_deg)
        return Upstream(
            e1, e2, hot + hot_after + neutral, neutral, hot + hot_after + neutral, 2, False
        )

    settled_ohm = hot_before + source.hot_ohm
    whole_neutral = neutral + source.neutral_ohm
    return Feed(
        seen(settled_ohm, whole_neutral),
        seen(settled_ohm + source.transient_ohm, whole_neutral),
        seen(hot_before, neutral),
        tuple(parts),
        tuple(breakers),
        transformer,
        guard,
        neutral_rating,
    )


def transformer_ohm(item: Transformer) -> complex:
    """Series impedance of a transformer seen at its output, a third resistive (memory) [ohm]."""
    magnitude = item.impedance_pct / 100.0 * item.to_v**2 / item.va
    return complex(0.33 * magnitude, 0.944 * magnitude)
