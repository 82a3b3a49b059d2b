"""From a case to the columns of a start simulation: plans say who starts, what is off, and how strong the supply is."""

from __future__ import annotations

import zlib
from dataclasses import dataclass, field

import numpy as np

from ironmargin.electrics.network import Complex, Real
from ironmargin.loads import motor as m
from ironmargin.loads.demand import Draw
from ironmargin.starting.case import Case, Starter
from ironmargin.starting.state import Columns

SPREAD = {"lra": 0.07, "lra-typical": 0.15, "limit": 0.06, "volts": 0.015, "latch": 0.30}
"""Uncertainty of the inputs, each ± read as two standard deviations."""
BREAKAWAY_LOG_SD = 0.25


@dataclass(frozen=True)
class Plan:
    """A group of columns of one start.

    Attributes:
        starting: who starts in this moment; off: demands left off.
        scales: strength of the supply in each column [1].
        draws: number of random trials instead of scales; 0 for none; skip: trials of the same seed passed over before them.
        breakaway: breakaway torque instead of the plate's, for a restart at once.
        beside: draws of the starting unit itself while its motor starts, instead of its fan as the mode has it.
    """

    starting: tuple[Starter, ...]
    scales: Real = field(default_factory=lambda: np.ones(1))
    draws: int = 0
    skip: int = 0
    off: frozenset[int] = frozenset()
    breakaway: float | None = None
    beside: tuple[Draw, ...] | None = None

    @property
    def size(self) -> int:
        return self.draws or len(self.scales)


def normals(seed: int, label: str, plan: Plan) -> Real:
    """Standard normal draws of one named input: the same for the same seed, whatever else is drawn [1]."""
    return np.random.default_rng([seed, zlib.crc32(label.encode())]).standard_normal(plan.skip + plan.draws)[plan.skip:]


def _add(to_z: Complex, to_p: Complex, draw: Draw, factor: float = 1.0) -> None:
    if draw.constant_power:
        to_p[draw.leg] += draw.va * factor
    else:
        to_z[draw.leg] += np.conj(draw.va) / draw.bus_v**2 * factor


class _Background:
    """Admittance and constant power of every demand, once for all plans, so that a plan is only a choice among them."""

    def __init__(self, case: Case) -> None:
        self.case = case
        count = len(case.demands)
        self.z, self.p = np.zeros((count, 3), dtype=complex), np.zeros((count, 3), dtype=complex)
        for at, demand in enumerate(case.demands):
            for draw in demand.single_beside if demand.plate else demand.one:
                _add(self.z[at], self.p[at], draw, demand.load.count)

    def of(self, plan: Plan) -> tuple[Complex, Complex]:
        """Admittance and constant power of everything that runs beside the start, motors excepted [S], [VA]."""
        kept = np.ones(len(self.z), dtype=complex)
        kept[list(plan.off)] = 0.0
        z, p = kept @ self.z, kept @ self.p
        if plan.beside is not None:
            for starter in plan.starting:
                at = starter.demand
                z, p = z - self.z[at], p - self.p[at]
                for draw in plan.beside:
                    _add(z, p, draw, self.case.demands[at].load.count)
        return z, p


