"""Which loads may run together: the settled limits and the starts of a setup asked for many sets of
loads at once.

A set may run together if every settled limit passes (:mod:`settling`) and some order starts its
motors. The order needs only the motors: whatever has no start of its own is switched on after them.
How strong a supply a start needs depends on which motors already run, so each (running, starting)
pair is simulated once.
"""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ironmargin.case import Starter, dead_at
from ironmargin.electrics.network import Real
from ironmargin.planning.settling import FAILS, PASSES_BY_AIR, Masks, Settling
from ironmargin.record import record
from ironmargin.starting.plan import Plan
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.starts import warm_heat
from ironmargin.sustaining.steady import settled, source_amps

EXACT_MOTORS = 8
"""Motors whose every order is weighed; beyond, the order is biggest first and not proven."""
EXACT_LOADS = 24
UNKNOWN, MAY, MAY_NOT = 0, 1, 2
OCTETS = 8
"""Bytes of the whole number that stands for a set: up to 64 loads."""
NUMBERED_MOTORS = 20
"""Sets of up to so many motors are counted off in a table; of more each is asked for itself."""


def _numbers(masks: Masks) -> NDArray[np.intp]:
    """The number of each set: its loads as bits, the first load the lowest."""
    octets = np.packbits(masks, axis=1, bitorder="little")
    whole = np.zeros((len(masks), OCTETS), dtype=np.uint8)
    whole[:, : octets.shape[1]] = octets
    number: NDArray[np.intp] = whole.view("<u8")[:, 0].astype(np.intp)
    return number


@record
class Together(Settling):
    """A setup of whose sets of loads is known which run together and how their motors start."""

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
            scenario = StartScenario(self.case, Plan((self.motors[at],), off=off), warm)
            margins.append(
                1.0 - scenario.reserve_of_supply(True).factor if scenario.passes() else FAILS
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
        scenario = StartScenario(
            self.case, Plan((starter,), off=off), np.zeros(len(self.case.breakers))
        )
        return 1.0 - scenario.reserve_of_supply(True).factor if scenario.passes() else FAILS

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
        if len(places) > NUMBERED_MOTORS:
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
            requested = (new[:, None] >> np.arange(masks.shape[1]) & 1).astype(bool)
            self._known[new] = np.where(self._may(requested), MAY, MAY_NOT)
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
