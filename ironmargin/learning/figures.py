"""What a log corrects, figure by figure: starts, loads running, the post, the noise, and the
choices that readings make.
"""

from __future__ import annotations

import math

import numpy as np

from ironmargin.enduring.noise import STATED_SHARE
from ironmargin.learning import fits
from ironmargin.learning.entries import Entry, RunEntry, StartEntry, SupplyEntry
from ironmargin.learning.particles import Posterior, quantiles
from ironmargin.learning.post import MIN_POST_OHM, post_memory
from ironmargin.learning.running import Learned, demand_in, field_of
from ironmargin.record import record
from ironmargin.setup.engines import Generator, Noise, Parallel
from ironmargin.setup.inverters import Assist, BatteryInverter
from ironmargin.setup.loads import Drawing, Microwave, Rotating
from ironmargin.setup.model import Setup
from ironmargin.setup.post import CORRECT, Shore
from ironmargin.starting.chance import Z_RIG
from ironmargin.starting.known import NO_FIGURE
from ironmargin.starting.points import MIDDLE_90
from ironmargin.supplies.kinds.post import thevenin

TELLS, MOVES = 0.92, 0.4
"""A figure is learned where its spread shrinks under this share of what it was, or it moves by so
many of the standard deviations it had.
"""
SURE = 0.85
"""From so sure on a set's character is put down [1]."""
VOLTS_OFF = 0.01
"""What a hand-held meter is off in nine readings of ten, over what it reads [1]."""
MAX_OHM_SD = 0.3
"""An impedance read is in doubt by this at most: more tells nothing [1]."""
LOAD_OFF_W = 50.0
"""How far the load may be off at which a noise was read [W]."""
LOUDEST_DBA = 140.0
"""No level is written down above it: it hurts [dBA]."""


@record
class Figure:
    """One corrected figure of a setup: what it was and where from, and its 90 % interval now."""

    field: str
    label: str
    before: float
    after: float
    low: float
    high: float
    was: str
    entries: tuple[int, ...]
    sd: float
    unit: str
    moves: float = 0.0
    """By how much it alone moves the iron margin [1]."""


@record
class Choice:
    """A choice that readings make, as what a supply does at its limit, and how sure that is [1]."""

    field: str
    label: str
    before: str
    after: str
    sure: float
    entries: tuple[int, ...]


def start_figures(
    setup: Setup, posterior: Posterior | None, start_entries: dict[int, StartEntry], slow: set[int]
) -> list[Figure]:
    """What the starts correct: only what they tell more of than was known.

    Args:
        setup: as it was before the log.
        posterior: what its starts tell, if there were any.
        start_entries: start entries by number.
        slow: numbers of entries whose meter was too slow.

    Returns:
        Each with its before, after and how sure.
    """
    if posterior is None:
        return []
    out = []
    for n, unknown in enumerate(posterior.unknowns):
        if unknown.what in NO_FIGURE:
            continue
        low, middle, high = quantiles(posterior.factors[:, n], posterior.weights, MIDDLE_90)
        logs = posterior.logs[:, n]
        mean = float(posterior.weights @ logs)
        sd = float(np.sqrt(posterior.weights @ (logs - mean) ** 2))
        if sd > TELLS * posterior.sds[n] and abs(mean) < MOVES * posterior.sds[n]:
            continue
        used = tuple(
            at
            for at, e in start_entries.items()
            if e.on != "whole-cord"
            and (unknown.load in ("", e.load))
            and not (at in slow and e.outcome is None and e.seconds is None)
        )
        if not used:
            continue
        for field, label, value, was, unit in fields_of(setup, unknown.what, unknown.load):
            inverse = unknown.what == "supply" and setup.supply.post is setup.supply
            by = [1.0 / high, 1.0 / middle, 1.0 / low] if inverse else [low, middle, high]
            edge = [value * x for x in by]
            out.append(Figure(field, label, value, edge[1], edge[0], edge[2], was, used, sd, unit))
    return out


