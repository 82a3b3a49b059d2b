"""The half-cycle start simulation, many columns at once.

A column is one start of one setup with its own supply strength, plate errors and running loads; all columns share
the topology. The network is solved as RMS phasors at every half cycle; motor speeds, soft-start ramps, latches and
breaker heat are the slow states carried between. Speeds advance by the two-step Adams-Bashforth rule, and by a
linearly implicit step on the steep side of the torque curve, where an explicit one would ring. While nothing in a
column moves fast, its step is two or four half cycles. Columns that are decided leave the batch; the result of a column
does not depend on which others are in it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ironmargin.electrics.network import Complex, Real, solve_one_leg, solve_two_legs
from ironmargin.loads import motor as m
from ironmargin.loads.demand import DROPOUT
from ironmargin.starting.state import Bool, Columns, Shape, Trace
from ironmargin.supplies.source import ECO_FRACTION, ECO_TAU_S, UNDERVOLT_FRACTION

UNDECIDED, STARTS, STALLS, TRIPS, UNSOLVED = 0, 1, 2, 3, 4
OUTCOMES = {STARTS: "starts", STALLS: "stalls", TRIPS: "trips", UNSOLVED: "unsolved"}
HORIZON_S = 8.0
"""A rotor still standing now is held by its own overload (common practice: 5 to 10 s)."""
RETURN = 0.8
SOFT_FULL_VOLTS = 0.85
SOFT_GIVES_UP = 0.6
SOFT_GIVES_UP_S = 0.25
GUARD_FILTER_S = 1.0
"""How long a guard looks at low volts before it opens (memory, a second or so)."""
RECOVERED = 0.85
STANDS = 0.02
STANDSTILL_S = 0.4
CALM, STILLER = 0.5, 0.25
"""Speed changes [1/s] under which a column steps two, and four, half cycles at a time."""
SETTLE_S = 0.25
TINY_A = 1e-9
CHUNK, LEAST_CHUNK = 16_000, 1_500
"""Motor rows times columns run at a time, and the least columns: measured, what stays in the processor's cache."""
THIN_OUT_EVERY = 6
PASSES_AT_START = 12


@dataclass(frozen=True)
class _Features:
    """What a batch has at all; what it has not is skipped in every step."""

    power: bool
    soft: bool
    eco: bool
    some_off: bool
    limit_a: bool
    limit_w: bool
    latch: bool
    current_gear: bool
    beside: bool
    turned: bool
    places: Any
    conductors: int
    least_over_s: float

    @classmethod
    def of(cls, c: Columns, shape: Shape) -> _Features:
        one_place = len(set(shape.places)) == 1
        return cls(
            power=bool(np.any(c.sp)), soft=bool((c.ramp < 1.0).any()), eco=bool(c.eco.any()), some_off=bool((c.on == 0.0).any()),
            limit_a=bool(np.isfinite(c.limit_a).any()), limit_w=bool(np.isfinite(c.limit_w).any()), latch=bool(np.isfinite(c.latch_k_s).any()),
            beside=bool((~c.starting & (c.on > 0.0)).any()), current_gear=bool((shape.gear_current != 1.0).any()),
            places=slice(shape.places[0], shape.places[0] + 1) if one_place else list(shape.places),
            turned=bool((shape.ratio != 1.0).any()), conductors=1 if not shape.two_legs or shape.tied else 2,
            least_over_s=max([4.0 * tau for _, tau in shape.inrush], default=0.0))


@dataclass
class _Rotor:
    """What the network and the torque both need of the rotors: R2/s, R1 + R2/s, |Z|² and volts at the motors."""

    rotor: Real
    resistance: Real
    square: Real
    volts: Real


def _place_volts(c: Columns, shape: Shape) -> Real:
    """Volts of L1 alone, or of L1, L2 and between them [V]."""
    if not shape.two_legs:
        return np.abs(c.v1)[None]
    out = np.empty((3, len(c.ident)))
    np.abs(c.v1, out=out[0])
    np.abs(c.v2, out=out[1])
    np.abs(c.v1 - c.v2, out=out[2])
    return out


