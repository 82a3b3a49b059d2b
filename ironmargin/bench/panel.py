"""The panel at a moment: which loads draw, the case they make, and its settled network."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from dataclasses import field, replace
from functools import partial
from typing import TypeVar, assert_never

from ironmargin.bench.state import State
from ironmargin.case import Case, prepare
from ironmargin.document import Document
from ironmargin.limits import now as ledger
from ironmargin.limits.breakers import breaker_curve
from ironmargin.limits.contact import ContactHeat
from ironmargin.limits.guard import GuardAmps, GuardVolts
from ironmargin.limits.ledger import Consequence, Row, Telling, View, settled_rows
from ironmargin.limits.part_hours import PartHours, part_amps
from ironmargin.protection.breaker import NOMINAL, ON_CURVE, Curve
from ironmargin.record import record
from ironmargin.setup.changed import with_engines, with_load
from ironmargin.setup.hookup import Outlet
from ironmargin.setup.loads import AirConditioner, Load, SoftStart
from ironmargin.setup.managing import unmanaged
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.supplies import Shore
from ironmargin.starting.model import branch_curve
from ironmargin.supplies.source import Breaker, thevenin
from ironmargin.sustaining.steady import Steady, settled, source_amps

T = TypeVar("T")
MOST_KEPT = 64
GUARD_VOLTS_S, GUARD_AMPS_S = 1.0, 5.0
"""A guard looks at bad volts so long before it opens, and at amps over its limit (memory); the same
as in a start."""
GUARDS = (GuardVolts(), GuardAmps())


@record
class Now:
    """The settled network of a moment.

    Attributes:
        amps: of each hot conductor of the source [A].
        volts: of the legs [V].
        given_w, loads_w, lost_w: real power of the source, of the loads, and lost between [W].
        circuits: amps of each branch [A].
    """

    case: Case
    state: Steady
    amps: tuple[float, ...]
    volts: tuple[float, ...]
    given_w: float
    loads_w: float
    lost_w: float
    circuits: dict[str, float]

    @property
    def busiest_a(self) -> float:
        """Amps of the busiest conductor [A]."""
        return max(self.amps)

    @property
    def lowest_v(self) -> float:
        """Volts of the weaker leg [V]."""
        return min(self.volts)


@record
class Exceeded:
    """A limit that is exceeded and that nothing opens for: its key, place and sentence."""

    key: str
    where: str
    says: str


@record
class Dead:
    """Nothing is fed: no amps, no volts."""

    amps: tuple[float, ...] = (0.0,)
    volts: tuple[float, ...] = (0.0,)
    given_w: float = 0.0
    loads_w: float = 0.0
    lost_w: float = 0.0
    circuits: dict[str, float] = field(default_factory=dict)
    busiest_a: float = 0.0
    lowest_v: float = 0.0


def in_the_world(setup: Setup, state: State) -> Setup:
    """The setup in the weather, on the post and with the eco switch of this moment.

    Args:
        setup: supply, path, rig and rules of the run.
        state: the moment: weather, volts, hot contacts, eco.

    Returns:
        The setup as a check would be asked of this moment.
    """
    world = state.world
    conditions = replace(
        setup.conditions,
        outdoor_c=state.outdoor_c,
        altitude_m=world.get("altitude", setup.conditions.altitude_m),
    )
    setup = replace(setup, conditions=conditions)
    if state.hot:
        parts = (
            replace(item, condition="hot") if n in state.hot else item
            for n, item in enumerate(setup.hookup)
        )
        setup = replace(setup, hookup=tuple(parts))
    setup = with_engines(setup, eco=state.eco)
    if "volts" in world or "neighbour" in world:
        supply = setup.supply.with_post(partial(_post_in_the_world, world=world))
        setup = replace(setup, supply=supply)
    for ident, load in state.loads.items():
        if load.learned is not None:
            held = next(x for x in setup.rig.loads if x.id == ident)
            soft = getattr(held, "soft_start", None) or SoftStart()
            setup = with_load(setup, ident, soft_start=replace(soft, learned_starts=load.learned))
    return setup


def _post_in_the_world(post: Shore, world: Document) -> Shore:
    volts, ohm = thevenin(post)
    return replace(
        post,
        readings=(),
        source_ohm=ohm,
        voltage_v=world.get("volts", volts),
        also_on_circuit_a=world.get("neighbour", post.also_on_circuit_a),
    )


def mode_of(load: Load, mode: str | None, compressor: bool) -> str | None:
    """The mode a load is in: a unit whose compressor stands is only its fan.

    Args:
        load: of the rig.
        mode: what it was switched to; None for the usual.
        compressor: whether its compressor turns or is about to.

    Returns:
        A mode of an air conditioner; None for any other load.
    """
    if not isinstance(load, AirConditioner):
        return None
    chosen = mode or "high-cool"
    if compressor or chosen.startswith("fan"):
        return chosen
    return "fan-low" if chosen.startswith("low") else "fan-high"


def tripping_at(setup: Setup, edge: str) -> Setup:
    """The setup with every breaker that is not known to trip early or late tripping at an edge of
    its band: ``early``, ``nominal`` or ``late``.

    Args:
        setup: supply, path, rig and rules of the run.
        edge: of a breaker's band.

    Returns:
        The setup with its breakers so.
    """
    if edge == NOMINAL:
        return setup

    def shifted(trips: str) -> str:
        return edge if trips == ON_CURVE else trips

    supply = setup.supply.with_post(
        lambda post: replace(post, breaker_trips=shifted(post.breaker_trips))
    )

    hookup = tuple(
        replace(x, breaker_trips=shifted(x.breaker_trips)) if isinstance(x, Outlet) else x
        for x in setup.hookup
    )
    circuits = tuple(replace(c, breaker_trips=shifted(c.breaker_trips)) for c in setup.rig.circuits)
    rig = replace(setup.rig, circuits=circuits, main_trips=shifted(setup.rig.main_trips))
    return replace(setup, supply=supply, hookup=hookup, rig=rig)


class Panel:
    """Builds cases from the loads that draw, keeping the last ones."""

    def __init__(self, setup: Setup, edge: str = NOMINAL) -> None:
        setup = unmanaged(tripping_at(setup, edge))  # the bench lets it shed in its own time
        loads = tuple(replace(x, always_on=False) for x in setup.rig.loads)
        self.setup = replace(setup, rig=replace(setup.rig, loads=loads))
        self.kept: dict[Hashable, Case] = {}
        self.settled: dict[Hashable, Now] = {}
        self.exceeded: dict[Hashable, tuple[Exceeded, ...]] = {}

    def _key(self, state: State, wanted: tuple[Wanted, ...]) -> Hashable:
        learned = tuple((k, x.learned) for k, x in state.loads.items() if x.learned is not None)
        return (
            wanted,
            round(state.outdoor_c, 1),
            state.eco,
            tuple(state.hot),
            tuple(sorted(state.world.items())),
            learned,
        )

    def wanted(self, state: State, starting: tuple[str, ...] = ()) -> tuple[Wanted, ...]:
        """Everything that draws, in the order of the rig, with what is about to start.

        Args:
            state: what is on, in which mode.
            starting: ids of loads that are about to start.

        Returns:
            What a check would be asked to run.
        """
        found = []
        for load in self.setup.rig.loads:
            one = state.loads[load.id]
            if one.running or load.id in starting:
                turns = one.compressor or load.id in starting
                found.append(Wanted(load=load.id, mode=mode_of(load, one.mode, turns)))
        return tuple(found)

    def case(self, state: State, starting: tuple[str, ...] = ()) -> Case:
        """The case of this moment.

        Args:
            state: what is on, in which mode, in which weather.
            starting: ids of loads that are about to start.

        Returns:
            The setup of the moment, ready to be solved; kept for the next time.
        """
        wanted = self.wanted(state, starting)
        return self._kept(
            self.kept,
            self._key(state, wanted),
            lambda: prepare(replace(in_the_world(self.setup, state), wanted=wanted)),
        )

    def _kept(self, kept: dict[Hashable, T], key: Hashable, make: Callable[[], T]) -> T:
        if key not in kept:
            while len(kept) >= MOST_KEPT:
                kept.pop(next(iter(kept)))
            kept[key] = make()
        return kept[key]

    def beyond(self, state: State) -> tuple[Exceeded, ...]:
        """The limits of this moment that are exceeded and that nothing opens for.

        Args:
            state: what is on, in which mode, in which weather.

        Returns:
            Each with its place and sentence.
        """
        key = self._key(state, self.wanted(state))
        return self._kept(self.exceeded, key, lambda: beyond(self.now(state)))

    def now(self, state: State) -> Now:
        """The settled network of this moment.

        Args:
            state: what is on, in which mode, in which weather.

        Returns:
            The case with its settled volts, amps and watts; kept for the next time.
        """
        key = self._key(state, self.wanted(state))
        return self._kept(self.settled, key, lambda: now_of(self.case(state)))


def tells_itself(consequence: Consequence) -> bool:
    """Whether the bench plays what happens beyond a limit; the rest has to be told.

    Args:
        consequence: of a limit.

    Returns:
        Whether it is seen in the run.
    """
    match consequence:
        case Consequence.OPENS | Consequence.DROPS_OUT | Consequence.STALLS | Consequence.RUNS_OUT:
            return True
        case Consequence.BURNS | Consequence.WEARS | Consequence.VIOLATES | Consequence.DISTURBS:
            return False
    assert_never(consequence)


def now_of(case: Case) -> Now:
    """The settled network of a case, with its powers each computed by itself.

    Args:
        case: what runs, on which supply and path.

    Returns:
        Volts [V], amps [A] and watts [W] of legs, path, circuits and loads.
    """
    steady = settled(case)
    up = case.feed.upstream
    i1, i2 = steady.i1, steady.i2
    given = (up.e1_v * i1.conjugate() + up.e2_v * i2.conjugate()).real
    lost = (
        up.z11.real * abs(i1) ** 2
        + up.z22.real * abs(i2) ** 2
        + 2.0 * up.z12.real * (i1 * i2.conjugate()).real
    )
    loads, circuits = 0.0, {c.id: 0j for c in case.setup.rig.circuits}
    for demand in case.demands:
        for draw in demand.steady:
            share = steady.volts(draw.leg) / draw.bus_v
            held = max(share, draw.dropout, 1e-6)
            loads += draw.va.real * ((share / held) ** 2 if draw.constant_power else share**2)
            if demand.load.circuit in circuits:
                scale = share / held**2 if draw.constant_power else share
                circuits[demand.load.circuit] += draw.va.conjugate() / draw.bus_v * scale
    legs = range(up.legs)
    return Now(
        case,
        steady,
        tuple(float(a) for a in source_amps(case, steady)),
        tuple(float(steady.volts(leg)) for leg in legs),
        float(given),
        float(loads),
        float(lost),
        {name: abs(amps) for name, amps in circuits.items()},
    )


@record
class Watch:
    """A breaker as the bench feels it: its place, the key of its heat, its rating, its curve and
    the amps it carries.
    """

    where: str
    key: str
    rating_a: float
    curve: Curve
    amps: float

    def trips_s(self, heat: float) -> float:
        """Seconds until it trips at these amps; infinite if it holds.

        Args:
            heat: before, in units of (I/In)² [1].

        Returns:
            Seconds [s].
        """
        return self.curve.trip_s(self.amps / self.rating_a, heat)

    def heat_after(self, heat: float, seconds: float) -> float:
        """Its heat after some seconds at these amps, in units of (I/In)² [1].

        Args:
            heat: before, in units of (I/In)² [1].
            seconds: how long [s].

        Returns:
            Heat then [1].
        """
        return self.curve.heat_after(self.amps / self.rating_a, seconds, heat)

    @property
    def full(self) -> float:
        """The heat at which it trips, in units of (I/In)² [1]."""
        return self.curve.multiple**2


def watches(case: Case, amps: tuple[float, ...], circuits: dict[str, float]) -> list[Watch]:
    """Every breaker of a case: supply, path, main and branches.

    Args:
        case: the prepared setup.
        amps: settled amps of each conductor of the source [A].
        circuits: settled amps of each branch, by its id [A].

    Returns:
        The breakers with their amps and curves.
    """
    found = []
    for b, leg in case.breakers:
        carried = amps[min(leg, len(amps) - 1)]
        carried += case.source.also_a if b.where == "post" else 0.0
        found.append(Watch(b.where, heat_key(b, leg), b.rating_a, breaker_curve(case, b), carried))
    for circuit in case.setup.rig.circuits:
        found.append(
            Watch(
                circuit.id,
                circuit.id,
                circuit.breaker_a,
                branch_curve(case, circuit),
                circuits.get(circuit.id, 0.0),
            )
        )
    return found


def heat_key(breaker: Breaker, leg: int) -> str:
    """The key of a breaker pole's heat in the state.

    Args:
        breaker: of supply, path or panel.
        leg: source conductor, 0 or 1.

    Returns:
        Key of the state's table of heats.
    """
    return f"{breaker.where}/{leg}"


def ledger_now(now: Now) -> ledger.Now:
    """The moment as the ledger of limits is asked about it.

    Args:
        now: the settled network of the moment.

    Returns:
        What the limits are asked about.
    """
    return ledger.Now(now.case, now.state, now.state)


def guard_opens(now: Now) -> Row | None:
    """The limit of a guard that this moment exceeds, or None.

    Args:
        now: the settled network of the moment.

    Returns:
        The row of the first such limit.
    """
    asked = View(ledger_now(now))
    rows = [row for limit in GUARDS for row in limit.rows(asked)]
    return next((row for row in rows if float(row.margin) < 0.0), None)


def part_shares(now: Now) -> dict[int, tuple[float, float]]:
    """Amps through each part of the path, and how much of its rating that is, by its number.

    Args:
        now: a settled state, of one set of loads or of many.

    Returns:
        Amps [A] and share of the rating [1], by the number of the part.
    """
    rows = PartHours().rows(View(ledger_now(now)))
    return {row.place.item: (float(row.value), 1.0 - float(row.margin)) for row in rows}


def beyond(now: Now) -> tuple[Exceeded, ...]:
    """The limits this moment exceeds that nothing opens for, each with its sentence.

    Args:
        now: the settled network of the moment.

    Returns:
        Each with its place and sentence.
    """
    asked = ledger_now(now)
    told = Telling(now.case, asked)
    return tuple(
        Exceeded(f"{row.limit.key}/{row.where}", row.where, row.limit.sentence(row, told))
        for row in settled_rows(asked)
        if row.limit.momentary
        and not tells_itself(row.limit.consequence)
        and float(row.margin) < 0.0
    )


def contacts(now: Now) -> dict[int, ContactHeat]:
    """Every bad contact of the path with the watts it makes now, by the number of its part.

    Args:
        now: the settled network of the moment.

    Returns:
        Heat of each contact, by the number of its part in the path.
    """
    asked, found = ledger_now(now), {}
    for part in now.case.feed.parts:
        if part.contact_ohm > 0.0:
            amps = float(part_amps(asked, part))
            found[part.item] = ContactHeat(amps * amps * part.contact_ohm)
    return found


def latch_after(case: Case, amps: float, filled_s: float, seconds: float) -> float:
    """How far the overload latch has filled after some seconds [s].

    Args:
        case: of the moment.
        amps: what the supply gives [A].
        filled_s: how far the latch was filled [s].
        seconds: how long [s].

    Returns:
        How far it is filled then, of the supply's own limit [s].
    """
    if not math.isfinite(case.source.latch_k_s):
        return 0.0
    carried = max(amps - case.source.offset_a, 0.0) / case.source.latch_a
    return max(filled_s + (carried**2 - 1.0) * seconds, 0.0)


def latch_in(case: Case, amps: float, filled_s: float) -> float:
    """Seconds until the overload latch opens; infinite if it does not.

    Args:
        case: of the moment.
        amps: what the supply gives [A].
        filled_s: how far the latch is filled [s].

    Returns:
        Seconds from now [s].
    """
    if not math.isfinite(case.source.latch_k_s):
        return math.inf
    carried = max(amps - case.source.offset_a, 0.0) / case.source.latch_a
    if carried <= 1.0 + 1e-9:
        return math.inf
    return max(case.source.latch_k_s - filled_s, 0.0) / (carried**2 - 1.0)
