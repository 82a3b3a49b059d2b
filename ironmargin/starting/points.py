"""Scrambled Sobol points: draws that fill the space evenly, so that a few tell as much as many
plain ones.

Direction numbers of Joe and Kuo (2008); a random digital shift makes every point uniform and the
seed count.
"""

from __future__ import annotations

from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from ironmargin.electrics.network import Real
from ironmargin.tables import rows

BITS = 30
KEPT = 64
"""Sets of points remembered: every start of a rig asks for the same."""
MIDDLE_90 = (0.05, 0.5, 0.95)
"""The edges of the middle ninety of a hundred, and its middle."""
GOLDEN, FIRST_MIX, SECOND_MIX = 0x9E3779B97F4A7C15, 0xBF58476D1CE4E5B9, 0x94D049BB133111EB
"""SplitMix64's odd numbers: 2⁶⁴ over the golden ratio, and its two mixers."""
SHIFTS = 30, 27, 31
WORD = 64
MIDDLE_OF_NORMAL = (
    (-3.969683028665376e01, 2.209460984245205e02, -2.759285104469687e02, 1.383577518672690e02,
     -3.066479806614716e01, 2.506628277459239e00),
    (-5.447609879822406e01, 1.615858368580409e02, -1.556989798598866e02, 6.680131188771972e01,
     -1.328068155288572e01, 1.0),
)  # fmt: skip
TAIL_OF_NORMAL = (
    (-7.784894002430293e-03, -3.223964580411365e-01, -2.400758277161838e00,
     -2.549732539343734e00, 4.374664141464968e00, 2.938163982698783e00),
    (7.784695709041462e-03, 3.224671290700398e-01, 2.445134137142996e00,
     3.754408661907416e00, 1.0),
)  # fmt: skip
"""P. J. Acklam's polynomials, above and below the line (2003; from memory)."""
TAIL = 0.02425
"""Shares nearer to 0 or 1 than this are of the tail."""


def mixed(count: int, seed: int) -> NDArray[np.uint64]:
    """``count`` evenly spread 64-bit numbers of a seed: SplitMix64 (G. Steele and others, OOPSLA
    2014; from memory).

    Args:
        count: how many.
        seed: any whole number.

    Returns:
        (count,).
    """
    first, second, last = (np.uint64(shift) for shift in SHIFTS)
    with np.errstate(over="ignore"):
        x = np.arange(1, count + 1, dtype=np.uint64) + np.uint64(seed) * np.uint64(GOLDEN)
        x = x * np.uint64(GOLDEN)
        x = (x ^ (x >> first)) * np.uint64(FIRST_MIX)
        x = (x ^ (x >> second)) * np.uint64(SECOND_MIX)
        return x ^ (x >> last)


@cache
def _directions(dimension: int) -> tuple[int, ...]:
    """Direction numbers of one dimension, counted from 0, scaled to ``BITS`` bits."""
    if dimension == 0:
        return tuple(1 << (BITS - 1 - bit) for bit in range(BITS))
    row = rows("sobol")[dimension - 1]
    polynomial, first = int(row["polynomial"]), [int(x) for x in row["first"].split()]
    degree = len(first)
    numbers = first[:]
    for at in range(degree, BITS):
        new = numbers[at - degree] ^ (numbers[at - degree] << degree)
        for step in range(1, degree):
            if (polynomial >> (degree - step)) & 1:
                new ^= numbers[at - step] << step
        numbers.append(new)
    return tuple(number << (BITS - 1 - bit) for bit, number in enumerate(numbers))


def uniform(count: int, dimensions: int, seed: int) -> Real:
    """``count`` points of the unit cube, none on its faces: (count, dimensions).

    Past the 127 dimensions of the table the rest are plain draws of the same seed.

    Args:
        count: how many points.
        dimensions: of each.
        seed: any whole number.

    Returns:
        Figures between 0 and 1.
    """
    tabled = min(dimensions, len(rows("sobol")) + 1)
    shifts = mixed(dimensions, seed) >> np.uint64(WORD - BITS)
    gray = np.arange(count) ^ (np.arange(count) >> 1)
    out = np.empty((count, dimensions))
    if dimensions > tabled:
        plain = mixed(count * (dimensions - tabled), seed + 1).reshape(count, -1)
        out[:, tabled:] = (plain >> np.uint64(WORD - BITS)) / (1 << BITS) + 0.5 / (1 << BITS)
    for dimension in range(tabled):
        found: NDArray[np.int64] = np.full(count, shifts[dimension], dtype=np.int64)
        for bit, number in enumerate(_directions(dimension)):
            if (1 << bit) > count:
                break
            found ^= np.where(gray >> bit & 1, number, 0)
        out[:, dimension] = (found + 0.5) / (1 << BITS)
    return out


@lru_cache(maxsize=KEPT)
def normal(count: int, dimensions: int, seed: int) -> Real:
    """The same as independent standard normal draws; nothing writes to them.

    Args:
        count: draws.
        dimensions: of each.
        seed: same seed, same answer.

    Returns:
        Draws (count, dimensions).
    """
    found = normal_quantile(uniform(count, dimensions, seed))
    found.flags.writeable = False
    return found


def normal_quantile(share: Real) -> Real:
    """The inverse of the standard normal distribution function, within 1.2e-9: P. J. Acklam's
    rational approximations (2003; from memory).

    Args:
        share: between 0 and 1, any shape.

    Returns:
        Standard deviations from the middle, the same shape.
    """
    tail = np.minimum(share, 1.0 - share)
    q = share - 0.5
    above, below = MIDDLE_OF_NORMAL
    middle = q * np.polyval(above, q * q) / np.polyval(below, q * q)
    r = np.sqrt(-2.0 * np.log(tail))
    outer = np.sign(-q) * np.polyval(TAIL_OF_NORMAL[0], r) / np.polyval(TAIL_OF_NORMAL[1], r)
    found: Real = np.where(tail < TAIL, outer, middle)
    return found
