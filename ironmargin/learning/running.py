"""Running amps learned from readings of single loads and from surveys.

A reading at other volts is brought to nominal: a heater's amps rise with the volts, electronics'
fall, a motor's hardly change. Just after a start a compressor draws 10 to 15 % less than it comes
to (common practice). The factor on what was believed is found on a grid, heavy-tailed.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.electrics.services import SERVICE_120, nominal_of, service_of
from ironmargin.learning import instruments as seen_with
from ironmargin.learning.entries import RunEntry, Step, SurveyEntry
from ironmargin.learning.observed import with_changes
from ironmargin.loads.demand import Demand, heat_factor
from ironmargin.loads.reader import demand_of
from ironmargin.record import record
from ironmargin.setup.loads import AirConditioner, Rotating
from ironmargin.setup.model import Setup
from ironmargin.starting.known import learned_before
from ironmargin.starting.points import MIDDLE_90
from ironmargin.tables import spread_of

CREEPS = 1.12
CREEP_SD = 0.03
"""Running amps rise by 10 to 15 % over the first minutes (common practice)."""
GRID = np.exp(np.linspace(math.log(0.1), math.log(6.0), 4001))
DISAGREE = 4.0
"""Standard deviations from which a step of a survey does not fit the others."""
SURVEY_SD = 0.6
MAX_SD = 0.5
"""A load's amps by a survey are in doubt by this at most [1]."""
INVERTER_EFFICIENCY, INVERTER_DOUBT = 0.88, 0.04
"""AC over DC of a battery inverter at part load, and how far that is in doubt (common practice, no
source)."""
DAY_DOUBT = 0.3
"""Share of what the heat of the day changes a compressor's amps by that is in doubt (common
practice, no source)."""
PASSES = 25
VOLTS_DOUBT = 0.03
"""How far amps made of volt-amperes are in doubt where the volts were not read [1]."""
DIGIT_SD = 0.3
"""Standard deviation of a rounded figure over its last digit: 1/√12."""
MIN_READ_A = 0.1
"""A reading counts as this at least where it divides [A]."""
ALWAYS_ON_SD = 0.3
"""How far what is on in every step of a survey may differ from its smallest reading [1], [A]."""
SLOPE_STEP = 1e-4
"""Step of a factor by which its slope is found [1]."""
MIN_SEEN = 0.02
"""A load of which a survey leaves less than this of what was believed was not on [1]."""
NEVER_A = 1e6
"""Stands for a step of a survey in which nothing was on [A]."""


@record
class Reading:
    """A load's running current as it was read, over what was predicted.

    Attributes:
        entry: number of the entry.
        read, predicted: what was read and what was to be expected then, both in ``unit``.
        error: of the reading [1].
    """

    entry: int
    load: str
    mode: str | None
    read: float
    predicted: float
    unit: str
    error: float


@record
class Learned:
    """The factor on a load's running amps: middle, 90 % interval, standard deviation [1]."""

    load: str
    mode: str | None
    middle: float
    low: float
    high: float
    sd: float
    prior_sd: float
    entries: tuple[int, ...]


def demand_in(setup: Setup, ident: str, mode: str | None) -> Demand:
    """What a load draws in a mode, whether it is wanted or not.

    Args:
        setup: supply, path, rig and rules of the question.
        ident: id of the load.
        mode: mode of an air conditioner; None for its usual one.

    Returns:
        What it draws.
    """
    at = next(n for n, load in enumerate(setup.rig.loads) if load.id == ident)
    wanted = {w.load: w.mode for w in setup.wanted}
    cooling = isinstance(setup.rig.loads[at], AirConditioner)
    return demand_of(setup, at, (mode or wanted.get(ident)) if cooling else None)


def at_volts(demand: Demand, share: float) -> complex:
    """The current phasor of a load at a share of its rated volts [A].

    Args:
        demand: a load as it runs.
        share: of its rated volts [1].

    Returns:
        A phasor [A].
    """
    total = 0j
    for draw in demand.steady:
        scale = 1.0 / share if draw.constant_power else share
        total += draw.va.conjugate() / draw.bus_v * scale
    return total


