"""The settled state that limits are read off, of one set of loads or of many at once."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property, reduce

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Figure, Real
from ironmargin.record import record
from ironmargin.sustaining.steady import (
    TOLERANCE_V,
    Steady,
    SteadySets,
    averaged,
    magnitude,
    numbered_draws,
    settled,
    solve_sets,
    source_amps,
)


def largest(values: Iterable[Figure]) -> Figure:
    """The largest of some figures, set by set where they are arrays over sets of loads.

    Args:
        values: numbers, or arrays over sets of loads.

    Returns:
        The largest, of their shape.
    """
    known = list(values)
    if all(isinstance(x, float) for x in known):
        return max(known)
    found: Figure = reduce(np.maximum, known)
    return found


def smallest(values: Iterable[Figure]) -> Figure:
    """The smallest of some figures, set by set where they are arrays over sets of loads.

    Args:
        values: numbers, or arrays over sets of loads.

    Returns:
        The smallest, of their shape.
    """
    known = list(values)
    if all(isinstance(x, float) for x in known):
        return min(known)
    found: Figure = reduce(np.minimum, known)
    return found


@record
class Now:
    """The settled state of a case, and its mean over the on and off times of its loads; of one set
    of loads, or of many sets at once.

    Attributes:
        on: for many sets, whether each demand runs in each: (sets, demands); the figures of the
            states are then arrays over the sets.
    """

    case: Case
    state: Steady | SteadySets
    mean: Steady | SteadySets
    on: Real | None = None

    @cached_property
    def amps(self) -> tuple[Figure, ...]:
        """Amps of each source conductor [A]."""
        return source_amps(self.case, self.state)

    @cached_property
    def mean_amps(self) -> tuple[Figure, ...]:
        """Amps of each source conductor, averaged over on and off times [A]."""
        return source_amps(self.case, self.mean)

    @cached_property
    def _legs(self) -> tuple[Figure, Figure]:
        return magnitude(self.state.i1), magnitude(self.state.i2)

    @cached_property
    def _mean_legs(self) -> tuple[Figure, Figure]:
        return magnitude(self.mean.i1), magnitude(self.mean.i2)

    @cached_property
    def _volts(self) -> dict[int, Figure]:
        return {}

    def leg_amps(self, leg: int) -> Figure:
        """Amps out of a leg of the panel [A].

        Args:
            leg: L1 or L2.

        Returns:
            Amps, one a set of loads [A].
        """
        return self._legs[leg]

    def mean_leg_amps(self, leg: int) -> Figure:
        """The same, averaged over on and off times [A].

        Args:
            leg: L1 or L2.

        Returns:
            Amps, one a set of loads [A].
        """
        return self._mean_legs[leg]

    def volts(self, place: int) -> Figure:
        """Volts of a place: L1, L2 to neutral, or between the legs [V].

        Args:
            place: L1, L2 or between the legs.

        Returns:
            Volts, one a set of loads [V].
        """
        if place not in self._volts:
            self._volts[place] = self.state.volts(place)
        return self._volts[place]

    def share(self, demand: int) -> Figure:
        """1 where a demand runs, 0 where it does not.

        Args:
            demand: its number in the case.

        Returns:
            For each set that is asked about [1].
        """
        return 1.0 if self.on is None else self.on[:, demand]

    @property
    def settles(self) -> Figure | bool:
        """Whether the network has a settled state in which every load holds on."""
        state, mean = self.state, self.mean
        if isinstance(state, SteadySets):
            found: Figure = state.converged & np.asarray(mean.converged) & ~state.dropped
            return found
        return bool(state.converged and mean.converged and not state.dropped_out)


def now_of(case: Case) -> Now:
    """The settled state of everything a case runs.

    Args:
        case: the prepared setup.

    Returns:
        The state of one set of loads.
    """
    return Now(case, settled(case), averaged(case))


def now_of_sets(case: Case, on: Real, tolerance_v: float = TOLERANCE_V) -> Now:
    """The settled state of many sets of a case's loads.

    Args:
        case: the prepared setup.
        on: whether each demand runs in each set, 0 or 1: (sets, demands).
        tolerance_v: where the passes end [V].

    Returns:
        The states, arrays over sets.
    """
    draws, upstream = numbered_draws(case), case.feed.upstream
    duty = np.array([d.duty for d in case.demands])
    state = solve_sets(upstream, draws, on, tolerance_v)
    steady = bool((duty == 1.0).all())
    mean = state if steady else solve_sets(upstream, draws, on * duty, tolerance_v)
    return Now(case, state, mean, on)
