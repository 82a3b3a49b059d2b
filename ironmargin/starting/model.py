"""From a case to the arrays of the start engine: who starts, what runs beside, on what network,
against which limits.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ironmargin.case import Case, Starter, gear_current
from ironmargin.electrics import motor as m
from ironmargin.electrics.network import Complex, Real, Upstream
from ironmargin.loads.demand import Draw
from ironmargin.protection.breaker import NOMINAL, Curve, curve
from ironmargin.record import record
from ironmargin.setup.model import Circuit
from ironmargin.supplies.source import NEVER

Whole = NDArray[np.intc]


@record
class Plan:
    """A moment to watch.

    Attributes:
        starting: who starts in this moment.
        off: demands left off.
        breakaway: breakaway torque instead of the plate's, for a restart at once.
        beside: draws of the starting unit itself while its motor starts, instead of its fan as the
            mode has it.
    """

    starting: tuple[Starter, ...]
    off: frozenset[int] = frozenset()
    breakaway: float | None = None
    beside: tuple[Draw, ...] | None = None


@record
class Wiring:
    """The network: open-circuit volts [V], impedances z11, z12, z22 of supply and path [ohm], and
    its shape.
    """

    two_legs: bool
    tied: bool
    conductors: int
    e1_v: complex
    e2_v: complex
    supply_ohm: Complex
    path_ohm: Complex


@record
class Beside:
    """What runs beside the start, motors excepted.

    Attributes:
        fixed_y: admittance of constant impedances on L1, L2, L1-L2 [S].
        demands, place, power_y, nominal_v: of the constant-power loads that behave alike, taken
            together: whose they are, where, their admittance at nominal volts.
        dropout, pickup: share of nominal volts at which it drops out, and comes back [1].
        rush_place, rush_y, rush_tau_s: inrushes, an extra admittance [S] dying away [s].
        rush_branch: number of the branch breaker each passes, −1 for none.
    """

    fixed_y: Complex
    demands: tuple[tuple[int, ...], ...]
    place: Whole
    power_y: Complex
    nominal_v: Real
    dropout: Real
    pickup: Real
    rush_place: Whole
    rush_y: Complex
    rush_tau_s: Real
    rush_branch: Whole


@record
class MotorRows:
    """One row a motor unit: circuit at rated volts [ohm], torques in units of full load, start
    gear, soft starter.
    """

    place: Whole
    on: Whole
    starting: Whole
    relay: Whole
    ratio: Real
    rated_v: Real
    r1: Real
    r2: Real
    x: Real
    series_r: Real
    series_x: Real
    torque_fl: Real
    slip_fl: Real
    gear: Real
    gear_current: Real
    breakaway: Real
    at_speed: Real
    inertia_s: Real
    soft_a: Real
    soft_ramp_s: Real
    soft_torque: Real
    branch: Whole


@record
class Limits:
    """What the supply gives and what opens; amps a hot conductor of the source; see
    :class:`~ironmargin.supplies.source.Source`.
    """

    limit_a: float
    crest_a: float
    limit_w: float
    continuous_a: float
    offset_a: float
    latch_k_s: float
    undervolt_s: float
    leg_v: float
    also_a: float
    cut_off_s: float
    turns: float
    eco: bool
    forced: bool
    breaker_leg: Whole
    scaled: Whole
    rating_a: Real
    tau_s: Real
    trip_heat: Real
    magnetic: Real
    warm: Real


@record
class GuardWatch:
    """A guard in the path: its limits [V], [A], the impedances behind it [ohm], and the panel's
    volts over its own.
    """

    present: bool
    low_v: float
    over_a: float
    after_ohm: Complex
    turns: float


@record
class BranchWatch:
    """The branch breakers that a start passes: ratings [A], curves, heat before the start, and what
    else each carries meanwhile [A].
    """

    rating_a: Real
    tau_s: Real
    trip_heat: Real
    magnetic: Real
    warm: Real
    beside_a: Real


@record
class Model:
    """Everything the start engine is given, once for a case and a plan."""

    step_s: float
    wiring: Wiring
    loads: Beside
    motors: MotorRows
    supply: Limits
    guard: GuardWatch
    branches: BranchWatch


def _whole(values: list[int]) -> Whole:
    return np.array(values, dtype=np.intc)


def _real(values: list[float]) -> Real:
    return np.array(values, dtype=float)


def _ohm(up: Upstream) -> Complex:
    return np.array([up.z11, up.z12, up.z22], dtype=complex)


def _wiring(case: Case) -> Wiring:
    up = case.feed.transient
    path = _ohm(case.feed.wiring)
    return Wiring(
        up.legs == 2,
        up.tied,
        1 if up.legs == 1 or up.tied else 2,
        up.e1_v,
        up.e2_v,
        _ohm(up) - path,
        path,
    )


def branches_of(case: Case, plan: Plan) -> dict[str, int]:
    """Number of each branch breaker that a start of this plan passes, by the id of its circuit.

    Args:
        case: the prepared setup.
        plan: who starts, and what runs beside.

    Returns:
        Number by id.
    """
    starting = {case.demands[s.demand].load.circuit for s in plan.starting}
    passed = [c.id for c in case.setup.rig.circuits if c.id in starting]
    return {ident: number for number, ident in enumerate(passed)}


def _branch(numbers: dict[str, int], circuit: str | None) -> int:
    return -1 if circuit is None else numbers.get(circuit, -1)


def _beside(case: Case, plan: Plan) -> Beside:
    """Everything that runs beside the start; a unit that starts has only its fan, or what the plan
    says.
    """
    fixed = np.zeros(3, dtype=complex)
    power: dict[tuple[int, float, float, float], list[tuple[int, complex]]] = {}
    starting = {s.demand for s in plan.starting}
    for at, demand in enumerate(case.demands):
        if at in plan.off:
            continue
        draws = demand.single_beside if demand.plate else demand.one
        if plan.beside is not None and at in starting:
            draws = plan.beside
        for draw in draws:
            y = draw.va.conjugate() / draw.bus_v**2 * demand.load.count
            if draw.constant_power:
                alike = draw.leg, draw.bus_v, draw.dropout, draw.pickup
                power.setdefault(alike, []).append((at, y))
            else:
                fixed[draw.leg] += y
    numbers = branches_of(case, plan)
    rushes, rush_branch = [], []
    for starter in plan.starting:
        demand = case.demands[starter.demand]
        if starter.inrush is not None and demand.inrush is not None:
            rushes.append(demand.inrush)
            rush_branch.append(_branch(numbers, demand.load.circuit))
    return Beside(
        fixed_y=fixed,
        demands=tuple(tuple(at for at, _ in each) for each in power.values()),
        place=_whole([leg for leg, *_ in power]),
        power_y=np.array([sum(y for _, y in each) for each in power.values()], dtype=complex),
        nominal_v=_real([bus_v for _, bus_v, *_ in power]),
        dropout=_real([dropout for *_, dropout, _ in power]),
        pickup=_real([pickup for *_, pickup in power]),
        rush_place=_whole([r.leg for r in rushes]),
        rush_tau_s=_real([r.tau_s for r in rushes]),
        rush_branch=_whole(rush_branch),
        rush_y=np.array(
            [r.va.conjugate() / r.bus_v**2 * (r.times - 1.0) for r in rushes], dtype=complex
        ),
    )


@lru_cache(maxsize=1024)
def _circuit(voltage_v: float, lra_a: float, rla_a: float) -> m.Circuit:
    return m.circuit_of(voltage_v, max(lra_a, 1.3 * rla_a), rla_a)


def _motors(case: Case, plan: Plan) -> MotorRows:
    demands = [case.demands[d] for d in case.rows]
    plates = [p for d in demands if (p := d.plate) is not None]
    starting = [row in {s.row for s in plan.starting} for row in range(len(demands))]
    circuits = [_circuit(p.voltage_v, p.lra_a, p.rla_a) for p in plates]
    at_speed = [
        p.load_after_start if s else p.load_torque for p, s in zip(plates, starting, strict=True)
    ]
    stiff = [plan.breakaway if plan.breakaway is not None else p.breakaway for p in plates]
    gears = [p.start_gear if s else "run-capacitor" for p, s in zip(plates, starting, strict=True)]
    return MotorRows(
        place=_whole([d.leg for d in demands]),
        on=_whole([case.rows[r] not in plan.off for r in range(len(demands))]),
        starting=_whole(starting),  # type: ignore[arg-type]
        relay=_whole([g in m.RELAYED for g in gears]),
        ratio=_real([d.ratio for d in demands]),
        rated_v=_real([p.voltage_v for p in plates]),
        r1=_real([c.r1 for c in circuits]),
        r2=_real([c.r2 for c in circuits]),
        x=_real([c.x for c in circuits]),
        series_r=_real([d.series_ohm.real for d in demands]),
        series_x=_real([d.series_ohm.imag for d in demands]),
        torque_fl=_real([c.torque_fl for c in circuits]),
        slip_fl=_real([c.slip_fl for c in circuits]),
        gear=_real(
            [
                (m.FED_GEAR if s and p.soft_fraction else m.GEAR_TORQUE)[g]
                for g, p, s in zip(gears, plates, starting, strict=True)
            ]
        ),
        gear_current=_real([gear_current(d) for d in demands]),
        breakaway=_real([b if s else a for a, b, s in zip(at_speed, stiff, starting, strict=True)]),
        at_speed=_real(at_speed),
        inertia_s=_real([m.INERTIA_H_S if s else m.RUNNING_H_S for s in starting]),
        soft_a=_real([p.soft_fraction * p.lra_a for p in plates]),
        soft_ramp_s=_real([max(p.ramp_s, 0.05) for p in plates]),
        soft_torque=_real([p.soft_torque for p in plates]),
        branch=_whole([_branch(branches_of(case, plan), d.load.circuit) for d in demands]),
    )


def crest_amps(case: Case, off: frozenset[int] = frozenset()) -> float:
    """What uncorrected electronics add to the peak of the busier conductor [A].

    Args:
        case: the setup, ready to be solved.
        off: numbers of demands that are left out.

    Returns:
        Amps [A].
    """
    conductors = [0.0, 0.0]
    for at, demand in enumerate(case.demands):
        for leg in (0, 1) if demand.leg == 2 else (demand.leg,):
            conductors[leg] += 0.0 if at in off else demand.crest_a
    single = case.feed.upstream.legs == 1 or case.feed.upstream.tied
    return sum(conductors) if single else max(conductors)


def _limits(case: Case, plan: Plan, warm: Real) -> Limits:
    source = case.source
    outdoor_c = case.setup.conditions.outdoor_c
    curves = [curve(b.standard, b.rating_a, NOMINAL, outdoor_c, b.trips) for b, _ in case.breakers]
    stiff = source.kind == "shore"
    return Limits(
        limit_a=source.limit_a,
        crest_a=crest_amps(case, plan.off),
        limit_w=source.limit_w,
        continuous_a=source.latch_a,
        offset_a=source.offset_a,
        latch_k_s=source.latch_k_s,
        undervolt_s=source.undervolt_s,
        leg_v=abs(case.feed.upstream.e1_v),
        also_a=source.also_a,
        cut_off_s=source.cut_off_s,
        turns=case.turns,
        eco=source.eco,
        forced=source.forced,
        breaker_leg=_whole([leg for _, leg in case.breakers]),
        scaled=_whole([stiff and b.where in ("post", "supply") for b, _ in case.breakers]),
        rating_a=_real([b.rating_a for b, _ in case.breakers]),
        tau_s=_real([c.tau_s for c in curves]),
        trip_heat=_real([c.multiple**2 for c in curves]),
        magnetic=_real([c.magnetic for c in curves]),
        warm=warm,
    )


def _guard(case: Case) -> GuardWatch:
    point = next((p for p in reversed(case.feed.guards) if not p.at_input), None)
    if point is None:
        return GuardWatch(False, 0.0, NEVER, np.zeros(3, dtype=complex), 1.0)
    guard = point.guard
    over_a = min(a for a in (guard.overload_a, guard.rating_a, NEVER) if a is not None)
    return GuardWatch(True, guard.low_v, over_a, np.array(point.after, dtype=complex), point.turns)


def branch_standard(circuit: Circuit, nominal_v: float) -> str:
    """Standard of a branch breaker: as stated, else the usual one of the service.

    Args:
        circuit: of the panel.
        nominal_v: of the service [V].

    Returns:
        Key of a trip curve.
    """
    return circuit.breaker_standard or ("IEC60898-B" if nominal_v > 180 else "UL489")


def branch_curve(case: Case, circuit: Circuit, edge: str = NOMINAL) -> Curve:
    """The curve of a branch breaker here, at an edge of its band.

    Args:
        case: the prepared setup.
        circuit: the branch.
        edge: ``early``, ``nominal`` or ``late``.

    Returns:
        Time to trip over multiples of its rating.
    """
    standard = branch_standard(circuit, case.source.nominal_v)
    outdoor_c = case.setup.conditions.outdoor_c
    return curve(standard, circuit.breaker_a, edge, outdoor_c, circuit.breaker_trips)


def _branches(case: Case, plan: Plan) -> BranchWatch:
    """The branch breakers of what starts, warmed by what else hangs on them."""
    numbers = branches_of(case, plan)
    circuits = [c for c in case.setup.rig.circuits if c.id in numbers]
    starting = {s.demand for s in plan.starting}
    beside = [0.0] * len(circuits)
    for at, demand in enumerate(case.demands):
        number = _branch(numbers, demand.load.circuit)
        if number < 0 or at in plan.off:
            continue
        # The motors themselves are followed; beside them run their fans and everything else.
        draws = demand.single_beside if demand.plate else demand.one
        count = demand.load.count - (at in starting and demand.plate is None)
        beside[number] += count * sum(d.amps for d in draws) / demand.ratio
    curves = [branch_curve(case, c) for c in circuits]
    ratings = [c.breaker_a for c in circuits]
    return BranchWatch(
        rating_a=_real(ratings),
        tau_s=_real([c.tau_s for c in curves]),
        trip_heat=_real([c.multiple**2 for c in curves]),
        magnetic=_real([c.magnetic for c in curves]),
        warm=_real([min((a / r) ** 2, 1.0) for a, r in zip(beside, ratings, strict=True)]),
        beside_a=_real(beside),
    )


def model_of(case: Case, plan: Plan, warm: Real) -> Model:
    """The arrays of one plan.

    Args:
        case: the setup, ready to be solved.
        plan: what starts, what runs beside it, what is off.
        warm: heat of each breaker before the start, in units of (I/In)² [1].

    Returns:
        Arrays the engine works on.
    """
    return Model(
        0.5 / case.source.frequency_hz,
        _wiring(case),
        _beside(case, plan),
        _motors(case, plan),
        _limits(case, plan, np.asarray(warm, dtype=float)),
        _guard(case),
        _branches(case, plan),
    )
