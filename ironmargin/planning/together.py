"""Which loads may run together: the limits of a setup asked for many sets of loads at once.

A set is the loads that are on beside what is always on. It may run together if every settled limit
passes (supply, breakers,
branches, legs, neutral, path, volts: the very functions a check uses, over arrays of sets) and some
order starts its motors. The order needs only the motors: whatever has no start of its own is
switched on after them. How strong a supply a start needs depends on which motors already run, so
each (running, starting) pair is simulated once.
"""

from __future__ import annotations

import math
from collections.abc import Container
from dataclasses import replace
from functools import cached_property
from itertools import combinations, compress

import numpy as np
from numpy.typing import NDArray

from ironmargin.case import Case, Starter, conductor_a, dead_at, prepare
from ironmargin.electrics.motor import rested_s
from ironmargin.electrics.network import Real
from ironmargin.limits.bounds import least_allowed_a
from ironmargin.limits.ledger import settled_margin
from ironmargin.limits.now import Now, now_of_sets
from ironmargin.loads.demand import L1L2, TRANSFORMER
from ironmargin.record import record
from ironmargin.setup.loads import Rotating
from ironmargin.setup.managing import manager_of, unmanaged
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.ways import heaviest
from ironmargin.starting.model import Plan
from ironmargin.starting.moment import Moment
from ironmargin.starting.starts import warm_heat
from ironmargin.sustaining.steady import settled, source_amps

EXACT_MOTORS = 8
"""Motors whose every order is weighed; beyond, the order is biggest first and not proven."""
EXACT_LOADS = 24
CHUNK = 8_000
UNKNOWN, MAY, MAY_NOT = 0, 1, 2
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


def _numbers(masks: Masks) -> NDArray[np.intp]:
    """The number of each set: its loads as bits, the first load the lowest."""
    octets = np.packbits(masks, axis=1, bitorder="little")
    whole = np.zeros((len(masks), 8), dtype=np.uint8)
    whole[:, : octets.shape[1]] = octets
    number: NDArray[np.intp] = whole.view("<u8")[:, 0].astype(np.intp)
    return number


