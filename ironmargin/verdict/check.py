"""The check of a setup: every start, every settled limit, and one verdict.

Margins are all ``1 − factor``, the factor by which the supply (or that part) could be weaker and
still pass; the iron margin is the smallest of them and its place the weakest link. ``fails``: a
margin below nought, or a chance below one half. ``thin``: a margin below the setup's
``thin_below``, a chance below 99 %, a start only an early breaker trips on, or a coincidence of all
starts that fails (it can be avoided by order and waits, so it does no more). ``holds`` otherwise.
Every verdict but ``holds`` names what made it so, in ``why``.
"""

from __future__ import annotations

import math
from typing import Any

from ironmargin.case import Case, prepare
from ironmargin.enduring.endurance import Endurance, lasting
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.starting.starts import Start, every_start, passing, with_chances
from ironmargin.sustaining.steady import Steady, averaged, settled, source_amps
from ironmargin.verdict.cautions import cautions_of
from ironmargin.verdict.limits import (
    breaker_rows,
    legs,
    let_go_rows,
    path_rows,
    service_rows,
    sustained,
    volts_rows,
)
from ironmargin.verdict.now import Now
from ironmargin.verdict.per_cent import percent
from ironmargin.verdict.result import (
    Assumed,
    BreakerRow,
    LetGoRow,
    PathRow,
    Result,
    ServiceRow,
    StartRow,
    Sustained,
    VoltsRow,
    Weakest,
    Why,
)

SURE = 0.99
EVEN = 0.5
CHECK_STEP_S = 60.0
"""Step of the endurance series of a check; ``endure`` looks closer."""
SERVICE_MARGIN = -1.0
ORDER = ("service", "start", "sustain", "path", "voltage", "endurance")
HOLDS, THIN, FAILS = "holds", "thin", "fails"


@record
class Finding:
    """One margin in the running for weakest link."""

    check: str
    where: str
    name: str
    margin: float
    row: Any


@record
class Checked:
    """A check with what pictures and remedies need besides its result."""

    case: Case
    now: Now
    starts: tuple[Start, ...]
    together: Start | None
    findings: tuple[Finding, ...]
    result: Result


@record
class Seen:
    """Everything a check looked at, before it is judged by a school."""

    case: Case
    now: Now
    starts: tuple[Start, ...]
    together: Start | None
    sustain: tuple[Sustained, ...]
    path: tuple[PathRow, ...]
    volts: tuple[VoltsRow, ...]
    service: tuple[ServiceRow, ...]
    let_go: tuple[LetGoRow, ...]
    breakers: tuple[BreakerRow, ...]
    endurance: Endurance

    @property
    def solved(self) -> bool:
        """Whether the settled network has a state at all."""
        return bool(self.now.state.converged)


def without_motors(case: Case) -> Steady:
    """The settled state with the largest starter off: what a breaker carried before that start."""
    largest = max(
        case.starters,
        key=lambda s: sum(d.amps for d in case.demands[s.demand].steady),
        default=None,
    )
    return settled(case, frozenset({largest.demand}) if largest else frozenset())


def start_row(case: Case, start: Start, now: Now) -> StartRow:
    """A start in the words of the result format; ``seconds`` only where it started."""
    demand = case.demands[start.starters[0].demand]
    several = len(start.starters) > 1
    legs_on = (0, 1) if demand.leg == 2 else (demand.leg,)
    others = {s.demand for s in start.starters}
    chance = start.chance

    def names(demands: tuple[int, ...]) -> tuple[str, ...]:
        return tuple(case.demands[at].load.id for at in demands)

    return StartRow(
        load=" + ".join(case.demands[s.demand].load.id for s in start.starters),
        name="All cycling motors in one moment" if several else demand.load.name,
        mode=None if several else demand.mode,
        outcome=start.outcome,
        wanted_a=start.wanted_a,
        peak_a=start.peak_a,
        lowest_v=start.lowest_v,
        settled_a=max(now.amps),
        settled_v=min(now.state.volts(leg) for leg in legs_on),
        margin=start.margin,
        with_running=tuple(
            d.load.id for at, d in enumerate(case.demands) if at not in others or d.load.count > 1
        ),
        seconds=start.seconds if start.passes else None,
        opened_s=start.opened_s if math.isfinite(start.opened_s) else None,
        chance=chance.chance if chance else None,
        chance_low=chance.low if chance else None,
        chance_high=chance.high if chance else None,
        chance_rig_low=chance.rig_low if chance else None,
        chance_rig_high=chance.rig_high if chance else None,
        chance_decided_by=(chance.decides or None) if chance else None,
        chance_known_low=chance.known_low if chance else None,
        chance_known_high=chance.known_high if chance else None,
        gives_first=start.gives_first,
        latch_share=start.latch_share if math.isfinite(case.source.latch_k_s) else None,
        lets_go=names(start.off),
        resets=names(start.blinked),
        islands=start.islands,
        restart_within_3_min=start.restart,
        straight_to_high=start.straight_to_high,
        per_night=start.per_night,
    )


