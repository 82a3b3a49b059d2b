"""Every start of a case: its outcome, chance, reserve and trace; the coincidence; restarts and straight-to-high."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.loads import motor as m
from ironmargin.loads.demand import Draw
from ironmargin.starting.case import Case, Starter, dead_at
from ironmargin.starting.columns import Plan, columns_of
from ironmargin.starting.simulate import OUTCOMES, STARTS, simulate
from ironmargin.starting.state import Columns, Trace

SCALES: Real = np.unique(np.concatenate([
    np.geomspace(0.1, 0.5, 28), np.round(np.arange(0.50, 1.5001, 0.01), 4), np.geomspace(1.5, 6.0, 36)]))
"""Strengths of the supply tried for the reserve: 1 % apart near 1."""
QUICK_SCALES: Real = np.unique(np.concatenate([np.geomspace(0.1, 0.6, 8), np.round(np.arange(0.6, 1.3001, 0.03), 4), [1.0], np.geomspace(1.4, 6.0, 8)]))
"""Fewer strengths, for a quick look at a change: 3 % apart near 1."""
BEYOND = float(SCALES[-1])
NIGHT_H = 10.0
Z_95 = 1.959964
PICTURED = 100
"""Trials drawn as the band of a picture."""


@dataclass(frozen=True)
class Start:
    """One start, or all at once.

    Attributes:
        starters: who starts; outcome: ``starts``, ``stalls``, ``trips`` or ``unsolved``; reason in plain words.
        factor: how weak the supply could be and still pass, 1 as it is; margin: 1 − factor.
        chance, chance_low, chance_high: share of trials that start and its 95 % Wilson interval; None without trials.
        wanted_a: what a stiff supply would see [A]; peak_a, lowest_v: at the supply [A] and the weaker leg [V].
        seconds: until up to speed, infinite if never [s]; opened_s: when something opened [s].
        trial_traces: outcome and trace of the first hundred trials, for the start that was asked for.
    """

    starters: tuple[Starter, ...]
    outcome: str
    factor: float
    wanted_a: float
    peak_a: float
    lowest_v: float
    seconds: float
    opened_s: float
    trace: Trace
    chance: float | None = None
    chance_low: float | None = None
    chance_high: float | None = None
    trial_traces: tuple[tuple[str, Trace], ...] = ()
    restart: str | None = None
    straight_to_high: str | None = None
    per_night: float | None = None

    @property
    def margin(self) -> float:
        """1 − factor: the share of iron left, negative when the supply would have to be stronger [1]."""
        return 1.0 - self.factor


def wilson(successes: int, trials: int) -> tuple[float, float]:
    """The 95 % Wilson score interval of a share (E. B. Wilson, J. Am. Stat. Assoc. 22, 1927)."""
    if trials == 0:
        return 0.0, 1.0
    share, z2 = successes / trials, Z_95**2
    centre = share + z2 / (2 * trials)
    half = Z_95 * math.sqrt(share * (1 - share) / trials + z2 / (4 * trials**2))
    low, high = (centre - half) / (1 + z2 / trials), (centre + half) / (1 + z2 / trials)
    return max(0.0, min(low, share)), min(1.0, max(high, share))


def weakest_factor(passes: Real, scales: Real = SCALES) -> float:
    """The smallest strength that still passes, walking from strength 1 towards failure [1].

    Args:
        passes: 1 where the column of ``scales`` passes.
    """
    one = int(np.searchsorted(scales, 1.0))
    if passes[one]:
        failing = np.flatnonzero(passes[:one] == 0)
        return float(scales[failing[-1] + 1]) if len(failing) else float(scales[0])
    passing = np.flatnonzero(passes[one:])
    return float(scales[one + passing[0]]) if len(passing) else BEYOND


def stiff_amps(case: Case, starters: tuple[Starter, ...], off: frozenset[int] = frozenset()) -> float:
    """What a stiff supply would see at the worst moment, all running loads included: phasor sum at rated volts [A]."""
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
            add(Draw(demand.leg, demand.load.voltage_v / demand.ratio, plate.voltage_v * lra * complex(pf, math.sqrt(1 - pf * pf)), False))
            for draw in demand.single_beside:
                add(draw)
        elif demand.inrush:
            rush = demand.inrush
            add(Draw(rush.leg, rush.bus_v, rush.va, False), rush.times)
    up = case.feed.upstream
    if up.legs == 1:
        return abs(places[0]) * case.turns
    if up.tied:
        return abs(places[0] + places[1])
    # Across both legs the same current passes both conductors; L2 stands at its own angle behind L1.
    turn = up.e2_v / abs(up.e2_v) if abs(up.e2_v) else 1.0
    across = (up.e1_v - up.e2_v) / max(abs(up.e1_v - up.e2_v), 1e-9)
    return max(abs(places[0] + places[2] * across), abs(places[1] * turn - places[2] * across))


def straight_beside(case: Case, starter: Starter) -> tuple[Draw, ...] | None:
    """The unit's own fan if knocked straight from off to high: still running up if the compressor follows within a second."""
    demand = case.demands[starter.demand]
    load = demand.load
    if not demand.single_beside or getattr(load, "compressor_delay_s", 9.0) > 1.0:
        return None
    # A fan motor not yet up to speed draws about three times its running current (common practice).
    return tuple(Draw(d.leg, d.bus_v, d.va * 3.0, d.constant_power, d.dropout) for d in demand.single_beside)


