"""Follow the path from the supply to the rig's panel: what each part carries, adds and is rated
for.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from ironmargin.electrics.network import Upstream, phasor
from ironmargin.path.rating import Rating, rating_of
from ironmargin.record import record
from ironmargin.setup.hookup import Adapter, Cord, Guard, HookupItem, Outlet, Splitter, Transformer
from ironmargin.setup.model import Setup
from ironmargin.supplies.source import Breaker, Source
from ironmargin.tables import FOOT_M, conductor_ohm_per_m, rows

CONTACT_OHM = {"good": 0.0, "worn": 0.02, "hot": 0.045}
"""What a contact in poor condition adds: 10 to 50 mΩ (memory)."""
COPPER_OHM_MM2_PER_M = 0.0214
"""Stranded copper at 75 °C [ohm·mm²/m]; agrees with NEC Chapter 9 Table 8 at 10 AWG."""
SHARED, PER_LEG, INPUT = "shared", "per-leg", "input"
RESISTIVE_SHARE = 0.33
"""Resistive part of a small transformer's impedance (from memory: a third)."""


@record
class PathPart:
    """A part of the path as the checks see it.

    Attributes:
        carries: ``shared`` (the source's one hot conductor, both legs together), ``per-leg``, or
            ``input`` (before an assisting inverter).
        rating: what it may carry for hours, the least of three.
        ohm: of its hot conductor [ohm].
        contact_ohm: part of it in bad contacts.
        condition: of those contacts.
        upstream_a: smallest breaker before it [A], or None.
        halves_neutral: its neutral is doubled (two plugs of a splitter).
    """

    item: int
    name: str
    kind: str
    carries: str
    rating: Rating
    ohm: float
    contact_ohm: float
    upstream_a: float | None
    halves_neutral: bool = False
    condition: str = "good"

    @property
    def rating_a(self) -> float:
        """What it may carry for hours [A]."""
        return self.rating.nominal_a


@record
class GuardPoint:
    """A guard and where it is installed.

    Attributes:
        item: its place in the path.
        after: impedances z11, z12, z22 of the path behind it, seen at the panel [ohm].
        turns: panel volts over its own, where a transformer lies between [1].
        at_input: it stands before an inverter/charger, on the input.
    """

    item: int
    guard: Guard
    after: tuple[complex, complex, complex]
    turns: float
    at_input: bool


@record
class Feed:
    """The path traced: what the panel sees, its parts, its breakers, its transformer.

    ``transient`` is ``upstream`` in the first second of a start; ``wiring`` the path alone, behind
    a supply without impedance; ``input_ohm`` the path before an inverter/charger, hot and neutral
    [ohm].
    """

    upstream: Upstream
    transient: Upstream
    wiring: Upstream
    parts: tuple[PathPart, ...]
    breakers: tuple[Breaker, ...]
    transformer: Transformer | None
    guards: tuple[GuardPoint, ...]
    neutral_rating_a: float
    input_ohm: complex

    @property
    def guard(self) -> Guard | None:
        """The guard nearest the panel, or None."""
        return self.guards[-1].guard if self.guards else None


def cord_ohm_per_m(cord: Cord) -> float:
    """Resistance of one conductor of a cord [ohm/m].

    Args:
        cord: with its size in AWG or mm².

    Returns:
        Ohms a meter [ohm/m].
    """
    return (
        conductor_ohm_per_m(cord.awg)
        if cord.awg is not None
        else COPPER_OHM_MM2_PER_M / (cord.mm2 or 1.0)
    )


def plug_legs(plug: str) -> int | None:
    """Legs a plug type brings, or None for a type not in the table (NEMA, IEC 60309).

    Args:
        plug: its type, in capitals or not.

    Returns:
        1 or 2.
    """
    for row in rows("plugs"):
        if row["type"].lower() == plug.strip().lower():
            return int(row["legs"])
    return None


def part_ohm(item: HookupItem) -> float:
    """Resistance of one conductor of a part, its contacts included [ohm].

    Args:
        item: a part of the path.

    Returns:
        Ohms [ohm].
    """
    along = cord_ohm_per_m(item) * item.length_m if isinstance(item, Cord) else 0.0
    return CONTACT_OHM[item.condition] + along


