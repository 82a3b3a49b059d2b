"""The check of a setup: every start, every settled limit, and one verdict.

Margins are all ``1 − factor``, the factor by which the supply (or that part) could be weaker and still pass; the iron
margin is the smallest of them and its place the weakest link. ``fails``: the nominal case fails or the chance is
below one half. ``thin``: a margin below the setup's ``thin_below``, a chance below 99 %, a start only an early breaker
trips on, or a coincidence of all starts that fails (it can be avoided by order and waits, so it does no more). ``holds``
otherwise.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

from ironmargin.enduring.endurance import Endurance, lasting
from ironmargin.setup.model import Setup
from ironmargin.case import Case, prepare
from ironmargin.starting.starts import QUICK_SCALES, SCALES, Start, every_start
from ironmargin.sustaining.steady import Steady, averaged, settled, source_amps
from ironmargin.verdict.limits import Now, breaker_rows, legs, path_rows, service_rows, sustained, volts_rows
from ironmargin.verdict.result import Assumed, BreakerRow, PathRow, Result, ServiceRow, StartRow, Sustained, VoltsRow, Weakest

SURE = 0.99
EVEN = 0.5
CHECK_STEP_S = 60.0
"""Step of the endurance series of a check; ``endure`` looks closer."""
SERVICE_MARGIN = -1.0
ORDER = ("service", "start", "sustain", "path", "voltage", "endurance")


@dataclass(frozen=True)
class Finding:
    """One margin in the running for weakest link."""

    check: str
    where: str
    name: str
    margin: float
    row: Any


@dataclass(frozen=True)
class Checked:
    """A check with what pictures and remedies need besides its result."""

    case: Case
    now: Now
    starts: tuple[Start, ...]
    together: Start | None
    findings: tuple[Finding, ...]
    result: Result


def without_motors(case: Case) -> Steady:
    """The settled state with the largest starter off: what a breaker carried before that start."""
    largest = max(case.starters, key=lambda s: sum(d.amps for d in case.demands[s.demand].steady), default=None)
    return settled(case, frozenset({largest.demand}) if largest else frozenset())


def start_row(case: Case, start: Start, now: Now) -> StartRow:
    """A start in the words of the result format."""
    demand = case.demands[start.starters[0].demand]
    several = len(start.starters) > 1
    legs_on = (0, 1) if demand.leg == 2 else (demand.leg,)
    others = {s.demand for s in start.starters}
    return StartRow(
        load=" + ".join(case.demands[s.demand].load.id for s in start.starters),
        name="All cycling motors in one moment" if several else demand.load.name, mode=None if several else demand.mode,
        outcome=start.outcome, wanted_a=start.wanted_a, peak_a=start.peak_a, lowest_v=start.lowest_v, settled_a=max(now.amps),
        settled_v=min(now.state.volts(leg) for leg in legs_on), margin=start.margin,
        with_running=tuple(d.load.id for at, d in enumerate(case.demands) if at not in others or d.load.count > 1),
        seconds=start.seconds if math.isfinite(start.seconds) else None, opened_s=start.opened_s if math.isfinite(start.opened_s) else None,
        chance=start.chance, chance_low=start.chance_low, chance_high=start.chance_high, restart_within_3_min=start.restart,
        straight_to_high=start.straight_to_high, per_night=start.per_night)


def handles_a(case: Case) -> list[float]:
    """Handles a start passes, for the school that lets no peak exceed one [A]."""
    return [b.rating_a for b, _ in case.breakers]


def peak_margin(case: Case, start: Start) -> float:
    """Margin of a start by the peak school: what a stiff supply would see, against the smallest handle [1]."""
    handles = handles_a(case)
    return 1.0 - (start.wanted_a + case.source.also_a) / min(handles) if handles else 1.0


def findings_of(case: Case, starts: list[Start], sustain: list[Sustained], path: list[PathRow], volts: list[VoltsRow],
                service: list[ServiceRow], endurance: Endurance, school: str) -> list[Finding]:
    """Every margin of a check, weakest first; equal ones in the order of the checks."""
    found = [Finding("service", s.load, s.name, SERVICE_MARGIN, s) for s in service]
    for start in starts:
        demand = case.demands[start.starters[0].demand]
        margin = min(start.margin, peak_margin(case, start)) if school == "peak" else start.margin
        found.append(Finding("start", demand.load.id, demand.load.name, margin, start))
    found += [Finding("sustain", s.where, s.name, s.margin, s) for s in sustain]
    found += [Finding("path", f"hookup[{p.item}]", p.name, p.margin, p) for p in path]
    found += [Finding("voltage", v.where, f"volts on {v.where}", v.margin, v) for v in volts]
    if endurance.margin is not None:
        found.append(Finding("endurance", "supply", "hours", endurance.margin, endurance))
    return sorted(found, key=lambda f: (round(f.margin, 9), ORDER.index(f.check)))


def judge(findings: list[Finding], starts: list[Start], together: Start | None, breakers: list[BreakerRow], solved: bool, thin_below: float) -> str:
    """``holds``, ``thin`` or ``fails``; see the module's text."""
    chances = [s.chance for s in starts if s.chance is not None]
    if not solved or any(s.outcome != "starts" for s in starts) or any(f.margin < 0 for f in findings) or any(c < EVEN for c in chances):
        return "fails"
    early = any(b.start_trips != "no" for b in breakers)
    apart = together is not None and together.outcome != "starts"
    if early or apart or any(f.margin < thin_below for f in findings) or any(c < SURE for c in chances):
        return "thin"
    return "holds"