def watts_at(demand: Demand, share: float) -> float:
    """The power of a load at a share of its rated volts [W].

    Args:
        demand: a load as it runs.
        share: of its rated volts [1].

    Returns:
        Watts [W].
    """
    return float(
        sum(d.va.real * (1.0 if d.constant_power else share * share) for d in demand.steady)
    )


def share_of_volts(setup: Setup, ident: str, volts: float | None) -> float:
    """Volts read over rated volts; 1 where none were read [1].

    Args:
        setup: as it was before the log.
        ident: id of the load.
        volts: that were read [V].

    Returns:
        The share [1].
    """
    load = next(x for x in setup.rig.loads if x.id == ident)
    if volts is None or volts < 0.5 * load.voltage_v:
        return 1.0
    return float(volts / load.voltage_v)


def learned_sd(setup: Setup, field: str, otherwise: float) -> float:
    """How far a figure may be off: what an earlier log left, else by where it comes from [1].

    Args:
        setup: as it was before the log.
        field: path of the figure.
        otherwise: by where it comes from [1].

    Returns:
        Standard deviation of its logarithm [1].
    """
    kept = learned_before(setup)[1].get(field)
    sd = kept.get("sd") if isinstance(kept, dict) else None
    return float(sd) if isinstance(sd, int | float) and 0.0 < sd < otherwise else otherwise


def field_of(setup: Setup, ident: str, mode: str | None) -> tuple[str, str]:
    """The field of the setup that holds a load's running figure: its path and its name.

    Args:
        setup: as it was before the log.
        ident: id of the load.
        mode: of an air conditioner; None for the wanted one.

    Returns:
        Path and name.
    """
    at = next(n for n, load in enumerate(setup.rig.loads) if load.id == ident)
    load = setup.rig.loads[at]
    if isinstance(load, AirConditioner):
        wanted = {w.load: w.mode for w in setup.wanted}
        name = f"{(mode or wanted.get(ident) or 'high-cool').replace('-', '_')}_a"
    elif isinstance(load, Rotating):
        name = "running_a"
    else:
        name = "amps" if getattr(load, "amps", None) is not None else "watts"
    return f"rig.loads[{at}].{name}", name


def reading_of(setup: Setup, at: int, entry: RunEntry) -> Reading | None:
    """A run entry as a reading; None where it tells nothing of its load.

    Args:
        setup: as it was before the log.
        at: number of the entry.
        entry: of a load that runs.

    Returns:
        What it read, what was to be expected, and how sure both are.
    """
    amps, watts, doubt_of_meter = shown_of(setup, entry)
    if entry.on == "whole-cord" or (amps is None and watts is None):
        return None
    changed = with_changes(setup, entry)
    demand = demand_in(changed, entry.load, entry.mode)
    share = share_of_volts(changed, entry.load, entry.volts)
    error = seen_with.BENCH[entry.instrument].running
    demand, doubt = of_the_day(changed, demand, day_known="conditions" in entry.was)
    error = math.hypot(error, doubt, doubt_of_meter)
    if seen_with.sees_own_motor(entry.instrument, entry.on) and demand.single_concurrent:
        demand = replace(demand, steady=demand.steady[len(demand.single_concurrent) :])
    if amps is not None:
        predicted, read, unit = abs(at_volts(demand, share)), amps, "A"
        error = math.hypot(error, DIGIT_SD * seen_with.SMALLEST_A / max(read, MIN_READ_A))
    else:
        assert watts is not None
        predicted, read, unit = watts_at(demand, share), watts, "W"
    if read <= 0.0 or predicted <= 0.0:
        return None
    return Reading(at, entry.load, entry.mode, read, predicted, unit, error)


def shown_of(setup: Setup, entry: RunEntry) -> tuple[float | None, float | None, float]:
    """What a reading shows of its load: amps [A], or watts [W], and how far the way there is in
    doubt [1]: volt-amperes over volts, or what a battery gave less an inverter's losses.

    Args:
        setup: as it was before the log.
        entry: of a load that runs.

    Returns:
        Amps [A] or watts [W], one of them None, and the doubt [1].
    """
    if entry.amps is not None or entry.watts is not None:
        return entry.amps, entry.watts, 0.0
    if entry.va is not None:
        load = next(x for x in setup.rig.loads if x.id == entry.load)
        return entry.va / (entry.volts or load.voltage_v), None, 0.0 if entry.volts else VOLTS_DOUBT
    if entry.dc_a is not None and entry.dc_v is not None:
        return None, entry.dc_a * entry.dc_v * INVERTER_EFFICIENCY, INVERTER_DOUBT
    return None, None, 0.0


