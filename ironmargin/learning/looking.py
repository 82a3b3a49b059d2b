"""What the start engine shows of a start for samples of what is unknown: its figures, how far they
move from day to day, and how likely it succeeds.
"""

from __future__ import annotations

import math

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics.motor import GEAR_CURRENT, STARTS_TO_LEARN
from ironmargin.electrics.network import Real
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.observed import ObservedStart, observed_start
from ironmargin.learning.unknowns import Unknown, column, share_of_post, unknowns_of
from ironmargin.record import record
from ironmargin.setup.changed import with_engines
from ironmargin.setup.model import Setup
from ironmargin.starting.chance import Boundary, boundary_of
from ironmargin.starting.engine import Factors
from ironmargin.starting.known import HELD, LRA, MODEL, SHORT, STIFF, SUPPLY
from ironmargin.starting.plan import Plan
from ironmargin.starting.samples import BREAKAWAY_DAY_SD, OWN_STIFFNESS_SD, lra_sd, shares_below
from ironmargin.starting.scenario import COUNTED_ON, StartScenario, short_time

DAYS = 24
"""Draws that are looked at on another day, too."""
MIN_DAY_SD = 0.01
"""A start is never surer than this of the strength it needs, from one day to the next [1]."""
RESULTS = ("peak_a", "lowest_v", "seconds", "own_a")
HELD_STEP = 1.1
"""Step of a soft starter's current by which its effect on the strength needed is found [1]."""


def unknowns_in(setup: Setup, observed: list[ObservedStart]) -> list[Unknown]:
    """What the starts of a log can tell of.

    Args:
        setup: as it was before the log.
        observed: the distinct starts.

    Returns:
        In the order they are drawn in.
    """
    return unknowns_of(setup, [(one.scenario, one.row, one.other_supply) for one in observed])


def run(observed: ObservedStart, unknowns: list[Unknown], logs: Real, day: Real) -> dict[str, Real]:
    """What a start shows for each sample: its figures, and its outcome's code.

    Args:
        observed: a start.
        unknowns: what is drawn.
        logs: samples of the unknowns (samples, unknowns).
        day: standard normal, the day's own stiffness.

    Returns:
        Peak [A], lowest volts [V], seconds [s], the motor's own amps [A] and a code, each
        (samples,).
    """
    scenario, row = observed.scenario, observed.row
    demand = scenario.case.demands[scenario.case.rows[row]]
    ident, plate = demand.load.id, demand.plate
    assert plate is not None  # only motors are seen
    lra = np.exp(column(unknowns, logs, (LRA, ident)))
    held = np.exp(column(unknowns, logs, (HELD, ident)))
    stiff = np.exp(column(unknowns, logs, (STIFF, ident)) + BREAKAWAY_DAY_SD * day)
    own = np.zeros_like(logs) if observed.other_supply else logs
    source_strength = np.exp(column(unknowns, own, (SUPPLY, "")))
    short_learned = any(u.what == SHORT for u in unknowns) and not observed.other_supply
    share = shares_below(column(unknowns, logs, (SHORT, ""))) if short_learned else COUNTED_ON
    short = np.broadcast_to(short_time(scenario.case.source.short_factor, share), len(logs))
    soft = scenario.model.motors.soft_a
    nominal = float(soft[row])
    rows = max(scenario.motors, 1)
    out: dict[str, Real] = {name: np.empty(len(logs)) for name in (*RESULTS, "code")}
    each_lra, each_stiff = np.ones(rows), np.ones(rows)
    gear = GEAR_CURRENT.get(plate.start, 1.0)
    engine, by = scenario.engine, Factors()
    for n in range(len(logs)):
        each_lra[row], each_stiff[row] = lra[n], stiff[n]
        soft[row] = nominal * held[n] * lra[n]
        by.source_strength, by.short = float(source_strength[n]), float(short[n])
        code = engine.one_start(by, each_lra, each_stiff)
        low = engine.lowest_v if math.isfinite(engine.lowest_v) else 0.0
        standing = plate.lra_a * lra[n] * gear * low / (plate.voltage_v / demand.ratio)
        out["peak_a"][n], out["lowest_v"][n], out["code"][n] = engine.peak_a, low, code
        out["seconds"][n] = engine.up_s
        out["own_a"][n] = min(nominal * held[n] * lra[n], standing) if nominal else standing
    soft[row] = nominal
    return out


def learning_peaks(setup: Setup, ident: str) -> list[float]:
    """Peak of a soft starter's start after so many learnt ones, from none to all [A]; those that
    cannot be asked of this setup are left out.

    Args:
        setup: supply, path, rig and rules of the question.
        ident: id of the load.

    Returns:
        Peaks after none, one, two … learnt starts [A].
    """
    found = []
    for count in range(STARTS_TO_LEARN + 1):
        observed = observed_start(setup, StartEntry(load=ident, changed={"learned_starts": count}))
        if observed is not None:
            unknowns = unknowns_in(setup, [observed])
            as_it_is = np.zeros((1, len(unknowns)))
            found.append(float(run(observed, unknowns, as_it_is, np.zeros(1))["peak_a"][0]))
    return found


