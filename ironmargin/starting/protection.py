"""What may open or shut off during a start: a supply's electronics, a guard, branch breakers."""

from __future__ import annotations

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Complex, Real
from ironmargin.electrics.services import HIGH_V
from ironmargin.protection.breaker import NOMINAL, Curve, curve
from ironmargin.record import record
from ironmargin.setup.model import Circuit
from ironmargin.starting.plan import Plan, Whole, branch_number, branches_of, real, whole
from ironmargin.supplies.source import NEVER


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
    lockout_k_s: float
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
    concurrent_a: Real


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


def limits_of(case: Case, plan: Plan, warm: Real) -> Limits:
    """What the supply gives in a start, and its breakers as warm as they are.

    Args:
        case: the prepared setup.
        plan: who starts, and what runs beside.
        warm: heat of each breaker before the start, over the one that opens it (breakers,) [1].

    Returns:
        The limits.
    """
    source = case.source
    outdoor_c = case.setup.conditions.outdoor_c
    curves = [curve(b.standard, b.rating_a, NOMINAL, outdoor_c, b.trips) for b, _ in case.breakers]
    stiff = source.kind == "shore"
    return Limits(
        limit_a=source.limit_a,
        crest_a=crest_amps(case, plan.off),
        limit_w=source.limit_w,
        continuous_a=source.lockout_a,
        offset_a=source.offset_a,
        lockout_k_s=source.lockout_k_s,
        undervolt_s=source.undervolt_s,
        leg_v=abs(case.feed.upstream.e1_v),
        also_a=source.also_a,
        cut_off_s=source.cut_off_s,
        turns=case.turns,
        eco=source.eco,
        forced=source.forced,
        breaker_leg=whole([leg for _, leg in case.breakers]),
        scaled=whole([stiff and b.where in ("post", "supply") for b, _ in case.breakers]),
        rating_a=real([b.rating_a for b, _ in case.breakers]),
        tau_s=real([c.tau_s for c in curves]),
        trip_heat=real([c.multiple**2 for c in curves]),
        magnetic=real([c.magnetic for c in curves]),
        warm=warm,
    )


def guard_of(case: Case) -> GuardWatch:
    """The guard nearest to the panel.

    Args:
        case: the prepared setup.

    Returns:
        What it watches; one that is not present where there is none.
    """
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
    return circuit.breaker_standard or ("IEC60898-B" if nominal_v > HIGH_V else "UL489")


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


def branches_watched(case: Case, plan: Plan) -> BranchWatch:
    """The branch breakers of what starts, warmed by what else hangs on them.

    Args:
        case: the prepared setup.
        plan: who starts, and what runs beside.

    Returns:
        Ratings, curves, heat and what runs beside.
    """
    numbers = branches_of(case, plan)
    circuits = [c for c in case.setup.rig.circuits if c.id in numbers]
    starting = {s.demand for s in plan.starting}
    concurrent = [0.0] * len(circuits)
    for at, demand in enumerate(case.demands):
        number = branch_number(numbers, demand.load.circuit)
        if number < 0 or at in plan.off:
            continue
        # The motors themselves are followed; beside them run their fans and everything else.
        samples = demand.single_concurrent if demand.plate else demand.one
        count = demand.load.count - (at in starting and demand.plate is None)
        concurrent[number] += count * sum(d.amps for d in samples) / demand.ratio
    curves = [branch_curve(case, c) for c in circuits]
    ratings = [c.breaker_a for c in circuits]
    return BranchWatch(
        rating_a=real(ratings),
        tau_s=real([c.tau_s for c in curves]),
        trip_heat=real([c.multiple**2 for c in curves]),
        magnetic=real([c.magnetic for c in curves]),
        warm=real([min((a / r) ** 2, 1.0) for a, r in zip(concurrent, ratings, strict=True)]),
        concurrent_a=real(concurrent),
    )