def part_name(item: HookupItem) -> str:
    """What a part of the path is called: its own name, or its size and kind. A cord sized in AWG
    is sold by the foot, one in mm² by the metre.

    Args:
        item: a part of the path.

    Returns:
        A name.
    """
    if item.name:
        return str(item.name)
    if isinstance(item, Cord):
        if item.awg is not None:
            return f"cord {item.awg} AWG, {item.length_m / FOOT_M:.0f} ft"
        return f"cord {item.mm2:g} mm², {item.length_m:g} m"
    if isinstance(item, Adapter | Splitter):
        return f"{item.kind} to {item.to_type}" if item.to_type else item.kind
    if isinstance(item, Outlet) and item.type:
        return f"{item.type} outlet"
    return str(item.kind.replace("-", " "))


def trace(setup: Setup, source: Source) -> Feed:
    """Walk the path of a setup.

    A one-leg outlet or plug leaves one hot conductor; an adapter that feeds both legs ties them to
    it; a splitter takes both outlets of the post. Impedances of supply and parts add up as
    :mod:`ironmargin.electrics.network` says. An inverter/charger lives in the rig: the path lies
    before it and carries what it takes.

    Args:
        setup: supply, path, rig and rules of the question.
        source: the supply in volts, ohms and limits.

    Returns:
        The parts from supply to panel, with ratings and impedances.
    """
    return _Walk(setup, source).feed()