def of_the_day(setup: Setup, demand: Demand, *, day_known: bool) -> tuple[Demand, float]:
    """A compressor's draw in the heat of the day it was read in, and how far that is in doubt [1].

    A measured figure gets no credit for a cool day where nobody knows what day it was measured on;
    a reading that remembers its weather does: what it read in the cool is less than on a hot day.

    Args:
        setup: of the entry, with its weather.
        demand: the load as the setup has it.
        day_known: whether the entry remembers its weather.

    Returns:
        The load as it ran, and the doubt [1].
    """
    load, outdoor_c = demand.load, setup.conditions.outdoor_c
    if not day_known or not isinstance(load, AirConditioner) or len(demand.steady) < 2:
        return demand, 0.0
    if not (demand.mode or "").endswith("cool"):
        return demand, 0.0
    own = heat_factor(outdoor_c, False)
    given = load.high_cool_a is not None or load.low_cool_a is not None
    ratio = own / heat_factor(outdoor_c, given)
    fan, *rest = demand.steady
    steady = (fan, *(replace(d, va=d.va * ratio) for d in rest))
    return replace(demand, steady=steady), DAY_DOUBT * abs(1.0 - own)


def prior_sd(setup: Setup, ident: str, mode: str | None) -> float:
    """What a load's running amps may be off before anything is read [1].

    Args:
        setup: as it was before the log.
        ident: id of the load.
        mode: of an air conditioner; None for the wanted one.

    Returns:
        Standard deviation of its logarithm [1].
    """
    load = next(x for x in setup.rig.loads if x.id == ident)
    path, _ = field_of(setup, ident, mode)
    return learned_sd(setup, path, spread_of("running amps", load.provenance))


def learn_running(setup: Setup, readings: list[Reading]) -> list[Learned]:
    """The factor on each load's running amps, mode by mode.

    Args:
        setup: as it was before the log.
        readings: of loads that run.

    Returns:
        A factor for each load and mode, with how sure it is [1].
    """
    groups: dict[tuple[str, str], list[Reading]] = {}
    for reading in readings:
        path, _ = field_of(setup, reading.load, reading.mode)
        groups.setdefault((reading.load, path), []).append(reading)
    found = []
    for (ident, _), group in groups.items():
        sd = prior_sd(setup, ident, group[0].mode)
        total = -0.5 * (np.log(GRID) / sd) ** 2
        for one in group:
            expected = one.predicted * GRID
            total = total + seen_with.log_likelihood(one.read, expected, one.error * expected)
        low, middle, high, spread = _summed(total)
        entries = tuple(dict.fromkeys(r.entry for r in group))
        found.append(Learned(ident, group[0].mode, middle, low, high, spread, sd, entries))
    return found


def _summed(total: Real) -> tuple[float, float, float, float]:
    weights = np.exp(total - total.max())
    heap = np.cumsum(weights) / weights.sum()
    low, middle, high = (float(np.interp(q, heap, GRID)) for q in MIDDLE_90)
    logs = np.log(GRID)
    mean = float((weights * logs).sum() / weights.sum())
    spread = math.sqrt(float((weights * (logs - mean) ** 2).sum() / weights.sum()))
    return low, middle, high, spread


@record
class Surveyed:
    """A survey solved: what each load takes, and the steps that do not fit.

    Attributes:
        readings: one a load.
        base_a: what runs though nothing is on [A].
        odd: (step, read, fitted) of steps that disagree with the others [A].
    """

    readings: tuple[Reading, ...]
    base_a: float
    odd: tuple[tuple[int, float, float], ...]


