"""The figures of a rig that a start can tell of, as weighted draws: importance sampling with the
start engine as its model.

Unknown are, for each load that was seen starting: its locked-rotor amps, how stiff its compressor
is, and (with a soft starter) the current it holds; and how strong the supply is. Every distinct
start is run once for each draw; what was read weighs the draws. Where few draws carry all the
weight they are drawn anew around what was found.
"""

from __future__ import annotations

import json
import math
from dataclasses import dataclass

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics.motor import GEAR_CURRENT, STARTS_TO_LEARN
from ironmargin.electrics.network import Real
from ironmargin.errors import SetupError
from ironmargin.learning import instruments as seen_with
from ironmargin.learning.log import RunEntry, StartEntry
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.work import size_of
from ironmargin.starting.chance import BREAKAWAY_DAY_SD, BREAKAWAY_LOG_SD
from ironmargin.starting.engine import OUTCOMES, Factors
from ironmargin.starting.model import Plan
from ironmargin.starting.moment import Moment
from ironmargin.starting.points import normal
from ironmargin.starting.starts import warm_heat
from ironmargin.sustaining.steady import settled, source_amps

DRAWS = 512
ROUNDS = 3
POOR = 0.25
"""Share of effective draws under which they are drawn anew."""
MOST_STRANGE = 20
"""Starts this setup does not have that are told apart from those too old."""
MOST_KINDS, SMALL_SIZE = 12, 30
"""Distinct starts weighed at once, of a setup up to such a size; fewer of a larger one, of the
largest none.
"""
WIDER = 1.4
"""Draws are spread so much wider than what was found, so that its tails are seen too."""
LRA_SD = {"measured": 0.04, "plate": 0.10, "typical": 0.20, "rounded-up": 0.25}
"""What a locked-rotor figure may be off: a plate's is the maker's upper figure, real units read up
to a fifth below it (common practice).
"""
OWN_STIFFNESS_SD = (BREAKAWAY_LOG_SD**2 - BREAKAWAY_DAY_SD**2) ** 0.5
HELD_SD = {"measured": 0.06, "typical": 0.15}
SUPPLY_SD = 0.065
"""Of a set's or inverter's limit: its tolerance and the model's own form."""
POST_SD = 0.30
"""Of the impedance behind a post, which nobody wrote down."""
CONDITIONS = ("outdoor_c", "altitude_m", "humidity_pct")
RESULTS = ("peak_a", "lowest_v", "seconds", "own_a")


@record
class Unknown:
    """One figure to be learned: the factor on it is log-normal with this standard deviation.

    Attributes:
        what: ``lra``, ``stiff`` or ``held`` of the load with this id, or ``supply``.
    """

    what: str
    load: str
    sd: float


@dataclass
class Seen:
    """One distinct start: the moment to run, and the entries that saw it."""

    setup: Setup
    moment: Moment
    row: int
    entries: list[int]
    other_supply: bool
    figures: dict[str, Real] | None = None


def with_changes(setup: Setup, entry: StartEntry | RunEntry) -> Setup:
    """The setup as it was when an entry was read.

    Raises:
        SetupError: what changed is no figure of the load, the supply or the conditions.
    """
    document = write_setup(setup)
    if not entry.changed:
        return setup
    load = next(x for x in document["rig"]["loads"] if x["id"] == entry.load)
    own = next(x for x in setup.rig.loads if x.id == entry.load)
    for key, value in entry.changed.items():
        if key == "supply":
            document["supply"] = value
        elif key in CONDITIONS:
            document.setdefault("conditions", {})[key] = value
        elif key == "learned_starts":
            held = load.get("soft_start")
            load["soft_start"] = (held if isinstance(held, dict) else {}) | {key: value}
        elif hasattr(own, key):
            load[key] = value
        else:
            document["supply"] = dict(document["supply"]) | {key: value}
    return read_setup(document)


