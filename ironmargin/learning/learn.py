"""Learning from a log: each reading held beside what was predicted, judged, and let correct the
rig.

Starts are weighed with the start engine (:mod:`ironmargin.learning.particles`), running amps on a
grid (:mod:`ironmargin.learning.running`). Entries a setup has learned from are noted in its ``x``,
with how sure each figure is now, so that the same log tells nothing twice.
"""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace

from ironmargin.errors import SetupError
from ironmargin.learning import fits, judging
from ironmargin.learning.entries import (
    Entry,
    FuelEntry,
    NoiseEntry,
    RunEntry,
    StartEntry,
    SurveyEntry,
)
from ironmargin.learning.figures import (
    Choice,
    Figure,
    choices_of,
    noise_figures,
    post_figures,
    running_figures,
    start_figures,
    tester_of,
)
from ironmargin.learning.log import Log
from ironmargin.learning.observed import scenarios_of
from ironmargin.learning.particles import weigh
from ironmargin.learning.plug import felt_entries, plug_choices, plugs_judged
from ironmargin.learning.running import (
    CREEP_SD,
    CREEPS,
    Reading,
    Surveyed,
    demand_in,
    learn_running,
    reading_of,
    solve_survey,
)
from ironmargin.learning.snapshot import differs
from ironmargin.learning.writing import corrected_by, digest, noted, with_figures, with_samples
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.starting.known import learned_before
from ironmargin.verdict.check import Checked, examine
from ironmargin.verdict.result import Result

TOLD = 0.01
"""Odds that a log moves by less are not told [1]."""


@record
class Odds:
    """How often a load starts, before and after what was learned [1]."""

    load: str
    name: str
    before: float
    after: float


@record
class Found:
    """What a log tells of a setup.

    Attributes:
        setup: with the corrected figures, and with what is known of the rest.
        before, after: its verdict and iron margin.
    """

    entries: tuple[judging.Judged, ...]
    figures: tuple[Figure, ...]
    choices: tuple[Choice, ...]
    setup: Setup
    before: tuple[str, float]
    after: tuple[str, float]
    noise: fits.NoiseLearned | None
    fuel: tuple[fits.FuelLearned, ...]
    drift: tuple[fits.Drift, ...]
    effective: float | None = None
    rounds: int = 0
    odds: tuple[Odds, ...] = ()

    @property
    def tells(self) -> bool:
        """Whether there is anything to take over: a figure, a choice, or other odds."""
        return bool(self.figures or self.choices) or any(
            abs(o.after - o.before) >= TOLD for o in self.odds
        )


