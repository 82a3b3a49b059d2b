"""The figures of a rig that a start can tell of, as weighted samples: importance sampling with the
start engine as its model.

Every distinct start is run once for each sample of what is unknown
(:mod:`ironmargin.learning.unknowns`); what was read weighs the samples. Each entry has a day of its
own: how far its stiffness moves a figure is found by a second look at some of the samples, and how
likely a start is follows from the straight boundary of the strength it needs
(:func:`ironmargin.starting.chance.boundary_of`), so that twelve starts are twelve, not one. Where
few samples carry all the weight more are drawn around what was found
(:mod:`ironmargin.learning.proposals`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.learning import instruments as seen_with
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.looking import Edge, day_sds, edge_of, passes_of, run, unknowns_in
from ironmargin.learning.observed import ObservedStart
from ironmargin.learning.proposals import Density, around, effective, even, mixture, tempered
from ironmargin.learning.unknowns import Unknown, column, prior_of
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.starting.engine import OUTCOMES
from ironmargin.starting.known import DIPS, PEAKS, ROWS, TIMES
from ironmargin.starting.points import normal

SAMPLES = 512
ROUNDS = 8
POOR = 0.5
"""Share of a round's samples that must carry the weight; with fewer there is another round."""
MIN_EFFECTIVE = 32
"""Samples that carry the weight at least: a log that no sample explains has one explain it best,
and that one is not what the rig is. Its weights are flattened until so many share them.
"""
CUTS_OFF = 0.3
"""Share of inverter sets that cut off at their limit where nobody said what theirs does (common
practice, no source).
"""
MIN_FAILED = 5
CUTS_TRIP, MAX_TRIP = 0.9, 0.7
"""Share of the failed starts that open a set which cuts off; and the most that is taken of any
other supply, whatever the engine says: people call a stall what hummed and clicked (common
practice, no source).
"""
BIAS = {"peak_a": PEAKS, "own_a": PEAKS, "lowest_v": DIPS, "seconds": TIMES}
"""By which error of our own model each figure may be off."""
NEVER_S = 99.0
"""Stands for the seconds of a start that does not end [s]."""
LONGEST_START_S = 10.0
"""The error of a stopwatch grows no further than for a start of this length [s]."""
OWN_DRAWS = 11
"""Added to a setup's seed: learning draws its own samples, not those of its check."""
DAY_SHIFT = 17
"""By so many samples the days of one start are shifted against those of the next: each entry has a
day of its own, drawn once."""


def outcome_of(code: float) -> str:
    """The engine's outcome in the log's words.

    Args:
        code: of the engine.

    Returns:
        ``starts``, ``stalls`` or ``trips``.
    """
    word = OUTCOMES.get(int(code), "stalls")
    return word if word in ("starts", "trips") else "stalls"


def figure_of(entry: StartEntry, name: str) -> str:
    """Which of the engine's figures a reading is to be held against.

    Args:
        entry: of a start.
        name: of what was read.

    Returns:
        Key of :func:`ironmargin.learning.looking.run`.
    """
    own = seen_with.sees_own_motor(entry.instrument, entry.on)
    return "own_a" if name == "peak_a" and own else name


def readings_of(entry: StartEntry) -> dict[str, float]:
    """What an entry read of its start; a trace tells by itself what is not given.

    Args:
        entry: of a start.

    Returns:
        By name: peak [A], lowest volts [V], seconds [s].
    """
    found = {
        name: value
        for name in ("peak_a", "lowest_v", "seconds")
        if (value := getattr(entry, name)) is not None
    }
    if entry.trace:
        table = np.array(entry.trace)
        found.setdefault("peak_a", float(table[:, 1].max()))
        found.setdefault("lowest_v", float(table[:, 2].min()))
    return found