def seen_of(setup: Setup, entry: StartEntry, warm: bool = True) -> Seen | None:
    """The start an entry speaks of, or None where this setup has no such start."""
    changed = with_changes(setup, entry)
    document = write_setup(changed)
    modes = {w["load"]: w.get("mode") for w in document.get("wanted", ())}
    beside = list(modes) if entry.with_running is None else list(entry.with_running)
    wanted = [
        {"load": x} | ({"mode": modes[x]} if modes.get(x) else {})
        for x in beside
        if x != entry.load
    ]
    mode = entry.mode or modes.get(entry.load)
    document["wanted"] = [*wanted, {"load": entry.load} | ({"mode": mode} if mode else {})]
    if entry.with_running is not None:
        for load in document["rig"]["loads"]:
            load["always_on"] = bool(load.get("always_on")) and load["id"] in beside
    case = prepare(read_setup(document))
    starter = next(
        (
            s
            for s in case.starters
            if s.row is not None and case.demands[s.demand].load.id == entry.load
        ),
        None,
    )
    if starter is None or starter.row is None:
        return None
    amps = source_amps(case, settled(case, frozenset({starter.demand})))
    moment = Moment(case, Plan((starter,)), warm_heat(case, amps))
    return Seen(changed, moment, starter.row, [], "supply" in entry.changed)


def kinds_weighed(setup: Setup) -> int:
    """How many distinct starts of a log are weighed: each draw of each runs the engine, past all
    loads that run.
    """
    return MOST_KINDS * SMALL_SIZE // max(size_of(setup), SMALL_SIZE)


def moments_of(
    setup: Setup, entries: list[tuple[int, StartEntry]]
) -> tuple[list[Seen], list[int], list[int]]:
    """The distinct starts of a log, the newest of them; the entries that speak of none of this
    setup's; and those of starts too old to be weighed.
    """
    found: dict[str, Seen] = {}
    strange: list[int] = []
    older: list[int] = []
    most = kinds_weighed(setup)
    for at, entry in reversed(entries):
        key = json.dumps(
            [entry.load, entry.mode, entry.with_running, entry.changed], sort_keys=True
        )
        if key not in found:
            if len(found) >= most or len(strange) >= MOST_STRANGE:
                older.append(at)
                continue
            try:
                seen = seen_of(setup, entry)
            except SetupError:
                seen = None
            if seen is None:
                strange.append(at)
                continue
            found[key] = seen
        found[key].entries.insert(0, at)
    in_order = sorted(found.values(), key=lambda one: one.entries[0])
    return in_order, strange[::-1], older[::-1]


def spread_of(field: str, otherwise: float, setup: Setup) -> float:
    """How far a figure may be off: what an earlier log left, else by where it comes from [1]."""
    held = setup.x.get("learned")
    figures = held.get("figures") if isinstance(held, dict) else None
    kept = figures.get(field) if isinstance(figures, dict) else None
    sd = kept.get("sd") if isinstance(kept, dict) else None
    return float(sd) if isinstance(sd, int | float) and 0.0 < sd < otherwise else otherwise


def unknowns_of(setup: Setup, seen: list[Seen]) -> list[Unknown]:
    """What the starts of a log can tell of."""
    found: dict[tuple[str, str], Unknown] = {}

    def tell(what: str, load: str, sd: float) -> None:
        found.setdefault((what, load), Unknown(what, load, sd))

    for one in seen:
        case = one.moment.case
        demand = case.demands[case.rows[one.row]]
        load, ident = demand.load, demand.load.id
        at = next(n for n, x in enumerate(setup.rig.loads) if x.id == ident)
        typical = demand.plate is not None and demand.plate.lra_typical
        source = "typical" if typical else load.provenance
        path = f"rig.loads[{at}]"
        lra = spread_of(f"{path}.lra_a", LRA_SD[source], setup)
        tell("lra", ident, lra)
        own = spread_of(f"{path}.breakaway", OWN_STIFFNESS_SD, setup)
        tell("stiff", ident, own)
        if one.moment.model.motors.soft_a[one.row] > 0.0:
            soft = getattr(load, "soft_start", None)
            given = soft is not None and (soft.peak_a is not None or soft.fraction is not None)
            sd = HELD_SD["measured" if given and load.provenance == "measured" else "typical"]
            sd = spread_of(f"{path}.soft_start.fraction", sd, setup)
            tell("held", ident, sd)
    if any(not one.other_supply for one in seen):
        post = setup.supply.post is setup.supply
        sd = spread_of("supply.strength", POST_SD if post else SUPPLY_SD, setup)
        tell("supply", "", sd)
    return list(found.values())