def handles_a(case: Case) -> list[float]:
    """Handles a start passes, for the school that lets no peak exceed one [A]."""
    return [b.rating_a for b, _ in case.breakers]


def peak_margin(case: Case, start: Start) -> float:
    """Margin of a start by the peak school: what a stiff supply would see, against the smallest
    handle [1].
    """
    handles = handles_a(case)
    return 1.0 - (start.wanted_a + case.source.also_a) / min(handles) if handles else 1.0


def margin_by(case: Case, start: Start, school: str) -> float:
    """Margin of a start, or of the coincidence, by a school [1]."""
    return min(start.margin, peak_margin(case, start)) if school == "peak" else start.margin


def findings_of(seen: Seen, school: str) -> list[Finding]:
    """Every margin of a check, weakest first; equal ones in the order of the checks."""
    found = [Finding("service", s.load, s.name, SERVICE_MARGIN, s) for s in seen.service]
    for start in seen.starts:
        demand = seen.case.demands[start.starters[0].demand]
        found.append(
            Finding(
                "start",
                demand.load.id,
                demand.load.name,
                margin_by(seen.case, start, school),
                start,
            )
        )
    found += [Finding("sustain", s.where, s.name, s.margin, s) for s in seen.sustain]
    found += [Finding("path", f"hookup[{p.item}]", p.name, p.margin, p) for p in seen.path]
    found += [Finding("voltage", v.where, f"volts on {v.where}", v.margin, v) for v in seen.volts]
    found += [Finding("voltage", row.load, row.name, row.margin, row) for row in seen.let_go]
    if seen.endurance.margin is not None:
        found.append(Finding("endurance", "supply", "hours", seen.endurance.margin, seen.endurance))
    return sorted(found, key=lambda f: (round(f.margin, 9), ORDER.index(f.check)))


def reasons_of(seen: Seen, findings: list[Finding], school: str) -> list[Why]:
    """What makes a verdict ``fails`` or ``thin``, each with its rule; none where it holds."""
    thin_below = seen.case.setup.rules.thin_below
    found = []
    if not seen.solved:
        found.append(Why(FAILS, "sustain", "supply", f"no settled state: {seen.now.state.reason}"))
    for f in findings:
        if f.margin < 0:
            found.append(Why(FAILS, f.check, f.where, f"{f.name}: {percent(f.margin)} short"))
        elif f.margin < thin_below:
            found.append(
                Why(
                    THIN,
                    f.check,
                    f.where,
                    f"{f.name}: {f.margin * 100:.0f} % left, under the "
                    f"{thin_below * 100:.0f} % line",
                )
            )
    for start in seen.starts:
        load = seen.case.demands[start.starters[0].demand].load
        if start.chance is not None and start.chance.chance < SURE:
            verdict = FAILS if start.chance.chance < EVEN else THIN
            rule = "less than every second time" if verdict == FAILS else "not surely"
            found.append(
                Why(
                    verdict,
                    "start",
                    load.id,
                    f"{load.name} starts {start.chance.chance * 100:.0f} times in 100: {rule}",
                )
            )
    for row in seen.breakers:
        if row.start_trips != "no":
            found.append(
                Why(THIN, "start", row.where, f"{row.name}: an early one trips on a start")
            )
            break
    if seen.together is not None:
        margin = margin_by(seen.case, seen.together, school)
        if not seen.together.passes or margin < 0:
            found.append(
                Why(THIN, "coincidence", "all", "all motors in the same moment do not make it")
            )
    return found


