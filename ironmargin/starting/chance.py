"""How often it starts, in two layers: what is a fact of this rig but not known, and what differs
from start to start.

For every sample of everything else the engine finds how strong supply and path must be; the chance
that they are follows in closed form from the spread of the strength (line sampling: each line
answers for all strengths at once, so that some dozens of lines tell what a thousand trials told).
Straight-line fits of that strength over the samples then part the two layers. How far each figure
may be off stands in ``tables/uncertainty.csv``; where a log has told of the rig, what it left
(``starting.known``) takes its place.
"""

from __future__ import annotations

import math
from dataclasses import replace
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.starting.lines import Lines
from ironmargin.starting.samples import (
    BREAKAWAY_DAY_SD,
    Samples,
    Unknown,
    lra_sd,
    samples_of,
    share_below,
    shares_below,
    source_strength_sd,
)
from ironmargin.starting.scenario import StartScenario
from ironmargin.tables import spread_of

MEASURED_LRA_SD = spread_of("locked-rotor amps", "measured")
TRIALS_A_LINE = 32
"""Plain trials one line stands for: measured, for the same error of the chance."""
MIN_LINES, MAX_LINES = 16, 512
MAX_TURNS = 4
MAX_SHIFT = 2.5
CELLS, REACH_SD = 32, 4.5
DOUBT = 0.004
"""Chance a line may leave open, weighed [1]."""
SLOPES = {"lockout": -0.035, "stiff": 0.03, "day": 0.025}
BELIEF, NO_BELIEF = 0.5, 1e6
"""What is believed of the boundary's plane before any was found: how much stronger a set must be
for a standard deviation of each [1] (measured on the check setups; a shrug for the rest), as firmly
as so many lines."""
NARROWS = 0.03
"""A figure whose measuring makes the chance of this rig no narrower than by so much decides nothing
[1]."""
Z_95 = 1.959964
Z_RIG = 1.644854
"""Of a hundred rigs like this, ninety lie between."""
MAX_WORTH = 1e6
"""Trials that a chance known in closed form is worth at most."""
SMALLEST = 1e-3
"""Stands for nought where it divides, or where its logarithm is taken [1]."""
FAR_OWN_LINES = 8
"""Lines of the far look beside two for each motor."""


@record
class Chance:
    """How often a start passes.

    Attributes:
        chance, low, high: over rigs and days, with the 95 % interval of the estimate [1].
        rig_low, rig_high: between what of a hundred starts this one rig passes, for ninety rigs of
            a hundred like it [1].
        decides: the figure that decides most which; None where measuring none would narrow it.
        known_low, known_high: the same once that figure is measured [1].
        needs, spread, day_slope: the straight boundary it was found with: strength the start needs
            on an ordinary day, its standard deviation, and what a standard deviation of the day's
            breakaway adds [1]; None where no boundary was found.
    """

    chance: float
    low: float
    high: float
    rig_low: float
    rig_high: float
    decides: Unknown | None = None
    known_low: float | None = None
    known_high: float | None = None
    needs: float | None = None
    spread: float = 0.0
    day_slope: float = 0.0

    def of_restart(self, breakaway: float, needed: float) -> float:
        """The chance of a restart, along the straight boundary [1].

        Args:
            breakaway: its breakaway torque over the first start's [1].
            needed: the strength it needs over that of the first start, with the same breakaway [1].

        Returns:
            The chance of it [1].
        """
        if self.needs is None:
            return self.chance
        moved = max(self.day_slope, 0.0) * math.log(max(breakaway, SMALLEST)) / BREAKAWAY_DAY_SD
        straight = share_below((1.0 - self.needs) / self.spread)
        shifted = share_below((1.0 - self.needs * needed - moved) / self.spread)
        return min(max(self.chance + shifted - straight, 0.0), 1.0)


def wilson(share: float, trials: float) -> tuple[float, float]:
    """The 95 % Wilson score interval of a share (E. B. Wilson, J. Am. Stat. Assoc. 22, 1927).

    Args:
        share: of trials that passed [1].
        trials: how many there were.

    Returns:
        Both ends [1].
    """
    if trials <= 0:
        return 0.0, 1.0
    z2 = Z_95**2
    centre = share + z2 / (2 * trials)
    half = Z_95 * math.sqrt(share * (1 - share) / trials + z2 / (4 * trials**2))
    low, high = (centre - half) / (1 + z2 / trials), (centre + half) / (1 + z2 / trials)
    return max(0.0, min(low, share)), min(1.0, max(high, share))


def _bounds(share: float, error: float, trials: int) -> tuple[float, float]:
    """The 95 % interval of a chance estimated with an error, no wider than so many plain trials
    would give.
    """
    worth = share * (1.0 - share) / error**2 if error > 1e-6 else 0.0
    return wilson(share, max(min(worth, MAX_WORTH), float(trials)))


