"""How good somebody's estimates are: Brier score, calibration, how far off."""

from __future__ import annotations

from ironmargin.record import record

BINS = 5
"""Classes of sureness that are held against what came true."""
AS_GOOD, WORTHLESS = 0.1, 0.5
"""How far an estimate may be off that counts whole, and from where on it counts nothing [1]."""


def brier(said: float, right: bool) -> float:
    """The Brier score of one probability: 0 best, 1 worst (G. W. Brier, Mon. Weather Rev. 78,
    1950).

    Args:
        said: the probability that was said [1].
        right: whether it came true.

    Returns:
        The score [1].
    """
    return (said - (1.0 if right else 0.0)) ** 2


def score_of_chance(said: float, chance: float) -> float:
    """The expected Brier score above the best there is, for a setup asked as a probability.

    Args:
        said: the probability that was said [1].
        chance: how often it is so [1].

    Returns:
        The score; 0 for the chance itself [1].
    """
    return (said - chance) ** 2


@record
class Bin:
    """One bin of a calibration: how sure was said, how often it was right, how many answers."""

    said: float
    right: float
    count: int


def calibration(answers: list[tuple[float, bool]], bins: int = BINS) -> tuple[Bin, ...]:
    """How often one is right when one is so sure; empty bins left out.

    Args:
        answers: probability said [1], and whether it was right.
        bins: of the scale.

    Returns:
        The bins that have answers.
    """
    found = []
    for n in range(bins):
        low, high = n / bins, (n + 1) / bins
        inside = [(p, r) for p, r in answers if low <= p < high or (n == bins - 1 and p == 1.0)]
        if inside:
            count = len(inside)
            found.append(
                Bin(sum(p for p, _ in inside) / count, sum(r for _, r in inside) / count, count)
            )
    return tuple(found)


def estimate_score(said: float, figure: float) -> float:
    """How near an estimate is: 1 within a tenth, falling to 0 at half as much again [1].

    Args:
        said: the estimate.
        figure: what it is, in the same unit.

    Returns:
        The score [1].
    """
    off = abs(said / figure - 1.0) if figure else 1.0
    return max(0.0, min(1.0, (WORTHLESS - off) / (WORTHLESS - AS_GOOD)))
