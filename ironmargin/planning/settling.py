"""Which loads may be on together once everything runs: the settled limits of a setup asked for many
sets of loads at once (supply, breakers, branches, legs, neutral, path, volts: the very functions a
check uses, over arrays of sets).

A set is the loads that are on beside what is always on.
"""

from __future__ import annotations

import math
from collections.abc import Container
from dataclasses import replace
from functools import cached_property
from itertools import compress
from typing import Self

import numpy as np
from numpy.typing import NDArray

from ironmargin.case import Case, conductor_a, prepare
from ironmargin.electrics.motor import rested_s
from ironmargin.electrics.network import Real
from ironmargin.limits.asking import settled_margin
from ironmargin.limits.bounds import min_allowed_a
from ironmargin.limits.now import Now, now_of_sets
from ironmargin.loads.demand import L1L2, TRANSFORMER
from ironmargin.record import record
from ironmargin.setup.loads import Rotating
from ironmargin.setup.managing import manager_of, unmanaged
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.ways import heaviest

CHUNK = 8_000
PASSES_BY_AIR = 1e-9
FAILS = -1.0
"""Stands for the margin of a start that does not succeed, or of loads that never run together: how
much is missing is the check's to say.
"""
TOLERANCE_V = 1e-3
ROUGH_V, TOO_NEAR = 0.05, 0.003
"""Volts a rough look may still move, and the margin under which it is too rough to tell: several
times what that is worth (measured).
"""

Masks = NDArray[np.bool_]
MIN_SHARE_OF_V = 0.7
"""A set that leaves less than this of a leg's volts passes no limit [1]: electronics and motors are
off by then."""
BOUND_IMPEDANCE, BOUND_SPARE = 0.999, 1e-4
"""What a plain load is taken at, and what is given to the most there may be, so that rounding never
rules out a set that settles [1]."""