def columns_of(case: Case, plans: list[Plan], warm_heat: Real) -> Columns:
    """The columns of all plans, in order.

    Args:
        warm_heat: heat of each breaker row before the start, in units of (I/In)² [1].
    """
    sizes = [plan.size for plan in plans]
    n, rows = sum(sizes), len(case.rows)
    ends = np.cumsum([0, *sizes])
    source, up, turns = case.source, case.feed.upstream, case.turns
    one, many = np.ones(n), np.ones((rows, n))
    scale, volts, latch, lra = one.copy(), one.copy(), one.copy(), many.copy()
    breakaway = np.empty((rows, n))
    on, starting = many.copy(), np.zeros((rows, n), dtype=bool)
    yz, sp = np.zeros((3, n), dtype=complex), np.zeros((3, n), dtype=complex)
    inrush = np.zeros((len(case.inrush_rows), n), dtype=complex)
    plates = [plate for d in case.rows if (plate := case.demands[d].plate) is not None]
    seed, background = case.setup.rules.seed, _Background(case)
    for plan, start, end in zip(plans, ends[:-1], ends[1:], strict=True):
        here = slice(start, end)
        z, p = background.of(plan)
        yz[:, here], sp[:, here] = z[:, None], p[:, None]
        for row, plate in enumerate(plates):
            breakaway[row, here] = plate.breakaway
            if case.rows[row] in plan.off:
                on[row, here] = 0.0
        for starter in plan.starting:
            if starter.row is not None:
                starting[starter.row, here] = True
                if plan.breakaway is not None:
                    breakaway[starter.row, here] = plan.breakaway
            elif starter.inrush is not None:
                rush = case.demands[starter.demand].inrush
                assert rush is not None
                inrush[starter.inrush, here] = np.conj(rush.va) / rush.bus_v**2 * (rush.times - 1.0)
        if plan.draws:
            scale[here] = 1.0 + SPREAD["limit"] / 2 * normals(seed, "limit", plan)
            volts[here] = 1.0 + SPREAD["volts"] / 2 * normals(seed, "volts", plan)
            latch[here] = np.maximum(1.0 + SPREAD["latch"] / 2 * normals(seed, "latch", plan), 0.05)
            for row, plate in enumerate(plates):
                name = f"{case.demands[case.rows[row]].load.id}/{row - case.rows.index(case.rows[row])}"
                spread = SPREAD["lra-typical" if plate.lra_typical else "lra"]
                lra[row, here] = 1.0 + spread / 2 * normals(seed, f"lra/{name}", plan)
                breakaway[row, here] *= np.exp(BREAKAWAY_LOG_SD * normals(seed, f"breakaway/{name}", plan))
        else:
            scale[here] = plan.scales

    def by_row(values: list[float]) -> Real:
        return np.array(values, dtype=float).reshape(-1, 1) * many

    rated, lra_a = by_row([p.voltage_v for p in plates]), by_row([p.lra_a for p in plates]) * lra
    rla = by_row([p.rla_a for p in plates])
    circuit = m.circuit_of(rated, np.maximum(lra_a, 1.3 * rla), rla)
    series = by_row([case.demands[d].series_ohm.real for d in case.rows])
    reactance = by_row([case.demands[d].series_ohm.imag for d in case.rows])
    at_speed = np.where(starting, by_row([p.load_after_start for p in plates]), by_row([p.load_torque for p in plates]))
    soft = starting & (by_row([p.soft_fraction for p in plates]) > 0.0)
    speed = np.where(starting, 0.0, 1.0 - circuit.slip_fl * np.minimum(at_speed, 1.2)) * on
    stiff = case.source.kind == "shore"
    supply_z = (case.source.hot_ohm + case.source.transient_ohm, case.source.neutral_ohm)
    transient = case.feed.transient
    drop = (1.0 / scale - 1.0) * turns**2  # scaling the supply scales its own impedance only
    both = supply_z[0] + supply_z[1]
    z12 = up.tied * (both * drop) + (not up.tied) * supply_z[1] * drop
    rating = np.array([b.rating_a for b, _ in case.breakers], dtype=float).reshape(-1, 1) * one
    for row, (breaker, _) in enumerate(case.breakers):
        if breaker.where in ("post", "supply") and stiff:
            rating[row] *= scale
    places = 3 if up.legs == 2 else 1
    yz, sp = yz[:places], sp[:places]
    nominal = case.shape.nominal_v
    return Columns(
        ident=np.arange(n), e1=(up.e1_v * volts).astype(complex), e2=(up.e2_v * volts).astype(complex),
        z11=np.asarray(transient.z11 + both * drop, dtype=complex),
        z12=np.asarray(transient.z12 + z12, dtype=complex), z22=np.asarray(transient.z22 + both * drop, dtype=complex),
        limit_a=source.limit_a / turns * scale, limit_w=source.limit_w * scale, continuous_a=source.continuous_a * scale,
        offset_a=source.offset_a * scale, latch_k_s=source.latch_k_s * latch, undervolt_s=source.undervolt_s * latch,
        eco=np.full(n, source.eco), yz=yz, sp=(np.conj(sp) / nominal**2).astype(complex), inrush=inrush, on=on, starting=starting,
        r1=circuit.r1 + series, r2=circuit.r2, x=circuit.x + reactance, torque_fl=circuit.torque_fl, up_slip=2.0 * circuit.slip_fl,
        gear=by_row([m.GEAR_TORQUE[p.start] for p in plates]), breakaway=np.where(starting, breakaway, at_speed), at_speed=at_speed,
        soft_a=by_row([p.soft_fraction for p in plates]) * lra_a, soft_rate=by_row([1.0 / p.ramp_s for p in plates]),
        speed=speed, ramp=np.where(soft, 0.0, 1.0), heat=warm_heat.reshape(-1, 1) * (np.array(
            [b.rating_a for b, _ in case.breakers]).reshape(-1, 1) / rating) ** 2, rating_a=rating)


