"""The check of a setup: every start, every settled limit, and one verdict.

What is judged stands in the ledger of limits (:mod:`ironmargin.limits`); here everything it is
asked about is computed, and what it answers becomes one verdict. Margins are all ``1 − factor``,
the factor by which the supply (or that part) could be weaker and still pass; the iron margin is the
smallest of them and its place the limiting element. Every verdict but ``holds`` names what made it
so, in ``why``.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ironmargin.case import Case, before_shedding, prepare
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.found import Endurance
from ironmargin.limits.asking import breaks_a_rule_alone, by_criterion, rows_of, settled_margin
from ironmargin.limits.bonding import bonding_of
from ironmargin.limits.ledger import FAILS, HOLDS, THIN, VIOLATED, Row, View
from ironmargin.limits.now import Now, now_of
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.setup.ways import running_ids, ways
from ironmargin.starting.starts import Start, every_start, passing, with_chances
from ironmargin.sustaining.steady import Steady, settled, source_amps
from ironmargin.verdict.cautions import cautions_of
from ironmargin.verdict.result import Assumed, Derate, Result, Solver, StartRow, Weakest, Why
from ironmargin.verdict.rows import (
    breaker_rows,
    dropout_rows,
    legs,
    limit_rows,
    path_rows,
    service_rows,
    sustained,
    volts_rows,
)

ORDER = ("code", "service", "start", "sustain", "path", "voltage", "endurance")
"""The order in which equal margins are named."""
CRITERIA = ("peak", "time-current")


@record
class Checked:
    """A check with what pictures and remedies need besides its result.

    Attributes:
        rows: every limit at every place, of both trip criteria.
        findings: those of the criterion in force that count in the iron margin, the weakest first.
        requested: the setup as it was asked, where a lockout left some of it off.
        starts_only: the moment before a load manager sheds, in which starts alone are judged.
    """

    case: Case
    now: Now
    starts: tuple[Start, ...]
    together: Start | None
    rows: tuple[Row, ...]
    findings: tuple[Row, ...]
    result: Result
    requested: Setup | None = None
    starts_only: bool = False

    @property
    def setup(self) -> Setup:
        """The setup as it was asked."""
        return self.requested or self.case.setup

    def verdict_of(self, row: Row) -> str:
        """``fails``, ``thin`` or ``holds`` of one limit, by the setup's own thin line.

        Args:
            row: a limit at one place.

        Returns:
            The verdict.
        """
        return row.verdict(self.case.setup.rules.thin_below)


def without_motors(case: Case) -> Steady:
    """The settled state with the largest starter off: what a breaker carried before that start.

    Args:
        case: the setup, ready to be solved.

    Returns:
        Volts [V] and amps [A].
    """
    largest = max(
        case.starters,
        key=lambda s: sum(d.amps for d in case.demands[s.demand].steady),
        default=None,
    )
    return settled(case, frozenset({largest.demand}) if largest else frozenset())


def _settled_of(now: Now) -> Steady:
    """The settled state of one set of loads."""
    assert isinstance(now.state, Steady)
    return now.state


def start_row(case: Case, start: Start, now: Now) -> StartRow:
    """A start in the words of the result format; ``seconds`` only where it started.

    Args:
        case: the setup, ready to be solved.
        start: as it was followed.
        now: the settled moment.

    Returns:
        The row.
    """
    demand = case.demands[start.starters[0].demand]
    several = len(start.starters) > 1
    legs_on = (0, 1) if demand.leg == 2 else (demand.leg,)
    others = {s.demand for s in start.starters}
    chance, state = start.chance, _settled_of(now)

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
        settled_a=max(source_amps(case, state)),
        settled_v=min(state.volts(leg) for leg in legs_on),
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
        chance_decided_by=(chance.decides.field if chance and chance.decides else None),
        chance_known_low=chance.known_low if chance else None,
        chance_known_high=chance.known_high if chance else None,
        gives_first=start.gives_first,
        lockout_share=start.lockout_share if math.isfinite(case.source.lockout_k_s) else None,
        drops_out=names(start.off),
        resets=names(start.blinked),
        islands=start.islands,
        restart_within_3_min=start.restart,
        straight_to_high=start.straight_to_high,
        per_night=start.per_night,
        night_starts=start.night.starts if start.night else None,
        night_fails=start.night.fails if start.night else None,
    )


def weakest_first(rows: list[Row]) -> list[Row]:
    """The rows that count in the iron margin, weakest first; equal ones in the order of the
    checks.

    Args:
        rows: of the ledger.

    Returns:
        Sorted; the first is the weakest link.
    """
    counted = [row for row in rows if row.limit.in_margin]
    return sorted(counted, key=lambda r: (round(float(r.margin), 9), ORDER.index(r.check)))


def reasons_of(rows: list[Row], thin_below: float) -> list[Why]:
    """What makes a verdict ``fails`` or ``thin``, each with its rule; none where it holds.

    Args:
        rows: of the ledger.
        thin_below: margin under which what holds is thin [1].

    Returns:
        In the order of the rows.
    """
    found = []
    for row in rows:
        verdict = row.verdict(thin_below)
        if verdict != HOLDS:
            found.append(Why(verdict, row.check, row.where, row.limit.why(row)))
    return found


def _requested(setup: Setup, trials: int | None, quick: bool) -> int:
    return 0 if quick else setup.rules.trials if trials is None else trials


def examine(
    setup: Setup, *, trials: int | None = None, picture: str | None = None, quick: bool = False
) -> Checked:
    """Check a setup, keeping what pictures need; the sentence of the weakest link is added by
    :mod:`ironmargin.planning.answer`.

    Of the ways a rig with lockouts can run, the one with the least margin is judged.

    Args:
        setup: supply, path, rig and rules of the question.
        trials: instead of the setup's own.
        picture: id of the load whose start is to be drawn with its band.
        quick: no trials.

    Returns:
        Verdict, margins, starts, hours, and what pictures need.
    """
    several = ways(setup)
    if len(several) > 1:
        return _worst_way(setup, several, trials, picture, quick)
    usual = _examined(setup, _requested(setup, trials, quick), picture)
    moments = [_examined(way, 0, None, starts_only=True) for way in before_shedding(setup)]
    worse = [c for c in moments if RANKS[c.result.verdict] < RANKS[usual.result.verdict]]
    if not worse:
        return usual
    worst = min(worse, key=lambda c: c.result.iron_margin)
    found = _examined(worst.case.setup, _requested(setup, trials, quick), picture, starts_only=True)
    cautions = dict.fromkeys((BEFORE_SHEDDING, *found.result.cautions))
    return replace(found, requested=setup, result=replace(found.result, cautions=tuple(cautions)))


RANKS = {FAILS: 0, THIN: 1, HOLDS: 2}
BEFORE_SHEDDING = (
    "This is the moment of a start: the load manager sheds only after its delay, so what it had "
    "let come back is still on."
)


def _examined(
    setup: Setup, trials: int, picture: str | None, *, starts_only: bool = False
) -> Checked:
    case = prepare(setup)
    now = now_of(case)
    before = source_amps(case, without_motors(case))
    starts, together = every_start(case, before, trials, picture)
    endurance = lasting(case, one_more=False).endurance
    return _judged(View(now, tuple(starts), together, before, endurance), starts_only=starts_only)


def _worst_way(
    setup: Setup, several: tuple[Setup, ...], trials: int | None, picture: str | None, quick: bool
) -> Checked:
    """The check of the way with the least margin, which says that it is one of several."""
    checks = [examine(way, quick=True) for way in several]
    worst = min(checks, key=lambda c: c.result.iron_margin)
    if not quick:
        worst = examine(worst.case.setup, trials=trials, picture=picture)
    return _locked_out(worst, setup)


def _locked_out(checked: Checked, setup: Setup) -> Checked:
    """A check with the setup that was asked, and what a lockout keeps off in it."""
    running, names = running_ids(checked.case.setup), {x.id: x.name for x in setup.rig.loads}
    requested = running_ids(setup)
    said = []
    for lockout in setup.rig.lockouts:
        pair = (lockout.first, lockout.second)
        on = next((x for x in pair if x in running), None)
        if on is not None and set(pair) <= requested:
            off = pair[0] if on == pair[1] else pair[1]
            said.append(
                f"{names[on]} and {names[off]} never run together: this is with {names[on]} on, "
                "the worse of the two."
            )
    cautions = (*said, *(c for c in checked.result.cautions if c not in said))
    return replace(checked, requested=setup, result=replace(checked.result, cautions=cautions))


def with_chance(quick: Checked) -> Checked:
    """A quick check made whole: the chance of every start is added, nothing else computed again.

    The same, figure for figure, as :func:`examine` with trials.

    Args:
        quick: a check made with ``quick``.

    Returns:
        The whole check.
    """
    case = quick.case
    if not case.setup.rules.trials:
        return quick
    before = source_amps(case, without_motors(case))
    starts, together = with_chances(
        case, list(quick.starts), quick.together, before, case.setup.rules.trials
    )
    view = View(quick.now, tuple(starts), together, before, quick.result.endurance)
    full = _judged(view, starts_only=quick.starts_only)
    if quick.starts_only:
        return replace(
            full,
            requested=quick.requested,
            result=replace(full.result, cautions=quick.result.cautions),
        )
    return full if quick.requested is None else _locked_out(full, quick.requested)


def certain_to_fail(setup: Setup) -> bool:
    """Whether some settled limit is exceeded or some start does not pass, and it therefore fails:
    far sooner known than the whole check.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Whether it fails; what does not may fail still.
    """
    several = ways(setup)
    if len(several) > 1:
        return any(certain_to_fail(way) for way in several)
    case = prepare(setup)
    if float(np.min(settled_margin(now_of(case)))) < 0.0:
        return True
    return any(
        not passing(one, [frozenset()], source_amps(one, without_motors(one)))[0]
        for one in (case, *(prepare(way) for way in before_shedding(setup)))
    )


def examine_unless_fails(setup: Setup) -> Checked:
    """A check with its chances; where it fails whatever the chance, without them: then nobody
    needs to know.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The check.
    """
    quick = examine(setup, quick=True)
    return quick if quick.result.verdict == FAILS else with_chance(quick)


def _judged(view: View, *, starts_only: bool = False) -> Checked:
    """What everything seen amounts to, by both trip criteria; of ``starts_only`` the starts."""
    case, now = view.case, view.now
    rules, state = case.setup.rules, _settled_of(now)
    endurance = view.endurance
    assert isinstance(endurance, Endurance)
    every = rows_of(view)
    rows = [r for r in every if r.check == "start"] if starts_only else every
    by_name = {}
    for criterion in CRITERIA:
        counted = by_criterion(rows, criterion)
        reasons = reasons_of(counted, rules.thin_below)
        verdict = next((v for v in (FAILS, THIN) if any(r.verdict == v for r in reasons)), HOLDS)
        by_name[criterion] = (verdict, weakest_first(counted), reasons)
    verdict, findings, reasons = by_name[rules.trip_criterion]
    first = findings[0] if findings else None
    result = Result(
        verdict=verdict,
        rule_alone=breaks_a_rule_alone(by_criterion(rows, rules.trip_criterion), rules.thin_below),
        iron_margin=(
            VIOLATED if not state.converged else float(first.margin) if first is not None else 1.0
        ),
        weakest=Weakest(
            first.check if first else "sustain", first.where if first else "supply", ""
        ),
        starts=tuple(start_row(case, s, now) for s in view.starts),
        legs=legs(now, every),
        sustain=tuple(sustained(every)),
        path=tuple(path_rows(now, every)),
        breakers=tuple(breaker_rows(now, every, view)),
        volts=tuple(volts_rows(every)),
        service=tuple(service_rows(every)),
        dropped_out=tuple(dropout_rows(every)),
        limits=tuple(limit_rows(by_criterion(rows, rules.trip_criterion), rules.thin_below)),
        why=tuple(
            sorted(
                (r for r in reasons if r.verdict == verdict or verdict == FAILS),
                key=lambda r: r.verdict,
            )
        ),
        endurance=endurance,
        schools={name: found[0] for name, found in by_name.items()},
        cautions=cautions_of(view, rows),
        assumed=tuple(Assumed(*a) for d in case.demands for a in d.assumed)
        + tuple(Assumed(*a) for a in endurance.assumed),
        derate=tuple(
            Derate(
                s.key, s.label, s.factor, s.continuous_w, s.starting_w, s.source, s.value, s.unit
            )
            for s in case.source.derate
        ),
        bonding=bonding_of(case),
        coincidence=start_row(case, view.together, now) if view.together else None,
        solver=Solver(state.converged, state.reason, state.passes),
    )
    result = replace(result, endurance=endurance)
    return Checked(
        case,
        now,
        view.starts,
        view.together,
        tuple(rows),
        tuple(findings),
        result,
        starts_only=starts_only,
    )
