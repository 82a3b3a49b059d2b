"""A setup made ready for computing: its source, its path, its demands, and the motors as rows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ironmargin.electrics.motor import GEAR_CURRENT
from ironmargin.electrics.network import Upstream
from ironmargin.electrics.services import HIGH_V
from ironmargin.loads import rooms
from ironmargin.loads.demand import L1, L1L2, L2, TRANSFORMER, Demand, Draw, transformer_demand
from ironmargin.loads.reader import demand_of
from ironmargin.path.trace import Feed, trace, transformer_ohm
from ironmargin.record import record
from ironmargin.setup.changed import leave_off
from ironmargin.setup.loads import Load
from ironmargin.setup.managing import manager_of, shed_order, spare_a, unmanaged
from ironmargin.setup.model import Setup
from ironmargin.setup.ways import heaviest
from ironmargin.supplies.source import Breaker, Source, source_of

SERVED = 0.7
"""A load offered less than this share of its rated volts is not served at all. The services there
are offer nothing, or 208 of 240 V and more.
"""


@record
class Starter:
    """One start to watch: demand number ``demand``, by a motor row or by an inrush row."""

    demand: int
    row: int | None
    inrush: int | None


@record
class Case:
    """A setup ready for computing.

    Attributes:
        demands: the wanted and always-on loads that are served.
        unserved: (load, problem) of those that are not.
        rows: demand number of each motor row (one row a unit of its count).
        starters: the starts to watch, one a demand.
        breakers: (breaker, source conductor it sees) of the supply, path and main.
        shed: loads that a load manager keeps off with the others on.
    """

    setup: Setup
    source: Source
    feed: Feed
    demands: tuple[Demand, ...]
    unserved: tuple[tuple[Load, str], ...]
    rows: tuple[int, ...]
    inrush_rows: tuple[int, ...]
    starters: tuple[Starter, ...]
    breakers: tuple[tuple[Breaker, int], ...]
    turns: float
    shed: tuple[Load, ...] = ()


def conductor_a(places: Sequence[complex], upstream: Upstream, turns: float) -> float:
    """Amps of the busier hot conductor of the source, from the currents of the places L1, L2 and
    across both at rated volts [A].

    Args:
        places: currents of the three places at their rated volts [A].
        upstream: what lies between source and panel.
        turns: of the transformer between, load's side over supply's [1].

    Returns:
        Amps [A].
    """
    if upstream.legs == 1:
        return abs(places[0]) * turns
    if upstream.tied:
        return abs(places[0] + places[1])
    # Across both legs the same current passes both conductors; L2 stands at its own angle behind
    # L1.
    e1, e2 = upstream.e1_v, upstream.e2_v
    turn = e2 / abs(e2) if abs(e2) else 1.0
    across = (e1 - e2) / max(abs(e1 - e2), 1e-9)
    return max(abs(places[0] + places[2] * across), abs(places[1] * turn - places[2] * across))


def _kept_on(
    setup: Setup, demands: list[Demand], feed: Feed, turns: float
) -> tuple[list[Demand], tuple[Load, ...]]:
    """What a load manager leaves on of the demands, and what it sheds of them."""
    manager = manager_of(setup)
    if manager is None:
        return demands, ()
    shed: list[Load] = []
    for load in [None, *shed_order(d.load for d in demands)]:
        if load is not None:
            shed.append(load)
        on = [d for d in demands if d.load not in shed]
        places = [0j, 0j, 0j]
        for draw in (draw for d in on for draw in d.steady):
            places[draw.leg] += draw.va.conjugate() / draw.bus_v
        if spare_a(manager, conductor_a(places, feed.upstream, turns)) >= 0.0:
            return on, tuple(shed)
    return [d for d in demands if d.load not in shed], tuple(shed)


def before_shedding(setup: Setup) -> tuple[Setup, ...]:
    """What runs in the moments in which a motor starts behind a load manager, each once: it sheds
    only after its delay, so what it had let come back while the motor rested is still on. Those in
    which nothing more runs than it keeps on are left out.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        A setup for each such moment; none without a manager.
    """
    if manager_of(setup) is None:
        return ()
    case = prepare(unmanaged(setup))
    ids = {d.load.id for d in case.demands}
    _, shed = _kept_on(setup, list(case.demands), case.feed, case.turns)
    usual = ids - {x.id for x in shed}
    found: dict[frozenset[str], Setup] = {}
    for starter in case.starters:
        own = case.demands[starter.demand]
        rest = [d for d in case.demands if d is not own]
        _, shed = _kept_on(setup, rest, case.feed, case.turns)
        on = ids - {x.id for x in shed}
        if not on <= usual:
            way = unmanaged(setup)
            for load in shed:
                way = leave_off(way, load.id)
            found.setdefault(frozenset(on), way)
    return tuple(found.values())


def dead_at(case: Case, starter: Starter) -> frozenset[int]:
    """Demands that cannot be running in the moment of a start: what a transformer feeds, while it
    is itself switched on.

    Args:
        case: the prepared setup.
        starter: who starts.

    Returns:
        Their numbers.
    """
    if case.demands[starter.demand].load.id != TRANSFORMER:
        return frozenset()
    whole = case.setup.rig.service == "230"
    return frozenset(
        at
        for at, d in enumerate(case.demands)
        if at != starter.demand and (whole or d.ratio != 1.0)
    )


def gear_current(demand: Demand) -> float:
    """Locked-rotor current factor of a motor's start gear [1].

    Args:
        demand: what a load draws.

    Returns:
        The factor [1].
    """
    return GEAR_CURRENT.get(demand.plate.start, 1.0) if demand.plate else 1.0


def _offered_v(feed: Feed, leg: int) -> float:
    """Open-circuit volts between the two conductors of a place [V]."""
    up = feed.upstream
    return {
        L1: abs(up.e1_v),
        L2: abs(up.e2_v),
        L1L2: abs(up.e1_v - up.e2_v) if up.legs == 2 else 0.0,
    }[leg]


def _wanted(setup: Setup) -> list[tuple[int, str | None]]:
    """Load numbers and modes that run: the wanted ones, then what is always on."""
    number = {load.id: at for at, load in enumerate(setup.rig.loads)}
    chosen = {number[w.load]: w.mode for w in setup.wanted}
    for at, load in enumerate(setup.rig.loads):
        if load.always_on:
            chosen.setdefault(at, None)
    return sorted(chosen.items())


def prepare(setup: Setup) -> Case:
    """Make a setup ready: derate the supply, trace the path, turn each running load into its
    demand. Of loads that never run together the heavier ones are taken.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The case.
    """
    setup = heaviest(setup)
    source = source_of(setup.supply, setup.conditions)
    feed = trace(setup, source)
    demands: list[Demand] = []
    unserved: list[tuple[Load, str]] = []
    stepped = feed.transformer if setup.rig.service != "230" else None
    turns = 1.0
    if feed.transformer is not None:
        item = feed.transformer
        panel_v = source.leg_v * (1.0 if stepped else item.to_v / item.from_v)
        turns = panel_v / source.leg_v
        demands.append(transformer_demand(item, panel_v))
    for at, mode in _wanted(setup):
        load = setup.rig.loads[at]
        through = stepped is not None and load.voltage_v > HIGH_V
        demand = (
            demand_of(setup, at, mode, stepped.to_v / stepped.from_v, transformer_ohm(stepped))
            if through and stepped
            else demand_of(setup, at, mode)
        )
        if through:
            demand = _moved(demand, L1)
        offered = _offered_v(feed, demand.leg) * demand.ratio
        if offered < SERVED * load.voltage_v:
            high = load.voltage_v > HIGH_V
            unserved.append(
                (
                    load,
                    "no-240"
                    if high and setup.rig.service != "230"
                    else "no-leg"
                    if demand.leg == L2
                    else "low-volts",
                )
            )
        else:
            demands.append(demand)
    demands, shed = _kept_on(setup, demands, feed, turns)
    demands = _under_thermostat(setup, demands)
    rows = tuple(n for n, d in enumerate(demands) if d.plate for _ in range(d.load.count))
    inrush_rows = tuple(n for n, d in enumerate(demands) if d.inrush)
    starters = tuple(
        Starter(n, rows.index(n) if d.plate else None, None if d.plate else inrush_rows.index(n))
        for n, d in enumerate(demands)
        if d.starts
    )
    conductors = range(1 if feed.upstream.legs == 1 or feed.upstream.tied else 2)
    breakers = []
    for b in feed.breakers:
        sees = (
            range(feed.upstream.legs)
            if b.where == "main" and not feed.upstream.tied
            else conductors
        )
        breakers += [(b, leg) for leg in sees]
    return Case(
        setup,
        source,
        feed,
        tuple(demands),
        tuple(unserved),
        rows,
        inrush_rows,
        starters,
        tuple(breakers),
        turns,
        shed,
    )


def _under_thermostat(setup: Setup, demands: list[Demand]) -> list[Demand]:
    """The demands with the cycle a thermostat gives each air conditioner that cools: first without
    a break until the room is cool, then on and off.
    """
    room, conditions = setup.rig.room or rooms.USUAL, setup.conditions
    cooling = {
        at
        for at, d in enumerate(demands)
        if rooms.by_room(d.load) and not (d.mode or "").startswith("fan")
    }
    if not cooling:
        return demands
    cycle = rooms.thermostat_cycle(room, conditions.outdoor_c, len(cooling))
    share = cycle.duty
    if conditions.target_hours is not None and cycle.off_s > 0.0:
        goal = rooms.room_goal(room, conditions.outdoor_c, len(cooling))
        first_s = rooms.crosses_s(conditions.outdoor_c, goal, rooms.calls_at(room, 0)[1])
        requested_s = conditions.target_hours * 3600.0
        first_s = min(first_s, requested_s)
        share = (first_s + (requested_s - first_s) * cycle.duty) / requested_s
    return [
        replace(d, cycles_per_h=cycle.starts_per_h, hours_duty=share, off_s=cycle.off_s)
        if at in cooling
        else d
        for at, d in enumerate(demands)
    ]


def _moved(demand: Demand, leg: int) -> Demand:
    """The same demand hung on another place: a transformer takes its 240 V loads from L1."""

    def move(draws: tuple[Draw, ...]) -> tuple[Draw, ...]:
        return tuple(replace(d, leg=leg) for d in draws)

    inrush = replace(demand.inrush, leg=leg) if demand.inrush else None
    return replace(
        demand,
        leg=leg,
        steady=move(demand.steady),
        one=move(demand.one),
        single_concurrent=move(demand.single_concurrent),
        inrush=inrush,
    )