def run(seen: Seen, unknowns: list[Unknown], factors: Real, day: Real) -> dict[str, Real]:
    """What a start shows for each draw: its figures, and its outcome's code.

    Args:
        factors: of each unknown (draws, unknowns); day: standard normal, the day's own stiffness.
    """
    moment, row = seen.moment, seen.row
    whose = [(u.what, u.load) for u in unknowns]
    demand = moment.case.demands[moment.case.rows[row]]
    ident, plate = demand.load.id, demand.plate
    assert plate is not None  # only motors are seen
    ones = np.ones(len(factors))

    def column(what: str, load: str = ident) -> Real:
        return factors[:, whose.index((what, load))] if (what, load) in whose else ones

    lra, stiff, held = column("lra"), column("stiff"), column("held")
    strength = ones if seen.other_supply else column("supply", "")
    stiff = stiff * np.exp(BREAKAWAY_DAY_SD * day)
    soft = moment.model.motors.soft_a
    nominal = float(soft[row])
    rows = max(moment.motors, 1)
    out: dict[str, Real] = {name: np.empty(len(factors)) for name in (*RESULTS, "code")}
    each_lra, each_stiff = np.ones(rows), np.ones(rows)
    gear = GEAR_CURRENT.get(plate.start, 1.0)
    engine, by = moment.engine, Factors(short=moment.case.source.short_factor)
    for n in range(len(factors)):
        each_lra[row], each_stiff[row] = lra[n], stiff[n]
        soft[row] = nominal * held[n] * lra[n]
        by.strength = float(strength[n])
        code = engine.one_start(by, each_lra, each_stiff)
        low = engine.lowest_v if math.isfinite(engine.lowest_v) else 0.0
        standing = plate.lra_a * lra[n] * gear * low / (plate.voltage_v / demand.ratio)
        out["peak_a"][n], out["lowest_v"][n], out["code"][n] = engine.peak_a, low, code
        out["seconds"][n] = engine.up_s
        out["own_a"][n] = min(nominal * held[n] * lra[n], standing) if nominal else standing
    soft[row] = nominal
    return out


def learning_peaks(setup: Setup, ident: str) -> list[float]:
    """Peak of a soft starter's start after so many learnt ones, from none to all [A]; those that
    cannot be asked of this setup are left out.
    """
    found = []
    for count in range(STARTS_TO_LEARN + 1):
        seen = seen_of(setup, StartEntry(load=ident, changed={"learned_starts": count}))
        if seen is not None:
            unknowns = unknowns_of(setup, [seen])
            as_it_is = np.ones((1, len(unknowns)))
            found.append(float(run(seen, unknowns, as_it_is, np.zeros(1))["peak_a"][0]))
    return found


def outcome_of(code: float) -> str:
    """The engine's outcome in the log's words."""
    word = OUTCOMES.get(int(code), "stalls")
    return word if word in ("starts", "trips") else "stalls"


def figure_of(entry: StartEntry, name: str) -> str:
    """Which of the engine's figures a reading is to be held against."""
    own = seen_with.sees_own_motor(entry.instrument, entry.on)
    return "own_a" if name == "peak_a" and own else name


def readings_of(entry: StartEntry) -> dict[str, float]:
    """What an entry read of its start; a trace tells by itself what is not given."""
    found = {
        name: value
        for name in ("peak_a", "lowest_v", "seconds")
        if (value := getattr(entry, name)) is not None
    }
    if entry.trace:
        table = np.array(entry.trace)
        found.setdefault("peak_a", float(table[:, 1].max()))
        found.setdefault("lowest_v", float(table[:, 2].min()))
    return found


