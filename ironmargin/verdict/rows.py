"""The rows of the result format, taken from the ledger. Nothing is judged here."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

from ironmargin.limits.breaker_starts import BreakerStarts, warm_of
from ironmargin.limits.breakers import breaker_curve, through
from ironmargin.limits.guard import GuardAmps
from ironmargin.limits.holds_on import HoldsOn
from ironmargin.limits.ledger import Row, View
from ironmargin.limits.neutral import neutral_amps
from ironmargin.limits.now import Now, largest
from ironmargin.limits.part_hours import PartHours, unprotected
from ironmargin.limits.service_volts import HIGH, edge_of, volts_of
from ironmargin.limits.sites import Quantity, Site
from ironmargin.path.trace import GuardPoint, PathPart
from ironmargin.protection.breaker import EARLY, LATE, NOMINAL
from ironmargin.setup.loads import Load
from ironmargin.starting.opened import Opener, Opening
from ironmargin.supplies.source import LEG_NAMES
from ironmargin.sustaining.steady import Steady, lost_neutral
from ironmargin.verdict.result import (
    BreakerRow,
    DropoutRow,
    LegRow,
    LimitRow,
    PathRow,
    ServiceRow,
    Sustained,
    VoltsRow,
)

OPPOSITE_DEG = 90.0
"""Legs further apart than this have a neutral whose loss puts them in series."""


def sustained(rows: list[Row]) -> Iterator[Sustained]:
    """Settled amps against every limit of supply, breakers, branches and neutral.

    Args:
        rows: of the ledger.

    Yields:
        Place, amps [A], limit [A], margin [1].
    """
    for row in rows:
        if row.check == "sustain" and row.unit == "A" and not row.problem:
            yield Sustained(
                row.where,
                row.name,
                float(row.value),
                float(row.allowed),
                float(row.margin),
                row.note if row.note in ("continuous", "crest") else "",
                None if row.early is None else float(row.early),
            )


def of_leg(now: Now, rows: Iterable[Row], leg: int) -> list[Row]:
    """The limits for hours that act on a leg, those of supply and breakers, the least allowed
    first. What the supply gives its busier leg is held there; here each leg has its own amps.

    Args:
        now: a settled state, of one set of loads or of many.
        rows: limits at their places.
        leg: L1 or L2.

    Returns:
        Its limits, the least allowed first.
    """
    shared = now.case.feed.upstream.tied or now.case.feed.upstream.legs == 1
    found = [
        row if shared or row.place.site is not Site.SUPPLY else _of_its_own(now, row, leg)
        for row in rows
        if row.check == "sustain"
        and row.limit.quantity in (Quantity.AMPS_FOR_HOURS, Quantity.AMPS_FOR_A_TIME)
        and row.place.site in (Site.SUPPLY, Site.SUPPLY_BREAKER, Site.MAIN)
        and (row.leg == leg or shared or row.place.site is Site.SUPPLY)
    ]
    return sorted(found, key=lambda row: float(row.allowed))


def _of_its_own(now: Now, row: Row, leg: int) -> Row:
    """A limit of the supply's busier leg, held against the amps of this one."""
    less_a = float(largest(now.amps)) - float(now.amps[min(leg, len(now.amps) - 1)])
    early = None if row.early is None else float(row.early)
    own_a = float(row.value) - less_a
    return row.limit.row(
        row.place, row.name, own_a, float(row.allowed), early=early, note=row.note, leg=leg
    )


def leg_limit_a(now: Now, rows: list[Row], leg: int) -> float | None:
    """The smallest limit for hours a leg has, at the panel [A].

    Args:
        now: the settled moment.
        rows: of the ledger.
        leg: source conductor.

    Returns:
        Amps [A]; None where nothing limits it.
    """
    found = of_leg(now, rows, leg)
    return float(found[0].allowed) / now.case.turns if found else None


def legs(now: Now, rows: list[Row]) -> dict[str, LegRow]:
    """Amps, limit and volts of the legs and the neutral, and what each leg would see with the
    neutral lost.

    Args:
        now: the settled moment.
        rows: of the ledger.

    Returns:
        By the leg's name.
    """
    case, out = now.case, {}
    up = case.feed.upstream
    split = up.legs == 2 and not up.tied and case.source.leg_deg > OPPOSITE_DEG
    lost = lost_neutral(case) if split else None
    for leg in range(up.legs):
        out[LEG_NAMES[leg]] = LegRow(
            float(now.leg_amps(leg)),
            leg_limit_a(now, rows, leg),
            float(now.state.volts(leg)),
            lost[leg] if lost else None,
        )
    rating = case.feed.neutral_rating_a
    out["N"] = LegRow(float(neutral_amps(now)), rating if rating < math.inf else None, None)
    return out


