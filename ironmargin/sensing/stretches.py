"""Where something is so, along a line."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Where = NDArray[np.bool_]


def stretches(so: Where) -> list[tuple[int, int]]:
    """First place and one past the last of every stretch in which ``so`` holds, (n,).

    Args:
        so: a mask (n,).

    Returns:
        Pairs of places.
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[0], so.astype(int), [0]])))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))
