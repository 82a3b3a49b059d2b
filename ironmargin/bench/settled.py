"""What one moment of a run comes to: volts, amps, watts, what is exceeded and what heats."""

from __future__ import annotations

import math
from dataclasses import field
from typing import assert_never

from ironmargin.case import Case
from ironmargin.limits import now as ledger
from ironmargin.limits.asking import settled_rows
from ironmargin.limits.breakers import breaker_curve
from ironmargin.limits.contact import ContactHeat
from ironmargin.limits.guard import GuardAmps, GuardVolts
from ironmargin.limits.ledger import Row, SentenceContext, View
from ironmargin.limits.part_hours import PartHours, part_amps
from ironmargin.limits.sites import Consequence
from ironmargin.protection.breaker import Curve
from ironmargin.record import record
from ironmargin.starting.protection import branch_curve
from ironmargin.supplies.source import Breaker
from ironmargin.sustaining.steady import Steady, settled, source_amps

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
    requested = View(ledger_now(now))
    rows = [row for limit in GUARDS for row in limit.rows(requested)]
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
    requested = ledger_now(now)
    context = SentenceContext(now.case, requested)
    return tuple(
        Exceeded(f"{row.limit.key}/{row.where}", row.where, row.limit.sentence(row, context))
        for row in settled_rows(requested)
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
    requested, found = ledger_now(now), {}
    for part in now.case.feed.parts:
        if part.contact_ohm > 0.0:
            amps = float(part_amps(requested, part))
            found[part.item] = ContactHeat(amps * amps * part.contact_ohm)
    return found


def lockout_after(case: Case, amps: float, filled_s: float, seconds: float) -> float:
    """How far the overload lockout has filled after some seconds [s].

    Args:
        case: of the moment.
        amps: what the supply gives [A].
        filled_s: how far the lockout was filled [s].
        seconds: how long [s].

    Returns:
        How far it is filled then, of the supply's own limit [s].
    """
    if not math.isfinite(case.source.lockout_k_s):
        return 0.0
    carried = max(amps - case.source.offset_a, 0.0) / case.source.lockout_a
    return max(filled_s + (carried**2 - 1.0) * seconds, 0.0)


def lockout_in(case: Case, amps: float, filled_s: float) -> float:
    """Seconds until the overload lockout opens; infinite if it does not.

    Args:
        case: of the moment.
        amps: what the supply gives [A].
        filled_s: how far the lockout is filled [s].

    Returns:
        Seconds from now [s].
    """
    if not math.isfinite(case.source.lockout_k_s):
        return math.inf
    carried = max(amps - case.source.offset_a, 0.0) / case.source.lockout_a
    if carried <= 1.0 + 1e-9:
        return math.inf
    return max(case.source.lockout_k_s - filled_s, 0.0) / (carried**2 - 1.0)