def weight_of(
    entry: StartEntry, figures: dict[str, Real], too_slow: bool, nominal_v: float
) -> Real:
    """How likely what an entry says is, for each draw (its logarithm)."""
    total: Real = np.zeros(len(figures["code"]))
    if entry.on == "whole-cord":
        return total
    bench = seen_with.BENCH[entry.instrument]
    holds = bench.holds or bool(entry.trace)
    for name, read in readings_of(entry).items():
        true = figures[figure_of(entry, name)]
        if name == "peak_a" and not too_slow:
            error = seen_with.peak_error(entry.instrument, true)
            say = seen_with.log_likelihood if holds else seen_with.log_at_least
            total = total + say(read, true, error)
        elif name == "lowest_v":
            error = seen_with.volts_error(entry.instrument, nominal_v) * np.ones(len(true))
            say = seen_with.log_likelihood if holds else seen_with.log_at_most
            total = total + say(read, true, error)
        elif name == "seconds":
            up = np.where(np.isfinite(true), true, 99.0)
            error = seen_with.seconds_error(entry.instrument, np.minimum(up, 10.0))
            total = total + seen_with.log_likelihood(read, up, error)
    if entry.outcome is not None:
        same = np.array([outcome_of(code) == entry.outcome for code in figures["code"]])
        sure = seen_with.OUTCOME_SURE
        total = total + np.log(np.where(same, sure, 1.0 - sure))
    return total


@record
class Posterior:
    """What the starts of a log tell: draws of every unknown with their weights.

    Attributes:
        factors: (draws, unknowns); weights: of each draw, one in all; effective: draws that carry
        the weight; rounds: how often they were drawn.
        prior: for each entry and figure, draws of what was predicted before.
        after: the same afterwards, to be weighed by ``weights``.
    """

    unknowns: tuple[Unknown, ...]
    factors: Real
    weights: Real
    effective: float
    rounds: int
    prior: dict[tuple[int, str], Real]
    after: dict[tuple[int, str], Real]


def weigh(
    setup: Setup, entries: dict[int, StartEntry], seen: list[Seen], slow: set[int]
) -> Posterior:
    """Weigh draws of every unknown by a log's starts."""
    unknowns = unknowns_of(setup, seen)
    sds = np.array([u.sd for u in unknowns])
    count = len(unknowns)
    nominal_v = seen[0].moment.case.source.nominal_v
    z = normal(DRAWS, count + 1, setup.rules.seed + 11)
    logs, day = z[:, :count] * sds, z[:, count]
    proposal = np.zeros(DRAWS)
    prior: dict[tuple[int, str], Real] = {}
    rounds = 0
    while True:
        rounds += 1
        total = -proposal
        after: dict[tuple[int, str], Real] = {}
        for turn, one in enumerate(seen):
            figures = run(one, unknowns, np.exp(logs), np.roll(day, 17 * turn))
            for at in one.entries:
                for name in readings_of(entries[at]):
                    after[at, name] = figures[figure_of(entries[at], name)]
                after[at, "code"] = figures["code"]
                total = total + weight_of(entries[at], figures, at in slow, nominal_v)
        if rounds == 1:
            prior = after
        weights = np.exp(total - total.max())
        weights = weights / weights.sum()
        effective = float(1.0 / (weights**2).sum())
        if effective >= POOR * DRAWS or rounds == ROUNDS or not count:
            return Posterior(
                tuple(unknowns), np.exp(logs), weights, effective, rounds, prior, after
            )
        middle = weights @ logs
        spread = (logs - middle).T @ ((logs - middle) * weights[:, None])
        spread = WIDER**2 * spread + np.diag((0.1 * sds) ** 2)
        root = np.linalg.cholesky(spread)
        fresh = normal(DRAWS, count + 1, setup.rules.seed + 11 + rounds)
        steps, day = fresh[:, :count], fresh[:, count]
        logs = middle + steps @ root.T
        # Prior over proposal, as logarithms; what is the same for every draw falls out.
        proposal = -0.5 * (steps**2).sum(axis=1) + 0.5 * ((logs / sds) ** 2).sum(axis=1)


def quantiles(values: Real, weights: Real, at: tuple[float, ...]) -> list[float]:
    """Quantiles of weighted draws."""
    order = np.argsort(values)
    heap = np.cumsum(weights[order]) - 0.5 * weights[order]
    return [float(x) for x in np.interp(at, heap, values[order])]