def _admittances(c: Columns, shape: Shape, has: _Features, volts: Real) -> tuple[_Rotor, Complex]:
    """The rotors, and the admittances of the places at the present volts [S]."""
    rotor = c.r2 / np.maximum(1.0 - c.speed, m.SMALLEST_SLIP)
    resistance = c.r1 + rotor
    square = resistance * resistance + c.x_square
    at_motor = volts[has.places] if len(shape.places) else np.empty((0, len(c.ident)))
    strength = 1.0 / square
    if has.turned:
        at_motor = at_motor * shape.ratio
        strength *= shape.ratio**2
    if has.some_off:
        strength *= c.on
    if has.current_gear:
        strength *= shape.gear_current + (1.0 - shape.gear_current) * np.minimum(c.speed / 0.6, 1.0)
    y = np.empty(square.shape, dtype=complex)
    np.multiply(resistance, strength, out=y.real)
    np.multiply(c.minus_x, strength, out=y.imag)
    if has.soft:
        _hold_soft(c, shape, at_motor, y)
    total = c.yz.copy()
    for row, place in enumerate(shape.places):
        total[place] += y[row]
    for row, (place, tau) in enumerate(shape.inrush):
        total[place] += c.inrush[row] * np.exp(-c.t_s / tau)
    if has.power:
        # Constant-power loads let go below 0.7 of nominal and come back above 0.8.
        share = volts / shape.nominal_v
        c.holds_on |= share >= RETURN
        c.holds_on &= share >= DROPOUT
        total += c.sp * (c.holds_on / np.maximum(share * share, DROPOUT**2))
    return _Rotor(rotor, resistance, square, at_motor), total


def _hold_soft(c: Columns, shape: Shape, at_motor: Real, y: Complex) -> None:
    """A soft starter on its ramp holds its motor's current, never more than the locked rotor would take."""
    soft = c.ramp < 1.0
    locked = np.sqrt((c.r1 + c.r2) ** 2 + c.x**2)
    held = np.minimum(c.soft_a / np.maximum(at_motor, 1.0), 1.0 / locked) * shape.ratio**2 * c.on
    pf = m.LOCKED_POWER_FACTOR + (m.RUNNING_POWER_FACTOR - m.LOCKED_POWER_FACTOR) * c.ramp
    np.copyto(y, held * (pf - 1j * np.sqrt(np.maximum(1.0 - pf * pf, 0.0))), where=soft)


def _solve(c: Columns, shape: Shape, has: _Features, y: Complex, limit_a: Real) -> Real:
    """Set the leg volts and return the source's amps, held to its limit: V folds back to I_lim/|Y|.

    At fixed admittances everything is linear in the electromotive force, so one source is scaled exactly; two
    separately limited legs take a few passes.
    """
    e1, e2 = c.e1, c.e2
    for _ in range(4):
        if shape.two_legs:
            c.v1, c.v2, i1, i2 = solve_two_legs((e1, e2), (c.z11, c.z12, c.z22), (y[0], y[1], y[2]))
            amps = np.abs(i1 + i2)[None] if shape.tied else np.stack((np.abs(i1), np.abs(i2)))
        else:
            c.v1, i1 = solve_one_leg(e1, c.z11, y[0])
            i2 = np.zeros_like(i1)
            amps = np.abs(i1)[None]
        if not (has.limit_a or has.limit_w):
            return amps
        alpha = np.minimum(1.0, limit_a / np.maximum(amps, TINY_A))
        if has.limit_w:
            power = (e1 * np.conj(i1)).real + (e2 * np.conj(i2)).real
            alpha = np.minimum(alpha, np.sqrt(c.limit_w / np.maximum(power, TINY_A)))
        if has.conductors == 1:
            c.v1 = c.v1 * alpha[0]
            if shape.two_legs:
                c.v2 = c.v2 * alpha[0]
            return amps * alpha
        if alpha.min(initial=1.0) > 0.999:
            break
        e1, e2 = e1 * alpha[0], e2 * alpha[1]
    return amps


def _any(rows: Bool) -> Bool:
    """Whether any row is true, for each column."""
    found: Bool = rows[0] if len(rows) == 1 else np.logical_or.reduce(rows, axis=0)
    return found


def _every(rows: Bool) -> Bool:
    """Whether every row is true, for each column."""
    found: Bool = rows[0] if len(rows) == 1 else np.logical_and.reduce(rows, axis=0)
    return found


