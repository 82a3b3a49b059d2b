"""The maximal sets of loads that may run together, the trades between them, and the interlocks."""

from __future__ import annotations

from itertools import combinations
from typing import NamedTuple

import numpy as np

from ironmargin.loads.demand import L1, L1L2, L2
from ironmargin.planning.settling import Masks
from ironmargin.planning.together import EXACT_LOADS, Together

MAX_FRONTIER = 200_000
"""Partial sets kept at once; more, and the list is cut and not proven complete."""
MAX_TRADES = 6
MAX_OFF = 4
"""Loads turned off for one that comes on; more is no trade."""
WEIGHT = {"wait": 1, "want": 3, "must": 9}


class RunSet(NamedTuple):
    """A set of loads that may run together and to which nothing can be added; ``margin`` is its
    smallest [1].
    """

    loads: tuple[str, ...]
    margin: float


def maximal_sets(together: Together) -> tuple[tuple[RunSet, ...], bool]:
    """Every maximal set, largest margin first, and whether the list is proven complete.

    Loads are decided one after another, the large ones first. A partial set is given up when it may
    not run, or when one of the loads it leaves out could still run with everything undecided: then
    it cannot become maximal. That rests on fewer loads never being worse, which holds for all
    currents; sets that survive are each asked for exactly, with every larger one.

    Args:
        together: what may run with what.

    Returns:
        The sets, and whether there is no other.
    """
    count = len(together.switchable)
    if count > EXACT_LOADS:
        return _by_solver(together)
    order = _large_first(together)
    smaller = _smaller(together)
    frontier: Masks = np.zeros((1, count), dtype=bool)
    proven = together.proven
    for step, at in enumerate(order):
        rest = np.array(order[step + 1 :], dtype=int)
        with_it = frontier.copy()
        with_it[:, at] = True
        taken = with_it[together.may(with_it)]
        # Left out only where it, or what was left out before, cannot run with all that is still
        # undecided. For the sets that take it nothing changes: what they may still become was
        # weighed before.
        left = _still_maximal(together, frontier, order[: step + 1], rest)
        frontier = np.concatenate([taken, left])
        if len(frontier) > MAX_FRONTIER:
            frontier, proven = frontier[:MAX_FRONTIER], False
    frontier = frontier[_none_fits(together, frontier, smaller)]
    margins = together.margins(frontier)
    sets = [
        RunSet(tuple(together.ids(mask)), float(margin))
        for mask, margin in zip(frontier, margins, strict=True)
    ]
    return tuple(sorted(sets, key=lambda s: (-len(s.loads), -round(s.margin, 6), s.loads))), proven


def _large_first(together: Together) -> list[int]:
    """Places of the switchable loads, the largest draw first."""
    size = [sum(abs(d.va) for d in together.case.demands[at].steady) for at in together.switchable]
    return sorted(range(len(size)), key=lambda n: -size[n])


def _smaller(together: Together) -> list[list[int]]:
    """For each load those of the same kind of draw in the same place that are no larger: where one
    of them does not fit, it does not either.
    """
    demands = [together.case.demands[at] for at in together.switchable]

    def key(n: int) -> tuple[object, ...]:
        d = demands[n]
        angle = tuple(
            (x.leg, x.bus_v, x.constant_power, round(x.va.imag / max(x.va.real, 1e-12), 6))
            for x in d.steady
        )
        return d.load.circuit, d.plate is not None or d.inrush is not None, angle

    def size(n: int) -> float:
        return sum(abs(x.va) for x in demands[n].steady)

    out: list[list[int]] = []
    for n, d in enumerate(demands):
        less = [
            m
            for m, e in enumerate(demands)
            if m != n
            and key(m) == key(n)
            and len(e.steady) == 1
            and not key(n)[1]
            and (size(m), size(m) * e.duty) <= (size(n), size(n) * d.duty)
            and size(m) * e.duty <= size(n) * d.duty
        ]
        out.append([m for m in less if size(m) < size(n) or m < n])
    return out


def _to_ask(masks: Masks, at: int, smaller: list[list[int]]) -> np.ndarray:
    """Sets that leave a load out and no smaller one of its kind: only there it has to be asked
    for.
    """
    out = ~masks[:, at]
    if smaller[at]:
        out &= masks[:, smaller[at]].all(axis=1)
    return np.flatnonzero(out)


