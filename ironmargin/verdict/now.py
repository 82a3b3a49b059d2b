"""The settled state that limits are read off, of one set of loads or of many at once."""

from __future__ import annotations

from collections.abc import Iterable
from functools import reduce
from typing import Any

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.sustaining.steady import (
    TOLERANCE_V,
    Steady,
    numbered_draws,
    solve_sets,
    source_amps,
)


def largest(values: Iterable[Any]) -> Any:
    """The largest of some figures, set by set where they are arrays over sets of loads."""
    return reduce(np.maximum, values)


def smallest(values: Iterable[Any]) -> Any:
    """The smallest of some figures, set by set where they are arrays over sets of loads."""
    return reduce(np.minimum, values)


@record
class Now:
    """The settled state of a case, and its mean over the duty cycles; of one set of loads, or of
    many sets at once.

    Attributes:
        on: for many sets, whether each demand runs in each: (sets, demands); the figures of the
        states are then arrays over the sets.
    """

    case: Case
    state: Steady
    mean: Steady
    on: Real | None = None

    @property
    def amps(self) -> tuple[Any, ...]:
        """Amps of each source conductor [A]."""
        return source_amps(self.case, self.state)

    @property
    def mean_amps(self) -> tuple[Any, ...]:
        return source_amps(self.case, self.mean)

    def leg_amps(self, leg: int) -> Any:
        return abs((self.state.i1, self.state.i2)[leg])

    def share(self, demand: int) -> Any:
        """1 where a demand runs."""
        return 1.0 if self.on is None else self.on[:, demand]


def now_of_sets(case: Case, on: Real, tolerance_v: float = TOLERANCE_V) -> Now:
    """The settled state of many sets of a case's loads.

    Args:
        on: whether each demand runs in each set, 0 or 1: (sets, demands); tolerance_v: where the
        passes end [V].
    """
    draws, upstream = numbered_draws(case), case.feed.upstream
    duty = np.array([d.duty for d in case.demands])
    state = solve_sets(upstream, draws, on, tolerance_v)
    steady = (duty == 1.0).all()
    mean = state if steady else solve_sets(upstream, draws, on * duty, tolerance_v)
    return Now(case, state, mean, on)