def fields_of(setup: Setup, what: str, ident: str) -> list[tuple[str, str, float, str, str]]:
    """The fields of a setup an unknown stands for: path, label, value, provenance, unit.

    Args:
        setup: as it was before the log.
        what: name of the unknown.
        ident: id of its load; empty for the supply's.

    Returns:
        Path, label, value, where from, unit.
    """
    if what == "supply":
        return _supply_fields(setup)
    at = next(n for n, x in enumerate(setup.rig.loads) if x.id == ident)
    load = setup.rig.loads[at]
    plate = demand_in(setup, ident, None).plate
    if plate is None or not isinstance(load, Rotating):
        return []
    path = f"rig.loads[{at}]"
    if what == "lra":
        was = "typical" if plate.lra_typical else load.provenance
        return [(f"{path}.lra_a", f"{load.name}: locked-rotor amps", plate.lra_a, was, "A")]
    if what == "stiff":
        was = load.provenance if load.breakaway is not None else "typical"
        label = f"{load.name}: breakaway torque"
        return [(f"{path}.breakaway", label, plate.breakaway, was, "1")]
    soft = load.soft_start
    if load.start_gear != "soft-start":
        return []  # an inline starter's fraction stands with the post, not with the load
    if soft is not None and soft.peak_a is not None:
        label = f"{load.name}: the starter's learned peak"
        return [(f"{path}.soft_start.peak_a", label, soft.peak_a, load.provenance, "A")]
    label = f"{load.name}: the starter's share of locked-rotor amps"
    was = load.provenance if soft is not None and soft.fraction is not None else "typical"
    fraction = soft.fraction if soft is not None and soft.fraction else plate.soft_fraction
    return [(f"{path}.soft_start.fraction", label, fraction, was, "1")]


def _supply_fields(setup: Setup) -> list[tuple[str, str, float, str, str]]:
    supply = setup.supply
    if isinstance(supply, Generator):
        return [("supply.starting_w", "Starting power", supply.starting_w, "plate", "W")]
    if isinstance(supply, Parallel):
        return [
            (
                f"supply.units[{n}].starting_w",
                f"Generator {n + 1}: starting power",
                u.starting_w,
                "plate",
                "W",
            )
            for n, u in enumerate(supply.units)
        ]
    if isinstance(supply, Shore):
        ohm = thevenin(supply)[1]
        return [("supply.source_ohm", "Impedance of the post", ohm, "typical", "ohm")]
    if isinstance(supply, BatteryInverter):
        return [("supply.surge_w", "Surge power", supply.surge_w, "plate", "W")]
    if isinstance(supply, Assist):
        surge_w = supply.inverter.surge_w
        return [("supply.inverter.surge_w", "Surge power", surge_w, "plate", "W")]
    return []


def running_figures(setup: Setup, running: list[Learned]) -> list[Figure]:
    """What loads read while they run correct: only what tells more than was known.

    Args:
        setup: as it was before the log.
        running: factor of each load's amps.

    Returns:
        Each with its before, after and how sure.
    """
    found = []
    for one in running:
        if one.sd > TELLS * one.prior_sd and abs(one.middle - 1.0) < MOVES * one.prior_sd:
            continue
        load = next(x for x in setup.rig.loads if x.id == one.load)
        field, name = field_of(setup, one.load, one.mode)
        demand = demand_in(setup, one.load, one.mode)
        value = getattr(load, name, None)
        if value is None:
            value = sum(d.amps for d in demand.steady)
        unit = "W" if name == "watts" else "A"
        words = name.removesuffix("_a").replace("_", " ")
        label = f"{load.name}: {words}" + (" amps" if unit == "A" and words != "amps" else "")
        if isinstance(load, Drawing | Microwave) and name == "watts":
            label = f"{load.name}: watts"
        middle, low, high = (value * x for x in (one.middle, one.low, one.high))
        was = load.provenance
        found.append(Figure(field, label, value, middle, low, high, was, one.entries, one.sd, unit))
    return found


