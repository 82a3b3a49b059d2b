"""The CP-SAT model of a day plan: start variables, conflicts, generator, fuel and battery; solved
in three stages.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from ironmargin.enduring.fuel import on_board_wh, willans
from ironmargin.errors import Fault, SetupError
from ironmargin.planning.planner import RANK, SLOT_H, Placed, Planner
from ironmargin.planning.solver import new_solver
from ironmargin.planning.tasks import SLOT_MIN, SLOTS, slots_long
from ironmargin.record import record

if TYPE_CHECKING:
    from ortools.sat.python.cp_model import IntVar, LinearExpr

SMALL_CLAUSE, LARGEST_CLAUSE, MAX_CLAUSES = 3, 3, 6_000
FULL = 0.8
"""Larger sets are asked for only where they fill the room by so much."""
CUTS = 12
WORK, MIN_WORK = 1.0, 0.1
"""Deterministic time of all solves together, and the least of one."""
UNLIMITED_W = 1e9
"""Stands for no limit in a program of whole numbers [W]."""


@record
class Plan:
    """What the search found: placed tasks, generator slots, whether it is proven best, and how far
    from proven [1].
    """

    placed: tuple[Placed, ...]
    generator: frozenset[int]
    proven: bool
    gap: float


class Model:
    """The CP-SAT model of a planner."""

    def __init__(self, p: Planner, progress: Callable[[str], None] | None) -> None:
        from ortools.sat.python import cp_model

        self.cp, self.p, self.progress = cp_model, p, progress
        self.model = cp_model.CpModel()
        self.x: dict[tuple[int, int], IntVar] = {}
        self.candidates: dict[int, list[int]] = {}
        for at, task in enumerate(p.tasks.tasks):
            fits = [
                s
                for s in p.starts(task)
                if s + slots_long(task) <= SLOTS and p.fits_anyway(task, s)
            ]
            self.candidates[at] = fits
            for s in fits:
                self.x[at, s] = self.model.new_bool_var(f"x{at}_{s}")
            if fits:
                self.model.add_at_most_one(self.x[at, s] for s in fits)
        self.on = [
            [self._running(at, slot) for slot in range(SLOTS)] for at in range(len(p.tasks.tasks))
        ]
        self._conflicts()
        self.generator = (
            [self.model.new_bool_var(f"g{s}") for s in range(SLOTS)] if p.engine else []
        )
        self._engine_limits()
        self._bound()
        self._energy()

    def _running(self, at: int, slot: int) -> list[IntVar]:
        """The start variables of a task that have it running in a slot."""
        length = slots_long(self.p.tasks.tasks[at])
        return [
            self.x[at, s] for s in range(max(slot - length + 1, 0), slot + 1) if (at, s) in self.x
        ]

    def _forbid(self, tasks: tuple[int, ...], slots: list[int]) -> None:
        """These tasks never all in one of these slots."""
        for slot in slots:
            terms = [self.on[at][slot] for at in tasks]
            if all(terms):
                self.model.add(sum(v for part in terms for v in part) <= len(tasks) - 1)

    def _conflicts(self) -> None:
        """Sets of tasks that may not run together though the room would hold them, for every
        background there is.
        """
        p = self.p
        tasks = [at for at in range(len(p.tasks.tasks)) if self.candidates[at]]
        self.room = each, left = self._room()
        by_background: dict[frozenset[int], list[int]] = {}
        for slot, loads in enumerate(p.anyway):
            by_background.setdefault(loads, []).append(slot)
        for loads, slots in by_background.items():
            known: list[frozenset[int]] = []
            for size in range(2, LARGEST_CLAUSE + 1):
                if math.comb(len(tasks), size) > MAX_CLAUSES:
                    break
                tries = np.array(list(combinations(tasks, size)), dtype=int).reshape(-1, size)
                requested = each[tries].sum(axis=1)
                close = (requested <= left[loads] + size).all(axis=1) & (
                    (requested >= FULL * left[loads]).any(axis=1) | (size <= SMALL_CLAUSE)
                )
                chosen = [c for c in tries[close].tolist() if not any(k <= set(c) for k in known)]
                masks = np.array(
                    [
                        p.mask(loads | {p.number[p.tasks.tasks[at].load] for at in c})
                        for c in chosen
                    ],
                    dtype=bool,
                )
                for c, fine in zip(chosen, p.together.may(masks) if chosen else (), strict=True):
                    if not fine:
                        known.append(frozenset(c))
                        self._forbid(tuple(c), slots)
        for a, b in combinations(tasks, 2):
            if p.tasks.tasks[a].load == p.tasks.tasks[b].load:
                self._forbid((a, b), list(range(SLOTS)))

    def _engine_limits(self) -> None:
        p = self.p
        if not p.engine:
            return
        for slot, on in enumerate(self.generator):
            if slot not in p.may_run:
                self.model.add(on == 0)
            if p.needs_engine:
                for at in range(len(p.tasks.tasks)):
                    if self.on[at][slot]:
                        self.model.add(sum(self.on[at][slot]) <= on)
                if p.anyway[slot]:
                    self.model.add(on == 1)
        if p.tasks.max_generator_h is not None:
            self.model.add(
                sum(self.generator) <= math.floor(p.tasks.max_generator_h / SLOT_H + 1e-9)
            )
        self._fuel()

    def _room(self) -> tuple[np.ndarray, dict[frozenset[int], np.ndarray]]:
        """What each task surely draws of each hot conductor [W], and what is left of each beside
        what runs anyway [W].
        """
        p = self.p
        each, always, maximum = p.together.surely
        count = len(maximum) // 2  # the first half is now, the second over the duty cycles
        tasks = np.array(
            [
                each[:count, p.number[t.load]] if t.load in p.number else np.zeros(count)
                for t in p.tasks.tasks
            ]
        )
        left = {
            b: np.minimum(maximum[:count], UNLIMITED_W)
            - always[:count]
            - each[:count, sorted(b)].sum(axis=1)
            for b in set(p.anyway)
        }
        return np.floor(tasks), left

    def _bound(self) -> None:
        """The room as linear limits: no new ones, but they let the search see how much fits at
        once.
        """
        each, left = self.room
        for slot in range(SLOTS):
            on = self.generator[slot] if self.p.needs_engine else 1
            for conductor, maximum in enumerate(left[self.p.anyway[slot]]):
                requested = sum(
                    int(each[at, conductor]) * v
                    for at in range(len(each))
                    for v in self.on[at][slot]
                )
                self.model.add(requested <= max(math.ceil(maximum), 0) * on)

    def _watts_in(self, slot: int) -> LinearExpr | int:
        """Watts of the tasks in a slot, whole numbers."""
        p = self.p
        each = [
            round(p.watts(frozenset({p.number[t.load]})) - p.watts(frozenset()))
            if t.load in p.number
            else 0
            for t in p.tasks.tasks
        ]
        return sum(each[at] * v for at in range(len(each)) for v in self.on[at][slot])

    def _fuel(self) -> None:
        """What is on board must do: a Willans line, idle part by the slot, load part by the
        watt.
        """
        p = self.p
        units = p.setup.supply.carrying
        if not units:
            return
        boards = [on_board_wh(u, u.fuel) for u in units]
        if any(b is None for b in boards):
            return
        lines = [willans(u) for u in units]
        total = sum(u.continuous_w for u in units)
        idle = sum(float(line.heat_w(0.0)) for line in lines)
        slope = (
            sum(
                float(line.heat_w(u.continuous_w) - line.heat_w(0.0))
                for line, u in zip(lines, units, strict=True)
            )
            / total
        )
        base = [round(idle + slope * p.watts(p.anyway[s])) for s in range(SLOTS)]
        board = sum(b[1] for b in boards if b is not None)
        self.model.add(
            sum(
                base[s] * self.generator[s] + round(slope) * self._watts_in(s) for s in range(SLOTS)
            )
            <= math.floor(board / SLOT_H)
        )

    def _energy(self) -> None:
        """The battery of an inverter: state of charge from slot to slot, never below its stop."""
        p, supply = self.p, self.p.setup.supply
        inverter = supply.battery
        self.charge: list[IntVar] = []
        if inverter is None:
            return
        capacity = round(inverter.battery_wh)
        floor = math.ceil((1.0 - inverter.usable_fraction) * inverter.battery_wh)
        limit, charging = p.together.case.source.input_limit_w, supply.charging
        begin = max(round(inverter.start_soc * capacity), floor)
        self.charge = [self.model.new_int_var(floor, capacity, f"soc{s}") for s in range(SLOTS + 1)]
        self.model.add(self.charge[0] == begin)
        maximum = round(max(limit, 1.0) * charging * SLOT_H) + 1
        sun = math.floor(inverter.input_w * SLOT_H)
        for s in range(SLOTS):
            into = self.model.new_int_var(0, maximum if limit else 0, f"in{s}")
            out = self.model.new_int_var(0, 100 * capacity, f"out{s}")
            base = round(p.watts(p.anyway[s]))
            given: LinearExpr | int = round(limit) * (self.generator[s] if self.p.engine else 1)
            # Watt-hours of a slot, in thousandths: what is asked is covered by the input and the
            # battery; what is left charges.
            requested = (base + self._watts_in(s)) * SLOT_MIN * 1000
            covered = (
                given * SLOT_MIN * 1000
                + out * round(inverter.efficiency * 60_000)
                - into * round(60_000 / charging)
            )
            self.model.add(covered >= requested)
            self.model.add(self.charge[s + 1] <= self.charge[s] + into - out + sun)

    def solve(self) -> Plan:
        """First as much as can be placed, by priority; then the least generator time; then the
        earliest starts.

        Sets that may not run together are cut off as plans meet them, and the search goes on with
        what it had as a hint.

        Returns:
            Begin of each task, what was dropped, and whether it is proven best.

        Raises:
            SetupError: the search found nothing in its work; it says what to do.
        """
        p, cp = self.p, self.cp
        for at, task in enumerate(p.tasks.tasks):
            if task.start is not None and self.candidates[at]:
                self.model.add(self.x[at, self.candidates[at][0]] == 1)
        count = len(p.tasks.tasks)
        worth = sum(
            (count + 1) ** RANK[p.tasks.tasks[at].priority] * v for (at, _), v in self.x.items()
        )
        early = sum(s * v for (_, s), v in self.x.items())
        best = Plan((), frozenset(), True, 0.0)
        hint, left, bound, got = self._greedy(), WORK, 0.0, 0.0
        for goal, maximum in ((worth, True), (sum(self.generator), False), (early, False)):
            if not self.x or isinstance(goal, int):
                continue
            self.model.maximize(goal) if maximum else self.model.minimize(goal)
            for cut in range(CUTS):
                if self.progress:
                    self.progress(f"solving, {cut} cuts")
                solver = new_solver(max(left, MIN_WORK))
                self._hint(hint)
                status = solver.solve(self.model)
                left -= solver.response_proto.deterministic_time
                if status not in (cp.OPTIMAL, cp.FEASIBLE):
                    break
                bound, got = solver.best_objective_bound, solver.objective_value
                hint = {key for key, v in self.x.items() if solver.value(v)}
                if not self._cut([Placed(p.tasks.tasks[at], s) for at, s in hint]):
                    break
            if status not in (cp.OPTIMAL, cp.FEASIBLE):
                if best.placed:
                    return replace(
                        best,
                        proven=False,
                        gap=max(
                            best.gap,
                            1.0 - bound / len(best.generator)
                            if best.generator and not maximum
                            else 0.0,
                        ),
                    )
                why = (
                    "none was found in the time allowed"
                    if status == cp.UNKNOWN
                    else "what is on board, the battery or the locks leave none"
                )
                advice = "unlock a task, allow more generator hours, or bring more fuel"
                raise SetupError(
                    [Fault("tasks", "no-plan", f"no plan keeps every limit: {why}; {advice}")]
                )
            gap = 0.0 if status == cp.OPTIMAL else abs(bound - got) / max(abs(bound), 1.0)
            kept = self._without_conflicts([Placed(p.tasks.tasks[at], s) for at, s in hint])
            on = frozenset(
                s for s in range(SLOTS) if self.generator and solver.value(self.generator[s])
            )
            best = Plan(
                tuple(sorted(kept, key=lambda x: (x.first, x.task.id))),
                on,
                best.proven and status == cp.OPTIMAL and len(kept) == len(hint),
                max(best.gap, gap),
            )
            self.model.add(goal >= round(got)) if maximum else self.model.add(goal <= round(got))
        return best

    def _hint(self, chosen: set[tuple[int, int]]) -> None:
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        for key, v in self.x.items():
            self.model.add_hint(v, key in chosen)
        for slot, on in enumerate(self.generator):
            busy = any(
                self.p.tasks.tasks[at].load and s <= slot < s + slots_long(self.p.tasks.tasks[at])
                for at, s in chosen
            )
            self.model.add_hint(on, busy or bool(self.p.anyway[slot]))

    def _greedy(self) -> set[tuple[int, int]]:
        """A first plan for the search to better: by priority, each where it needs the least new
        generator time, then earliest.
        """
        p, tasks = self.p, self.p.tasks.tasks
        on = {s for s in range(SLOTS) if p.anyway[s]}
        held = [set(b) for b in p.anyway]
        chosen: set[tuple[int, int]] = set()
        for at in sorted(
            range(len(tasks)),
            key=lambda n: (tasks[n].start is None, -RANK[tasks[n].priority], -tasks[n].minutes),
        ):
            length, mine = slots_long(tasks[at]), p.number.get(tasks[at].load, -1)
            fits = [
                s
                for s in self.candidates[at]
                if all(
                    mine not in held[x] and p.may(frozenset(held[x] | {mine}))
                    for x in range(s, s + length)
                )
            ]
            if fits:
                first = min(fits, key=lambda s: (len(set(range(s, s + length)) - on), s))
                chosen.add((at, first))
                for x in range(first, first + length):
                    held[x].add(mine)
                    on.add(x)
        return chosen

    def _cut(self, placed: list[Placed]) -> bool:
        """Forbid what a plan runs together and may not; whether there was anything."""
        p, index, found = self.p, {t.id: at for at, t in enumerate(self.p.tasks.tasks)}, False
        for slot in range(SLOTS):
            here = [x.task for x in placed if slot in x.slots]
            loads = p.anyway[slot]
            if len(here) < 2 or p.may(loads | {p.number[t.load] for t in here}):
                continue
            bad = list(here)
            for task in here:
                fewer = [t for t in bad if t is not task]
                if not p.may(loads | {p.number[t.load] for t in fewer}):
                    bad = fewer
            self._forbid(
                tuple(index[t.id] for t in bad), [s for s in range(SLOTS) if p.anyway[s] == loads]
            )
            found = True
        return found

    def _without_conflicts(self, placed: list[Placed]) -> list[Placed]:
        """The placed tasks in order of priority as long as they may run together."""
        kept: list[Placed] = []
        for item in sorted(placed, key=lambda x: -RANK[x.task.priority]):
            if all(
                self.p.may(
                    self.p.anyway[s]
                    | {self.p.number[k.task.load] for k in kept if s in k.slots}
                    | {self.p.number[item.task.load]}
                )
                for s in item.slots
            ):
                kept.append(item)
        return kept