def learn(
    setup: Setup, log: Log, only: frozenset[str] | None = None, checked: Checked | None = None
) -> Found:
    """Hold a log beside a setup and correct it.

    Args:
        setup: supply, path, rig and rules of the question.
        log: what was read and seen of it.
        only: fields that may be corrected; all where None.
        checked: the check of the setup, where it was made before.

    Returns:
        Every entry judged, the corrected figures with their ranges, the setup with them, and its
        verdict before and after.
    """
    known, _ = learned_before(setup)
    fresh = {at: e for at, e in enumerate(log.entries) if digest(e) not in known}
    starts = {at: e for at, e in fresh.items() if isinstance(e, StartEntry)}
    observed, strange, older = scenarios_of(setup, list(starts.items()))
    start_entries = {at: e for at, e in starts.items() if at not in {*strange, *older}}
    slow = judging.too_slow_of(setup, start_entries, observed)
    starts_found = weigh(setup, start_entries, observed, slow) if start_entries else None
    readings, surveys = _readings(setup, fresh, start_entries)
    running = learn_running(setup, readings)
    post = post_figures(setup, fresh)
    noise = fits.learn_noise(
        [(at, e) for at, e in enumerate(log.entries) if isinstance(e, NoiseEntry)]
    )
    # What was read at the post itself stands before what the starts behind it make of it.
    read = {f.field for f in post}
    figures = [
        *(
            f
            for f in start_figures(setup, starts_found, start_entries, slow)
            if f.field not in read
        ),
        *running_figures(setup, running),
        *post,
        *noise_figures(setup, noise),
    ]
    declined = {f.field for f in figures if only is not None and f.field not in only}
    figures = [f for f in figures if f.field not in declined]
    plugs = felt_entries(setup, fresh)
    choices = [
        *choices_of(setup, starts_found, start_entries),
        *tester_of(setup, fresh),
        *plug_choices(setup, fresh, plugs),
    ]
    choices = [c for c in choices if only is None or c.field in only]
    corrected = noted(corrected_by(setup, figures, choices), figures, fresh.values())
    if starts_found is not None:
        corrected = with_samples(setup, corrected, starts_found, declined | read, figures)
    judged = [
        *judging.starts(setup, start_entries, slow, starts_found),
        *judging.strange_starts(starts, strange),
        *judging.older_starts(starts, older),
        *judging.runs(setup, fresh, readings, running),
        *judging.cooling(setup, fresh),
        *judging.surveys(setup, surveys),
        *judging.others(setup, fresh),
        *plugs_judged(setup, fresh, plugs),
        *judging.known(log.entries, fresh),
    ]
    margin = examine(setup, quick=True).result.iron_margin if figures else 0.0
    figures = [
        replace(f, moves=_moves(setup, margin, f)) if n < MAX_MOVED else f
        for n, f in enumerate(figures)
    ]
    before = (checked or examine(setup)).result
    as_it_was = starts_found is None and not figures and not choices
    after = before if as_it_was else examine(corrected).result
    rated = sum(u.continuous_w for u in setup.supply.engines) or None
    return Found(
        tuple(sorted(judged, key=lambda j: j.entry)),
        tuple(figures),
        tuple(choices),
        corrected,
        (before.verdict, before.iron_margin),
        (after.verdict, after.iron_margin),
        noise,
        tuple(
            fits.learn_fuel(
                [(at, e) for at, e in enumerate(log.entries) if isinstance(e, FuelEntry)], rated
            )
        ),
        tuple(
            fits.learn_drift(
                [(at, e) for at, e in enumerate(log.entries) if isinstance(e, StartEntry)]
            )
        ),
        starts_found.effective if starts_found else None,
        starts_found.rounds if starts_found else 0,
        _odds(before, after),
    )


def _readings(
    setup: Setup, fresh: dict[int, Entry], start_entries: dict[int, StartEntry]
) -> tuple[list[Reading], dict[int, Surveyed]]:
    """Everything that was read of loads running."""
    found: list[Reading] = []
    surveys: dict[int, Surveyed] = {}
    for at, entry in fresh.items():
        if isinstance(entry, RunEntry):
            try:
                reading = reading_of(setup, at, entry)
            except SetupError:
                reading = None
            found += [reading] if reading is not None else []
        elif isinstance(entry, SurveyEntry):
            surveys[at] = solve_survey(setup, at, entry)
            found += surveys[at].readings
    for at, entry in start_entries.items():
        alone = entry.with_running == () and not any(x.always_on for x in setup.rig.loads)
        if (
            entry.settled_a
            and alone
            and not differs(setup, entry)
            and entry.on in ("supply", "leg")
        ):
            demand = demand_in(setup, entry.load, entry.mode)
            predicted = sum(d.amps for d in demand.steady) / CREEPS
            found.append(
                Reading(at, entry.load, entry.mode, entry.settled_a, predicted, "A", 2 * CREEP_SD)
            )
    return found, surveys


MAX_MOVED = 12


def _moves(setup: Setup, margin: float, figure: Figure) -> float:
    """By how much one corrected figure moves an iron margin by itself [1]."""
    with suppress(SetupError):
        changed = read_setup(with_figures(setup, [figure]))
        return examine(changed, quick=True).result.iron_margin - margin
    return 0.0


def _odds(before: Result, after: Result) -> tuple[Odds, ...]:
    """How often each load starts, before and after."""
    then = {s.load: s.chance for s in after.starts}
    return tuple(
        Odds(s.load, s.name, s.chance, now)
        for s in before.starts
        if s.chance is not None and (now := then.get(s.load)) is not None
    )