def _advance(c: Columns, shape: Shape, has: _Features, r: _Rotor, first: bool) -> None:
    """One step of the motors and the ramps of soft starters."""
    h, slip = c.h_s, 1.0 - c.speed
    drive = r.volts * r.volts * r.rotor / (r.square * c.torque_fl) * m.gear_factor(slip, c.gear)
    slope = (drive - m.load_torque(c.speed, c.breakaway, c.at_speed)) * (0.5 / m.INERTIA_H_S)
    np.maximum(slope, 0.0, out=slope, where=c.speed <= 0.0)
    if has.some_off:
        slope *= c.on
    moved = slope * h if first else h * (slope + (0.5 * h / c.h_before_s) * (slope - c.slope))
    beyond = r.rotor * r.rotor - c.z1_square
    steep = beyond > 0.0
    if np.count_nonzero(steep):
        # d(torque)/d(slip) = torque/slip · (ρ² − R1² − X²)/|Z|², ρ = R2/s; θ goes from the trapezoid towards fully implicit.
        stiff = drive * beyond * (0.5 * h / m.INERTIA_H_S) / (slip * r.square)
        np.divide(h * slope, 1.0 + np.maximum(0.5 * stiff, stiff - 1.0), out=moved, where=steep)
    c.slope = slope
    if has.soft:
        soft = c.ramp < 1.0
        share = r.volts / shape.rated_v
        rate = c.soft_rate * np.where(share >= SOFT_FULL_VOLTS, 1.0, share * share)
        c.ramp = np.where(soft, c.ramp + h * rate, c.ramp)
        ramped = np.minimum(c.ramp, 1.0) * (1.0 - 0.5 * c.up_slip * c.at_speed) - c.speed
        np.copyto(moved, ramped, where=soft)
        low = (soft & c.starting & (share < SOFT_GIVES_UP)).any(axis=0)
        c.soft_low_s = (c.soft_low_s + h) * low
        c.slope[soft] = 0.0
    fastest = np.abs(slope).max(axis=0, initial=0.0)
    calm = 1.0 + (fastest < CALM) + 2.0 * (fastest < STILLER)
    if has.soft:
        calm[(c.ramp < 1.0).any(axis=0)] = 1.0
    if has.least_over_s:
        calm[c.t_s < has.least_over_s] = 1.0
    c.t_s = c.t_s + h
    c.h_before_s, c.h_s = h, shape.step_s * calm
    c.speed_before = c.speed
    c.speed = np.minimum(np.maximum(c.speed + moved, 0.0), 1.0 - m.SMALLEST_SLIP)
    still = _every(np.abs(moved) < 1e-5) | _any((c.speed < STANDS) & c.starting)
    c.still_s = (c.still_s + h) * still


def _protect(c: Columns, shape: Shape, has: _Features, amps: Real, weakest: Real) -> Bool:
    """Latches, breakers and guard; True where something opened in this step."""
    h = c.h_before_s
    opened = np.zeros(len(c.ident), dtype=bool)
    if has.latch:
        carried = np.maximum(amps - c.offset_a, 0.0) / c.continuous_a
        c.overload = np.maximum(c.overload + (carried * carried - 1.0) * h, 0.0)
        opened |= _any(c.overload > c.latch_k_s)
        c.under_s = (c.under_s + h) * (weakest < UNDERVOLT_FRACTION * shape.leg_v)
        opened |= c.under_s > c.undervolt_s
    if len(shape.breaker_leg):
        x = (amps if has.conductors == 1 else amps[list(shape.breaker_leg)]) / c.rating_a
        c.heat = c.heat + (x * x - c.heat) * (h / shape.tau_s)
        opened |= _any((c.heat >= shape.trip_heat) | (x >= shape.magnetic))
    if shape.guard_low_v:
        c.guard_s = (c.guard_s + h) * (weakest < shape.guard_low_v)
        opened |= c.guard_s > GUARD_FILTER_S
    return opened