class _Walk:
    """One walk from the supply to the panel, collecting parts, impedances, breakers and guards."""

    def __init__(self, setup: Setup, source: Source) -> None:
        self.setup, self.source = setup, source
        self.wants_two = setup.rig.service == "120/240"
        self.live, self.tied = source.conductors, False
        self.before = self.after = self.neutral = 0j
        self.input_ohm = 0j
        self.breakers = list(source.breakers)
        self.parts: list[PathPart] = []
        self.transformer: Transformer | None = None
        self.neutral_rating = float("inf")
        self.limits = [b.rating_a for b in self.breakers]
        if source.lockout_k_s != float("inf"):
            self.limits.append(source.continuous_a)
        self.found_guards: list[tuple[int, Guard, complex, complex, complex, bool]] = []

    def feed(self) -> Feed:
        """The whole path."""
        taken_from = self.source.input
        for at, item in enumerate(self.setup.hookup):
            if taken_from is not None:
                self._before_inverter(at, item)
            else:
                self._pass(at, item)
        rig = self.setup.rig
        standard = "IEC60898-C" if rig.service == "230" else "UL489"
        self.breakers.append(Breaker("main", "main breaker", rig.main_a, standard, rig.main_trips))
        source = self.source
        settled = self.before + source.hot_ohm
        whole_neutral = self.neutral + source.neutral_ohm
        return Feed(
            self._seen(settled, whole_neutral, self.after),
            self._seen(settled + source.transient_ohm, whole_neutral, self.after),
            self._seen(self.before, self.neutral, self.after),
            tuple(self.parts),
            tuple(self.breakers),
            self.transformer,
            tuple(self._guard_points()),
            self.neutral_rating,
            self.input_ohm,
        )

    def _before_inverter(self, at: int, item: HookupItem) -> None:
        """A part on the input side of an inverter/charger carries what it takes."""
        taken_from = self.source.input
        assert taken_from is not None
        self.input_ohm += 2.0 * part_ohm(item)
        if isinstance(item, Guard):
            self.found_guards.append((at, item, 0j, 0j, 0j, False))
        rating = rating_of(item, self.setup.conditions.outdoor_c)
        if rating is None:
            return
        protects = [b.rating_a for b in taken_from.breakers] + [taken_from.continuous_a]
        self.parts.append(
            PathPart(
                at,
                part_name(item),
                item.kind,
                INPUT,
                rating,
                part_ohm(item),
                CONTACT_OHM[item.condition],
                min(protects),
                condition=item.condition,
            )
        )

    def _pass(self, at: int, item: HookupItem) -> None:
        """A part between the supply and the panel."""
        splits = isinstance(item, Splitter)
        ohm = part_ohm(item)
        self._tie(at, item)
        shares = self.tied and not isinstance(item, Adapter | Splitter)
        rating = rating_of(item, self.setup.conditions.outdoor_c)
        if rating is not None:
            self.parts.append(
                PathPart(
                    at,
                    part_name(item),
                    item.kind,
                    SHARED if self.live == 1 and not shares else PER_LEG,
                    rating,
                    ohm,
                    CONTACT_OHM[item.condition],
                    min(self.limits) if self.limits else None,
                    splits,
                    item.condition,
                )
            )
            if not isinstance(item, Transformer):
                self.neutral_rating = min(
                    self.neutral_rating, rating.nominal_a * (2 if splits else 1)
                )
        if shares:
            self.after += ohm
        else:
            self.before += ohm
        self.neutral += ohm / 2 if splits else ohm
        if isinstance(item, Outlet) and item.breaker_a is not None:
            name = f"{part_name(item)} breaker"
            self.breakers.append(
                Breaker(f"outlet {at}", name, item.breaker_a, trips=item.breaker_trips)
            )
            self.limits.append(item.breaker_a)
        if isinstance(item, Transformer):
            self.transformer = item
        if isinstance(item, Guard):
            self.found_guards.append(
                (at, item, self.before, self.neutral, self.after, self.transformer is None)
            )

    def _tie(self, at: int, item: HookupItem) -> None:
        """How many hot conductors are left behind a part, and whether both legs hang on one."""
        later = self.setup.hookup[at + 1 :]
        if (
            isinstance(item, Outlet)
            and plug_legs(item.type) == 1
            and not any(isinstance(h, Splitter) for h in later)
        ):
            self.live = 1
        if isinstance(item, Adapter):
            if plug_legs(item.from_type) == 1 or item.feeds is not None:
                self.live = 1
            self.tied = self.wants_two and self.live == 1 and item.feeds != "L1"
        if isinstance(item, Splitter) and self.live == 1 and self.wants_two:
            self.tied = True

    @property
    def _turns(self) -> float:
        """Panel volts over source volts: 1 unless a transformer feeds the whole rig."""
        if self.transformer is None or self.setup.rig.service != "230":
            return 1.0
        return self.transformer.to_v / self.transformer.from_v

    def _guard_points(self) -> Iterator[GuardPoint]:
        for at, guard, before, neutral, after, primary in self.found_guards:
            behind = self._seen(
                self.before - before, self.neutral - neutral, self.after - after, series=primary
            )
            turns = self._turns if primary else 1.0
            impedances = (behind.z11, behind.z12, behind.z22)
            yield GuardPoint(at, guard, impedances, turns, self.source.input is not None)

    def _seen(
        self, hot: complex, neutral: complex, hot_after: complex, *, series: bool = True
    ) -> Upstream:
        """The path as the panel sees it, with so much impedance in it."""
        source = self.source
        legs = 2 if self.wants_two and (self.live == 2 or self.tied) else 1
        whole = self.transformer if self.setup.rig.service == "230" else None
        through = transformer_ohm(whole) if whole is not None and series else 0.0
        e1 = complex(source.leg_v * self._turns)
        if legs == 1:
            z = (hot + hot_after + neutral) * self._turns**2 + through
            return Upstream(e1, 0j, z, 0j, 1 + 0j, 1, False)
        if self.tied:
            shared = hot + neutral
            return Upstream(e1, e1, shared + hot_after, shared, shared + hot_after, 2, True)
        e2 = phasor(source.leg_v, -source.leg_deg)
        z = hot + hot_after + neutral
        return Upstream(e1, e2, z, neutral, z, 2, False)


def transformer_ohm(item: Transformer) -> complex:
    """Series impedance of a transformer seen at its output, a third resistive (memory) [ohm].

    Args:
        item: the transformer.

    Returns:
        Impedance [ohm].
    """
    magnitude = item.impedance_pct / 100.0 * item.to_v**2 / item.va
    return complex(RESISTIVE_SHARE * magnitude, math.sqrt(1.0 - RESISTIVE_SHARE**2) * magnitude)
