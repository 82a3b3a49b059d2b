"""The day plan: tasks laid into quarters of an hour so that every limit holds, by CP-SAT.

Which loads may run in the same slot is asked of :class:`Together`: small sets that may not become
clauses before the search, larger ones are cut off when a plan meets them. First comes what is
placed, by priority; then the least generator time; then the earliest start. What cannot be placed
is said with the reason and what to relax.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from ironmargin.document import Document
from ironmargin.enduring.battery import run_battery
from ironmargin.errors import Fault, SetupError
from ironmargin.limits.bounds import min_allowed_a
from ironmargin.listed import listed
from ironmargin.loads.demand import TRANSFORMER
from ironmargin.per_cent import PLACES
from ironmargin.planning.day_model import Model, Plan
from ironmargin.planning.planner import RANK, SLOT_H, Placed, Planner
from ironmargin.planning.settling import Masks
from ironmargin.planning.solver import shrink
from ironmargin.planning.tasks import SLOT_MIN, SLOTS, Task, Tasks, clock, slots_long
from ironmargin.record import record
from ironmargin.setup.model import Setup

DAY_FORMAT = "iron-margin/day"


@record
class Slot:
    """One quarter of an hour: what runs, what it draws, and how much room is left under the
    limits.
    """

    at: int
    loads: tuple[str, ...]
    load_w: float
    amps: float
    limit_a: float | None
    margin: float
    generator: bool
    quiet: bool
    soc: float | None = None


@record
class Day:
    """A planned day. ``status`` is ``optimal`` or ``feasible`` (not proven best); ``gap`` how far
    from proven [1].
    """

    setup: Setup
    tasks: Tasks
    placed: tuple[Placed, ...]
    unplaced: tuple[tuple[Task, str, str], ...]
    slots: tuple[Slot, ...]
    status: str
    gap: float

    @property
    def generator_h(self) -> float:
        """Hours the generator runs [h]."""
        return sum(s.generator for s in self.slots) * SLOT_H


def plan_day(setup: Setup, tasks: Tasks, *, progress: Callable[[str], None] | None = None) -> Day:
    """Plan a day.

    Args:
        setup: supply, path, rig and rules of the question.
        tasks: what is to be done, and when it may.
        progress: told of each stage in words.

    Returns:
        The day: what runs when, what it takes.

    Raises:
        SetupError: what runs anyway or the locks contradict each other; every contradiction is
            named with what to relax.
    """
    planner = Planner(setup, tasks)
    faults = _contradictions(planner)
    if faults:
        raise SetupError(faults)
    return _day(planner, Model(planner, progress).solve())


def _contradictions(p: Planner) -> list[Fault]:
    """What runs anyway must run at all; locks must not exclude each other."""
    faults = []
    seen: set[frozenset[int]] = set()
    for slot, loads in enumerate(p.anyway):
        if loads in seen:
            continue
        seen.add(loads)
        if not p.may(loads):
            names = _names(p, shrink(p.together, p.mask(loads))) if loads else "what is always on"
            faults.append(
                Fault(
                    "running",
                    "too-much",
                    f"must hold by itself, but {names} may not run together at "
                    f"{clock(slot * SLOT_MIN)}; "
                    "let one of them run at another time",
                )
            )
        elif loads and p.needs_engine and slot not in p.may_run:
            when = "in quiet hours" if slot in p.quiet else "outside the generator's hours"
            faults.append(
                Fault(
                    "running",
                    "no-supply",
                    f"must lie where the generator may run, but {_names(p, p.mask(loads))} runs at "
                    f"{clock(slot * SLOT_MIN)} {when}; shorten it or allow the generator",
                )
            )
    charge = _charge(p, [p.watts(b) for b in p.anyway], p.may_run)
    flat = _flat_at(p, charge)
    if flat is not None:
        faults.append(
            Fault(
                "running",
                "battery",
                "must leave something in the battery, but what runs anyway empties it by "
                f"{clock(flat)}; "
                "let less run, or bring a larger battery or more input",
            )
        )
    locked = [
        (at, t) for at, t in enumerate(p.tasks.tasks) if t.start is not None and t.load in p.number
    ]
    for at, task in locked:
        first = task.start // SLOT_MIN  # type: ignore[operator]
        for slot in range(first, min(first + slots_long(task), SLOTS)):
            concurrent = [
                t
                for n, t in locked
                if n < at and 0 <= slot - (t.start or 0) // SLOT_MIN < slots_long(t)
            ]
            loads = p.anyway[slot] | {p.number[t.load] for t in concurrent} | {p.number[task.load]}
            if p.needs_engine and slot not in p.may_run:
                faults.append(
                    Fault(
                        f"tasks[{at}].start",
                        "no-supply",
                        f"cannot be {clock(slot * SLOT_MIN)}: the generator may not run "
                        "then; unlock it",
                    )
                )
                break
            same = [t for t in concurrent if t.load == task.load]
            if same or (not p.may(frozenset(loads)) and p.may(p.anyway[slot])):
                others = listed(t.name or t.id for t in concurrent) or _names(
                    p, p.mask(p.anyway[slot])
                )
                faults.append(
                    Fault(
                        f"tasks[{at}].start",
                        "locks",
                        f"cannot be together with {others} at {clock(slot * SLOT_MIN)}; "
                        "unlock one of them",
                    )
                )
                break
    return faults


def _names(p: Planner, mask: Masks) -> str:
    return listed(
        p.together.case.demands[p.together.switchable[n]].load.name for n in np.flatnonzero(mask)
    )


def _charge(p: Planner, watts: list[float], generator: frozenset[int]) -> list[float] | None:
    """State of charge at the end of each slot [1], where there is a battery: the energy balance of
    the endurance, slot by slot.
    """
    supply = p.setup.supply
    inverter = supply.battery
    if inverter is None:
        return None
    soc, out = inverter.start_soc, []
    for slot, load in enumerate(watts):
        fed = not p.engine or slot in generator
        limit = p.together.case.source.input_limit_w if fed else 0.0
        soc = float(
            run_battery(
                inverter,
                np.array([load]),
                SLOT_MIN * 60.0,
                input_limit_w=limit,
                charging=supply.charging,
                soc=soc,
            ).soc[-1]
        )
        out.append(soc)
    return out


def _flat_at(p: Planner, charge: list[float] | None) -> int | None:
    """When the low-battery stop comes [min since midnight]; None if never."""
    if charge is None:
        return None
    inverter = p.setup.supply.battery
    if inverter is None:
        return None
    return next(
        (
            at * SLOT_MIN
            for at, soc in enumerate(charge)
            if soc <= 1.0 - inverter.usable_fraction + 1e-9
        ),
        None,
    )


def _day(p: Planner, plan: Plan) -> Day:
    """The day of a plan: its slots, and why what is missing is missing."""
    done = {x.task.id for x in plan.placed}
    unplaced = tuple((t, *_why(p, t, list(plan.placed))) for t in p.tasks.tasks if t.id not in done)
    sets = [
        p.anyway[s] | {p.number[x.task.load] for x in plan.placed if s in x.slots}
        for s in range(SLOTS)
    ]
    masks = np.array([p.mask(s) for s in sets], dtype=bool).reshape(SLOTS, -1)
    margins = p.together.settled_margins(masks)
    amps = np.max([np.broadcast_to(a, SLOTS) for a in p.together.now(masks).amps], axis=0)
    case = p.together.case
    min_a, _ = min_allowed_a(case)
    watts = [p.watts(s) for s in sets]
    soc = _charge(p, watts, plan.generator)
    always = [
        case.demands[at].load.id
        for at in p.together.always
        if case.demands[at].load.id != TRANSFORMER
    ]
    slots = tuple(
        Slot(
            s * SLOT_MIN,
            (*always, *p.together.ids(masks[s])),
            watts[s],
            float(amps[s]),
            min_a if math.isfinite(min_a) else None,
            float(margins[s]),
            s in plan.generator,
            s in p.quiet,
            soc[s] if soc else None,
        )
        for s in range(SLOTS)
    )
    return Day(
        p.setup,
        p.tasks,
        plan.placed,
        unplaced,
        slots,
        "optimal" if plan.proven else "feasible",
        plan.gap,
    )


def _why(p: Planner, task: Task, placed: list[Placed]) -> tuple[str, str]:
    """Why a task was left out, and what to relax."""
    problem = next(
        (problem for load, problem in p.together.case.unserved if load.id == task.load), None
    )
    if problem is not None:
        return {"no-240": "there is no 240 V here", "no-leg": "its leg is dead here"}.get(
            problem, "its volts are too low here"
        ), "use another outlet"
    if task.load not in p.number:
        return "its load is always on already", "take it out of the tasks"
    if not p.may(frozenset({p.number[task.load]})):
        return "it is too much for this supply even alone", "use a stronger supply"
    starts = p.starts(task)
    if not starts:
        return (
            "the generator may not run long enough between its earliest and latest time",
            "allow more generator hours, or widen its times",
        )
    if not any(s + slots_long(task) <= SLOTS and p.fits_anyway(task, s) for s in starts):
        loads = next(
            p.anyway[s]
            for f in starts
            for s in range(f, f + slots_long(task))
            if not p.may(p.anyway[s] | {p.number[task.load]})
        )
        names = _names(
            p,
            shrink(p.together, p.mask(loads | {p.number[task.load]}))
            & ~p.mask(frozenset({p.number[task.load]})),
        )
        return (
            f"{names} runs at every time it could",
            f"leave {names} off for {task.minutes} minutes",
        )
    names = (
        ", ".join(
            x.task.name or x.task.id for x in placed if RANK[x.task.priority] >= RANK[task.priority]
        )
        or "the supply's hours, fuel or battery"
    )
    return f"{names} left no room for it", "widen its times, or give up one of them"


def day_json(day: Day) -> Document:
    """The JSON object of a planned day.

    Args:
        day: the planned day.

    Returns:
        The JSON object.
    """
    return {
        "format": DAY_FORMAT,
        "version": 1,
        "status": day.status,
        "gap": round(day.gap, 4),
        "generator_h": day.generator_h,
        "placed": [
            {"task": x.task.id, "load": x.task.load, "start": clock(x.start), "end": clock(x.end)}
            for x in day.placed
        ],
        "unplaced": [{"task": t.id, "why": why, "relax": relax} for t, why, relax in day.unplaced],
        "slots": [
            {
                "time": clock(s.at),
                "loads": list(s.loads),
                "load_w": round(s.load_w, 1),
                "amps": round(s.amps, 2),
                "margin": round(s.margin, PLACES),
                "generator": s.generator,
                "quiet": s.quiet,
            }
            | ({"limit_a": round(s.limit_a, 2)} if s.limit_a is not None else {})
            | ({"soc": round(s.soc, 4)} if s.soc is not None else {})
            for s in day.slots
        ],
    }


def day_words(day: Day) -> str:
    """A planned day in lines for the terminal.

    Args:
        day: the planned day.

    Returns:
        The lines.
    """
    lines = [
        f"{day.setup.name}: {len(day.placed)} of {len(day.tasks.tasks)} tasks placed, {day.status}"
    ]
    lines += [
        f"  {clock(x.start)} to {clock(x.end)}  {x.task.name or x.task.id}" for x in day.placed
    ]
    lines += [f"  not placed: {t.name or t.id}: {why}; {relax}" for t, why, relax in day.unplaced]
    if any(s.generator for s in day.slots):
        lines.append(f"generator: {day.generator_h:.2f} h")
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