def _decide(c: Columns, shape: Shape, has: _Features, opened: Bool, weakest: Real) -> None:
    """Name the outcome of the columns that have one now."""
    ready = ~c.starting | (c.speed >= 1.0 - c.up_slip)
    if has.soft:
        ready &= c.ramp >= 1.0
    up = _every(ready)
    stuck = c.still_s > STANDSTILL_S
    any_up, any_opened, any_stuck = np.count_nonzero(up), np.count_nonzero(opened), np.count_nonzero(stuck)
    fallen = _any((c.speed <= 0.0) & ~c.starting & (c.on > 0.0)) if has.beside else None
    finite = np.isfinite(weakest)
    quiet = not (any_up or any_opened or any_stuck or has.soft or has.beside)
    if quiet and np.count_nonzero(finite) == len(finite):
        return
    fresh = c.outcome == UNDECIDED
    over = c.t_s > has.least_over_s
    c.outcome[fresh & ~finite] = UNSOLVED
    well = up & (weakest >= RECOVERED * shape.leg_v)
    if any_up:
        fresh_up = up & ~np.isfinite(c.up_s)
        if fresh_up.any():
            c.up_s[fresh_up] = (c.t_s - c.h_before_s * _late(c, up))[fresh_up]
        if has.beside:
            well &= ((c.speed > 0.8) | (c.on == 0.0)).all(axis=0)
    if has.least_over_s:
        well &= over
    if any_opened:
        standing = (c.starting & (c.speed < STANDS)).any(axis=0) | stuck
        c.outcome[fresh & opened & ~well] = TRIPS
        c.outcome[fresh & opened & standing] = STALLS
    c.outcome[fresh & ~opened & well] = STARTS
    lost: Any = stuck & over
    if any_stuck:
        lost = lost & ~(c.eco & (c.t_s < 4.0 * ECO_TAU_S)) & (c.ramp >= 1.0).all(axis=0)
    if has.soft:
        lost = lost | (c.soft_low_s > SOFT_GIVES_UP_S)
    if fallen is not None:
        lost = lost | fallen
    c.outcome[(c.outcome == UNDECIDED) & lost] = STALLS


def _late(c: Columns, which: Bool) -> Real:
    """Share of the last step since the last of the motors starting reached its speed, by straight line [1]."""
    past = (c.speed - (1.0 - c.up_slip)) / np.maximum(c.speed - c.speed_before, 1e-9)
    late: Real = np.where(c.starting, np.clip(past, 0.0, 1.0), 1.0).min(axis=0, initial=1.0)
    return late * c.starting.any(axis=0) * which


