"""Rationing: how long the stock lasts, and what to ration first.

A linear program over one day, the same each day: hours of every load, hours of the set. What the
ledger of limits does not let run gets no hours, and two loads it does not let run together share
them. Fuel burns
by the set's Willans line, ``a·P_rated·h_set + b·energy``; without a battery a load runs only while
the set does; with one the set charges it and the loads take from it at any hour. What must run
comes before what is wanted, that before what can wait: each rank is filled as far as it goes before
the next is asked (lexicographic, three programs after one another).
"""

from __future__ import annotations

import math
from dataclasses import replace

from ironmargin.enduring.fuel import WH_PER_L
from ironmargin.planning.stock import Stock
from ironmargin.planning.stores import DAY_H, Day, Means, days_of, means_of, starving_h
from ironmargin.planning.together_in_a_day import promise_of
from ironmargin.record import record
from ironmargin.setup.changed import with_engines
from ironmargin.setup.model import Setup

RANKS = ("must", "want", "wait")
CURVE_DAYS = (1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 14, 17, 21, 28, 42, 60)
RATIONED_H = 0.05
CURVE_OVER, MIN_CURVE = 3, 10
"""The curve goes on to so many times the days wanted, and to so many days at least."""
NOTHING_H = 1e-4
"""Hours that lack by less lack nothing."""
MIN_DAYS, MAX_DAYS, DAYS_TOLERANCE = 0.05, 10_000.0, 0.002
"""Days a stock is looked at for, from an hour to for ever, and how near they are found [1]."""
PLENTY_WH = 1e12
"""More fuel than any stock [Wh]."""


@record
class Requested:
    """What a day is asked for: its loads, which of them cannot run here at all (by id), and pairs
    of numbers that never run together.
    """

    days: tuple[Day, ...]
    cannot: tuple[str, ...] = ()
    apart: tuple[tuple[int, int], ...] = ()


@record
class Plan:
    """A day's hours: of each load and of the set, the heat burnt, whether every least was met."""

    hours: tuple[float, ...]
    set_h: float
    fuel_wh: float
    feasible: bool


@record
class Ration:
    """How long the stock lasts, and what a day looks like.

    Attributes:
        full_days: without rationing.
        must_days: on what must run only; infinite where no fuel is burnt.
        curve: (days, plan) for other numbers of days.
        bulk_h: hours of charging a day that keep a battery up.
        relax: what would help where the musts do not fit.
        cannot: names of loads this supply cannot run at all.
        starves_h: when a cylinder gets too cold for the set [h].
    """

    stock: Stock
    days: tuple[Day, ...]
    means: Means
    plan: Plan
    full_days: float
    must_days: float
    curve: tuple[tuple[int, Plan], ...]
    bulk_h: float | None
    relax: tuple[str, ...]
    cannot: tuple[str, ...] = ()
    starves_h: float | None = None


def asked_of(setup: Setup, stock: Stock) -> Requested:
    """What a day is asked for, and what of it may be promised: by the ledger, with the fuel in
    stock.

    Args:
        setup: supply, path, rig and rules of the question.
        stock: fuel or battery, and what is wanted of a day.

    Returns:
        The loads of a day, and which of them can run.
    """
    days = days_of(setup, stock)
    modes: dict[str, str | None] = {w.load: w.mode for w in setup.wanted}
    modes |= {u.load: u.mode for u in stock.loads or () if u.mode}
    known = {d.load: modes.get(d.load) for d in days}
    requested = setup if stock.fuel is None else with_engines(setup, fuel=stock.fuel)
    promise = promise_of(requested, known)
    number = {d.load: at for at, d in enumerate(days)}
    apart = tuple((number[a], number[b]) for a, b in promise.apart)
    return Requested(days, promise.cannot, apart)


def plan_day(
    requested: Requested, means: Means, days: float, ranks: tuple[str, ...] = RANKS
) -> Plan:
    """The best day when the stock has to last so many days; ranks left out get no hours, and what
    cannot run gets none.

    Args:
        requested: the loads of a day.
        means: what there is.
        days: that it is to last.
        ranks: of loads that get hours.

    Returns:
        Hours of each load [h], and what the day takes [Wh].
    """
    from ortools.linear_solver import pywraplp  # type: ignore[import-untyped]

    solver = pywraplp.Solver.CreateSolver("GLOP")
    loads = requested.days

    def max_h(day: Day) -> float:
        return day.wanted_h if day.rank in ranks and day.load not in requested.cannot else 0.0

    hours = [solver.NumVar(0.0, max_h(d), f"h{n}") for n, d in enumerate(loads)]
    short = [solver.NumVar(0.0, d.min_h, f"s{n}") for n, d in enumerate(loads)]
    run = solver.NumVar(0.0, means.set_h, "set")
    energy = sum((d.watts * h for d, h in zip(loads, hours, strict=True)), 0.0 * run)
    for d, h, s in zip(loads, hours, short, strict=True):
        solver.Add(h + s >= (d.min_h if d.rank in ranks else 0.0))
    if means.battery_wh > 0.0:
        charge = solver.NumVar(0.0, solver.infinity(), "charge")
        solver.Add(charge <= means.charge_w * run)
        taken = energy * (1.0 / means.efficiency) + 24.0 * means.own_w
        start = means.battery_wh / days
        solver.Add(taken <= charge * means.charging + means.solar_wh + start)
        # Between two chargings all of it has to come out of the battery.
        if means.set_w > 0.0 or means.solar_wh > 0.0:
            solver.Add(taken <= 2.0 * means.battery_wh)
        for a, b in requested.apart:
            solver.Add(hours[a] + hours[b] <= DAY_H)
        burnt = means.idle_w * run + means.slope * charge
    else:
        for h in hours:
            solver.Add(h <= run)
        for a, b in requested.apart:
            solver.Add(hours[a] + hours[b] <= run)
        solver.Add(energy <= means.set_w * run)
        burnt = means.idle_w * run + means.slope * energy
    if means.set_w > 0.0:
        solver.Add(burnt <= means.fuel_wh / days)
    solver.Minimize(sum(short, 0.0 * run))
    if solver.Solve() != pywraplp.Solver.OPTIMAL:
        return Plan((0.0,) * len(loads), 0.0, 0.0, False)
    lacking = sum(s.solution_value() for s in short)
    solver.Add(sum(short, 0.0 * run) <= lacking + 1e-6)
    for rank in RANKS:
        of_rank = [
            h * (1.0 / max(d.wanted_h, 1e-6))
            for d, h in zip(loads, hours, strict=True)
            if d.rank == rank and rank in ranks
        ]
        if not of_rank:
            continue
        total = sum(of_rank, 0.0 * run)
        solver.Maximize(total)
        solver.Solve()
        best = sum(x.solution_value() for x in of_rank)
        solver.Add(total >= best - 1e-6)
    # Of all days as good as that, the one that burns least.
    solver.Minimize(burnt + 1e-6 * run)
    solver.Solve()
    return Plan(
        tuple(max(h.solution_value(), 0.0) for h in hours),
        run.solution_value(),
        means.idle_w * run.solution_value()
        + means.slope
        * (
            charge.solution_value()
            if means.battery_wh > 0.0
            else sum(d.watts * h.solution_value() for d, h in zip(loads, hours, strict=True))
        ),
        lacking < NOTHING_H,
    )


