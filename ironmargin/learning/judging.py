"""Each entry of a log beside what was predicted, judged in one word and one sentence.

``agrees``: within nine of ten predictions. ``corrects``: outside, and the rig's figures follow.
``too-slow``: read with a meter that cannot see a start. ``cancelled``: clamped around the whole
cord. ``unlikely``: so far from what all the others say that it is let be. ``not-comparable``:
nothing in this setup to hold it against.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from ironmargin.electrics.services import hertz_of, nominal_of
from ironmargin.learning import instruments as seen_with
from ironmargin.learning.entries import (
    EnergyEntry,
    Entry,
    FuelEntry,
    NoiseEntry,
    RunEntry,
    StartEntry,
    SupplyEntry,
    TripEntry,
)
from ironmargin.learning.fits import energy_words, own_level
from ironmargin.learning.looking import run, unknowns_in
from ironmargin.learning.observed import ObservedStart
from ironmargin.learning.particles import OWN_DRAWS, Posterior, quantiles, readings_of
from ironmargin.learning.running import Learned, Reading, Surveyed
from ironmargin.learning.unknowns import prior_of
from ironmargin.limits.breakers import share_of_trip
from ironmargin.record import record
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.post import CORRECT
from ironmargin.starting.chance import Z_RIG
from ironmargin.starting.points import MIDDLE_90, normal
from ironmargin.tables import FAHRENHEIT_PER_K
from ironmargin.verdict.check import examine

AGREES, CORRECTS, TOO_SLOW = "agrees", "corrects", "too-slow"
CANCELLED, UNLIKELY, STRANGE = "cancelled", "unlikely", "not-comparable"
CANCELS = "Clamped around the whole cord: the two conductors cancel. Clamp one conductor."
FAR = 4.0
"""Errors of the instrument from which a reading does not fit what all readings together say."""
LOOK = 48
LABELS = {"peak_a": ("peak", "A"), "lowest_v": ("lowest volts", "V"), "seconds": ("time", "s")}
HZ_OFF = 0.05
"""A frequency further off its nominal than this is out of order [1] (common practice, no
source)."""
EXPECTED = 0.1
"""An outcome predicted more often than this is no surprise [1]."""


@record
class Judged:
    """One reading of an entry beside what was predicted."""

    entry: int
    figure: str
    judged: str
    sentence: str
    measured: float | None = None
    predicted: tuple[float, float, float] | None = None


def too_slow_of(
    setup: Setup, start_entries: dict[int, StartEntry], observed: list[ObservedStart]
) -> set[int]:
    """Entries whose meter did not see the peak: it holds none, and reads below nearly all that was
    predicted.

    Args:
        setup: as it was before the log.
        start_entries: start entries by number.
        observed: the distinct starts of them.

    Returns:
        Their numbers.
    """
    found = set()
    for one in observed:
        slow = [
            at
            for at in one.entries
            if not seen_with.BENCH[start_entries[at].instrument].holds
            and not start_entries[at].trace
            and "peak_a" in readings_of(start_entries[at])
        ]
        if not slow:
            continue
        unknowns = unknowns_in(setup, [one])
        z = normal(LOOK, len(unknowns) + 1, setup.rules.seed + OWN_DRAWS)
        figures = run(one, unknowns, prior_of(setup, unknowns).draw(z[:, :-1]), z[:, -1])
        for at in slow:
            own = seen_with.sees_own_motor(start_entries[at].instrument, start_entries[at].on)
            minimum = float(np.quantile(figures["own_a" if own else "peak_a"], 0.5))
            if readings_of(start_entries[at])["peak_a"] < minimum:
                found.add(at)
    return found


def starts(
    setup: Setup, start_entries: dict[int, StartEntry], slow: set[int], posterior: Posterior | None
) -> list[Judged]:
    """The start entries, figure by figure.

    Args:
        setup: as it was before the log.
        start_entries: start entries by number.
        slow: numbers of entries whose meter was too slow.
        posterior: what they tell, if there were any.

    Returns:
        A row for each figure read.
    """
    if posterior is None:
        return []
    names = {load.id: load.name for load in setup.rig.loads}
    nominal_v = nominal_of(setup.rig.service)
    out = []
    for at, entry in start_entries.items():
        who = names[entry.load]
        for name, read in readings_of(entry).items():
            word, unit = LABELS[name]
            before = posterior.prior[at, name]
            before = before[np.isfinite(before)]
            if not len(before):
                out.append(Judged(at, name, STRANGE, f"{who} never comes up to speed here.", read))
                continue
            even = np.full(len(before), 1.0 / len(before))
            low, middle, high = quantiles(before, even, MIDDLE_90)
            bench = seen_with.BENCH[entry.instrument]
            if entry.on == "whole-cord":
                judged, says = (CANCELLED, (CANCELS))
            elif name == "peak_a" and at in slow:
                judged, says = (
                    TOO_SLOW,
                    (
                        f"{bench.words.capitalize()} is too slow to see a start: {read:.1f} A is "
                        f"only a lower bound, {middle:.0f} A was predicted."
                    ),
                )
            else:
                judged, says = _weighed(
                    entry, name, read, (low, middle, high), posterior, at, nominal_v
                )
                says = f"{who}, {word}: {read:.4g} {unit} read, {middle:.3g} predicted{says}"
            out.append(Judged(at, name, judged, says, read, (low, middle, high)))
        if entry.outcome is not None and entry.on != "whole-cord":
            out.append(_outcome(at, entry, who, posterior))
    return out


def _weighed(
    entry: StartEntry,
    name: str,
    read: float,
    edges: tuple[float, float, float],
    posterior: Posterior,
    at: int,
    nominal_v: float,
) -> tuple[str, str]:
    low, middle, high = edges
    if name == "peak_a":
        error = float(seen_with.peak_error(entry.instrument, np.array([middle]))[0])
    elif name == "lowest_v":
        error = seen_with.volts_error(entry.instrument, nominal_v)
    else:
        error = float(seen_with.seconds_error(entry.instrument, np.array([middle]))[0])
    if low - error <= read <= high + error:
        return AGREES, ": as expected."
    after = posterior.after[at, name]
    fine = np.isfinite(after)
    now = float((posterior.weights[fine] @ after[fine]) / max(posterior.weights[fine].sum(), 1e-9))
    if abs(read - now) > FAR * error:
        return (
            UNLIKELY,
            f", {now:.3g} by all readings together: too far off, ignored. Read it again.",
        )
    return CORRECTS, f": the rig's figures follow it, {now:.3g} now."


def _outcome(at: int, entry: StartEntry, who: str, posterior: Posterior) -> Judged:
    share = float(np.mean(posterior.prior[at, "outcome"]))
    says = f"{who} {entry.outcome}: predicted {share * 100:.0f} times in 100"
    if share >= EXPECTED:
        return Judged(at, "outcome", AGREES, f"{says}.")
    now = float(posterior.weights @ posterior.after[at, "outcome"])
    if now < EXPECTED:
        return Judged(at, "outcome", UNLIKELY, f"{says}; no other reading supports it.")
    return Judged(at, "outcome", CORRECTS, f"{says}, {now * 100:.0f} with the figures learned.")


def strange_starts(entries: dict[int, StartEntry], strange: list[int]) -> list[Judged]:
    """Starts this setup does not have.

    Args:
        entries: start entries by number.
        strange: numbers of those that are none of the setup's.

    Returns:
        A row for each.
    """
    says = (
        "This setup has no such start: the load has no motor that starts, it is not fed, or what "
        "changed is not one of its figures."
    )
    return [Judged(at, "outcome", STRANGE, says, entries[at].peak_a) for at in strange]


def older_starts(entries: dict[int, StartEntry], older: list[int]) -> list[Judged]:
    """Starts before the newest kinds of start, which alone are weighed.

    Args:
        entries: start entries by number.
        older: numbers of those that are not weighed.

    Returns:
        A row for each.
    """
    says = (
        "Saved, but not used: only the newest kinds of start are, and fewer of a large setup. Use "
        "the corrections, or look at it in a setup with fewer loads on."
    )
    return [Judged(at, "outcome", STRANGE, says, entries[at].peak_a) for at in older]


def runs(
    setup: Setup, fresh: dict[int, Entry], readings: list[Reading], running: list[Learned]
) -> list[Judged]:
    """Loads that were read while they ran.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.
        readings: those entries as readings.
        running: factor of each load's amps.

    Returns:
        A row for each reading.
    """
    names = {load.id: load.name for load in setup.rig.loads}
    by_load = {(x.load, at): x for x in running for at in x.entries}
    out = []
    for one in readings:
        if not isinstance(fresh[one.entry], RunEntry):
            continue
        learned = by_load[one.load, one.entry]
        spread = Z_RIG * float(np.hypot(learned.prior_sd, one.error))
        edges = tuple(one.predicted * float(np.exp(x * spread)) for x in (-1.0, 0.0, 1.0))
        off = abs(one.read / (one.predicted * learned.middle) - 1.0) / one.error
        says = f"{names[one.load]}: {one.read:.4g} {one.unit} read, {one.predicted:.3g} predicted"
        if off > FAR:
            judged, says = UNLIKELY, f"{says}; far from its other readings, so it is ignored."
        elif edges[0] <= one.read <= edges[2]:
            judged, says = AGREES, f"{says}: as expected, and more certain now."
        else:
            judged, says = CORRECTS, f"{says}: the rig follows the reading."
        low, middle, high = edges
        figure = "amps" if one.unit == "A" else "watts"
        out.append(Judged(one.entry, figure, judged, says, one.read, (low, middle, high)))
    read = {one.entry for one in readings}
    for at, entry in fresh.items():
        if isinstance(entry, RunEntry) and at not in read and entry.outlet_c is None:
            cancelled = entry.on == "whole-cord"
            says = CANCELS if cancelled else "Nothing to compare: give amps, watts or VA."
            word = CANCELLED if cancelled else STRANGE
            out.append(Judged(at, "amps", word, says, entry.amps))
    return out


COOLS_K, POORLY_K = 11.0, 8.0
"""Air out of an air conditioner is so much colder than the air into it; less than the second and it
does not cool: low charge, dirt or ice (common practice, no source; 20 °F and 15 °F)."""


def cooling(setup: Setup, fresh: dict[int, Entry]) -> list[Judged]:
    """Whether an air conditioner cools, by the air into it and out of it.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.

    Returns:
        A row for each such reading.
    """
    names = {load.id: load.name for load in setup.rig.loads}
    out = []
    for at, entry in fresh.items():
        if not isinstance(entry, RunEntry) or entry.return_c is None or entry.outlet_c is None:
            continue
        drop = entry.return_c - entry.outlet_c
        colder = f"{drop * FAHRENHEIT_PER_K:.0f} °F ({drop:.0f} K) colder than the air in"
        says = f"{names[entry.load]}: air out {colder}"
        if drop >= COOLS_K:
            out.append(Judged(at, "air", AGREES, f"{says}: it cools.", drop))
        elif drop >= POORLY_K:
            out.append(Judged(at, "air", AGREES, f"{says}: weak, or very humid air.", drop))
        else:
            says += ": it does not cool. Its amps say nothing of a hot day; have it looked at."
            out.append(Judged(at, "air", UNLIKELY, says, drop))
    return out


def surveys(setup: Setup, found: dict[int, Surveyed]) -> list[Judged]:
    """Surveys: what each load takes, and steps that do not fit.

    Args:
        setup: as it was before the log.
        found: what each survey tells, by its number.

    Returns:
        A row for each survey and each step that does not fit.
    """
    names = {load.id: load.name for load in setup.rig.loads}
    out = []
    for at, one in found.items():
        said = ", ".join(
            f"{names[r.load]}{' ' + r.mode.replace('-', ' ') if r.mode else ''} {r.read:.1f} A"
            for r in one.readings
        )
        says = f"{said}; {one.base_a:.1f} A with nothing on." if said else "No load was switched."
        out.append(Judged(at, "amps", CORRECTS if said else STRANGE, says))
        for step, read, fitted in one.odd:
            says = (
                f"Step {step + 1} does not fit the others: {read:.1f} A read, {fitted:.1f} A by "
                "all steps together. Something else was on, or a reading slipped."
            )
            out.append(Judged(at, f"step {step + 1}", UNLIKELY, says, read))
    return out


def _supply(at: int, entry: SupplyEntry, setup: Setup) -> list[Judged]:
    out = []
    if entry.tester not in (None, CORRECT):
        says = (
            f"The tester says {entry.tester.replace('-', ' ')}: plug nothing in. This is for a "
            "licensed electrician."
        )
        out.append(Judged(at, "tester", CORRECTS, says))
    if entry.volts is not None:
        judged = CORRECTS if setup.supply.post is setup.supply else AGREES
        says = f"{entry.volts:.1f} V at {entry.amps or 0.0:.1f} A."
        out.append(Judged(at, "volts", judged, says, entry.volts))
    if entry.hz is not None:
        nominal = hertz_of(nominal_of(setup.rig.service))
        fine = abs(entry.hz - nominal) < HZ_OFF * nominal
        says = f"{entry.hz:.1f} Hz, {nominal:.0f} Hz nominal."
        out.append(Judged(at, "hz", AGREES if fine else CORRECTS, says, entry.hz))
    return out or [Judged(at, "supply", AGREES, "The tester says correct.")]


def _trip(at: int, entry: TripEntry, setup: Setup) -> Judged:
    """What a trip says of the setup with what was running then."""
    modes = {w.load: w.mode for w in setup.wanted}
    wanted = tuple(Wanted(load=x, mode=modes.get(x)) for x in dict.fromkeys(entry.running))
    requested = replace(setup, wanted=wanted)
    checked = examine(requested, quick=True)
    where = {"set": "supply", "inverter": "supply"}.get(entry.where, entry.where)
    rows = {"post": "breaker"}.get(where, where)
    amps = max((r.amps for r in checked.result.sustain if r.where == rows), default=0.0)
    breaker = next((b for b, _ in checked.case.breakers if b.where == where), None)
    after = f" after {entry.after_s:.0f} s" if entry.after_s is not None else ""
    short = checked.result.verdict == "fails"
    says = f"The {entry.where} opened{after}"
    if breaker is not None and amps > 0.0:
        says += f": {amps:.1f} A through a {breaker.rating_a:.0f} A breaker by these figures"
        if entry.after_s is not None:
            warm = share_of_trip(checked.case, breaker, amps, entry.after_s)
            says += f", {warm * 100:.0f} % of what trips it by then"
    if short:
        return Judged(at, "trip", AGREES, f"{says}; these figures fail, too.")
    says += "; these figures hold. A warm or worn breaker, or a load above its plate: measure."
    return Judged(at, "trip", UNLIKELY, says)


def others(setup: Setup, fresh: dict[int, Entry]) -> list[Judged]:
    """Entries that correct no load: supply, noise, fuel, energy, trips.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.

    Returns:
        A row for each figure read.
    """
    out: list[Judged] = []
    for at, entry in fresh.items():
        if isinstance(entry, SupplyEntry):
            out += _supply(at, entry, setup)
        elif isinstance(entry, NoiseEntry):
            own = own_level(entry)
            if entry.inside:
                word, says = STRANGE, "Inside: walls take more than distance does."
            elif own is None:
                word, says = STRANGE, "Lost in the background: go nearer."
            else:
                word, says = AGREES, f"{own:.0f} dBA without the background at {entry.at_m:g} m."
            out.append(Judged(at, "dba", word, says, entry.dba))
        elif isinstance(entry, FuelEntry):
            rate = entry.litres / entry.hours
            says = f"{rate:.2f} l an hour at {entry.mean_w:.0f} W."
            if entry.ended == "starved":
                says += " The cylinder was too cold to feed the generator, not empty."
            out.append(Judged(at, "litres_per_h", CORRECTS, says, rate))
        elif isinstance(entry, EnergyEntry):
            out.append(Judged(at, "kwh", AGREES, energy_words(entry), entry.kwh))
        elif isinstance(entry, TripEntry):
            out.append(_trip(at, entry, setup))
        elif says := entry.says(setup):
            out.append(Judged(at, entry.kind, AGREES, says))
    return out


def known(entries: Iterable[Entry], fresh: dict[int, Entry]) -> list[Judged]:
    """Entries the setup has learned from before.

    Args:
        entries: of the whole log.
        fresh: those it has not learned from yet, by number.

    Returns:
        A row for each of the others.
    """
    says = "Learned from already."
    return [Judged(at, e.kind, AGREES, says) for at, e in enumerate(entries) if at not in fresh]