def coincidences_per_night(case: Case, seconds: float) -> float:
    """How often all cycling motors start in the same moment in a night of ten hours.

    Independent cycles: rate of n starts within ``d`` of each other = n·Π(rate)·d^(n−1).
    """
    rates = [d.cycles_per_h / 3600.0 * d.load.count for d in case.demands if d.plate and d.cycles_per_h > 0]
    if len(rates) < 2:
        return 0.0
    window = min(max(seconds, 0.5), 10.0)
    return float(len(rates) * np.prod(rates) * window ** (len(rates) - 1) * NIGHT_H * 3600.0)


def _finish(case: Case, done: Columns, trace: Trace, at: int, passes: Real, scales: Real, starters: tuple[Starter, ...]) -> Start:
    outcome = OUTCOMES[int(done.outcome[at])]
    factor = weakest_factor(passes, scales)
    if outcome == "starts" and factor > 1.0:
        factor = 1.0
    return Start(starters, outcome, factor, stiff_amps(case, starters, dead_at(case, starters[0])), float(done.peak_a[at]), float(done.lowest_v[at]),
                 float(done.up_s[at]), float(done.event_s[at]), trace)


def warm_heat(case: Case, amps: tuple[float, ...]) -> Real:
    """Heat of every breaker row after hours at these amps, in units of (I/In)²: a start finds it warm."""
    heats = []
    for breaker, leg in case.breakers:
        carried = amps[min(leg, len(amps) - 1)] + (case.source.also_a if breaker.where == "post" else 0.0)
        heats.append(min((carried / breaker.rating_a) ** 2, 1.0))
    return np.array(heats)


def every_start(case: Case, running_a: tuple[float, ...], trials: int, picture: str | None = None,
                scales: Real = SCALES) -> tuple[list[Start], Start | None]:
    """Simulate every start of a case in one batch, and all cycling motors at once.

    Args:
        running_a: amps of each source conductor with everything but one start running, to warm the breakers [A].
        trials: random trials of each start; 0 for none.
        picture: load id of the start whose first hundred trials are traced, for the band of a picture.
        scales: strengths of the supply tried for the reserve, 1 among them [1].
    """
    groups: list[tuple[Starter, ...]] = [(s,) for s in case.starters]
    motors = tuple(s for s in case.starters if s.row is not None)
    if len(motors) > 1:
        groups.append(motors)
    if not groups:
        return [], None
    dead = [dead_at(case, g[0]) for g in groups]
    plans = [Plan(g, off=off) for g, off in zip(groups, dead, strict=True)]
    pictured = next((at for at, g in enumerate(groups[: len(case.starters)]) if case.demands[g[0].demand].load.id == picture), None)
    shown = min(PICTURED, trials) if pictured is not None else 0
    if shown and pictured is not None:
        plans.append(Plan(groups[pictured], draws=shown, off=dead[pictured]))
    plans += [Plan(g, scales, off=off) for g, off in zip(groups, dead, strict=True)]
    extras: list[tuple[int, str]] = []
    for at, g in enumerate(groups[: len(case.starters)]):
        if case.demands[g[0].demand].plate:
            extras.append((at, "restart"))
            plans.append(Plan(g, breakaway=m.BREAKAWAY_AT_ONCE))
        beside = straight_beside(case, g[0])
        if beside is not None:
            extras.append((at, "straight_to_high"))
            plans.append(Plan(g, beside=beside))
    # The coincidence is apart and hardly ever comes: a quarter of the trials tell enough of it.
    drawn = [(trials if at < len(case.starters) else -(-trials // 4)) - (shown if at == pictured else 0) for at in range(len(groups))]
    if trials:
        plans += [Plan(g, draws=drawn[at], skip=shown if at == pictured else 0, off=dead[at]) for at, g in enumerate(groups) if drawn[at]]
    count, grid = len(groups), len(scales)
    done, traces = simulate(columns_of(case, plans, warm_heat(case, running_a)), case.shape, keep=count + shown, follow=count)
    before = count + shown
    after = before + count * grid
    starts = []
    for at, g in enumerate(groups):
        passes = (done.outcome[before + at * grid:before + (at + 1) * grid] == STARTS).astype(float)
        start = _finish(case, done, traces[at], at, passes, scales, g)
        if trials:
            first, total = after + len(extras) + sum(drawn[:at]), drawn[at] + (shown if at == pictured else 0)
            wins = int((done.outcome[first:first + drawn[at]] == STARTS).sum())
            if at == pictured:
                ours = done.outcome[count:before]
                wins += int((ours == STARTS).sum())
                start = replace(start, trial_traces=tuple((OUTCOMES[int(o)], t) for o, t in zip(ours, traces[count:], strict=True)))
            low, high = wilson(wins, total)
            start = replace(start, chance=wins / total, chance_low=low, chance_high=high)
        starts.append(start)
    for number, (at, name) in enumerate(extras):
        found = OUTCOMES[int(done.outcome[after + number])]
        starts[at] = replace(starts[at], restart=found) if name == "restart" else replace(starts[at], straight_to_high=found)
    if len(motors) <= 1:
        return starts, None
    slowest = max((s.seconds for s in starts if math.isfinite(s.seconds)), default=1.0)
    together = replace(starts.pop(), per_night=coincidences_per_night(case, slowest))
    return starts, together


def passing(case: Case, offs: list[frozenset[int]], running_a: tuple[float, ...]) -> list[bool]:
    """For each set of demands left off: whether every remaining start passes, all in one batch."""
    plans, owner = [], []
    for at, off in enumerate(offs):
        for s in case.starters:
            if s.demand not in off:
                plans.append(Plan((s,), off=off | dead_at(case, s)))
                owner.append(at)
    if not plans:
        return [True] * len(offs)
    done, _ = simulate(columns_of(case, plans, warm_heat(case, running_a)), case.shape)
    ok = [True] * len(offs)
    for at, outcome in zip(owner, done.outcome, strict=True):
        ok[at] = ok[at] and outcome == STARTS
    return ok


