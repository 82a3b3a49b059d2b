"""A start on the bench: the moment goes through the start engine as a check's does."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import assert_never

import numpy as np

from ironmargin.bench import stores
from ironmargin.bench.panel import Panel
from ironmargin.bench.settled import heat_key
from ironmargin.bench.state import Event, LoadState, State
from ironmargin.case import Case, Starter, dead_at
from ironmargin.electrics import motor as m
from ironmargin.listed import listed
from ironmargin.record import record
from ironmargin.setup.loads import Load, Rotating
from ironmargin.starting.opened import Opener
from ironmargin.starting.plan import Plan, branches_of
from ironmargin.starting.scenario import Run, StartScenario
from ironmargin.starting.starts import straight_concurrent

OVERLOAD_RESETS_S = 150.0
"""A stalled compressor's own overload closes again after some minutes (common practice)."""
FAN_UP_S = 1.5
"""A fan switched on so short a time ago is not up to speed yet (common practice)."""
MAX_POINTS = 120
LEARNED = m.STARTS_TO_LEARN


@record
class Happened:
    """What a start did: events, rows of the series, and how long it took [s]."""

    events: tuple[Event, ...]
    rows: tuple[tuple[float, ...], ...]
    seconds: float


def start_together(panel: Panel, state: State, idents: tuple[str, ...]) -> Happened:
    """Start some loads in one moment, and put what became of it into the state.

    Args:
        panel: the rig at work.
        state: the run so far; what starts, stalls or opens is put into it.
        idents: ids of the loads.

    Returns:
        Events, rows of the series, and how long it took [s].
    """
    case = panel.case(state, idents)
    loads = {x.id: x for x in panel.setup.rig.loads}
    by_load = {case.demands[s.demand].load.id: s for s in case.starters}
    events: list[Event] = []
    for load, problem in case.unserved:
        if load.id in idents:
            state.loads[load.id].held = problem
            words = {"no-240": "no 240 V here", "no-leg": "its leg is dead"}
            why = f"{load.name} is not fed: {words.get(problem, 'too few volts')}."
            events.append(Event(state.t_s, "dropped-out", load.id, why))
    served = [x for x in idents if not state.loads[x].held]
    starters = tuple(by_load[x] for x in served if x in by_load)
    for ident in served:
        one = state.loads[ident]
        one.running = True
        if ident not in by_load:
            one.compressor = isinstance(loads[ident], Rotating)
            one.due_s = None
    if not starters:
        return Happened(tuple(events), (), 0.0)
    starved = stores.starves(panel.setup, state, case.setup.conditions.altitude_m, start=True)
    if starved and any(s.row is not None for s in starters):
        state.set_on, state.starved = False, True
        why = (
            f"The cylinder is at {state.cylinder_c:.0f} °C: the generator drops out at this start."
        )
        events.append(Event(state.t_s, "starved", "set", why))
        return Happened(tuple(events), (), 0.0)
    run = _run(case, state, starters)
    events += _outcome(case, state, loads, starters, run)
    seconds = run.seconds if math.isfinite(run.seconds) else run.decided_s
    if math.isfinite(run.opened_s):
        seconds = run.opened_s
    rows = _rows(case, state, run, float(seconds))
    return Happened(tuple(events), rows, float(seconds))


def breakaway_of(load: Load, one: LoadState, t_s: float) -> float | None:
    """Breakaway torque against the pressure left since it last stopped; None once equalised.

    Args:
        load: of the rig.
        one: how it stands: when it stopped.
        t_s: moment of the run [s].

    Returns:
        Torque over that at full load [1].
    """
    if one.stopped_s is None or not isinstance(load, Rotating):
        return None
    rest_s = t_s - one.stopped_s
    if rest_s >= m.rested_s(load.metering):
        return None
    pressed = m.breakaway_after(rest_s, load.metering)
    own = getattr(load, "breakaway", None)
    return pressed if own is None else max(pressed, float(own))


def _run(case: Case, state: State, starters: tuple[Starter, ...]) -> Run:
    warm = np.array([state.heat.get(heat_key(b, leg), 0.0) for b, leg in case.breakers])
    first = case.demands[starters[0].demand].load
    pressed = [
        x
        for s in starters
        if (
            x := breakaway_of(
                case.demands[s.demand].load, state.loads[case.demands[s.demand].load.id], state.t_s
            )
        )
        is not None
    ]
    fan_s = state.t_s - state.loads[first.id].since_s if first.id in state.loads else math.inf
    straight = straight_concurrent(case, starters[0]) if fan_s <= FAN_UP_S else None
    plan = Plan(
        starters,
        off=dead_at(case, starters[0]),
        breakaway=max(pressed) if pressed else None,
        concurrent=straight,
    )
    return StartScenario(case, plan, warm).run()