def examine(
    setup: Setup, *, trials: int | None = None, picture: str | None = None, quick: bool = False
) -> Checked:
    """Check a setup, keeping what pictures need; the sentence of the weakest link is added by
    :mod:`ironmargin.planning.answer`.

    Args:
        trials: instead of the setup's own; picture: id of the load whose start is to be drawn with
        its band; quick: no trials.
    """
    case = prepare(setup)
    now = Now(case, settled(case), averaged(case))
    before = source_amps(case, without_motors(case))
    trials = 0 if quick else setup.rules.trials if trials is None else trials
    starts, together = every_start(case, before, trials, picture)
    seen = Seen(
        case,
        now,
        tuple(starts),
        together,
        tuple(sustained(now)),
        tuple(path_rows(now)),
        tuple(volts_rows(now)),
        tuple(service_rows(case)),
        tuple(let_go_rows(now)),
        tuple(breaker_rows(now, [s.trace for s in starts], before)),
        lasting(case, step_s=CHECK_STEP_S, one_more=False).endurance,
    )
    return _judged(seen)


def with_chance(quick: Checked) -> Checked:
    """A quick check made whole: the chance of every start is added, nothing else computed again.

    The same, figure for figure, as :func:`examine` with trials.
    """
    case, result = quick.case, quick.result
    if not case.setup.rules.trials:
        return quick
    before = source_amps(case, without_motors(case))
    starts, together = with_chances(
        case, list(quick.starts), quick.together, before, case.setup.rules.trials
    )
    seen = Seen(
        case,
        quick.now,
        tuple(starts),
        together,
        result.sustain,
        result.path,
        result.volts,
        result.service,
        result.let_go,
        result.breakers,
        result.endurance,
    )
    return _judged(seen)


def a_start_fails(setup: Setup) -> bool:
    """Whether some start of it does not pass, and it therefore fails: far sooner known than the
    whole check.
    """
    case = prepare(setup)
    return not passing(case, [frozenset()], source_amps(case, without_motors(case)))[0]


def examine_unless_fails(setup: Setup) -> Checked:
    """A check with its chances; where it fails whatever the chance, without them: then nobody
    needs to know.
    """
    quick = examine(setup, quick=True)
    return quick if quick.result.verdict == FAILS else with_chance(quick)


def _judged(seen: Seen) -> Checked:
    """What everything seen amounts to, by both schools."""
    case, now, starts, together = seen.case, seen.now, seen.starts, seen.together
    setup = case.setup
    by_school = {}
    for school in ("peak", "time-current"):
        found = findings_of(seen, school)
        reasons = reasons_of(seen, found, school)
        verdict = next((v for v in (FAILS, THIN) if any(r.verdict == v for r in reasons)), HOLDS)
        by_school[school] = (verdict, found, reasons)
    verdict, findings, reasons = by_school[setup.rules.breaker_school]
    findings = findings or [Finding("sustain", "supply", "nothing runs", 1.0, None)]
    result = Result(
        verdict=verdict,
        iron_margin=findings[0].margin if seen.solved else SERVICE_MARGIN,
        weakest=Weakest(findings[0].check, findings[0].where, ""),
        starts=tuple(start_row(case, s, now) for s in starts),
        legs=legs(now),
        sustain=seen.sustain,
        path=seen.path,
        breakers=seen.breakers,
        volts=seen.volts,
        service=seen.service,
        let_go=seen.let_go,
        why=tuple(
            sorted(
                (r for r in reasons if r.verdict == verdict or verdict == FAILS),
                key=lambda r: r.verdict,
            )
        ),
        endurance=seen.endurance,
        schools={name: found[0] for name, found in by_school.items()},
        cautions=cautions_of(case, list(seen.path), list(starts)),
        assumed=tuple(Assumed(*a) for d in case.demands for a in d.assumed),
        derate=tuple(
            {
                "key": s.key,
                "label": s.label,
                "factor": s.factor,
                "continuous_w": s.continuous_w,
                "starting_w": s.starting_w,
                "source": s.source,
            }
            for s in case.source.derate
        ),
        coincidence=start_row(case, together, now) if together else None,
        solver={"converged": seen.solved, "reason": now.state.reason, "passes": now.state.passes},
    )
    return Checked(case, now, starts, together, tuple(findings), result)