def weight_of(
    entry: StartEntry,
    figures: dict[str, Real],
    biases: dict[str, Real],
    days: dict[str, float],
    too_slow: bool,
    nominal_v: float,
) -> Real:
    """How likely the figures an entry read are, for each sample (its logarithm).

    Args:
        entry: of a start.
        figures: what the engine shows, each (samples,).
        biases: by how much our model is off, each sample, by figure.
        days: how far each figure moves from day to day [1].
        too_slow: whether its peak is left out.
        nominal_v: nominal volts [V].

    Returns:
        A logarithm a sample (samples,).
    """
    total: Real = np.zeros(len(figures["code"]))
    bench = seen_with.BENCH[entry.instrument]
    holds = bench.holds or bool(entry.trace)
    for name, read in readings_of(entry).items():
        which = figure_of(entry, name)
        if name == "peak_a":
            if too_slow:
                continue
            true = figures[which] * np.exp(biases[which])
            error = np.hypot(seen_with.peak_error(entry.instrument, true), days[which] * true)
            bound = None if holds else seen_with.log_at_least
        elif name == "lowest_v":
            true = figures[which] + biases[which] * nominal_v
            day = days[which] * true
            error = np.hypot(seen_with.volts_error(entry.instrument, nominal_v), day)
            bound = None if holds else seen_with.log_at_most
        else:
            up = np.where(np.isfinite(figures[which]), figures[which], NEVER_S)
            true = up * np.exp(biases[which])
            short = np.minimum(true, LONGEST_START_S)
            error = np.hypot(seen_with.seconds_error(entry.instrument, short), days[which] * short)
            bound = None
        total = total + (bound or seen_with.log_likelihood)(read, true, error)
    return total


@record
class Posterior:
    """What the starts of a log tell: samples of every unknown with their weights.

    Attributes:
        logs: (samples, unknowns).
        weights: of each sample, one in all.
        effective: samples that carry the weight.
        rounds: how often they were drawn.
        prior: for each entry and figure, samples of what was predicted before; for its outcome how
            likely that was.
        after: the same afterwards, to be weighed by ``weights``.
        cuts_off: how likely the set cuts off at its limit, where nobody said; else None.
    """

    unknowns: tuple[Unknown, ...]
    sds: Real
    logs: Real
    weights: Real
    effective: float
    rounds: int
    prior: dict[tuple[int, str], Real]
    after: dict[tuple[int, str], Real]
    cuts_off: float | None = None

    @property
    def factors(self) -> Real:
        """The samples as factors."""
        found: Real = np.exp(self.logs)
        return found

    def rows(self) -> Real:
        """So many samples of equal weight (systematic resampling).

        Returns:
            Logarithms (rows, unknowns).
        """
        heap = np.cumsum(self.weights)
        at = np.searchsorted(heap, (np.arange(ROWS) + 0.5) / ROWS * heap[-1])
        found: Real = self.logs[np.minimum(at, len(heap) - 1)]
        return found


def share_of(outcome: str, passes: Real, trips: float) -> Real:
    """How likely an outcome is, for each sample [1].

    Args:
        outcome: that was put down.
        passes: how likely the start succeeds.
        trips: how many of those that do not open something.

    Returns:
        A chance a sample (samples,).
    """
    if outcome == "starts":
        return passes
    return (1.0 - passes) * (trips if outcome == "trips" else 1.0 - trips)


def outcome_logs(outcome: str, passes: Real, trips: float) -> Real:
    """The same as a logarithm, with a word put down wrong now and then.

    Args:
        outcome: that was put down.
        passes: how likely the start succeeds (samples,) [1].
        trips: how many of those that do not open something [1].

    Returns:
        A logarithm a sample (samples,).
    """
    sure = seen_with.OUTCOME_SURE
    share = share_of(outcome, passes, trips)
    found: Real = np.log(sure * share + 0.5 * (1.0 - sure))
    return found


def _trips(codes: Real) -> float:
    """How many of the starts that do not succeed open something [1]."""
    words = [outcome_of(code) for code in codes]
    failed = [word for word in words if word != "starts"]
    if len(failed) < MIN_FAILED:
        return 0.5
    share = sum(word == "trips" for word in failed) / len(failed)
    return min(max(share, 1.0 - MAX_TRIP), MAX_TRIP)


@dataclass
class _Turn:
    """What one look at all starts gives: the logarithm of each sample's weight under both
    characters, and the figures by entry.
    """

    folds: Real
    cuts: Real
    figures: dict[tuple[int, str], Real]

    def and_then(self, other: _Turn) -> _Turn:
        """These samples and those of another look."""
        figures = {
            key: np.concatenate([those, other.figures[key]]) for key, those in self.figures.items()
        }
        folds, cuts = (
            np.concatenate(pair) for pair in ((self.folds, other.folds), (self.cuts, other.cuts))
        )
        return _Turn(folds, cuts, figures)