def _still_maximal(together: Together, masks: Masks, decided: list[int], rest: np.ndarray) -> Masks:
    """The partial sets whose smallest left-out load of each leg could not join everything that is
    still undecided.

    Only a sieve: what slips through is asked for exactly at the end.
    """
    filled = masks.copy()
    filled[:, rest] = True
    for leg in (L1, L2, L1L2):
        here = np.array(
            [n for n in decided[::-1] if together.case.demands[together.switchable[n]].leg == leg],
            dtype=int,
        )
        if not len(here) or not len(filled):
            continue
        out = ~filled[:, here]
        some = np.flatnonzero(out.any(axis=1))
        more = filled[some]
        more[np.arange(len(some)), here[out[some].argmax(axis=1)]] = True
        filled = np.delete(filled, some[together.may(more)], axis=0)
    filled[:, rest] = False
    return filled


def _none_fits(together: Together, masks: Masks, smaller: list[list[int]]) -> Masks:
    """Which sets may run themselves and have no load left that fits in beside them."""
    keep = together.may(masks)
    for at in range(masks.shape[1]):
        out = _to_ask(masks, at, smaller)
        out = out[keep[out]]
        if len(out):
            more = masks[out]
            more[:, at] = True
            keep[out[together.may(more)]] = False
    return keep


def _by_solver(together: Together) -> tuple[tuple[RunSet, ...], bool]:
    """Maximal sets of a large rig by CP-SAT: cut off every set found, and every minimal set that
    may not run, until none is left.
    """
    from ironmargin.planning.solver import enumerate_sets

    found, proven = enumerate_sets(together)
    masks = np.array(found, dtype=bool).reshape(-1, len(together.switchable))
    margins = together.margins(masks)
    sets = [
        RunSet(tuple(together.ids(mask)), float(margin))
        for mask, margin in zip(masks, margins, strict=True)
    ]
    return tuple(
        sorted(sets, key=lambda s: (-len(s.loads), -round(s.margin, 6), s.loads))
    ), proven and together.proven


def interlocks(together: Together) -> list[tuple[str, str]]:
    """Pairs that may never run together though each may alone.

    Args:
        together: what may run with what.

    Returns:
        Pairs of ids.
    """
    count = len(together.switchable)
    if count < 2:
        return []
    alone = together.may(np.eye(count, dtype=bool))
    pairs = [(a, b) for a, b in combinations(range(count), 2) if alone[a] and alone[b]]
    masks = np.zeros((len(pairs), count), dtype=bool)
    for n, (a, b) in enumerate(pairs):
        masks[n, [a, b]] = True
    may = together.may(masks) if len(pairs) else np.zeros(0, dtype=bool)
    name = [together.case.demands[at].load.id for at in together.switchable]
    return [(name[a], name[b]) for (a, b), fine in zip(pairs, may, strict=True) if not fine]


def trades(together: Together) -> dict[str, list[list[str]]]:
    """For each load that cannot simply be on beside what is wanted: the smallest sets to turn off
    for it, least missed first.

    An empty list means that it cannot run here whatever is turned off. Loads that fit in need no
    trade and are left out.

    Args:
        together: what may run with what.

    Returns:
        Ids to turn off, by the id of what comes on.
    """
    count = len(together.switchable)
    loads = [together.case.demands[at].load for at in together.switchable]
    wanted = together.mask_of(together.chosen)
    out: dict[str, list[list[str]]] = {}
    for at, load in enumerate(loads):
        base = wanted.copy()
        base[at] = True
        if together.may(base[None])[0]:
            continue
        others = [n for n in range(count) if base[n] and n != at]
        found: list[tuple[int, ...]] = []
        for size in range(1, min(MAX_OFF, len(others)) + 1):
            tries = [
                c for c in combinations(others, size) if not any(set(f) <= set(c) for f in found)
            ]
            masks = np.repeat(base[None], len(tries), axis=0)
            for n, off in enumerate(tries):
                masks[n, list(off)] = False
            if tries:
                found += [off for off, fine in zip(tries, together.may(masks), strict=True) if fine]
        if not found and len(others) > MAX_OFF:
            found = _greedy(together, base, others)
        found.sort(
            key=lambda off: (
                sum(WEIGHT[loads[n].priority] for n in off),
                len(off),
                sum(
                    abs(d.va)
                    for n in off
                    for d in together.case.demands[together.switchable[n]].steady
                ),
            )
        )
        out[load.id] = [[loads[n].id for n in off] for off in found[:MAX_TRADES]]
    return out


def _greedy(together: Together, base: Masks, others: list[int]) -> list[tuple[int, ...]]:
    """A trade of many loads: turn off all, then let back what fits, the most missed first."""
    loads = [together.case.demands[at].load for at in together.switchable]
    now = base.copy()
    now[others] = False
    if not together.may(now[None])[0]:
        return []
    off = []
    for n in sorted(others, key=lambda n: -WEIGHT[loads[n].priority]):
        now[n] = True
        if not together.may(now[None])[0]:
            now[n] = False
            off.append(n)
    return [tuple(off)]
