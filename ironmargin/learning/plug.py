"""A plug felt: a contact's temperature over half an hour at known amps tells its watts, its
resistance, how fast it warms, where it would settle, and so its condition.

``rise(t) = goal + (first − goal)·e^(−t/τ)``, with ``goal = R_th·I²·R``: the heat balance of one
body (as :class:`ironmargin.limits.contact.ContactHeat`). It is fitted on a grid with Student's t
for the readings, so that one slip of the hand moves little.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics.network import Real
from ironmargin.learning.entries import Entry, PlugEntry
from ironmargin.learning.figures import Choice
from ironmargin.learning.instruments import log_likelihood
from ironmargin.learning.judging import AGREES, CORRECTS, STRANGE, Judged
from ironmargin.limits.contact import KELVIN_PER_WATT, MELTS_K, RISE_K, WARMS_TAU_S
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.starting.points import MIDDLE_90
from ironmargin.tables import fahrenheit

FELT_C = {
    "as-the-air": None, "lukewarm": (33.0, 3.0), "warm": (39.0, 3.0), "hot": (48.0, 4.0),
    "cannot-hold": (62.0, 8.0),
}  # fmt: skip
"""What the back of a hand feels [°C] and its standard deviation: skin is at about 33, plastic is
let go of near 55 to 60 (common practice; the latter as ISO 13732-1, from memory).
"""
AS_AIR_K = (0.5, 1.0)
SURFACE_SD_K = {"infrared": 2.0, "pocket": 1.5, "hand": 0.0}
"""What a reading of the outside is off [K]; a hand has its classes (common practice, no source)."""
STOP_C = 60.0
"""A plug this hot is switched off and taken out of service (common practice; the rating of most
flexible cords is 60 °C, UL 62).
"""
AIR_SD_K = 0.5
"""What a reading of the air beside it is off [K]."""
SUN_K = 15.0
"""What the sun puts onto a dark plug (common practice, no source)."""
HOT_DAY_C = 38.0
GOALS_K = np.geomspace(0.3, 240.0, 60)
USUAL_GOAL_K, GOAL_LOG_SD = 8.0, 1.3
TAUS_S = np.geomspace(90.0, 1200.0, 30)
TAU_LOG_SD = 0.4
FIRSTS = 7
MIN_AMPS = 3.0
SURE = 0.85
USUAL_A = 30.0
CURVE_MIN = (0.0, 2.0, 5.0, 10.0, 15.0, 20.0, 30.0, 45.0)


@record
class Felt:
    """What a plug's temperatures tell: middle and 90 % interval of each.

    Attributes:
        rise_k: the rise at these amps in the end [K].
        watts, ohm: of the contact.
        tau_s: time constant.
        settles_c: its outside in the sun of a hot day at the part's full amps [°C].
        full_a: those.
        condition: good, worn or hot.
        sure: how sure that is [1].
        stop: it was over 60 °C, or will be.
        curve: minutes and, at these amps, low, middle and high of its outside [°C].
    """

    rise_k: tuple[float, float, float]
    watts: tuple[float, float, float]
    ohm: tuple[float, float, float]
    tau_s: tuple[float, float, float]
    settles_c: tuple[float, float, float]
    full_a: float
    condition: str
    sure: float
    stop: bool
    curve: tuple[tuple[float, float, float, float], ...]

    @property
    def state(self) -> str:
        """``holds``, ``thin`` or ``fails``: good; worn, or not clear yet; out of service."""
        if self.stop or (self.condition == "hot" and self.sure >= SURE):
            return "fails"
        return "holds" if self.condition == "good" and self.sure >= SURE else "thin"

    @property
    def word(self) -> str:
        """What it is, in a word or two."""
        if self.stop:
            return "Out of service"
        return self.condition.capitalize() if self.sure >= SURE else "Not clear yet"

    @property
    def sentence(self) -> str:
        """What it says, in a sentence or two."""
        low, middle, high = self.watts
        mohm = self.ohm[1] * 1000.0
        says = (
            f"{middle:.1f} W in the contact ({low:.1f} to {high:.1f}), about {mohm:.0f} mΩ; at "
            f"{self.full_a:.0f} A in the sun of a hot day it settles "
            f"near {_both(self.settles_c[1])}"
        )
        if self.stop:
            return f"Stop: above {_both(STOP_C)} take it out of service. {says}."
        if self.sure < SURE:
            return f"{says}. Not clear yet: more minutes or more amps tell."
        return f"{says}: {self.condition}."


def _both(celsius: float) -> str:
    return f"{celsius:.0f} °C ({fahrenheit(celsius):.0f} °F)"


def _readings(entry: PlugEntry) -> list[tuple[float, float, float]]:
    """(seconds, rise over the air [K], its standard deviation [K]), the earliest first."""
    found = []
    for one in entry.readings:
        if one.surface_c is not None:
            sd = math.hypot(SURFACE_SD_K.get(entry.by, SURFACE_SD_K["infrared"]), AIR_SD_K)
            found.append((one.minute * 60.0, one.surface_c - entry.air_c, sd))
        elif one.felt is not None:
            felt = FELT_C[one.felt]
            rise, sd = AS_AIR_K if felt is None else (felt[0] - entry.air_c, felt[1])
            found.append((one.minute * 60.0, rise, sd))
    return sorted(found)


def _quantiles(values: Real, weights: Real) -> tuple[float, float, float]:
    order = np.argsort(values)
    share = np.cumsum(weights[order])
    low, middle, high = (float(values[order[int(np.searchsorted(share, q))]]) for q in MIDDLE_90)
    return low, middle, high


def felt(entry: PlugEntry, full_a: float) -> Felt | None:
    """What a plug's temperatures tell.

    Args:
        entry: with amps and temperatures.
        full_a: amps of the part's rating.

    Returns:
        None where less than two temperatures at three amps or more were read.
    """
    readings = _readings(entry)
    if len(readings) < 2 or entry.amps < MIN_AMPS:
        return None
    since, first, off = readings[0]
    # Without a reading at the very start it may have begun anywhere from the air's own heat on.
    lowest = first - 2.0 * off if since == 0.0 else 0.0
    firsts = np.linspace(min(lowest, first), max(first, 0.0) + 2.0 * off, FIRSTS)
    goal, tau, begun = (x.ravel() for x in np.meshgrid(GOALS_K, TAUS_S, firsts, indexing="ij"))
    log = -0.5 * np.square(np.log(goal / USUAL_GOAL_K) / GOAL_LOG_SD)
    log -= 0.5 * np.square(np.log(tau / WARMS_TAU_S) / TAU_LOG_SD)
    for seconds, rise, sd in readings:
        expected = goal + (begun - goal) * np.exp(-seconds / tau)
        log += log_likelihood(rise, expected, np.full_like(expected, sd))
    weights = np.exp(log - log.max())
    weights /= weights.sum()
    at_full = goal * (full_a / entry.amps) ** 2
    watts = goal / KELVIN_PER_WATT
    settles = HOT_DAY_C + SUN_K + at_full
    hottest = max(entry.air_c + rise for _, rise, _ in readings)
    shares = {
        "good": float(weights[at_full <= RISE_K].sum()),
        "worn": float(weights[(at_full > RISE_K) & (at_full < MELTS_K)].sum()),
        "hot": float(weights[at_full >= MELTS_K].sum()),
    }
    condition = max(shares, key=lambda key: shares[key])
    stop = hottest >= STOP_C or float(weights[entry.air_c + goal >= STOP_C].sum()) >= SURE
    if hottest >= STOP_C:
        condition, shares["hot"] = "hot", 1.0
    return Felt(
        _quantiles(goal, weights),
        _quantiles(watts, weights),
        _quantiles(watts / entry.amps**2, weights),
        _quantiles(tau, weights),
        _quantiles(settles, weights),
        full_a,
        condition,
        shares[condition],
        stop,
        tuple(
            (
                minute,
                *_quantiles(
                    entry.air_c + goal + (begun - goal) * np.exp(-60.0 * minute / tau), weights
                ),
            )
            for minute in CURVE_MIN
        ),
    )


def full_amps(setup: Setup, item: int) -> float:
    """The amps a part may carry: its rating; of one without a rating :data:`USUAL_A`.

    Args:
        setup: supply, path, rig and rules of the question.
        item: number of the part in the path.

    Returns:
        Amps [A].
    """
    rated = [p.rating_a for p in prepare(setup).feed.parts if p.item == item and p.rating_a]
    return min(rated, default=USUAL_A)


def felt_entries(setup: Setup, fresh: dict[int, Entry]) -> dict[int, Felt]:
    """What each plug's entry tells, by its number; those that tell nothing are left out.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.

    Returns:
        Watts [W] and ohms [ohm] of each contact, its condition, and how sure they are.
    """
    found = {}
    for at, entry in fresh.items():
        if isinstance(entry, PlugEntry) and entry.item < len(setup.hookup):
            estimate = felt(entry, full_amps(setup, entry.item))
            if estimate is not None:
                found[at] = estimate
    return found


def plug_choices(setup: Setup, fresh: dict[int, Entry], plugs: dict[int, Felt]) -> list[Choice]:
    """The conditions that plugs' temperatures make: of each part the last that is sure.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.
        plugs: what :func:`felt_entries` found.

    Returns:
        At most one a part.
    """
    found: dict[int, Choice] = {}
    for at, estimate in plugs.items():
        entry = fresh[at]
        assert isinstance(entry, PlugEntry)
        part = setup.hookup[entry.item]
        if estimate.sure >= SURE:
            found[entry.item] = Choice(
                f"hookup[{entry.item}].condition",
                f"{part.name or part.kind}: contacts",
                part.condition,
                estimate.condition,
                estimate.sure,
                (at,),
            )
    return [c for c in found.values() if c.before != c.after]


def plugs_judged(
    setup: Setup, fresh: dict[int, Entry], estimate: dict[int, Felt]
) -> Iterable[Judged]:
    """Every plug's entry, judged by what :func:`felt_entries` found.

    Args:
        setup: as it was before the log.
        fresh: entries by number that it has not learned from yet.
        estimate: what each tells, by its number.

    Yields:
        A row for each.
    """
    for at, entry in fresh.items():
        if not isinstance(entry, PlugEntry):
            continue
        if at not in estimate:
            says = (
                f"Two temperatures at {MIN_AMPS:.0f} A or more tell of a contact; the part must "
                "be in the hook-up."
            )
            yield Judged(at, "item", STRANGE, says)
            continue
        one, part = estimate[at], setup.hookup[entry.item]
        changes = one.sure >= SURE and one.condition != part.condition
        yield Judged(at, "rise_k", CORRECTS if changes else AGREES, one.sentence, one.rise_k[1])