def post_figures(setup: Setup, fresh: dict[int, Entry]) -> list[Figure]:
    """Open-circuit volts and impedance from readings at the post.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.

    Returns:
        Each with its before, after and how sure.
    """
    pairs = {
        at: [(e.volts, e.amps or 0.0)]
        for at, e in fresh.items()
        if isinstance(e, SupplyEntry) and e.volts
    }
    # What a heater or a fan pulls the volts down by tells of the wire behind the post, too.
    pairs |= {
        at: [(e.volts_off, 0.0), (e.volts, e.amps)]
        for at, e in fresh.items()
        if isinstance(e, RunEntry) and e.volts_off and e.volts and e.amps
    }
    points = [point for each in pairs.values() for point in each]
    found = fits.learn_post(points)
    if found is None or not isinstance(setup.supply, Shore):
        return []
    volts, ohm = found
    # Where a visit has both volts, only they are held beside each other: the service is the same.
    memory = post_memory(fresh.values())
    visits = memory.whole if memory is not None and memory.whole.ohm > 0.0 else None
    if visits is not None:
        volts, ohm = visits.open_v, visits.ohm
    before_v, before_ohm = thevenin(setup.supply)
    if ohm < 0.0:
        volts += before_ohm * sum(a for _, a in points) / len(points)
    used = tuple(pairs)
    out = [
        Figure(
            "supply.voltage_v",
            "Open-circuit volts",
            before_v,
            volts,
            (1.0 - VOLTS_OFF) * volts,
            (1.0 + VOLTS_OFF) * volts,
            "typical",
            used,
            VOLTS_OFF / Z_RIG,
            "V",
        )
    ]
    if ohm >= 0.0:
        apart = max(a for _, a in points) - min(a for _, a in points)
        error = VOLTS_OFF * volts / apart
        if visits is not None:
            error = (visits.high_ohm - visits.low_ohm) / (2.0 * Z_RIG)
        low, high = max(ohm - Z_RIG * error, 0.0), ohm + Z_RIG * error
        out.append(
            Figure(
                "supply.source_ohm",
                "Impedance of the post",
                before_ohm,
                ohm,
                low,
                high,
                "typical",
                used,
                min(error / max(ohm, MIN_POST_OHM), MAX_OHM_SD),
                "ohm",
            )
        )
    return out


MIN_DB, MOVED_DB = 2.0, 0.5
"""How far a hand-held sound meter may be off, and what is worth writing down [dB]."""


def noise_figures(setup: Setup, found: fits.NoiseLearned | None) -> list[Figure]:
    """The walk around a set, as its noise: what the hours compute with is what was fitted.

    Args:
        setup: as it was before the log.
        found: the fit of the walk.

    Returns:
        Each with its before, after and how sure.
    """
    supply = setup.supply
    if found is None or not isinstance(supply, Generator):
        return []
    held = supply.noise or Noise(dba=0.0)
    level = found.at_1m_dba - found.per_doubling_db * math.log2(held.at_m)
    off = max(found.residual_db, MIN_DB)
    was = "plate" if supply.noise is not None else "not said"
    rows = [("dba", "noise at its distance", held.dba, level, off, "dBA")]
    if found.fits_distance:
        d = found.per_doubling_db
        words = "noise lost for each doubling of distance"
        rows.append(("per_doubling_db", words, held.per_doubling_db, d, 1.0, "dB"))
    if found.load_w > 0.0:
        read_at = held.load_w if held.load_w is not None else STATED_SHARE * supply.continuous_w
        rows.append(
            ("load_w", "load when its noise was read", read_at, found.load_w, LOAD_OFF_W, "W")
        )
    return [
        Figure(
            f"supply.noise.{name}", f"The generator: {label}", before,
            min(max(after, 1.0), LOUDEST_DBA) if unit != "W" else after,
            after - error, after + error, was, found.used, error / 100.0, unit,
        )
        for name, label, before, after, error, unit in rows
        if abs(after - before) >= MOVED_DB
    ]  # fmt: skip


def choices_of(
    setup: Setup, posterior: Posterior | None, start_entries: dict[int, StartEntry]
) -> list[Choice]:
    """What the starts say of a set's character, where they are sure enough of it.

    Args:
        setup: as it was before the log.
        posterior: what its starts tell, if there were any.
        start_entries: start entries by number.

    Returns:
        At most one.
    """
    if posterior is None or posterior.cuts_off is None:
        return []
    cuts = posterior.cuts_off
    after = "cuts-off" if cuts >= SURE else "folds-back" if cuts <= 1.0 - SURE else None
    if after is None:
        return []
    used = tuple(at for at, entry in start_entries.items() if entry.outcome is not None)
    sure = cuts if after == "cuts-off" else 1.0 - cuts
    return [Choice("supply.character", "At its limit the generator", "not said", after, sure, used)]


def tester_of(setup: Setup, fresh: dict[int, Entry]) -> list[Choice]:
    """What an outlet tester showed last: an open ground stands until a later look clears it.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.

    Returns:
        At most one.
    """
    read = {at: e.tester for at, e in fresh.items() if isinstance(e, SupplyEntry) and e.tester}
    if not read or not isinstance(setup.supply, Shore):
        return []
    last, was = read[max(read)], setup.supply.tester
    if last == (was or CORRECT):
        return []
    return [Choice("supply.tester", "Outlet tester", was or "not used", last, 1.0, tuple(read))]