@record
class Settling:
    """A setup with every load of its rig made ready, so that sets of them can be settled.

    Attributes:
        case: all loads running, in the modes wanted or else on high cool.
        switchable: demand numbers of the loads a person switches.
        always: those that are on anyway.
        chosen: load ids of what is wanted; of loads that never run together the heavier one.
            unserved: (load, problem) of what this path cannot feed at all.
    """

    setup: Setup
    case: Case
    switchable: tuple[int, ...]
    always: tuple[int, ...]
    chosen: frozenset[str]

    @classmethod
    def of(cls, setup: Setup) -> Self:
        """Make a setup ready.

        Args:
            setup: supply, path, rig and rules of the question.

        Returns:
            The sets of loads, ready to be weighed.
        """
        way = heaviest(setup)
        shed = {x.id for x in prepare(way).shed} if manager_of(setup) is not None else set()
        modes = {w.load: w.mode for w in setup.wanted}
        everything = tuple(Wanted(load=x.id, mode=modes.get(x.id)) for x in setup.rig.loads)
        # Whoever starts in order also waits: every compressor is taken as rested.
        rested = tuple(
            replace(x, wait_s=max(x.wait_s, rested_s(x.metering))) if isinstance(x, Rotating) else x
            for x in way.rig.loads
        )
        whole = replace(way.rig, loads=rested, lockouts=())
        case = prepare(unmanaged(replace(setup, wanted=everything, rig=whole)))
        always = tuple(
            at for at, d in enumerate(case.demands) if d.load.always_on or d.load.id == TRANSFORMER
        )
        return cls(
            replace(setup, rig=way.rig),
            case,
            tuple(at for at in range(len(case.demands)) if at not in always),
            always,
            frozenset(w.load for w in way.wanted) - shed,
        )

    def ids(self, mask: Masks) -> list[str]:
        """Load ids of a set, in the order of the rig.

        Args:
            mask: a set (switchable loads,).

        Returns:
            Ids.
        """
        return list(compress(self.switchable_ids, np.asarray(mask).tolist()))

    @cached_property
    def switchable_ids(self) -> list[str]:
        """Load ids of everything that can be switched."""
        return [self.case.demands[at].load.id for at in self.switchable]

    def mask_of(self, ids: Container[str]) -> Masks:
        """The set that holds these load ids (those that can be fed at all).

        Args:
            ids: of loads.

        Returns:
            (switchable loads,).
        """
        return np.array(
            [self.case.demands[at].load.id in ids for at in self.switchable], dtype=bool
        )

    def _on(self, masks: Masks) -> Real:
        on = np.zeros((len(masks), len(self.case.demands)))
        on[:, list(self.always)] = 1.0
        on[:, self._switched] = masks
        return on

    @cached_property
    def _switched(self) -> slice | list[int]:
        """Columns of the switchable loads among all; side by side, numpy copies them at once."""
        columns = list(self.switchable)
        first = columns[0] if columns else 0
        end = first + len(columns)
        return slice(first, end) if columns == list(range(first, end)) else columns

    def now(self, masks: Masks, tolerance_v: float = TOLERANCE_V) -> Now:
        """The settled state of many sets: (sets, switchable).

        Args:
            masks: which switchable loads run: (sets, switchable).
            tolerance_v: where the passes end [V].

        Returns:
            The states, arrays over the sets.
        """
        return now_of_sets(self.case, self._on(masks), tolerance_v)

    def settled_margins(self, masks: Masks, tolerance_v: float = TOLERANCE_V) -> Real:
        """The smallest settled margin of each set [1]; :data:`FAILS` where a lockout forbids it.

        Args:
            masks: sets (sets, switchable loads).
            tolerance_v: of the volts that are solved for [V].

        Returns:
            (sets,) [1].
        """
        parts = [
            np.broadcast_to(
                settled_margin(self.now(masks[at : at + CHUNK], tolerance_v)),
                (len(masks[at : at + CHUNK]),),
            )
            for at in range(0, len(masks), CHUNK)
        ]
        margins = np.concatenate(parts) if parts else np.empty(0)
        for apart in self.apart:
            margins[masks[:, list(apart)].all(axis=1)] = FAILS
        if self.manager_a is not None and len(masks):
            margins[self._amps(masks) > self.manager_a] = FAILS
        return margins

    @cached_property
    def manager_a(self) -> float | None:
        """Above so many amps of a leg a load manager sheds [A]; None without one."""
        manager = manager_of(self.setup)
        return None if manager is None else manager.limit_a

    def _amps(self, masks: Masks) -> Real:
        """Amps of the busier conductor of each set at rated volts, as a load manager counts them
        [A].
        """
        places = np.zeros((len(self.case.demands), 3), dtype=complex)
        for at, demand in enumerate(self.case.demands):
            for draw in demand.steady:
                places[at, draw.leg] += draw.va.conjugate() / draw.bus_v
        rows = self._on(masks) @ places
        up, turns = self.case.feed.upstream, self.case.turns
        return np.array([conductor_a(row, up, turns) for row in rows.tolist()])

    @cached_property
    def apart(self) -> list[tuple[int, ...]]:
        """Places of switchable loads that never run together; one alone never runs beside what is
        always on.
        """
        place = {ident: at for at, ident in enumerate(self.switchable_ids)}
        on = {self.case.demands[at].load.id for at in self.always}
        pairs = [(x.first, x.second) for x in self.setup.rig.lockouts]
        return [
            tuple(place[x] for x in pair if x in place)
            for pair in pairs
            if all(x in place or x in on for x in pair)
        ]

    @cached_property
    def surely(self) -> tuple[Real, Real, Real]:
        """What each switchable load surely draws of each hot conductor, now and over its duty (2 x
        conductors, loads) [W], what is always on so, and the most there may be.

        Amps within the limit keep volts above ``E − |Z|·I``, where resistive loads still draw the
        square of its share of their rated volts.
        """
        case, up = self.case, self.case.feed.upstream
        count = 1 if up.tied or up.legs == 1 else 2
        now_a, mean_a = min_allowed_a(case)
        leg_v = case.source.leg_v * case.turns
        if not math.isfinite(now_a):
            return (
                np.zeros((2 * count, len(self.switchable))),
                np.zeros(2 * count),
                np.full(2 * count, np.inf),
            )
        min_v = max(
            leg_v - (abs(up.z11) + abs(up.z12)) * now_a / case.turns, MIN_SHARE_OF_V * leg_v
        )
        across = abs(up.e1_v - up.e2_v) / leg_v if up.legs == 2 else 1.0

        def minimum(at: int) -> Real:
            demand, out = case.demands[at], np.zeros(count)
            for d in demand.steady:
                share = min_v * (across if d.leg == L1L2 else 1.0) / d.bus_v
                watts = d.va.real * (1.0 if d.constant_power else BOUND_IMPEDANCE * share**2)
                out += (
                    watts / count if d.leg == L1L2 or count == 1 else np.eye(count)[d.leg] * watts
                )
            return np.concatenate([out, out * demand.duty])

        each = np.array([minimum(at) for at in self.switchable]).reshape(-1, 2 * count).T
        always = sum((minimum(at) for at in self.always), np.zeros(2 * count))
        return (
            each,
            always,
            np.repeat([now_a, mean_a], count) * case.source.leg_v * (1.0 + BOUND_SPARE),
        )

    def settles(self, masks: Masks) -> Masks:
        """Whether each set passes every settled limit and keeps every lockout: a bound, then a
        rough look, and an exact one where that is too near to tell.

        Args:
            masks: sets (sets, switchable loads).

        Returns:
            (sets,).
        """
        each, always, maximum = self.surely
        held: Masks = np.all(masks.astype(float) @ each.T + always <= maximum, axis=1)
        if not held.all():
            held[held] = self._settles(masks[held])
            return held
        return self._settles(masks)

    def _settles(self, masks: Masks) -> Masks:
        if not len(masks):
            return np.zeros(0, dtype=bool)
        rough = np.array(self.settled_margins(masks, ROUGH_V))
        near = np.abs(rough) < TOO_NEAR
        if near.any():
            rough[near] = self.settled_margins(masks[near])
        passes: Masks = rough >= -PASSES_BY_AIR
        return passes
