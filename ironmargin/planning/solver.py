"""CP-SAT where the rigs are too large to weigh every set: imported late, one worker, a fixed seed,
and honest about proof.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from ironmargin.planning.settling import Masks
from ironmargin.planning.together import Together

if TYPE_CHECKING:
    from ortools.sat.python.cp_model import CpSolver

ROUNDS = 150
SMALL_CONFLICT = 2
"""Sets of so few loads are all asked for before the search begins."""
MAX_SETS = 60
"""Maximal sets listed for a large rig; more are left out and the list is not proven complete."""
WORK_LIMIT = 2.0
"""Deterministic time one solve may take: not seconds, so that results do not depend on the
machine.
"""
SEED = 1


def new_solver(work: float = WORK_LIMIT) -> CpSolver:
    """A CP-SAT solver that gives the same answer every time.

    Args:
        work: units of work it may do, not seconds.

    Returns:
        The solver.
    """
    from ortools.sat.python import cp_model

    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = SEED
    solver.parameters.linearization_level = 1
    solver.parameters.max_deterministic_time = work
    return solver


def shrink(together: Together, mask: Masks) -> Masks:
    """A minimal set inside one that may not run: nothing can be taken out of it that makes it
    run.

    Args:
        together: what may run with what.
        mask: a set that may not run (switchable loads,).

    Returns:
        (switchable loads,).
    """
    mask = mask.copy()
    needed: set[int] = set()
    while True:
        inside = np.array([n for n in np.flatnonzero(mask) if n not in needed], dtype=int)
        if not len(inside):
            return mask
        fewer = np.repeat(mask[None], len(inside), axis=0)
        fewer[np.arange(len(inside)), inside] = False
        runs = together.may(fewer)
        # What makes it run when taken out stays needed however much else goes.
        needed |= set(inside[runs].tolist())
        if runs.all():
            return mask
        mask[inside[~runs][-1]] = False


def grow(together: Together, mask: Masks) -> Masks:
    """A maximal set around one that may run.

    Args:
        together: what may run with what.
        mask: a set that may run (switchable loads,).

    Returns:
        (switchable loads,).
    """
    mask = mask.copy()
    while True:
        out = np.flatnonzero(~mask)
        more = np.repeat(mask[None], len(out), axis=0)
        more[np.arange(len(out)), out] = True
        fits = out[together.may(more)] if len(out) else out
        if not len(fits):
            return mask
        mask[fits[0]] = True


def enumerate_sets(together: Together) -> tuple[list[Masks], bool]:
    """Maximal sets found by cutting: every round asks for a set inside no found one that breaks no
    known conflict.

    Args:
        together: what may run with what.

    Returns:
        The sets, and whether the solver proved that there is no other.
    """
    from ortools.sat.python import cp_model

    count = len(together.switchable)
    model = cp_model.CpModel()
    on = [model.new_bool_var(f"x{n}") for n in range(count)]
    model.minimize(
        sum(on)
    )  # a small set that no found one covers mostly runs, and grows into a new maximal one
    for size in range(1, SMALL_CONFLICT + 1):
        tries = list(combinations(range(count), size))
        masks = np.zeros((len(tries), count), dtype=bool)
        for n, chosen in enumerate(tries):
            masks[n, list(chosen)] = True
        for chosen, fine in zip(tries, together.may(masks), strict=True):
            if not fine:
                model.add_bool_or([on[n].negated() for n in chosen])
    solver = new_solver()
    found: list[Masks] = []
    for _ in range(ROUNDS):
        status = solver.solve(model)
        if status == cp_model.INFEASIBLE:
            return found, True
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE) or len(found) >= MAX_SETS:
            return found, False
        mask = np.array([bool(solver.value(x)) for x in on], dtype=bool)
        if together.may(mask[None])[0]:
            whole = grow(together, mask)
            found.append(whole)
            if whole.all():
                return found, True
            model.add_bool_or([on[n] for n in range(count) if not whole[n]])
        else:
            conflict = shrink(together, mask)
            model.add_bool_or([on[n].negated() for n in np.flatnonzero(conflict)])
    return found, False
