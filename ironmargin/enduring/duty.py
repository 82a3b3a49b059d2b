"""Duty-cycled reality: mean and 95th-percentile draw, starts an hour, and the loads as a series
over time.
"""

from __future__ import annotations

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Real
from ironmargin.loads.demand import CYCLE_S, Demand
from ironmargin.record import record

GRID_W = 5.0
MOST_OF_THE_TIME = 0.95
"""Share of the time for which the busy load stands [1]."""


@record
class DutyStatistics:
    """Mean and 95th-percentile draw [W], and starts an hour of everything that cycles [1/h]."""

    mean_w: float
    p95_w: float
    max_w: float
    starts_per_h: float


def watts_of(demand: Demand) -> float:
    """Real power of a demand while it runs, all of its count [W].

    Args:
        demand: what a load draws.

    Returns:
        Watts [W].
    """
    return sum(d.va.real for d in demand.steady)


def statistics(case: Case) -> DutyStatistics:
    """The distribution of the sum of independent loads, each on for its duty: exact, by convolution
    on a 5 W grid.

    Args:
        case: the setup, ready to be solved.

    Returns:
        Mean and percentiles of the sum [W].
    """
    shares, each = np.ones(1), []
    for demand in case.demands:
        one = watts_of(demand) / demand.load.count
        for _ in range(demand.load.count):
            each.append((one, demand.hours_duty))
    for watts, duty in each:
        steps = round(watts / GRID_W)
        wider = np.zeros(len(shares) + steps)
        wider[: len(shares)] += shares * (1.0 - duty)
        wider[steps:] += shares * duty
        shares = wider
    total = np.cumsum(shares)
    maximum = sum(w for w, _ in each)
    mean = sum(w * d for w, d in each)
    p95 = float(min(max(np.searchsorted(total, MOST_OF_THE_TIME - 1e-12) * GRID_W, mean), maximum))
    starts = sum(d.cycles_per_h * d.load.count for d in case.demands if d.starts)
    return DutyStatistics(mean, p95, maximum, starts)


def load_series(case: Case, hours: float, step_s: float) -> Real:
    """Total load over time [W] in the worst phase: every cycling load a square wave of its own
    period, all of them on at the beginning.

    Within each step a load counts for the part of the step it is on, so that energy is exact at any
    step. Nothing depends on what a load is called or where it stands in the list.

    Args:
        case: the setup, ready to be solved.
        hours: how long [h].
        step_s: length of a step [s].

    Returns:
        Watts a step (steps,) [W].
    """
    count = max(round(hours * 3600.0 / step_s), 1)
    edges = np.arange(count + 1) * step_s
    total = np.zeros(count)
    for demand in case.demands:
        watts, duty = watts_of(demand), demand.hours_duty
        if duty >= 1.0:
            total += watts
            continue
        load = demand.load
        period = load.on_s + (load.off_s or 0.0) if load.on_s is not None else CYCLE_S
        cycles, into = np.divmod(edges, period)
        on_until_s = cycles * duty * period + np.minimum(into, duty * period)
        total += watts * np.diff(on_until_s) / step_s
    return total
