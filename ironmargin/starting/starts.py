"""Every start of a case: its outcome, reserve, chance and trace; the coincidence; restarts and
straight-to-high.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ironmargin.case import Case, Starter, conductor_a, dead_at
from ironmargin.electrics import motor as m
from ironmargin.electrics.network import Real
from ironmargin.loads.demand import Demand, Draw
from ironmargin.record import record
from ironmargin.setup.loads import AirConditioner, Rotating
from ironmargin.starting.chance import Chance, chance_of
from ironmargin.starting.nights import Night, coincidences_per_night, night_of
from ironmargin.starting.opened import Opening
from ironmargin.starting.plan import Plan
from ironmargin.starting.points import normal
from ironmargin.starting.samples import samples_of, source_strength_sd
from ironmargin.starting.scenario import Run, StartScenario, Trace
from ironmargin.starting.side_by_side import side_by_side

PICTURED = 40
"""Trials drawn as the band of a picture."""
SUPPLY, PATH = "supply", "path"


MIN_PRESSURE = 0.01
"""Less pressure than this share is none."""
COINCIDENCE_SHARE = 4
"""A coincidence, which hardly ever comes, gets this part of the trials."""
FAN_UP_S = 1.0
"""A fan that has so long before its compressor is up to speed [s]."""
FAN_INRUSH = 3.0
"""What a fan motor draws before it is up to speed, over its running amps (common practice, no
source)."""


@record
class Start:
    """One start, or all at once.

    Attributes:
        starters: who starts.
        outcome: ``starts``, ``stalls``, ``trips``, ``volts-stay-low``, ``lets-go`` or ``unsolved``.
        factor: how weak the part that gives first could be and the start still pass, 1 as it is.
        margin: 1 − factor.
        gives_first: that part, ``supply`` or ``path``.
        islands: strengths past the factor at which the outcome changes back.
        chance: how often it starts; None without trials.
        wanted_a: what an ideal supply would see [A].
        peak_a, lowest_v: at the supply [A] and the weaker leg [V].
        seconds: until up to speed, infinite if never [s].
        opened_s: when something opened [s].
        opened: what that was.
        lockout_share: how far the overload lockout filled [1].
        off, blinked: demands that dropped out, and that came back.
        trial_traces: outcome and trace of some trials, for the start that was asked for.
        restart, straight_to_high: the outcome of both ways of doing it wrong.
        cycle: the outcome after the rest its own cycle gives it, against the pressure left then.
        per_night: of the coincidence, how often to expect it.
        night: of a unit that cycles.
    """

    starters: tuple[Starter, ...]
    outcome: str
    factor: float
    gives_first: str
    wanted_a: float
    peak_a: float
    lowest_v: float
    seconds: float
    opened_s: float
    trace: Trace
    opened: Opening | None = None
    lockout_share: float = 0.0
    off: tuple[int, ...] = ()
    blinked: tuple[int, ...] = ()
    islands: tuple[float, ...] = ()
    chance: Chance | None = None
    trial_traces: tuple[tuple[str, Trace], ...] = ()
    restart: str | None = None
    straight_to_high: str | None = None
    cycle: str | None = None
    per_night: float | None = None
    night: Night | None = None

    @property
    def margin(self) -> float:
        """1 − factor: the share of iron left, negative when it would have to be stronger [1]."""
        return 1.0 - self.factor

    @property
    def passes(self) -> bool:
        """Whether it starts as things are."""
        return self.outcome == "starts"


def ideal_supply_amps(
    case: Case, starters: tuple[Starter, ...], off: frozenset[int] = frozenset()
) -> float:
    """What an ideal supply would see at the worst moment, all running loads included: phasor sum at
    rated volts [A].

    Args:
        case: the prepared setup.
        starters: who starts in that moment.
        off: numbers of demands left out.

    Returns:
        Amps [A].
    """
    places = [0j, 0j, 0j]
    starting = {s.demand for s in starters}

    def add(draw: Draw, factor: float = 1.0) -> None:
        places[draw.leg] += draw.va.conjugate() / draw.bus_v * factor

    for at, demand in enumerate(case.demands):
        if at in off:
            continue
        if at not in starting:
            for draw in demand.steady:
                add(draw)
            continue
        for draw in demand.one:
            add(draw, demand.load.count - 1)
        if demand.plate:
            plate = demand.plate
            lra = plate.lra_a * (plate.soft_fraction or m.GEAR_CURRENT.get(plate.start, 1.0))
            pf = m.LOCKED_POWER_FACTOR
            add(
                Draw(
                    demand.leg,
                    demand.load.voltage_v / demand.ratio,
                    plate.voltage_v * lra * complex(pf, math.sqrt(1 - pf * pf)),
                    False,
                )
            )
            for draw in demand.single_concurrent:
                add(draw)
        elif demand.inrush:
            rush = demand.inrush
            add(Draw(rush.leg, rush.bus_v, rush.va, False), rush.times)
    return conductor_a(places, case.feed.upstream, case.turns)


def straight_concurrent(case: Case, starter: Starter) -> tuple[Draw, ...] | None:
    """The unit's own fan if switched straight from off to high: still running up if the compressor
    follows within a second.

    Args:
        case: the prepared setup.
        starter: who starts.

    Returns:
        The fan's draws, or None.
    """
    demand = case.demands[starter.demand]
    load = demand.load
    if not demand.single_concurrent or getattr(load, "compressor_delay_s", math.inf) > FAN_UP_S:
        return None
    # A fan motor not yet up to speed draws about three times its running current (common practice).
    return tuple(
        Draw(d.leg, d.bus_v, d.va * FAN_INRUSH, d.constant_power, d.dropout)
        for d in demand.single_concurrent
    )


def warm_heat(case: Case, amps: tuple[float, ...]) -> Real:
    """Heat of every breaker row after hours at these amps, in units of (I/In)²: a start finds it
    warm.

    Args:
        case: the prepared setup.
        amps: settled amps of each conductor of the source [A].

    Returns:
        Heat, one a row of breakers (n,) [1].
    """
    heats = []
    for breaker, leg in case.breakers:
        carried = amps[min(leg, len(amps) - 1)] + (
            case.source.also_a if breaker.where == "post" else 0.0
        )
        heats.append(min((carried / breaker.rating_a) ** 2, 1.0))
    return np.array(heats)


def wanted_amps(scenario: StartScenario, starters: tuple[Starter, ...], peak_a: float) -> float:
    """What an ideal supply would see of a start [A]: a soft starter is followed through its ramp,
    a bare start draws the most at its first moment. Where a soft starter draws more here than
    there, ``peak_a``, because its ramp takes longer on these volts, that counts [A].

    Args:
        scenario: the start.
        starters: what starts in it.
        peak_a: that it draws here [A].

    Returns:
        Amps [A].
    """
    plates = [scenario.case.demands[s.demand].plate for s in starters]
    if any(p is not None and p.soft_fraction for p in plates):
        return max(scenario.ideal_peak_a(), peak_a)
    return ideal_supply_amps(scenario.case, starters, scenario.plan.off)


def _start(scenario: StartScenario, starters: tuple[Starter, ...]) -> Start:
    """A start with its reserve: the part that gives first is the one that has to change least for
    the outcome to change.
    """
    run: Run = scenario.run()
    passes = run.outcome == "starts"
    supply = scenario.reserve_of_supply(passes)
    by_path = scenario.path_changes_it_within(supply.factor, passes)
    found = scenario.reserve_of_path(passes) if by_path else supply
    return Start(
        starters,
        run.outcome,
        found.factor,
        PATH if by_path else SUPPLY,
        wanted_amps(scenario, starters, run.peak_a),
        run.peak_a,
        run.lowest_v,
        run.seconds if passes else math.inf,
        run.opened_s,
        run.trace,
        run.opened,
        run.lockout_share,
        run.off,
        run.blinked,
        found.islands,
    )


def _pictured(scenario: StartScenario, seed: int) -> tuple[tuple[str, Trace], ...]:
    """A few dozen trials with their traces, for the band of a picture."""
    source_strength = 1.0 + source_strength_sd() * normal(PICTURED, 1, seed + 1)[:, 0]
    samples = samples_of(scenario, PICTURED, seed).each()
    return tuple(
        scenario.traced(s, s, **one)
        for s, one in zip(source_strength.tolist(), samples, strict=True)
    )


def _restart(scenario: StartScenario, row: int, breakaway: float) -> str:
    """How a start ends right after the last one, against the pressure that stands there still."""
    at_once = max(m.BREAKAWAY_AT_ONCE, breakaway)
    stiffer = scenario.ones.copy()
    stiffer[row] = at_once / breakaway
    return scenario.outcome(breakaway=stiffer)


def _cycle(case: Case, scenario: StartScenario, row: int, demand: Demand) -> str | None:
    """How a start ends after the rest a unit's own cycle gives it; None where that rest lets
    pressures equalize, or it does not cycle.
    """
    load, plate = demand.load, demand.plate
    if plate is None or not isinstance(load, AirConditioner) or demand.off_s <= 0.0:
        return None
    if m.pressure_left(demand.off_s, load.metering) < MIN_PRESSURE:
        return None
    pressed = m.breakaway_after(demand.off_s, load.metering)
    stiffer = scenario.ones.copy()
    stiffer[row] = max(pressed / plate.breakaway, 1.0)
    return scenario.outcome(breakaway=stiffer)


def _single(case: Case, scenario: StartScenario, start: Start, picture: str | None) -> Start:
    """The start of one load with both ways of doing it wrong, and its trials if it is pictured."""
    starter = start.starters[0]
    demand = case.demands[starter.demand]
    if picture is not None and demand.load.id == picture:
        start = replace(start, trial_traces=_pictured(scenario, case.setup.rules.seed))
    if demand.plate and starter.row is not None:
        load = demand.load
        if isinstance(load, Rotating) and m.rested_s(load.metering) > 0.0:
            start = replace(start, restart=_restart(scenario, starter.row, demand.plate.breakaway))
        start = replace(start, cycle=_cycle(case, scenario, starter.row, demand))
    concurrent = straight_concurrent(case, starter)
    if concurrent is not None:
        plan = replace(scenario.plan, concurrent=concurrent)
        start = replace(start, straight_to_high=StartScenario(case, plan, scenario.warm).outcome())
    return start


def _surer(scenario: StartScenario, start: Start, trials: int) -> Start:
    """A start with its chance. The coincidence is apart and hardly ever comes: of it a quarter of
    the trials tell enough.
    """
    requested = trials if len(start.starters) == 1 else trials // COINCIDENCE_SHARE
    chance = chance_of(scenario, requested, scenario.case.setup.rules.seed, start.factor)
    return replace(start, chance=chance, night=night_of(scenario.case, start, chance))


def every_start(
    case: Case, running_a: tuple[float, ...], trials: int, picture: str | None = None
) -> tuple[list[Start], Start | None]:
    """Every start of a case, and all cycling motors at once.

    Args:
        case: the prepared setup.
        running_a: amps of each source conductor with everything but one start running, to warm the
            breakers [A].
        trials: the precision of the chance, in plain trials; 0 for no chance.
        picture: load id of the start of which some trials are traced, for the band of a picture.

    Returns:
        The starts, and all at once where several cycle.
    """
    warm = warm_heat(case, running_a)
    motors = tuple(s for s in case.starters if s.row is not None)

    def one(starters: tuple[Starter, ...]) -> Start:
        scenario = StartScenario(case, Plan(starters, off=dead_at(case, starters[0])), warm)
        start = _start(scenario, starters)
        if len(starters) == 1:
            start = _single(case, scenario, start, picture if trials else None)
        return _surer(scenario, start, trials) if trials else start

    each: list[tuple[Starter, ...]] = [(s,) for s in case.starters]
    if len(motors) < 2:
        return side_by_side(one, each), None
    found = side_by_side(one, [*each, motors])
    starts, together = found[:-1], found[-1]
    slowest = max((s.seconds for s in starts if math.isfinite(s.seconds)), default=1.0)
    return starts, replace(together, per_night=coincidences_per_night(case, slowest))


def with_chances(
    case: Case,
    starts: list[Start],
    together: Start | None,
    running_a: tuple[float, ...],
    trials: int,
) -> tuple[list[Start], Start | None]:
    """Starts with the chance of each added.

    Args:
        case: the prepared setup.
        starts: without chances.
        together: all at once, where several cycle.
        running_a: as :func:`every_start` has it [A].
        trials: draws of its chance.

    Returns:
        The same with chances.
    """
    warm = warm_heat(case, running_a)

    def one(start: Start) -> Start:
        plan = Plan(start.starters, off=dead_at(case, start.starters[0]))
        return _surer(StartScenario(case, plan, warm), start, trials)

    surer = side_by_side(one, starts if together is None else [*starts, together])
    return surer[: len(starts)], None if together is None else surer[-1]


def passing(case: Case, offs: list[frozenset[int]], running_a: tuple[float, ...]) -> list[bool]:
    """For each set of demands left off: whether every remaining start passes.

    Args:
        case: the prepared setup.
        offs: demands left off, a set each.
        running_a: amps of each conductor before it, to warm the breakers [A].

    Returns:
        One answer a set.
    """
    warm = warm_heat(case, running_a)

    def ok(off: frozenset[int]) -> bool:
        return all(
            StartScenario(case, Plan((s,), off=off | dead_at(case, s)), warm).passes()
            for s in case.starters
            if s.demand not in off
        )

    return [ok(off) for off in offs]
