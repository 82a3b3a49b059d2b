"""The settled checks: supply, breakers, legs, neutral, path parts, volts. All margins are 1 − the
factor of strength used.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ironmargin.case import Case
from ironmargin.path.trace import INPUT, SHARED
from ironmargin.protection.breaker import EARLY, NOMINAL, Curve, curve
from ironmargin.starting.model import crest_amps
from ironmargin.starting.moment import Trace
from ironmargin.supplies.source import LEG_NAMES, Breaker
from ironmargin.sustaining.steady import holding_factor, lost_neutral
from ironmargin.tables import number_of
from ironmargin.verdict.now import Now, largest, smallest
from ironmargin.verdict.result import (
    BreakerRow,
    LegRow,
    LetGoRow,
    PathRow,
    ServiceRow,
    Sustained,
    VoltsRow,
)

CONTINUOUS_FROM_H = 3.0
"""Loads of three hours and more are continuous (NEC 210.20(A))."""
VOLTAGE_RANGE = {120.0: "B utilisation", 230.0: "EN 50160"}
"""Which row of the table of voltage ranges settled volts are judged by: ANSI C84.1 range B, EN
50160 −10 %.
"""


def volt_limits(nominal_v: float) -> tuple[float, float]:
    """The lowest and highest settled volts on a service of 120 or 230 V [V]."""
    row = VOLTAGE_RANGE[nominal_v]
    return tuple(
        number_of("voltage_ranges", "range", row, column) for column in ("low_v", "high_v")
    )  # type: ignore[return-value]


def _row(where: str, name: str, amps: Any, limit_a: float, note: str = "") -> Sustained:
    return Sustained(where, name, amps, limit_a, 1.0 - amps / limit_a, note)


def lasts_long(case: Case) -> bool:
    """Whether it is to run long enough for the continuous rule; without a target it is."""
    target = case.setup.conditions.target_hours
    return target is None or target >= CONTINUOUS_FROM_H


def sustained(now: Now) -> list[Sustained]:
    """Settled amps against every limit of supply, breakers, branch circuits and neutral."""
    case, source = now.case, now.case.source
    rows = []
    if math.isfinite(source.continuous_a):
        rows.append(_row("supply", "supply, running", largest(now.amps), source.continuous_a))
    crest = crest_amps(case)
    if crest > 0.0 and math.isfinite(source.limit_a):
        rows.append(
            _row(
                "supply",
                "supply, peaks of uncorrected electronics",
                largest(now.amps) + crest,
                source.limit_a,
                "crest",
            )
        )
    if (
        source.input_limit_a is not None
        and source.input_capacity_a is not None
        and math.isfinite(source.input_capacity_a)
    ):
        share = (
            case.setup.rules.continuous_fraction
            if lasts_long(case) and source.input_limit_a
            else 1.0
        )
        rows.append(
            _row(
                "input",
                "input limit at the post",
                source.input_limit_a,
                source.input_capacity_a * share,
                "continuous",
            )
        )
    for number, (breaker, leg) in enumerate(case.breakers):
        amps, mean = _through(now, breaker, leg)
        if any(b is breaker for b, _ in case.breakers[:number]) and not np.any(
            largest((amps, mean))
        ):
            continue
        several = sum(b is breaker for b, _ in case.breakers) > 1
        name = f"{breaker.name}, {LEG_NAMES[leg]}" if several else breaker.name
        where = "breaker" if breaker.where in ("post", "supply") else breaker.where
        rows.append(_row(where, name, amps, breaker.rating_a))
        if lasts_long(case):
            limit = case.setup.rules.continuous_fraction * breaker.rating_a
            rows.append(_row(where, f"{name}, continuous", mean, limit, "continuous"))
    rows += _branches(now)
    if (
        case.feed.neutral_rating_a < math.inf
        and case.feed.upstream.legs == 2
        and not case.feed.upstream.tied
    ):
        rows.append(_row("N", "neutral", now.state.neutral_a, case.feed.neutral_rating_a))
    return rows


def _through(now: Now, breaker: Breaker, leg: int) -> tuple[Any, Any]:
    """Settled and mean amps through one pole of a breaker [A]."""
    if breaker.where == "main" and not now.case.feed.upstream.tied:
        return now.leg_amps(leg), abs((now.mean.i1, now.mean.i2)[leg])
    also = now.case.source.also_a if breaker.where == "post" else 0.0
    at = min(leg, len(now.amps) - 1)
    return now.amps[at] + also, now.mean_amps[at] + also


def _branches(now: Now) -> list[Sustained]:
    """Each branch breaker against the loads on it."""
    rows = []
    for circuit in now.case.setup.rig.circuits:
        on_it = [
            (now.share(at), d)
            for at, d in enumerate(now.case.demands)
            if d.load.circuit == circuit.id
        ]
        amps = sum(on * abs(sum(x.va for x in d.steady)) / d.load.voltage_v for on, d in on_it)
        if not on_it:
            continue
        name = circuit.name or circuit.id
        rows.append(_row(f"circuit {circuit.id}", f"branch {name}", amps, circuit.breaker_a))
        if lasts_long(now.case):
            mean = sum(
                on * abs(sum(x.va for x in d.steady)) / d.load.voltage_v * d.duty for on, d in on_it
            )
            limit = now.case.setup.rules.continuous_fraction * circuit.breaker_a
            rows.append(
                _row(
                    f"circuit {circuit.id}", f"branch {name}, continuous", mean, limit, "continuous"
                )
            )
    return rows


def leg_limit_a(case: Case, leg: int) -> float | None:
    """The smallest continuous limit a leg has: supply, and breakers at the continuous fraction
    [A].
    """
    share = case.setup.rules.continuous_fraction if lasts_long(case) else 1.0
    limits = [b.rating_a * share for b, at in case.breakers if at == leg or case.feed.upstream.tied]
    limits.append(case.source.continuous_a / case.turns)
    finite = [x for x in limits if math.isfinite(x)]
    return min(finite) if finite else None


def legs(now: Now) -> dict[str, LegRow]:
    """Amps, limit and volts of the legs and the neutral, and what each leg would see with the
    neutral lost.
    """
    case = now.case
    out = {}
    split = (
        case.feed.upstream.legs == 2 and not case.feed.upstream.tied and case.source.leg_deg > 90
    )
    lost = lost_neutral(case) if split else None
    for leg in range(case.feed.upstream.legs):
        out[LEG_NAMES[leg]] = LegRow(
            now.leg_amps(leg),
            leg_limit_a(case, leg),
            now.state.volts(leg),
            lost[leg] if lost else None,
        )
    rating = case.feed.neutral_rating_a
    out["N"] = LegRow(now.state.neutral_a, rating if rating < math.inf else None, None)
    return out


def path_rows(now: Now) -> list[PathRow]:
    """Every part of the path against its rating, whether or not a breaker protects it."""
    rows = []
    both = largest(now.leg_amps(leg) for leg in range(now.case.feed.upstream.legs))
    for part in now.case.feed.parts:
        # Behind a reducer, or with both legs in phase, the neutral carries more than either leg.
        amps = (
            largest(now.amps)
            if part.carries == SHARED
            else largest((both, now.state.neutral_a / (2 if part.halves_neutral else 1)))
        )
        neutral_a = now.state.neutral_a
        if part.carries == INPUT:
            amps = neutral_a = now.case.source.input_limit_a or 0.0
        bare = part.upstream_a is None or part.upstream_a > part.rating_a
        way = part.ohm * amps
        neutral = neutral_a * part.ohm / (2 if part.halves_neutral else 1)
        rows.append(
            PathRow(
                part.item,
                part.name,
                part.kind,
                amps,
                part.rating_a,
                1.0 - amps / part.rating_a,
                bare,
                way + neutral,
                amps * amps * part.contact_ohm,
            )
        )
    return rows


def volts_rows(now: Now) -> list[VoltsRow]:
    """Settled volts at every place that feeds a load, against the lowest they may be (and the
    highest).
    """
    case, nominal = now.case, 230.0 if now.case.setup.rig.service == "230" else 120.0
    rows = []
    for place in sorted({d.leg for d in case.demands}):
        ratio = (
            abs(case.feed.upstream.e1_v - case.feed.upstream.e2_v) / case.source.leg_v
            if place == 2
            else 1.0
        )
        low, full, v = volt_limits(nominal)[0] * ratio, nominal * ratio, now.state.volts(place)
        name = ("L1", "L2", "L1-L2")[place]
        rows.append(VoltsRow(name, v, low, full, smallest(((v - low) / (full - low), 1.0))))
        high = volt_limits(nominal)[1] * ratio
        if np.any(v > high):
            rows.append(VoltsRow(f"{name} (too high)", v, high, full, (high - v) / (full - low)))
    return rows + _guard_rows(now, nominal)


def _guard_rows(now: Now, nominal: float) -> list[VoltsRow]:
    """Settled volts, and the volts without load, against the cut-offs of a guard at the post."""
    guard = now.case.feed.guard
    if guard is None or now.case.source.input_limit_a is not None:
        return []
    v = smallest(now.state.volts(leg) for leg in range(now.case.feed.upstream.legs))
    rows = [
        VoltsRow(
            "guard",
            v,
            guard.low_v,
            nominal,
            smallest(((v - guard.low_v) / max(nominal - guard.low_v, 1.0), 1.0)),
        )
    ]
    if now.case.source.leg_v > guard.high_v:
        rows.append(
            VoltsRow(
                "guard (too high)",
                now.case.source.leg_v,
                guard.high_v,
                nominal,
                (guard.high_v - now.case.source.leg_v) / nominal,
            )
        )
    return rows


def settled_margin(now: Now) -> Any:
    """The smallest margin of all settled limits: supply, breakers, branches, neutral, path and
    volts; −1 where nothing settles [1].
    """
    rows: list[Any] = [*sustained(now), *path_rows(now), *volts_rows(now)]
    least = smallest([row.margin for row in rows] or [1.0])
    held = np.logical_not(now.state.let_go if now.on is not None else bool(now.state.let_go))
    return np.where(now.state.converged & now.mean.converged & held, least, -1.0)


def let_go_rows(now: Now) -> list[LetGoRow]:
    """Wanted loads that let go at the settled volts; the margin says how much stronger supply and
    path would have to be.
    """
    if not now.state.let_go:
        return []
    margin = 1.0 - holding_factor(now.case)
    rows = []
    for at in now.state.let_go:
        demand = now.case.demands[at]
        dropout = max(d.dropout for d in demand.steady)
        rows.append(
            LetGoRow(
                demand.load.id,
                demand.load.name,
                now.state.volts(demand.leg),
                dropout * demand.steady[0].bus_v,
                min(margin, -0.002),
            )
        )
    return rows


def _heat_along(
    trace: Trace, leg: int, rating_a: float, c: Curve, heat: float, also_a: float
) -> bool:
    """Whether a curve trips along a start."""
    xs = (trace.a[min(leg, len(trace.a) - 1)][:-1] + also_a) / rating_a
    # Heat goes towards x²: below the curve's own multiple it never gets there.
    if not len(xs) or max(float(xs.max()) ** 2, heat) < c.multiple**2:
        return False
    for x, seconds in zip(xs.tolist(), np.diff(trace.t_s).tolist(), strict=True):
        heat = c.heat_after(x, seconds, heat)
        if heat >= c.multiple**2 or x >= c.magnetic:
            return True
    return False


def breaker_rows(now: Now, traces: list[Trace], warm_a: tuple[float, ...]) -> list[BreakerRow]:
    """Every breaker against every start (early and nominal edge, warm) and against the settled amps
    (from cold).
    """
    rows = []
    for breaker, leg in now.case.breakers:
        amps, _ = _through(now, breaker, leg)
        early, nominal = (
            curve(breaker.standard, breaker.rating_a, edge, now.case.setup.conditions.outdoor_c)
            for edge in (EARLY, NOMINAL)
        )
        also = now.case.source.also_a if breaker.where == "post" else 0.0
        warm = min(((warm_a[min(leg, len(warm_a) - 1)] + also) / breaker.rating_a) ** 2, 1.0)

        def trips(
            c: Curve,
            breaker: Breaker = breaker,
            leg: int = leg,
            warm: float = warm,
            also: float = also,
        ) -> bool:
            return any(_heat_along(t, leg, breaker.rating_a, c, warm, also) for t in traces)

        verdict = "yes" if trips(nominal) else "early" if trips(early) else "no"
        x = amps / breaker.rating_a
        holds = [c.trip_s(x) for c in (early, nominal)]
        rows.append(
            BreakerRow(
                breaker.where,
                breaker.name,
                breaker.rating_a,
                breaker.standard,
                amps,
                verdict,
                warm**0.5 * breaker.rating_a,
                *(h if math.isfinite(h) else None for h in holds),
            )
        )
    return rows


def service_rows(case: Case) -> list[ServiceRow]:
    """Wanted loads that the service cannot feed."""
    return [ServiceRow(load.id, load.name, problem) for load, problem in case.unserved]