def simulate(columns: Columns, shape: Shape, keep: int = 0, follow: int | None = None, horizon_s: float = HORIZON_S) -> tuple[Columns, list[Trace]]:
    """Run every column to its outcome.

    Args:
        keep: the first ``keep`` columns are traced.
        follow: the first ``follow`` of those (all, if not said) are run on past their outcome until something opens or the start is over.

    Returns:
        The columns with ``outcome`` (codes of this module), ``up_s`` time to speed [s], ``event_s`` when something
        opened [s], ``lowest_v`` [V] and ``peak_a`` [A]; and the traces of the first ``keep`` columns.
    """
    follow = keep if follow is None else follow
    done = columns.take(slice(None))
    room = max(CHUNK // max(len(shape.places), 1), keep, LEAST_CHUNK)
    traces: list[Trace] = []
    for begin in range(0, len(columns.ident), room):
        traces += _run(done, columns.take(slice(begin, begin + room)), shape, keep if begin == 0 else 0, follow, horizon_s)
    return done, traces


def _run(done: Columns, c: Columns, shape: Shape, keep: int, follow: int, horizon_s: float) -> list[Trace]:
    """Run some of the columns and write their results into ``done``; returns the traces of the first ``keep``."""
    has = _Features.of(c, shape)
    logs: list[tuple[Any, ...]] = []
    quiet = np.zeros(len(c.ident))
    c.h_s = np.full(len(c.ident), shape.step_s)
    steps = round(horizon_s / shape.step_s)
    volts = _place_volts(c, shape)
    for at in range(steps + 1):
        limit = c.limit_a * np.where(c.eco, 1.0 - ECO_FRACTION * np.exp(-c.t_s / ECO_TAU_S), 1.0) if has.eco else c.limit_a
        for _ in range(PASSES_AT_START if at == 0 else 1):
            rotor, y = _admittances(c, shape, has, volts)
            amps = _solve(c, shape, has, y, limit)
            volts = _place_volts(c, shape)
        weakest = np.minimum(volts[0], volts[1]) if shape.two_legs else volts[0]
        source_a = amps * shape.turns
        if keep and c.ident[0] < keep:
            kept = int(np.searchsorted(c.ident, keep))
            logs.append((c.t_s[:kept], c.ident[:kept], volts[:2, :kept].copy(), source_a[:, :kept], c.speed[:, :kept].copy(), c.heat[:, :kept].copy()))
        live = (c.outcome == UNDECIDED) | (c.ident < follow)
        np.copyto(c.peak_a, np.maximum(c.peak_a, source_a.max(axis=0)), where=live)
        np.copyto(c.lowest_v, np.minimum(c.lowest_v, weakest), where=live)
        opened = _protect(c, shape, has, source_a + shape.also_a, weakest)
        _decide(c, shape, has, opened, weakest)
        np.copyto(c.event_s, c.t_s, where=opened & live & ~np.isfinite(c.event_s))
        quiet = (quiet + c.h_before_s) * (c.outcome == STARTS)
        finished = (c.outcome != UNDECIDED) & ((c.ident >= follow) | np.isfinite(c.event_s) | (quiet > SETTLE_S))
        late = c.t_s >= horizon_s
        if np.count_nonzero(late):
            c.outcome[late & (c.outcome == UNDECIDED)] = STALLS
            finished |= late
        left = len(finished) - int(np.count_nonzero(finished))
        if left == 0 or (at % THIN_OUT_EVERY == 0 and left < 0.85 * len(finished)):
            _put(done, c, finished)
            if left == 0:
                break
            c, quiet, volts = c.take(~finished), quiet[~finished], volts[:, ~finished]
            rotor = _Rotor(*(x[:, ~finished] for x in (rotor.rotor, rotor.resistance, rotor.square, rotor.volts)))
            source_a, weakest = source_a[:, ~finished], weakest[~finished]
        if at % THIN_OUT_EVERY == 0 and _only_waits(c, has, follow):
            _wait(c, shape, has, logs, keep, horizon_s, source_a + shape.also_a, weakest)
            _put(done, c, np.ones(len(c.ident), dtype=bool))
            break
        _advance(c, shape, has, rotor, at == 0)
    return _traces(logs, keep)


def _only_waits(c: Columns, has: _Features, follow: int) -> bool:
    """Whether all that is left is followed columns that stand still, decided, waiting for something to open."""
    return bool(c.ident[-1] < follow and not has.eco and (c.outcome != UNDECIDED).all() and (c.still_s > STANDSTILL_S).all())


def _wait(c: Columns, shape: Shape, has: _Features, logs: list[tuple[Any, ...]], keep: int, horizon_s: float, amps: Real, weakest: Real) -> None:
    """Let time pass until something opens in each column or the horizon comes: only latches and heat still change."""
    first = logs[-1] if logs else None
    c.h_before_s = np.full(len(c.ident), shape.step_s)
    while c.t_s.max() < horizon_s and not np.isfinite(c.event_s).all():
        c.t_s = c.t_s + shape.step_s
        opened = _protect(c, shape, has, amps, weakest)
        np.copyto(c.event_s, c.t_s, where=opened & ~np.isfinite(c.event_s))
        if first is not None and c.ident[0] < keep:
            waiting = (c.ident < keep) & (c.event_s >= c.t_s)
            rows = np.searchsorted(first[1], c.ident[waiting])
            logs.append((c.t_s[waiting], c.ident[waiting], first[2][:, rows], first[3][:, rows], first[4][:, rows], c.heat[:, waiting]))


def _put(done: Columns, c: Columns, which: Bool) -> None:
    """Write the results of finished columns back to their places."""
    places = c.ident[which]
    for name in ("outcome", "up_s", "event_s", "lowest_v", "peak_a"):
        getattr(done, name)[places] = getattr(c, name)[which]


def _traces(logs: list[tuple[Any, ...]], keep: int) -> list[Trace]:
    """The log turned round: one trace a kept column, each as long as the column was in the batch."""
    if not keep:
        return []
    ends = np.zeros(keep, dtype=int)
    times = np.zeros((len(logs), keep))
    stacks = [np.zeros((len(logs), *row.shape[:-1], keep)) for row in logs[0][2:]]
    for at, (t_s, idents, *values) in enumerate(logs):
        ends[idents] = at + 1
        times[at, idents] = t_s
        for stack, value in zip(stacks, values, strict=True):
            stack[at][..., idents] = value
    return [Trace(times[:end, ident], *(np.moveaxis(stack[:end, ..., ident], 0, -1) for stack in stacks)) for ident, end in enumerate(ends)]