@record
class Together:
    """A setup with every load of its rig made ready, so that sets of them can be asked for.

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
    def of(cls, setup: Setup) -> Together:
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

    # settled

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
        now_a, mean_a = least_allowed_a(case)
        leg_v = case.source.leg_v * case.turns
        if not math.isfinite(now_a):
            return (
                np.zeros((2 * count, len(self.switchable))),
                np.zeros(2 * count),
                np.full(2 * count, np.inf),
            )
        least_v = max(leg_v - (abs(up.z11) + abs(up.z12)) * now_a / case.turns, 0.7 * leg_v)
        across = abs(up.e1_v - up.e2_v) / leg_v if up.legs == 2 else 1.0

        def least(at: int) -> Real:
            demand, out = case.demands[at], np.zeros(count)
            for d in demand.steady:
                share = least_v * (across if d.leg == L1L2 else 1.0) / d.bus_v
                watts = d.va.real * (1.0 if d.constant_power else 0.999 * share**2)
                out += (
                    watts / count if d.leg == L1L2 or count == 1 else np.eye(count)[d.leg] * watts
                )
            return np.concatenate([out, out * demand.duty])

        each = np.array([least(at) for at in self.switchable]).reshape(-1, 2 * count).T
        always = sum((least(at) for at in self.always), np.zeros(2 * count))
        return each, always, np.repeat([now_a, mean_a], count) * case.source.leg_v * 1.0001

    def settles(self, masks: Masks) -> Masks:
        """Whether each set passes every settled limit and keeps every lockout: a bound, then a
        rough look, and an exact one where that is too near to tell.

        Args:
            masks: sets (sets, switchable loads).

        Returns:
            (sets,).
        """
        each, always, most = self.surely
        held: Masks = np.all(masks.astype(float) @ each.T + always <= most, axis=1)
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

    # starts

    @cached_property
    def motors(self) -> tuple[Starter, ...]:
        """The starts a person makes: of switchable loads that start with a rush."""
        return tuple(s for s in self.case.starters if s.demand in self.switchable)

    @property
    def proven(self) -> bool:
        """Whether every order of starts can be weighed."""
        return len(self.motors) <= EXACT_MOTORS

    def start_margins(
        self, pairs: list[tuple[frozenset[int], int]], others: frozenset[int] = frozenset()
    ) -> list[float]:
        """Margin of each (motors running, motor starting) pair.

        A start that does not succeed counts as :data:`FAILS`.

        Args:
            pairs: motor numbers of :attr:`motors`.
            others: demands that run beside, motors excepted.

        Returns:
            In the order of the pairs [1].
        """
        if not pairs:
            return []
        warm = warm_heat(
            self.case, source_amps(self.case, settled(self.case, frozenset(self.switchable)))
        )
        margins = []
        for running, at in pairs:
            on = (
                {self.motors[m].demand for m in running}
                | {self.motors[at].demand}
                | set(self.always)
                | others
            )
            off = frozenset(range(len(self.case.demands))) - on | dead_at(
                self.case, self.motors[at]
            )
            moment = Moment(self.case, Plan((self.motors[at],), off=off), warm)
            margins.append(
                1.0 - moment.reserve_of_supply(True).factor if moment.passes() else FAILS
            )
        return margins

    def start_alone(self, starter: Starter) -> float:
        """Margin of a start with nothing else on but what is always on [1].

        Args:
            starter: a motor or an inrush.

        Returns:
            The margin; :data:`FAILS` where it does not succeed [1].
        """
        on = {starter.demand, *self.always}
        off = frozenset(range(len(self.case.demands))) - on | dead_at(self.case, starter)
        moment = Moment(self.case, Plan((starter,), off=off), np.zeros(len(self.case.breakers)))
        return 1.0 - moment.reserve_of_supply(True).factor if moment.passes() else FAILS

    @cached_property
    def best_order(self) -> dict[frozenset[int], tuple[float, tuple[int, ...]]]:
        """For every set of motors that may be started together: the largest smallest margin of any
        order, and that order.

        Dynamic programming over sets: the best of a set is the best over its last motor. Without
        :attr:`proven`, biggest first.
        """
        count = len(self.motors)
        if not self.proven:
            return {}
        found: dict[frozenset[int], tuple[float, tuple[int, ...]]] = {frozenset(): (1.0, ())}
        for size in range(1, count + 1):
            wanted = [frozenset(c) for c in combinations(range(count), size)]
            pairs = [(s - {at}, at) for s in wanted for at in s if found[s - {at}][0] >= 0.0]
            margins = dict(zip(pairs, self.start_margins(pairs), strict=True))
            for s in wanted:
                ways = [
                    (min(found[s - {at}][0], margins[s - {at}, at]), found[s - {at}][1] + (at,))
                    for at in s
                    if (s - {at}, at) in margins
                ]
                # Of equal margins the order that starts the bigger motors first.
                found[s] = max(
                    ways,
                    key=lambda w: (round(w[0], 6), [self._size(m) for m in w[1]]),
                    default=(FAILS, ()),
                )
        return found

    def _size(self, motor: int) -> float:
        demand = self.case.demands[self.motors[motor].demand]
        return (
            demand.plate.lra_a * demand.plate.voltage_v
            if demand.plate
            else abs(demand.inrush.va)
            if demand.inrush
            else 0.0
        )

    def order_of(self, motors: frozenset[int]) -> tuple[float, tuple[int, ...]]:
        """The largest smallest margin of starting these motors one after another [1], and the
        order.

        Args:
            motors: numbers of :attr:`motors`.

        Returns:
            The margin and the motors' numbers.
        """
        if self.proven:
            return self.best_order[motors]
        order = tuple(sorted(motors, key=self._size, reverse=True))
        pairs = [(frozenset(order[:at]), m) for at, m in enumerate(order)]
        return min(self.start_margins(pairs), default=1.0), order

    def motors_of(self, mask: Masks) -> frozenset[int]:
        """Motor numbers in a set.

        Args:
            mask: a set (switchable loads,).

        Returns:
            Numbers of :attr:`motors`.
        """
        on = {at for at, yes in zip(self.switchable, mask, strict=True) if yes}
        return frozenset(n for n, s in enumerate(self.motors) if s.demand in on)

    def start_margin_of(self, masks: Masks) -> Real:
        """The order margin of each set [1].

        Args:
            masks: sets (sets, switchable loads).

        Returns:
            (sets,) [1].
        """
        places = [self.switchable.index(s.demand) for s in self.motors]
        if not places:
            return np.ones(len(masks))
        if len(places) > 20:
            return np.array([self.order_of(self.motors_of(mask))[0] for mask in masks])
        number = masks[:, places] @ (1 << np.arange(len(places)))
        known = self._by_number
        for n in np.unique(number):
            if n not in known:
                known[n] = self.order_of(frozenset(at for at in range(len(places)) if n >> at & 1))[
                    0
                ]
        table = np.zeros(max(known) + 1)
        table[list(known)] = list(known.values())
        margins: Real = table[number]
        return margins

    @cached_property
    def _by_number(self) -> dict[int, float]:
        """Order margins already known, by the bits of their motors."""
        return {}

    # both

    def margins(self, masks: Masks) -> Real:
        """The smallest margin of each set, settled limits and best start order [1]; negative where
        it may not run together.

        Args:
            masks: sets (sets, switchable loads).

        Returns:
            (sets,) [1].
        """
        margins = np.array(self.settled_margins(masks), dtype=float)
        fine = margins >= -PASSES_BY_AIR
        if fine.any():
            margins[fine] = np.minimum(margins[fine], self.start_margin_of(masks[fine]))
        return margins

    def may(self, masks: Masks) -> Masks:
        """Whether each set may run together.

        What was asked once is known: a search asks for half of its sets more than once, and for
        sets that differ only in which of several alike loads is on.

        Args:
            masks: sets (sets, switchable loads).

        Returns:
            (sets,).
        """
        if masks.shape[1] > EXACT_LOADS:
            return self._may(masks)
        number = _numbers(masks)
        for first, second in self._alike:
            # Of two alike loads one that runs alone is taken to be the first.
            moved = (number >> second) & ~(number >> first) & 1
            number ^= moved << first | moved << second
        new = number[self._known[number] == UNKNOWN]
        new = np.unique(new) if self._alike else new
        if len(new):
            asked = (new[:, None] >> np.arange(masks.shape[1]) & 1).astype(bool)
            self._known[new] = np.where(self._may(asked), MAY, MAY_NOT)
        known: Masks = self._known[number] == MAY
        return known

    @cached_property
    def _alike(self) -> list[tuple[int, int]]:
        """Pairs of switchable loads that differ in name alone and start without a rush: swapping
        them changes no limit. Of each group every pair, so that exchanges in turn sort it.
        """
        demands = [self.case.demands[at] for at in self.switchable]
        bare = [replace(d, load=replace(d.load, id="", name=""), assumed=()) for d in demands]
        return [
            (first, second)
            for first, second in combinations(range(len(bare)), 2)
            if bare[first].plate is None
            and bare[first].inrush is None
            and bare[first] == bare[second]
        ]

    @cached_property
    def _known(self) -> NDArray[np.int8]:
        """What is known of every set of switchable loads, by the bits of its number."""
        return np.zeros(2 ** len(self.switchable), dtype=np.int8)

    def _may(self, masks: Masks) -> Masks:
        passes = self.settles(masks)
        if len(self.motors) and passes.any():
            passes[passes] = self.start_margin_of(masks[passes]) >= -PASSES_BY_AIR
        return passes
