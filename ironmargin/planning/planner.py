"""One setup and its tasks made ready for planning: what runs anyway, when the generator may, what
may run beside what.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ironmargin.enduring.duty import watts_of
from ironmargin.planning.tasks import SLOT_MIN, SLOTS, Task, Tasks, slots_long, slots_of
from ironmargin.planning.together import Together
from ironmargin.record import record
from ironmargin.setup.model import Setup, Wanted

RANK = {"wait": 0, "want": 1, "must": 2}
SLOT_H = SLOT_MIN / 60.0


@record
class Placed:
    """A task and its slots."""

    task: Task
    first: int

    @property
    def slots(self) -> range:
        """The slots it takes."""
        return range(self.first, self.first + slots_long(self.task))

    @property
    def start(self) -> int:
        """When it begins, minutes since midnight."""
        return self.first * SLOT_MIN

    @property
    def end(self) -> int:
        """When it is done, minutes since midnight."""
        return min(self.start + slots_long(self.task) * SLOT_MIN, 24 * 60)


class Planner:
    """One setup and its tasks made ready: what runs anyway in each slot, when the generator may,
    what conflicts.
    """

    def __init__(self, setup: Setup, tasks: Tasks) -> None:
        self.tasks = tasks
        self.requested: dict[frozenset[int], bool] = {}
        self.setup = _with_modes(setup, tasks)
        self.together = Together.of(self.setup)
        self.number = {
            self.together.case.demands[at].load.id: n
            for n, at in enumerate(self.together.switchable)
        }
        self.anyway = [self._anyway(slot) for slot in range(SLOTS)]
        self.engine = bool(setup.supply.engines)
        self.quiet = _quiet_slots(setup, tasks)
        self.may_run = self._generator_slots()
        self.needs_engine = bool(setup.supply.carrying)

    def _anyway(self, slot: int) -> frozenset[int]:
        """Switchable loads that run in a slot whatever is planned."""
        used = {t.load for t in self.tasks.tasks}
        if self.tasks.running is None:
            ids = set(self.together.chosen) - used
        else:
            ids = {r.load for r in self.tasks.running if slot in slots_of(r.begin, r.end)}
        return frozenset(self.number[i] for i in ids if i in self.number)

    def _generator_slots(self) -> frozenset[int]:
        hours = self.tasks.generator_hours
        allowed = (
            {s for w in hours for s in slots_of(w.begin, w.end)}
            if hours is not None
            else set(range(SLOTS))
        )
        return frozenset(allowed - self.quiet) if self.engine else frozenset(range(SLOTS))

    def mask(self, loads: frozenset[int]) -> np.ndarray:
        """A set of loads as a mask.

        Args:
            loads: numbers of switchable loads.

        Returns:
            (switchable loads,).
        """
        mask = np.zeros(len(self.together.switchable), dtype=bool)
        mask[list(loads)] = True
        return mask

    def may(self, loads: frozenset[int]) -> bool:
        """Whether loads may run together beside what is always on; each set is asked for once.

        Args:
            loads: numbers of switchable loads.

        Returns:
            Whether they may.
        """
        if loads not in self.requested:
            self.requested[loads] = bool(self.together.may(self.mask(loads)[None])[0])
        return self.requested[loads]

    def watts(self, loads: frozenset[int]) -> float:
        """What these loads and what is always on draw, at their duty [W].

        Args:
            loads: numbers of switchable loads.

        Returns:
            Watts [W].
        """
        case = self.together.case
        on = [*self.together.always, *(self.together.switchable[n] for n in loads)]
        return sum(watts_of(case.demands[at]) * case.demands[at].duty for at in on)

    def starts(self, task: Task) -> list[int]:
        """Slots a task may begin in.

        Args:
            task: of the day.

        Returns:
            Numbers of slots, rising.
        """
        if task.load not in self.number:
            return []
        if task.start is not None:
            return [task.start // SLOT_MIN]
        first, last = -(-task.earliest // SLOT_MIN), task.latest // SLOT_MIN - slots_long(task)
        found = range(first, last + 1)
        return [
            s
            for s in found
            if not self.needs_engine
            or all(x in self.may_run for x in range(s, s + slots_long(task)))
        ]

    def fits_anyway(self, task: Task, first: int) -> bool:
        """Whether a task may run beside what runs anyway in all its slots.

        Args:
            task: of the day.
            first: slot it would begin in.

        Returns:
            Whether it may.
        """
        backgrounds = {self.anyway[s] for s in range(first, first + slots_long(task))}
        return all(self.may(b | {self.number[task.load]}) for b in backgrounds)


def _with_modes(setup: Setup, tasks: Tasks) -> Setup:
    modes = {r.load: r.mode for r in tasks.running or () if r.mode}
    wanted = [w for w in setup.wanted if w.load not in modes]
    return replace(setup, wanted=(*wanted, *(Wanted(load=i, mode=m) for i, m in modes.items())))


def _quiet_slots(setup: Setup, tasks: Tasks) -> frozenset[int]:
    if tasks.quiet is not None:
        return frozenset(s for w in tasks.quiet for s in slots_of(w.begin, w.end))
    site = setup.site
    if site.quiet_from_h is None or site.quiet_to_h is None:
        return frozenset()
    return frozenset(slots_of(round(site.quiet_from_h * 60), round(site.quiet_to_h * 60)))