def examine(setup: Setup, *, trials: int | None = None, picture: str | None = None, quick: bool = False) -> Checked:
    """Check a setup, keeping what pictures need; the sentence is added by :func:`check`.

    Args:
        trials: instead of the setup's own; picture: id of the load whose start is to be drawn with its band.
    """
    from ironmargin.verdict.cautions import cautions_of

    case = prepare(setup)
    now = Now(case, settled(case), averaged(case))
    before = source_amps(case, without_motors(case))
    trials = 0 if quick else setup.rules.trials if trials is None else trials
    starts, together = every_start(case, before, trials, picture, QUICK_SCALES if quick else SCALES)
    sustain, path, volts, service = sustained(now), path_rows(now), volts_rows(now), service_rows(case)
    breakers = breaker_rows(now, [s.trace for s in starts], before)
    endurance = lasting(case, step_s=CHECK_STEP_S).endurance
    solved = now.state.converged
    by_school = {}
    for school in ("peak", "time-current"):
        found = findings_of(case, starts, sustain, path, volts, service, endurance, school)
        by_school[school] = (judge(found, starts, together, breakers, solved, setup.rules.thin_below), found)
    verdict, findings = by_school[setup.rules.breaker_school]
    if not findings:
        findings = [Finding("sustain", "supply", "nothing runs", 1.0, None)]
    weakest = Weakest(findings[0].check, findings[0].where, "")
    result = Result(
        verdict=verdict, iron_margin=findings[0].margin if solved else SERVICE_MARGIN, weakest=weakest,
        starts=tuple(start_row(case, s, now) for s in starts), legs=legs(now), sustain=tuple(sustain), path=tuple(path),
        breakers=tuple(breakers), volts=tuple(volts), service=tuple(service), endurance=endurance,
        schools={name: found[0] for name, found in by_school.items()}, cautions=cautions_of(case, path),
        assumed=tuple(Assumed(*a) for d in case.demands for a in d.assumed),
        derate=tuple({"key": s.key, "label": s.label, "factor": s.factor, "continuous_w": s.continuous_w, "starting_w": s.starting_w,
                      "source": s.source} for s in case.source.derate),
        coincidence=start_row(case, together, now) if together else None,
        solver={"converged": solved, "reason": now.state.reason, "passes": now.state.passes})
    return Checked(case, now, tuple(starts), together, tuple(findings), result)


def check_fully(setup: Setup, *, picture: str | None = None, remedy: bool = True) -> Checked:
    """Check a setup, with the sentence and (if ``remedy``) the nearest remedy, keeping what pictures need."""
    from ironmargin.verdict.remedy import nearest_remedy
    from ironmargin.verdict.sentences import say

    checked = examine(setup, picture=picture)
    looked = remedy and checked.result.verdict == "fails"
    weakest = say(checked, nearest_remedy(checked) if looked else None, looked=looked)
    return replace(checked, result=replace(checked.result, weakest=weakest))


def check(setup: Setup) -> Result:
    """Check a setup.

    Returns:
        The result of the open format: verdict, iron margin, weakest link with its sentence, and every check.
    """
    return check_fully(setup).result
