"""Scrambled Sobol points: draws that fill the space evenly, so that a few tell as much as many plain ones.

Direction numbers of Joe and Kuo (2008); a random digital shift makes every point uniform and the seed count.
"""

from __future__ import annotations

from functools import cache
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from ironmargin.electrics.network import Real
from ironmargin.tables import rows

BITS = 30


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
    """
    random = np.random.default_rng(seed)
    tabled = min(dimensions, len(rows("sobol")) + 1)
    shifts = random.integers(0, 1 << BITS, size=tabled)
    gray = np.arange(count) ^ (np.arange(count) >> 1)
    out = random.random((count, dimensions))
    for dimension in range(tabled):
        found: NDArray[np.int64] = np.full(count, shifts[dimension], dtype=np.int64)
        for bit, number in enumerate(_directions(dimension)):
            if (1 << bit) > count:
                break
            found ^= np.where(gray >> bit & 1, number, 0)
        out[:, dimension] = (found + 0.5) / (1 << BITS)
    return out


def normal(count: int, dimensions: int, seed: int) -> Real:
    """The same as independent standard normal draws."""
    inverse = NormalDist().inv_cdf
    flat = [inverse(u) for u in uniform(count, dimensions, seed).ravel().tolist()]
    return np.array(flat).reshape(count, dimensions)