def _outcome(
    case: Case, state: State, loads: Mapping[str, Load], starters: tuple[Starter, ...], run: Run
) -> list[Event]:
    events = []
    who = [case.demands[s.demand].load.id for s in starters]
    names = listed(loads[x].name for x in who if x in loads)
    began = state.t_s
    at = began + (run.seconds if math.isfinite(run.seconds) else run.decided_s)
    said = f"{run.peak_a:.1f} A, {run.lowest_v:.0f} V at the dip"

    def event(kind: str, where: str, why: str, when: float = at) -> None:
        events.append(Event(when, kind, where, why, run.peak_a, run.lowest_v))

    for b, leg in case.breakers:
        row = case.breakers.index((b, leg))
        state.heat[heat_key(b, leg)] = float(run.trace.heat[row, -1])
    up = math.isfinite(run.seconds)
    for ident in who:
        if ident not in loads:
            continue
        one = state.loads[ident]
        one.due_s = None
        one.compressor = up and isinstance(loads[ident], Rotating)
        one.running = up or one.running
        if up and one.learned is not None and one.learned < LEARNED:
            one.learned += 1
        if not up and not math.isfinite(run.opened_s):
            one.held, one.again_s = "stalled", state.t_s + OVERLOAD_RESETS_S
            one.stopped_s, one.running, one.compressor = state.t_s, False, False
    if up:
        low = "; the volts stay low" if run.outcome == "volts-stay-low" else ""
        together = " in the same moment" if len(who) > 1 else ""
        event("started", " + ".join(who), f"{names} started{together}: {said}{low}.")
    elif not math.isfinite(run.opened_s):
        why = f"{names} does not start: {said}. Its own overload opens."
        event("stalled", " + ".join(who), why)
    for n in run.off:
        demand = case.demands[n]
        one = state.loads.get(demand.load.id, LoadState())
        if demand.load.id not in who and demand.load.id in loads:
            one.held = "let-go"
            event("dropped-out", demand.load.id, f"{demand.load.name} drops out: {said}.")
    if math.isfinite(run.opened_s):
        if not up and run.outcome == "stalls":
            event("stalled", " + ".join(who), f"{names} does not start: {said}.")
        events.append(_opened(case, state, starters, run, names, began + run.opened_s))
    return events


def _opened(
    case: Case, state: State, starters: tuple[Starter, ...], run: Run, names: str, at: float
) -> Event:
    """What opened, and the state it leaves."""
    opened = run.opened
    assert opened is not None
    figures = f"{run.peak_a:.1f} A, {run.lowest_v:.0f} V"
    match opened.opener:
        case Opener.BREAKER:
            breaker = case.breakers[opened.number][0]
            state.open[breaker.where] = True
            why = (
                f"{names}: {run.peak_a:.1f} A opens the {breaker.name} ({breaker.rating_a:.0f} A)."
            )
            return Event(at, "tripped", breaker.where, why, run.peak_a, run.lowest_v)
        case Opener.BRANCH:
            numbers = branches_of(case, Plan(starters))
            circuit = next(c for c in case.setup.rig.circuits if numbers.get(c.id) == opened.number)
            state.open[circuit.id] = True
            why = (
                f"{names}: its start opens the branch {circuit.name or circuit.id} "
                f"({circuit.breaker_a:.0f} A)."
            )
            return Event(at, "tripped", circuit.id, why, run.peak_a, run.lowest_v)
        case Opener.GUARD_LOW_VOLTS | Opener.GUARD_OVERLOAD:
            guard = case.feed.guard
            assert guard is not None
            state.guard_s = at + guard.delay_s
            low = opened.opener is Opener.GUARD_LOW_VOLTS
            limit = f"under its {guard.low_v:.0f} V" if low else "over its amps for too long"
            why = f"{names}: {figures}; the guard opens, {limit}."
            return Event(at, "guard-opened", "guard", why, run.peak_a, run.lowest_v)
        case Opener.LOCKOUT | Opener.LOW_VOLTS_LOCKOUT | Opener.CUT_OFF:
            state.locked_out = True
            why = f"{names}: {figures}; its overload lockout opens (red overload light)."
            return Event(at, "latched", "set", why, run.peak_a, run.lowest_v)
    assert_never(opened.opener)


def _rows(case: Case, state: State, run: Run, end: float) -> tuple[tuple[float, ...], ...]:
    """The series of a start until it is decided; what is settled follows it."""
    trace = run.trace
    # Legs on one conductor: the engine gives that conductor's amps on both.
    tied = case.feed.upstream.tied
    every = max(len(trace.t_s) // MAX_POINTS, 1)
    lowest = np.where(trace.v.min(axis=0) > 0.0, trace.v.min(axis=0), trace.v.max(axis=0))
    rows = []
    for n in range(0, len(trace.t_s), every):
        if trace.t_s[n] > end:
            break
        a1, a2 = float(trace.a[0, n]), 0.0 if tied else float(trace.a[1, n])
        volts = float(lowest[n])
        rows.append(
            (
                state.t_s + float(trace.t_s[n]),
                a1,
                a2,
                volts,
                (a1 + a2) * volts,
                state.room_c,
                state.soc if state.soc is not None else -1.0,
                state.fuel_wh if state.fuel_wh is not None else -1.0,
                0.0,
            )
        )
    return tuple(rows)
