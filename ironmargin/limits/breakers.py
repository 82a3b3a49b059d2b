"""What every breaker carries: the supply's, an assisted input's, the path's, the main, the
branches. The limits of breakers are read off this list.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import cast

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Figure
from ironmargin.limits.ledger import View
from ironmargin.limits.now import Now, largest
from ironmargin.limits.sites import Place, Site
from ironmargin.protection.breaker import EARLY, NOMINAL, Curve, curve
from ironmargin.record import record
from ironmargin.setup.model import Circuit
from ironmargin.starting.protection import branch_curve
from ironmargin.supplies.source import LEG_NAMES, Breaker

CARRIED = "carried"
CONTINUOUS_FROM_H = 3.0
"""Loads of three hours and more are continuous (NEC 210.20(A))."""
LONG_S = 24 * 3600.0
IN_MINUTES_S = 90.0
"""From so long on a time is said in minutes [s]."""
"""Without hours asked for, it is to hold for a day."""


@record
class Carried:
    """A breaker and what it carries.

    Attributes:
        amps: with everything on [A].
        mean_a: averaged over on and off times [A].
        nominal, early: its curves in this heat.
        leg: the conductor, −1 for a branch.
    """

    place: Place
    name: str
    rating_a: float
    amps: Figure
    mean_a: Figure
    nominal: Curve
    early: Curve
    leg: int
    about: Breaker | Circuit


def lasts_long(case: Case) -> bool:
    """Whether it is to run long enough for the rule of continuous loads; without hours it is.

    Args:
        case: the setup, ready to be solved.

    Returns:
        Whether the rule of continuous loads applies.
    """
    target = case.setup.conditions.target_hours
    return target is None or target >= CONTINUOUS_FROM_H


def requested_s(case: Case) -> float:
    """How long it is to hold [s].

    Args:
        case: the setup, ready to be solved.

    Returns:
        Seconds [s]; a day where nobody said.
    """
    target = case.setup.conditions.target_hours
    return LONG_S if target is None else target * 3600.0


def breaker_curve(case: Case, breaker: Breaker, edge: str = NOMINAL) -> Curve:
    """The curve of a breaker here, at an edge of its band.

    Args:
        case: the prepared setup.
        breaker: a breaker of supply, path, panel or branch.
        edge: ``early``, ``nominal`` or ``late``.

    Returns:
        Time to trip over multiples of its rating.
    """
    outdoor_c = case.setup.conditions.outdoor_c
    return curve(breaker.standard, breaker.rating_a, edge, outdoor_c, breaker.trips)


def opens_after(case: Case, about: Breaker | Circuit, amps: float) -> tuple[float, str]:
    """When a nominal breaker opens that carries so much from cold.

    Args:
        case: the prepared setup.
        about: a breaker, or a branch with its own.
        amps: settled current [A].

    Returns:
        Seconds, infinite where it holds [s], and the same in words.
    """
    if isinstance(about, Breaker):
        after_s = breaker_curve(case, about).trip_s(amps / about.rating_a)
    else:
        after_s = branch_curve(case, about).trip_s(amps / about.breaker_a)
    return after_s, f"{after_s / 60.0:.0f} min" if after_s >= IN_MINUTES_S else f"{after_s:.0f} s"


def share_of_trip(case: Case, breaker: Breaker, amps: float, seconds: float) -> float:
    """How far a nominal breaker is on its way to opening after so long, from cold [1].

    Args:
        case: the prepared setup.
        breaker: a breaker of supply, path, panel or branch.
        amps: current [A].
        seconds: how long it carries them [s].

    Returns:
        The share; 1 when it opens [1].
    """
    by = breaker_curve(case, breaker)
    return by.heat_after(amps / breaker.rating_a, seconds) / by.multiple**2


def more_than_rated(amps: float, rating_a: float | None) -> bool:
    """Whether everything on at once is more than the number on a breaker, where it has one.

    Args:
        amps: everything at once [A].
        rating_a: breaker rating [A].

    Returns:
        Whether it is more.
    """
    return rating_a is not None and amps > rating_a


def site_of(breaker: Breaker) -> Site:
    """Which place on the bar a breaker belongs to.

    Args:
        breaker: of supply or panel.

    Returns:
        The place.
    """
    return Site.MAIN if breaker.where == "main" else Site.SUPPLY_BREAKER


def through(now: Now, breaker: Breaker, leg: int) -> tuple[Figure, Figure]:
    """Settled and mean amps through one pole of a breaker [A].

    Args:
        now: a settled state, of one set of loads or of many.
        breaker: a breaker of supply, path, panel or branch.
        leg: L1 or L2.

    Returns:
        Settled and mean amps [A].
    """
    if breaker.where == "main" and not now.case.feed.upstream.tied:
        return now.leg_amps(leg), now.mean_leg_amps(leg)
    also = now.case.source.also_a if breaker.where == "post" else 0.0
    at = min(leg, len(now.amps) - 1)
    return now.amps[at] + also, now.mean_amps[at] + also


def carried_by(now: Now) -> Iterator[Carried]:
    """Every breaker with what it carries, in the order current flows.

    Args:
        now: the moment that is asked about.

    Yields:
        A pole of a breaker, with its amps [A] and its mean amps where loads cycle [A].
    """
    case = now.case
    yield from _of_input(case)
    for number, (breaker, leg) in enumerate(case.breakers):
        amps, mean = through(now, breaker, leg)
        before = any(b is breaker for b, _ in case.breakers[:number])
        if before and not np.any(largest((amps, mean))):
            continue
        several = sum(b is breaker for b, _ in case.breakers) > 1
        name = f"{breaker.name}, {LEG_NAMES[leg]}" if several else breaker.name
        yield Carried(
            Place(site_of(breaker)),
            name,
            breaker.rating_a,
            amps,
            mean,
            breaker_curve(case, breaker),
            breaker_curve(case, breaker, EARLY),
            leg,
            breaker,
        )
    yield from _of_branches(now)


def carried_in(view: View) -> tuple[Carried, ...]:
    """The same for every limit of breakers that is asked in one view.

    Args:
        view: the moment, as the limits see it.

    Returns:
        Every pole of every breaker with its amps [A].
    """
    if CARRIED not in view.memo:
        view.memo[CARRIED] = tuple(carried_by(view.now))
    return cast(tuple[Carried, ...], view.memo[CARRIED])


def _of_input(case: Case) -> Iterator[Carried]:
    """The breakers before an inverter/charger carry what it takes and what else hangs there."""
    taken_from = case.source.input
    if taken_from is None:
        return
    amps = taken_from.limit_a + taken_from.also_a
    for breaker in taken_from.breakers:
        yield Carried(
            Place(Site.INPUT),
            f"{breaker.name}, before the inverter",
            breaker.rating_a,
            amps,
            amps,
            breaker_curve(case, breaker),
            breaker_curve(case, breaker, EARLY),
            -1,
            breaker,
        )


def _of_branches(now: Now) -> Iterator[Carried]:
    """Each branch breaker with the loads on it."""
    case = now.case
    for circuit in case.setup.rig.circuits:
        on_it = [
            (now.share(at), d) for at, d in enumerate(case.demands) if d.load.circuit == circuit.id
        ]
        if not on_it:
            continue
        each = [
            (share * abs(sum(x.va for x in d.steady)) / d.load.voltage_v, d.duty)
            for share, d in on_it
        ]
        amps: Figure = sum((a for a, _ in each), 0.0)
        mean: Figure = sum((a * duty for a, duty in each), 0.0)
        yield Carried(
            Place(Site.CIRCUIT, circuit.id),
            f"branch {circuit.name or circuit.id}",
            circuit.breaker_a,
            amps,
            mean,
            branch_curve(case, circuit),
            branch_curve(case, circuit, EARLY),
            -1,
            circuit,
        )