def solve_survey(setup: Setup, at: int, entry: SurveyEntry) -> Surveyed:
    """Differences of steps become loads: phasors add, amps are brought to nominal volts.

    Least squares over all steps with a heavy-tailed error, by iterated weights, each load's factor
    held loosely at what was believed.

    Args:
        setup: as it was before the log.
        at: number of the entry.
        entry: steps with what was on and what was read.

    Returns:
        A reading for each load, and the steps that do not fit.
    """
    cools = {x.id for x in setup.rig.loads if isinstance(x, AirConditioner)}

    def requested(step: Step) -> list[tuple[str, str | None]]:
        return [(x, step.mode if x in cools else None) for x in step.on]

    idents = list(dict.fromkeys(one for step in entry.steps for one in requested(step)))
    demands = {one: demand_in(setup, *one) for one in idents}
    error = seen_with.BENCH[entry.instrument].running
    nominal = nominal_of(setup.rig.service)
    rated = getattr(setup.supply, "voltage_v", nominal)
    if service_of(nominal) == service_of(rated) == SERVICE_120:
        nominal = rated
    shown = [(s.amps if s.amps is not None else s.watts or 0.0) for s in entry.steps]
    minimum = min(
        (s.amps if s.amps is not None else (s.watts or 0.0) / nominal)
        for s in (*entry.steps, Step(amps=NEVER_A))
        if not s.on or s.amps == NEVER_A
    )
    minimum = 0.0 if minimum == NEVER_A else minimum

    def total(factors: Real, step: Step) -> float:
        """What the meter shows with these factors: the busier leg's amps, or all its watts."""
        places = [complex(factors[-1]), 0j]
        share = (step.volts or nominal) / nominal
        watts = factors[-1] * nominal * share
        for one in requested(step):
            factor = factors[idents.index(one)]
            watts += watts_at(demands[one], share) * factor
            leg = demands[one].leg
            for place in (0, 1) if leg == 2 else (leg,):
                places[place] += at_volts(demands[one], share) * factor
        return float(watts) if step.amps is None else max(abs(places[0]), abs(places[1]))

    factors = np.append(np.ones(len(idents)), minimum)
    prior = np.append(np.ones(len(idents)), minimum)
    loose = np.append(np.full(len(idents), SURVEY_SD), max(ALWAYS_ON_SD * minimum, ALWAYS_ON_SD))
    read = np.array(shown)
    unit = np.array([1.0 if s.amps is not None else nominal for s in entry.steps])
    errors = np.hypot(error * read, 0.5 * seen_with.SMALLEST_A * unit)
    for _ in range(PASSES):
        fitted = np.array([total(factors, s) for s in entry.steps])
        z = (read - fitted) / errors
        weights = (seen_with.HEAVY + 1.0) / (seen_with.HEAVY + z * z)
        slopes = np.empty((len(read), len(factors)))
        for n in range(len(factors)):
            moved = factors.copy()
            moved[n] += SLOPE_STEP
            slopes[:, n] = (np.array([total(moved, s) for s in entry.steps]) - fitted) / SLOPE_STEP
        scaled = slopes / errors[:, None] * np.sqrt(weights)[:, None]
        left = scaled.T @ scaled + np.diag(1.0 / loose**2)
        right = scaled.T @ (z * np.sqrt(weights)) + (prior - factors) / loose**2
        change = np.linalg.solve(left, right)
        factors = np.maximum(factors + change, 0.0)
        if np.abs(change).max() < 1e-6:
            break
    spread = np.sqrt(np.diag(np.linalg.inv(left)))
    readings = []
    for n, (ident, mode) in enumerate(idents):
        predicted = abs(at_volts(demands[ident, mode], 1.0))
        if factors[n] > MIN_SEEN:
            readings.append(
                Reading(
                    at,
                    ident,
                    mode,
                    predicted * float(factors[n]),
                    predicted,
                    "A",
                    min(max(float(spread[n] / factors[n]), error), MAX_SD),
                )
            )
    fitted = np.array([total(factors, s) for s in entry.steps])
    odd = tuple(
        (n, float(read[n]), float(fitted[n]))
        for n in range(len(read))
        if abs(read[n] - fitted[n]) > DISAGREE * errors[n]
    )
    return Surveyed(tuple(readings), float(factors[-1]), odd)
