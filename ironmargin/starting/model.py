"""From a case to the arrays of the start engine: who starts, what runs beside, on what network,
against which limits.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ironmargin.case import Case, gear_current
from ironmargin.electrics import motor as m
from ironmargin.electrics.network import Complex, Real, Upstream
from ironmargin.record import record
from ironmargin.starting.plan import Plan, Whole, branch_number, branches_of, real, whole
from ironmargin.starting.protection import (
    BranchWatch,
    GuardWatch,
    Limits,
    branches_watched,
    guard_of,
    limits_of,
)

SHORTEST_RAMP_S = 0.05
"""A soft starter's ramp is no shorter: three cycles [s]."""


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
class Concurrent:
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
class Model:
    """Everything the start engine is given, once for a case and a plan."""

    step_s: float
    wiring: Wiring
    loads: Concurrent
    motors: MotorRows
    supply: Limits
    guard: GuardWatch
    branches: BranchWatch


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


def _concurrent(case: Case, plan: Plan) -> Concurrent:
    """Everything that runs beside the start; a unit that starts has only its fan, or what the plan
    says.
    """
    fixed = np.zeros(3, dtype=complex)
    power: dict[tuple[int, float, float, float], list[tuple[int, complex]]] = {}
    starting = {s.demand for s in plan.starting}
    for at, demand in enumerate(case.demands):
        if at in plan.off:
            continue
        samples = demand.single_concurrent if demand.plate else demand.one
        if plan.concurrent is not None and at in starting:
            samples = plan.concurrent
        for draw in samples:
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
            rush_branch.append(branch_number(numbers, demand.load.circuit))
    return Concurrent(
        fixed_y=fixed,
        demands=tuple(tuple(at for at, _ in each) for each in power.values()),
        place=whole([leg for leg, *_ in power]),
        power_y=np.array([sum(y for _, y in each) for each in power.values()], dtype=complex),
        nominal_v=real([bus_v for _, bus_v, *_ in power]),
        dropout=real([dropout for *_, dropout, _ in power]),
        pickup=real([pickup for *_, pickup in power]),
        rush_place=whole([r.leg for r in rushes]),
        rush_tau_s=real([r.tau_s for r in rushes]),
        rush_branch=whole(rush_branch),
        rush_y=np.array(
            [r.va.conjugate() / r.bus_v**2 * (r.times - 1.0) for r in rushes], dtype=complex
        ),
    )


@lru_cache(maxsize=1024)
def _circuit(voltage_v: float, lra_a: float, rla_a: float) -> m.Circuit:
    return m.circuit_of(voltage_v, m.feasible_lra(lra_a, rla_a), rla_a)


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
        place=whole([d.leg for d in demands]),
        on=whole([case.rows[r] not in plan.off for r in range(len(demands))]),
        starting=whole(starting),  # type: ignore[arg-type]
        relay=whole([g in m.RELAYED for g in gears]),
        ratio=real([d.ratio for d in demands]),
        rated_v=real([p.voltage_v for p in plates]),
        r1=real([c.r1 for c in circuits]),
        r2=real([c.r2 for c in circuits]),
        x=real([c.x for c in circuits]),
        series_r=real([d.series_ohm.real for d in demands]),
        series_x=real([d.series_ohm.imag for d in demands]),
        torque_fl=real([c.torque_fl for c in circuits]),
        slip_fl=real([c.slip_fl for c in circuits]),
        gear=real(
            [
                (m.FED_GEAR if s and p.soft_fraction else m.GEAR_TORQUE)[g]
                for g, p, s in zip(gears, plates, starting, strict=True)
            ]
        ),
        gear_current=real([gear_current(d) for d in demands]),
        breakaway=real([b if s else a for a, b, s in zip(at_speed, stiff, starting, strict=True)]),
        at_speed=real(at_speed),
        inertia_s=real([m.INERTIA_H_S if s else m.RUNNING_H_S for s in starting]),
        soft_a=real([p.soft_fraction * p.lra_a for p in plates]),
        soft_ramp_s=real([max(p.ramp_s, SHORTEST_RAMP_S) for p in plates]),
        soft_torque=real([p.soft_torque for p in plates]),
        branch=whole([branch_number(branches_of(case, plan), d.load.circuit) for d in demands]),
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
        _concurrent(case, plan),
        _motors(case, plan),
        limits_of(case, plan, np.asarray(warm, dtype=float)),
        guard_of(case),
        branches_watched(case, plan),
    )