def _look(
    setup: Setup,
    entries: dict[int, StartEntry],
    observed: list[tuple[ObservedStart, Edge, dict[str, float]]],
    unknowns: list[Unknown],
    logs: Real,
    days: Real,
    slow: set[int],
) -> _Turn:
    biases = {name: column(unknowns, logs, (bias, "")) for name, bias in BIAS.items()}
    nominal_v = observed[0][0].scenario.case.source.nominal_v
    turn = _Turn(np.zeros(len(logs)), np.zeros(len(logs)), {})
    for n, (one, edge, day_sd) in enumerate(observed):
        figures = run(one, unknowns, logs, np.zeros(len(logs)))
        passes = passes_of(one, unknowns, logs, edge, edge.boundary)
        cut = passes if edge.cut is None else passes_of(one, unknowns, logs, edge, edge.cut)
        trips = _trips(figures["code"])
        for at in one.entries:
            entry, day = entries[at], np.roll(days, DAY_SHIFT * n + at)
            for name in readings_of(entry):
                which = figure_of(entry, name)
                by_day = np.exp(day_sd[which] * day)
                bias = biases[which]
                turn.figures[at, name] = (
                    figures[which] * by_day + bias * nominal_v
                    if name == "lowest_v"
                    else figures[which] * by_day * np.exp(bias)
                )
            if entry.on == "whole-cord":
                continue
            read = weight_of(entry, figures, biases, day_sd, at in slow, nominal_v)
            turn.folds, turn.cuts = turn.folds + read, turn.cuts + read
            if entry.outcome is not None:
                turn.figures[at, "outcome"] = share_of(entry.outcome, passes, trips)
                turn.folds = turn.folds + outcome_logs(entry.outcome, passes, trips)
                by_cut = trips if edge.cut is None else CUTS_TRIP
                turn.cuts = turn.cuts + outcome_logs(entry.outcome, cut, by_cut)
    return turn


def weigh(
    setup: Setup, entries: dict[int, StartEntry], observed: list[ObservedStart], slow: set[int]
) -> Posterior:
    """Weigh samples of every unknown by a log's starts.

    Args:
        setup: as it was before the log.
        entries: start entries by number.
        observed: the distinct starts of them.
        slow: numbers of entries whose meter was too slow.

    Returns:
        The samples with their weights.
    """
    unknowns = unknowns_in(setup, observed)
    prior = prior_of(setup, unknowns)
    count, seed = len(unknowns), setup.rules.seed + OWN_DRAWS
    z = normal(SAMPLES, count + 1, seed)
    logs, days = prior.draw(z[:, :count]), z[:, count]
    starts = [(one, edge_of(one, unknowns, seed), day_sds(one, unknowns, logs)) for one in observed]
    asks = any(edge.cut is not None for _, edge, _ in starts)
    drawn_from: list[Density] = [prior.density]
    first = turn = _look(setup, entries, starts, unknowns, logs, days, slow)
    for rounds in range(1, ROUNDS + 1):
        folds, cuts = turn.folds + math.log(1.0 - CUTS_OFF), turn.cuts + math.log(CUTS_OFF)
        both = np.logaddexp(folds, cuts) if asks else turn.folds
        total = both + prior.density(logs) - mixture(drawn_from, logs)
        weights = even(total)
        if effective(weights) >= POOR * SAMPLES or rounds == ROUNDS or not count:
            break
        found = around(logs, tempered(total, POOR * SAMPLES), prior.sds)
        drawn_from.append(found.density)
        fresh = normal(SAMPLES, count + 2, seed + rounds)
        more = found.draw(fresh[:, np.r_[:count, count + 1]])
        turn = turn.and_then(_look(setup, entries, starts, unknowns, more, fresh[:, count], slow))
        logs = np.concatenate([logs, more])
    if effective(weights) < MIN_EFFECTIVE:
        weights = tempered(total, MIN_EFFECTIVE)
    share = float(weights @ np.exp(cuts - both)) if asks else None
    return Posterior(
        tuple(unknowns), prior.sds, logs, weights, effective(weights), rounds, first.figures,
        turn.figures, share,
    )  # fmt: skip


def quantiles(values: Real, weights: Real, at: tuple[float, ...]) -> list[float]:
    """Quantiles of weighted samples.

    Args:
        values: of the samples (samples,).
        weights: of the samples, one in all (samples,).
        at: shares [1].

    Returns:
        A value a share.
    """
    order = np.argsort(values)
    heap = np.cumsum(weights[order]) - 0.5 * weights[order]
    return [float(x) for x in np.interp(at, heap, values[order])]