def day_sds(observed: ObservedStart, unknowns: list[Unknown], logs: Real) -> dict[str, float]:
    """How far each figure of a start moves from day to day, as a standard deviation of its
    logarithm [1].

    Args:
        observed: a start.
        unknowns: what is drawn.
        logs: samples of them (samples, unknowns).

    Returns:
        By figure.
    """
    some = logs[:DAYS]
    usual, other = (run(observed, unknowns, some, np.full(len(some), day)) for day in (0.0, 1.0))
    found = {}
    for name in RESULTS:
        both = np.isfinite(usual[name]) & np.isfinite(other[name])
        both &= (usual[name] > 1e-6) & (other[name] > 1e-6)
        ratio = np.log(other[name][both] / usual[name][both])
        found[name] = float(np.sqrt(np.mean(ratio**2))) if both.any() else 0.0
    return found


@record
class Edge:
    """The boundary of one start over what is unknown of the rig.

    Attributes:
        held_slope: what the soft starter's current adds to the strength needed, by its logarithm.
        cut: the boundary of the same set if it cuts off at its limit, where nobody said.
    """

    boundary: Boundary
    held_slope: float
    cut: Boundary | None


def edge_of(observed: ObservedStart, unknowns: list[Unknown], seed: int) -> Edge:
    """The boundary of a start.

    Args:
        observed: a start.
        unknowns: what is drawn.
        seed: of its samples.

    Returns:
        The strength it needs, as a plane over the samples.
    """
    scenario, row = observed.scenario, observed.row
    slope = 0.0
    ident = scenario.case.demands[scenario.case.rows[row]].load.id
    if any(u.name == (HELD, ident) for u in unknowns):
        needs = []
        soft, nominal = scenario.model.motors.soft_a, float(scenario.model.motors.soft_a[row])
        for factor in (1.0, HELD_STEP):
            soft[row] = nominal * factor
            needs.append(scenario.reserve_of_supply(scenario.passes()).factor)
        soft[row] = nominal
        slope = (needs[1] - needs[0]) / math.log(HELD_STEP)
    cut = None
    engines = scenario.case.setup.supply.carrying
    if (
        engines
        and not observed.other_supply
        and all(u.inverter and u.character is None for u in engines)
    ):
        other = with_engines(scenario.case.setup, character="cuts-off")
        case = prepare(other)
        starters = [
            s
            for s in case.starters
            if s.row is not None and case.demands[s.demand].load.id == ident
        ]
        cut = boundary_of(StartScenario(case, Plan((starters[0],)), scenario.warm), seed)
    return Edge(boundary_of(scenario, seed), slope, cut)


def needed_of(
    observed: ObservedStart, unknowns: list[Unknown], logs: Real, edge: Edge, boundary: Boundary
) -> tuple[Real, float]:
    """The strength a start needs on a usual day for each sample of the rig [1], and how far that
    scatters from day to day.

    Args:
        observed: a start.
        unknowns: what is drawn.
        logs: samples of them (samples, unknowns).
        edge: of the start.
        boundary: the edge's own, or that of a set that cuts off.

    Returns:
        A strength a sample (samples,) and one standard deviation [1].
    """
    scenario = observed.scenario
    demand = scenario.case.demands[scenario.case.rows[observed.row]]
    ident = demand.load.id
    needed = np.full(len(logs), boundary.middle)
    own = {u.name for u in unknowns}
    scatter = MIN_DAY_SD**2
    for name, slope in zip(boundary.names, boundary.slopes.tolist(), strict=True):
        first = name.unit == 0
        if name.kind == LRA and first and (LRA, name.load) in own:
            whose = next(d for d in scenario.case.demands if d.load.id == name.load)
            factor = np.exp(column(unknowns, logs, (LRA, name.load)))
            needed = needed + slope * (factor - 1.0) / lra_sd(whose)
        elif name.kind == STIFF and first and (STIFF, name.load) in own:
            needed = needed + slope * column(unknowns, logs, (STIFF, name.load)) / OWN_STIFFNESS_SD
        elif name.kind == SHORT and (SHORT, "") in own and not observed.other_supply:
            needed = needed + slope * column(unknowns, logs, (SHORT, ""))
        else:  # new with each entry, or of no figure that is learned here
            scatter += slope**2
    needed = needed + edge.held_slope * column(unknowns, logs, (HELD, ident))
    return needed, math.sqrt(scatter)


def passes_of(
    observed: ObservedStart, unknowns: list[Unknown], logs: Real, edge: Edge, boundary: Boundary
) -> Real:
    """How likely a start succeeds on some day, for each sample of the rig [1].

    Args:
        observed: a start.
        unknowns: what is drawn.
        logs: samples of them (samples, unknowns).
        edge: of the start.
        boundary: the edge's own, or that of a set that cuts off.

    Returns:
        A chance a sample (samples,) [1].
    """
    if boundary.share is not None:
        return np.full(len(logs), boundary.share)
    needed, scatter = needed_of(observed, unknowns, logs, edge, boundary)
    return shares_below((source_strength_in(observed, unknowns, logs) - needed) / scatter)


def source_strength_in(observed: ObservedStart, unknowns: list[Unknown], logs: Real) -> Real:
    """How strong supply and path are for each sample, our model's error with it [1].

    Args:
        observed: a start.
        unknowns: what is drawn.
        logs: samples of them (samples, unknowns).

    Returns:
        A factor a sample (samples,) [1].
    """
    scenario = observed.scenario
    shore = scenario.case.source.kind == "shore"
    weight = 0.0 if observed.other_supply else share_of_post(scenario) if shore else 1.0
    source_strength = column(unknowns, logs, (MODEL, "")) + weight * column(
        unknowns, logs, (SUPPLY, "")
    )
    found: Real = np.exp(source_strength)
    return found