def path_rows(now: Now, rows: list[Row]) -> Iterator[PathRow]:
    """Every part of the path with the smallest of its margins, whether or not a breaker protects
    it.

    Args:
        now: the settled moment.
        rows: of the ledger.

    Yields:
        Part, amps [A], rating [A], volts it drops [V], margin [1].
    """
    minimum: dict[int, float] = {}
    for row in rows:
        if row.place.site is Site.PART:
            margin = float(row.margin)
            minimum[row.place.item] = min(margin, minimum.get(row.place.item, margin))
    for row in rows:
        if isinstance(row.limit, GuardAmps) and isinstance(row.about, GuardPoint):
            yield PathRow(
                row.about.item,
                row.name,
                "guard",
                float(row.value),
                float(row.allowed),
                float(row.margin),
                False,
                0.0,
            )
        if not isinstance(row.limit, PartHours):
            continue
        part = row.about
        assert isinstance(part, PathPart)
        amps = float(row.value)
        neutral_a = amps if part.carries == "input" else float(now.state.neutral_a)
        neutral_v = neutral_a * part.ohm / (2 if part.halves_neutral else 1)
        yield PathRow(
            part.item,
            part.name,
            part.kind,
            amps,
            part.rating_a,
            minimum[part.item],
            unprotected(part),
            part.ohm * amps + neutral_v,
            amps * amps * part.contact_ohm,
            None if row.early is None else float(row.early),
            part.rating.set_by,
        )


def volts_rows(rows: list[Row]) -> Iterator[VoltsRow]:
    """Settled volts at every place, motor and guard against the range they may have.

    Args:
        rows: of the ledger.

    Yields:
        Place, volts [V], edge of the range [V], margin [1].
    """
    for row in rows:
        if row.check != "voltage" or not row.base:
            continue
        name = f"{row.where} (too high)" if row.note == HIGH else row.where
        yield VoltsRow(name, volts_of(row), edge_of(row), row.base, float(row.margin))


def dropout_rows(rows: list[Row]) -> Iterator[DropoutRow]:
    """Wanted loads that drop out at the settled volts.

    Args:
        rows: of the ledger.

    Yields:
        Load, volts [V], volts it drops out at [V], margin [1].
    """
    for row in rows:
        if isinstance(row.limit, HoldsOn):
            yield DropoutRow(
                row.where, row.name, float(row.value), float(row.allowed), float(row.margin)
            )


def service_rows(rows: list[Row]) -> Iterator[ServiceRow]:
    """Wanted loads that the service cannot feed.

    Args:
        rows: of the ledger.

    Yields:
        Load and what is missing.
    """
    for row in rows:
        if row.place.site is Site.SERVICE and isinstance(row.about, Load):
            yield ServiceRow(row.about.id, row.name, row.problem)


def breaker_rows(now: Now, rows: list[Row], view: View) -> Iterator[BreakerRow]:
    """Every breaker against every start (early and nominal edge, warm) and against the settled
    amps (from cold, all three edges).

    Args:
        now: the settled moment.
        rows: of the ledger.
        view: the case, as the limits see it.

    Yields:
        Breaker, amps [A], seconds at each edge [s], whether a start opens it.
    """
    case = now.case
    assert isinstance(now.state, Steady)
    early = {
        row.about for row in rows if isinstance(row.limit, BreakerStarts) and row.about is not None
    }
    for number, (breaker, leg) in enumerate(case.breakers):
        amps = float(through(now, breaker, leg)[0])
        opened = any(s.opened == Opening(Opener.BREAKER, number) for s in view.starts)
        trips = "yes" if opened else "early" if breaker in early else "no"
        heat = warm_of(case, breaker, leg, view.warm_a)
        early_s, nominal_s, late_s = (
            finite(breaker_curve(case, breaker, edge).trip_s(amps / breaker.rating_a))
            for edge in (EARLY, NOMINAL, LATE)
        )
        yield BreakerRow(
            breaker.where,
            breaker.name,
            breaker.rating_a,
            breaker.standard,
            amps,
            trips,
            heat**0.5 * breaker.rating_a,
            early_s,
            nominal_s,
            late_s,
            breaker.trips,
        )


def finite(seconds: float) -> float | None:
    """A time, or None for never [s].

    Args:
        seconds: any, infinite for never [s].

    Returns:
        Seconds [s].
    """
    return seconds if math.isfinite(seconds) else None


def limit_rows(rows: list[Row], thin_below: float) -> Iterator[LimitRow]:
    """The whole ledger, as the open format has it.

    Args:
        rows: of the ledger.
        thin_below: margin under which what holds is thin [1].

    Yields:
        A limit at a place, with its verdict.
    """
    for row in rows:
        yield LimitRow(
            row.limit.key,
            row.check,
            row.where,
            row.name,
            row.limit.quantity.value,
            float(row.value),
            float(row.allowed),
            row.unit,
            float(row.margin),
            row.verdict(thin_below),
            row.limit.consequence.value,
            row.limit.source,
            None if row.early is None else float(row.early),
            None if row.early_margin is None else float(row.early_margin),
        )