def lasts(requested: Requested, means: Means, ranks: tuple[str, ...]) -> float:
    """Days on which the loads of some ranks get all they want, by bisection; infinite where the
    stock is not touched, 0 where not even one day goes.

    Args:
        requested: the loads of a day.
        means: what there is.
        ranks: of loads that get hours.

    Returns:
        Days.
    """
    loads = requested.days

    def full(days: float) -> bool:
        plan = plan_day(requested, means, days, ranks)
        return all(
            h >= d.wanted_h - RATIONED_H
            for d, h in zip(loads, plan.hours, strict=True)
            if d.rank in ranks
        )

    if not full(MIN_DAYS):
        return 0.0
    if full(MAX_DAYS):
        return math.inf
    low, high = MIN_DAYS, MAX_DAYS
    while high / low > 1.0 + DAYS_TOLERANCE:
        middle = math.sqrt(low * high)
        low, high = (middle, high) if full(middle) else (low, middle)
    return low


def ration(setup: Setup, stock: Stock) -> Ration:
    """How long a stock lasts, the best day for the days wanted, and the trade-off as a curve.

    Args:
        setup: supply, path, rig and rules of the question.
        stock: fuel and charge, and the days wanted.

    Returns:
        Days it lasts, the best day, the curve.

    Raises:
        SetupError: this supply lives on nothing that can be rationed.
    """
    requested, means = asked_of(setup, stock), means_of(setup, stock)
    loads = requested.days
    starves_h = starving_h(setup)
    if starves_h is not None:  # once a day: by the next it has warmed up again
        means = replace(means, set_h=min(means.set_h, starves_h))
    plan = plan_day(requested, means, stock.days)
    curve = tuple(
        (n, plan_day(requested, means, n))
        for n in CURVE_DAYS
        if n <= max(CURVE_OVER * stock.days, MIN_CURVE)
    )
    energy = sum(d.watts * d.wanted_h for d in loads)
    bulk = None
    if means.battery_wh > 0.0 and means.charge_w > 0.0:
        need = energy / means.efficiency + 24.0 * means.own_w - means.solar_wh
        bulk = max(need, 0.0) / (means.charge_w * means.charging)
    return Ration(
        stock,
        loads,
        means,
        plan,
        lasts(requested, means, RANKS),
        lasts(requested, means, RANKS[:1]),
        curve,
        bulk,
        _relax(requested, means, plan, stock),
        tuple(d.name for d in loads if d.load in requested.cannot),
        starves_h,
    )


def _relax(requested: Requested, means: Means, plan: Plan, stock: Stock) -> tuple[str, ...]:
    """What would make the least hours fit, one thing at a time."""
    if plan.feasible:
        return ()
    says = []
    longest = max((d.min_h for d in requested.days if d.load not in requested.cannot), default=0.0)
    if means.battery_wh <= 0.0 and means.set_h < longest:
        says.append(
            f"Allow the generator {longest:g} h a day instead of {means.set_h:g}, or a battery."
        )
    more = replace(means, fuel_wh=PLENTY_WH)
    if plan_day(requested, more, stock.days).feasible:
        low, high = means.fuel_wh, PLENTY_WH
        for _ in range(60):
            middle = 0.5 * (low + high)
            tried = replace(means, fuel_wh=middle)
            fits = plan_day(requested, tried, stock.days).feasible
            low, high = (low, middle) if fits else (middle, high)
        litres = (high - means.fuel_wh) / WH_PER_L[stock.fuel or "gasoline"]
        says.append(f"{litres:.0f} l more fuel would be enough.")
    for days in range(stock.days - 1, 0, -1):
        if plan_day(requested, means, days).feasible:
            says.append(f"What you have lasts {days} day{'s' if days > 1 else ''}.")
            break
    return tuple(
        says or ["What you have does not last one day: something that must run has to wait."]
    )