def prior_plane(names: tuple[Unknown, ...], near: float = 1.0) -> tuple[Real, Real]:
    """The plane over samples of these names before any boundary was found, and how little it is
    believed.

    Args:
        names: what is drawn.
        near: strength it is thought to need [1].

    Returns:
        The plane's constant and slopes, and the inverse of their covariance.
    """
    slopes = [SLOPES.get(name.kind, 0.0) for name in names]
    return np.array([near, *slopes]), np.diag([NO_BELIEF, *(1.0 / BELIEF for _ in slopes)])


@cache
def _edges(cells: int) -> tuple[Real, Real]:
    """The edges of so many cells a boundary is looked for in: strengths, and how often the strength
    there is, or is more; that, with a 1 before and a 0 behind, for below and above all of them.
    """
    z = np.linspace(-REACH_SD, REACH_SD, cells + 1)
    return 1.0 + source_strength_sd() * z, np.array(
        [1.0, *(share_below(-x) for x in z.tolist()), 0.0]
    )


def _first_look(lines: Lines, samples: Samples) -> tuple[Real, Real, NDArray[np.bool_]]:
    """Strength needed on each line, its chance, and whether the boundary was found on it; in cells
    of twice the width, which a fit over sixteen lines does not notice.
    """
    source_strengths, above = _edges(CELLS // 2)
    lines.look(samples, source_strengths, above, np.zeros(len(samples.z)))
    needed = samples.source_strength.over(np.array(lines.needed), samples.z)
    inside = (np.array(lines.fails) >= 0) & (np.array(lines.passing) < len(source_strengths))
    each = shares_below((1.0 - needed) / samples.source_strength.sd)
    each[needed <= source_strengths[0]], each[needed >= source_strengths[-1]] = 1.0, 0.0
    return needed, each, inside


def _weighed(lines: Lines, samples: Samples, straight: Real, weights: Real) -> Real:
    """By how much the chance of each line differs from the straight one, weighed.

    A boundary is looked for until what is in doubt weighs next to nothing; there the straight
    chance is believed as far as what was found lets it.
    """
    source_strengths, above = _edges(CELLS)
    lines.look(samples, source_strengths, above, DOUBT / weights)
    fails, passing = np.array(lines.fails), np.array(lines.passing)
    found = (passing - fails == 1) & (fails >= 0) & (passing <= CELLS)
    needed = samples.source_strength.over(np.array(lines.needed), samples.z)
    exact = shares_below((1.0 - needed) / samples.source_strength.sd)
    # How likely a strength between two edges is, where nothing has told of it.
    near = straight if samples.learned else np.clip(straight, above[passing + 1], above[fails + 1])
    return np.asarray((np.where(found, exact, near) - straight) * weights)


def chance_of(scenario: StartScenario, trials: int, seed: int, near: float = 1.0) -> Chance:
    """The chance of a moment, at least as precise as ``trials`` plain trials; sooner told where the
    strength it needs is known to be ``near``.

    A first look fits the needed strength by a straight line over the samples, whose chance has a
    closed form. The rest of the lines, drawn around the point where the start is most likely to
    fail, only tell by how much the truth differs from it; where they tell too little, more are
    drawn, up to :data:`MAX_TURNS` times.

    Args:
        scenario: the start.
        trials: plain ones that it is to be as precise as.
        seed: of the points.
        near: strength it is thought to need [1].

    Returns:
        The chance with its interval, and the boundary it follows from [1].
    """
    first = samples_of(scenario, MIN_LINES, seed)
    enough = len(first.names) + 4
    if len(first.voc_factor) < enough:
        first = samples_of(scenario, enough + 4, seed)
    lines = Lines(scenario.engine, *prior_plane(first.names, near))
    needed, each, inside = _first_look(lines, first)
    if not inside.any():
        share, error = float(each.mean()), float(each.std()) / math.sqrt(len(each))
        return Chance(share, *_bounds(share, error, trials), share, share)
    if inside.sum() < enough:
        fit: Real = np.array(lines.plane, dtype=float)
    else:
        points = np.column_stack([np.ones(int(inside.sum())), first.z[inside]])
        found, *_ = np.linalg.lstsq(points, needed[inside], rcond=None)
        fit = np.asarray(found, dtype=np.float64)
    middle, slopes = float(fit[0]), np.asarray(fit[1:], dtype=float)
    share, error = _learned(scenario, trials, seed, first, fit, lines)
    bounds = _bounds(share, error, trials)
    return _two_layers(scenario, first, middle, slopes, share, bounds)


@record
class Boundary:
    """The strength a start needs, straight over its samples.

    Attributes:
        names: what is drawn.
        middle: strength needed in the middle [1].
        slopes: by how much more for a standard deviation of each [1].
        share: of the lines that pass, where no boundary was found; else None.
    """

    names: tuple[Unknown, ...]
    middle: float
    slopes: Real
    share: float | None = None


FAR_SD, FAR_CELLS, FAR_LINES = 9.0, 36, 24
"""How far a boundary is looked for that a log may have told of, and on how many lines."""


def boundary_of(scenario: StartScenario, seed: int) -> Boundary:
    """The boundary of a start, further out than a chance needs it: a log may tell of starts that
    this rig was not expected to do.

    Args:
        scenario: the start, ready to be run.
        seed: same seed, same answer.

    Returns:
        Strength needed over what differs from rig to rig and day to day.
    """
    lines_of = max(FAR_LINES, FAR_OWN_LINES + 2 * scenario.motors)
    samples = samples_of(scenario, lines_of, seed, plain=True)
    lines = Lines(scenario.engine, *prior_plane(samples.names))
    z = np.linspace(-FAR_SD, FAR_SD, FAR_CELLS + 1)
    source_strengths = 1.0 + source_strength_sd() * z
    above = np.array([1.0, *(share_below(-x) for x in z.tolist()), 0.0])
    lines.look(samples, source_strengths, above, np.full(len(samples.z), -1.0))
    needed = np.array(lines.needed)
    inside = (np.array(lines.fails) >= 0) & (np.array(lines.passing) < len(source_strengths))
    if inside.sum() < 4:
        passes = float((np.array(lines.passing) <= FAR_CELLS // 2).mean())
        return Boundary(samples.names, 1.0, np.zeros(len(samples.names)), passes)
    plane = np.array(lines.plane, dtype=float)
    if inside.sum() >= len(samples.names) + 4:
        points = np.column_stack([np.ones(int(inside.sum())), samples.z[inside]])
        found, *_ = np.linalg.lstsq(points, needed[inside], rcond=None)
        plane = np.asarray(found, dtype=np.float64)
    return Boundary(samples.names, float(plane[0]), np.asarray(plane[1:], float))


def _learned(
    scenario: StartScenario, trials: int, seed: int, first: Samples, fit: Real, lines: Lines
) -> tuple[float, float]:
    """The chance and its error, from the chance of a straight boundary and what lines drawn around
    the point where the start is most likely to fail tell of the truth.
    """
    middle, slopes = float(fit[0]), fit[1:]
    sd, steep = first.source_strength.sd, float(np.linalg.norm(slopes))
    beta = (1.0 - middle) / math.hypot(sd, steep)
    far = min(max(beta, -MAX_SHIFT), MAX_SHIFT) / math.hypot(sd, steep)
    shift: Real = slopes * far
    count = min(max(trials // TRIALS_A_LINE, MIN_LINES), MAX_LINES)
    differs = np.empty(0)
    share = error = 0.0
    for again in range(1, MAX_TURNS + 1):
        samples = samples_of(scenario, count, seed + again, shift)
        needed = middle + samples.z @ slopes
        straight = shares_below((1.0 - needed) / sd)
        weights = np.exp(0.5 * float(shift @ shift) - samples.z @ shift)
        more = _weighed(lines, samples, straight, weights)
        differs = np.concatenate([differs, more])
        share = min(max(share_below(beta) + float(differs.mean()), 0.0), 1.0)
        error = float(differs.std()) / math.sqrt(len(differs))
        # Where a straight line tells little, a line is worth fewer trials: then more are drawn.
        if error**2 <= share * (1.0 - share) / trials:
            break
    return share, error


def _two_layers(
    scenario: StartScenario,
    samples: Samples,
    middle: float,
    slopes: Real,
    share: float,
    bounds: tuple[float, float],
) -> Chance:
    """What ninety rigs of a hundred like this one do, and what they would do once the deciding
    figure were measured.
    """
    sd, rig = samples.source_strength.sd, np.array(samples.rig)
    day_sd = max(float(np.linalg.norm(slopes[~rig])), SMALLEST)
    rig_sd = math.hypot(float(np.linalg.norm(slopes[rig])), sd)

    def between(spread: float) -> tuple[float, float]:
        edges = [share_below((1.0 - middle - side * spread) / day_sd) for side in (Z_RIG, -Z_RIG)]
        return min(edges[0], share), max(edges[1], share)

    days = [at for at, name in enumerate(samples.names) if name.kind == "day"]
    found = Chance(
        share,
        *bounds,
        *between(rig_sd),
        needs=middle,
        spread=math.hypot(sd, float(np.linalg.norm(slopes))),
        day_slope=float(sum(slopes[at] for at in days)),
    )
    lras = [
        at
        for at, name in enumerate(samples.names)
        if name.kind == "lra" and at not in samples.learned
    ]
    maximum = max(lras, key=lambda at: abs(slopes[at]), default=None)
    if maximum is None:
        return found
    whose = samples.names[maximum].load
    row = next(
        r
        for r in range(scenario.motors)
        if scenario.case.demands[scenario.case.rows[r]].load.id == whose
    )
    gain = MEASURED_LRA_SD / lra_sd(scenario.case.demands[scenario.case.rows[row]])
    known = math.sqrt(max(rig_sd**2 - float(slopes[maximum]) ** 2 * (1.0 - gain**2), sd**2))
    low, high = between(known)
    if (found.rig_high - found.rig_low) - (high - low) < NARROWS:
        return found  # measured, it would change nothing
    return replace(found, decides=samples.names[maximum], known_low=low, known_high=high)
