"""What samples are drawn from while they are walked to where a log's readings agree, and their
weights.

Adaptive multiple importance sampling (Cornuet, Marin, Mira, Robert: Scand. J. Statist. 39, 2012):
every sample of every round counts, weighed by the mixture of all rounds (Owen and Zhou: J. Amer.
Statist. Assoc. 95, 2000), so that a round that went too narrow spoils nothing and none is wasted.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record

FREEDOM = 8.0
HALF = 2.0 / (9.0 * FREEDOM)
"""Of the Wilson-Hilferty cube that makes a chi-square draw of a normal one (Proc. Nat. Acad. Sci.
17, 1931)."""
MIN_CHI = 0.05
WIDER = 1.2
"""Draws are spread so much wider than what was found, so that its tails are seen too."""
OF_PRIOR = 0.1
"""And never narrower than so much of what was believed before [1]."""
HALVINGS = 20

Density = Callable[[Real], Real]
"""Logarithm of a density at samples (samples, unknowns)."""


@record
class Around:
    """Student's t of eight degrees around what was found.

    Attributes:
        middle: (unknowns,).
        root: lower triangle whose square is the scale (unknowns, unknowns).
    """

    middle: Real
    root: Real

    def draw(self, z: Real) -> Real:
        """Draws from standard normal ones, one column more than unknowns.

        Args:
            z: (samples, unknowns + 1).

        Returns:
            (samples, unknowns).
        """
        count = len(self.middle)
        chi = FREEDOM * (1.0 - HALF + math.sqrt(HALF) * z[:, count]) ** 3
        steps = z[:, :count] / np.sqrt(np.maximum(chi, MIN_CHI) / FREEDOM)[:, None]
        found: Real = self.middle + steps @ self.root.T
        return found

    def density(self, logs: Real) -> Real:
        """Logarithm of the density of samples.

        Args:
            logs: (samples, unknowns).

        Returns:
            (samples,).
        """
        count = len(self.middle)
        off = np.asarray(np.linalg.solve(self.root, (logs - self.middle).T), dtype=np.float64)
        reach = np.sum(off * off, axis=0) / FREEDOM
        constant = (
            math.lgamma(0.5 * (FREEDOM + count))
            - math.lgamma(0.5 * FREEDOM)
            - 0.5 * count * math.log(FREEDOM * math.pi)
            - float(np.sum(np.log(np.diag(self.root))))
        )
        found: Real = constant - 0.5 * (FREEDOM + count) * np.log1p(reach)
        return found


def around(logs: Real, weights: Real, sds: Real) -> Around:
    """A proposal that covers weighted samples.

    Args:
        logs: samples (samples, unknowns).
        weights: of them, one in all (samples,).
        sds: of what was believed before, by unknown.

    Returns:
        Where to draw from next.
    """
    middle = weights @ logs
    spread = (logs - middle).T @ ((logs - middle) * weights[:, None])
    spread = WIDER**2 * spread + np.diag((OF_PRIOR * sds) ** 2)
    return Around(middle, np.asarray(np.linalg.cholesky(spread), float))


def mixture(densities: Sequence[Density], logs: Real) -> Real:
    """Logarithm of the density of samples that came in equal number from each of these.

    Args:
        densities: of each round.
        logs: samples (samples, unknowns).

    Returns:
        (samples,).
    """
    each = np.array([density(logs) for density in densities])
    found: Real = np.logaddexp.reduce(each, axis=0) - math.log(len(densities))
    return found


def even(logs: Real) -> Real:
    """Weights from their logarithms, one in all.

    Args:
        logs: of weights, but for a constant (samples,).

    Returns:
        (samples,).
    """
    weights = np.exp(logs - logs.max())
    found: Real = weights / weights.sum()
    return found


def effective(weights: Real) -> float:
    """How many samples carry the weight (Kish).

    Args:
        weights: one in all (samples,).

    Returns:
        Their number, as if each carried the same.
    """
    return float(1.0 / (weights**2).sum())


def tempered(total: Real, minimum: float) -> Real:
    """Weights flattened until so many samples carry them: from far off, what is found is walked to
    in several turns, not jumped at.

    Args:
        total: logarithms of weights (samples,).
        minimum: samples that are to carry them.

    Returns:
        Weights, one in all (samples,).
    """
    low, high = 0.0, 1.0
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if effective(even(middle * total)) >= minimum else (low, middle)
    return even(low * total)
