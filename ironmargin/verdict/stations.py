"""The stations of the bar: every limit of a check by its place, in the order the current flows,
each with its margin and reasons.
"""

from __future__ import annotations

from typing import assert_never

from ironmargin.limits.asking import by_criterion
from ironmargin.limits.coincidence import how_often
from ironmargin.limits.ledger import FAILS, HOLDS, THIN, Row
from ironmargin.limits.sites import Site
from ironmargin.limits.start_chance import StartChance
from ironmargin.record import record
from ironmargin.starting.starts import Start
from ironmargin.supplies.source import LEG_NAMES
from ironmargin.verdict.check import Checked
from ironmargin.verdict.result import StartRow
from ironmargin.verdict.rows import of_leg

MAX_KNOWN = 3
ORDER = tuple(Site)
SEVERITY = (HOLDS, THIN, FAILS)
WORTH_SAYING = 0.05
"""Chances of one rig that lie nearer together are said as one [1]."""


@record
class Station:
    """One place on the bar: ``state`` is holds, thin or fails; ``reading`` the figure under it;
    ``reasons`` the lines behind it.
    """

    key: str
    check: str
    title: str
    subtitle: str
    margin: float
    state: str
    reading: str
    reasons: tuple[str, ...]
    formula: str


@record
class Spot:
    """What rows are put together at one station: a site, and which of its kind."""

    site: Site
    ident: str = ""
    item: int = -1

    @property
    def key(self) -> str:
        """The station's key in the page."""
        if self.item >= 0:
            return f"path-{self.item}" if self.site is Site.PART else f"guard-{self.item}"
        if self.site is Site.SERVICE:
            return f"service-{self.ident}"
        if self.site is Site.LOAD:
            return f"drops-out-{self.ident}"
        if self.site is Site.CIRCUIT:
            return f"circuit-{self.ident}"
        if self.site in (Site.LOAD_START, Site.LEG):
            return f"{self.site.value}-{self.ident}"
        return str(self.site.value)


def spot_of(row: Row) -> Spot:
    """The station a row belongs to: volts at loads and legs are one, a load that drops out has its
    own.

    Args:
        row: of the ledger.

    Returns:
        The station.
    """
    place = row.place
    match place.site:
        case Site.LOAD:
            drops = row.problem == "drops-out"
            return Spot(Site.LOAD, place.ident) if drops else Spot(Site.VOLTS)
        case Site.VOLTS:
            return Spot(Site.VOLTS)
        case Site.PART | Site.GUARD:
            return Spot(place.site, item=place.item)
        case Site.SERVICE | Site.LOAD_START | Site.CIRCUIT | Site.LEG | Site.RULE:
            return Spot(place.site, place.ident)
        case (
            Site.SUPPLY
            | Site.INPUT
            | Site.SUPPLY_BREAKER
            | Site.MAIN
            | Site.NEUTRAL
            | Site.TOGETHER
            | Site.TIME
        ):
            return Spot(place.site)
    assert_never(place.site)


def _title(spot: Spot, row: Row, checked: Checked) -> str:
    """What a station is called."""
    match spot.site:
        case Site.SUPPLY:
            return "Supply"
        case Site.INPUT:
            return "Input"
        case Site.SUPPLY_BREAKER:
            return "Post breaker" if checked.case.source.kind == "shore" else "Supply breaker"
        case Site.MAIN:
            return "Main breaker"
        case Site.NEUTRAL:
            return "Neutral"
        case Site.TOGETHER:
            return "All at once"
        case Site.VOLTS:
            return "Volts"
        case Site.TIME:
            return "Hours"
        case Site.LEG:
            return f"Leg {spot.ident}"
        case (
            Site.RULE
            | Site.SERVICE
            | Site.PART
            | Site.GUARD
            | Site.CIRCUIT
            | Site.LOAD_START
            | Site.LOAD
        ):
            name = row.name.removesuffix(", continuous")
            return name[:1].upper() + name[1:]
    assert_never(spot.site)


def stations(checked: Checked) -> tuple[Station, ...]:
    """The stations of a check, in the order the current flows.

    Args:
        checked: a check that keeps what pictures need.

    Returns:
        One a place.
    """
    rules = checked.case.setup.rules
    groups: dict[Spot, list[Row]] = {}
    for row in by_criterion(checked.rows, rules.trip_criterion):
        groups.setdefault(spot_of(row), []).append(row)
    starts = [d.load.id for d in checked.case.demands]

    def place(spot: Spot) -> tuple[int, int]:
        site = Site.PART if spot.site is Site.GUARD else spot.site
        number = starts.index(spot.ident) if spot.site is Site.LOAD_START else spot.item
        return ORDER.index(site), number

    found = [(place(spot), _station(spot, groups[spot], checked)) for spot in groups]
    found += [((ORDER.index(Site.LEG), n), s) for n, s in enumerate(_legs(checked))]
    return tuple(station for _, station in sorted(found, key=lambda pair: pair[0]))


def _station(spot: Spot, rows: list[Row], checked: Checked) -> Station:
    """The limits of one place as a station: the worst of them gives margin, state and reading."""
    thin = checked.case.setup.rules.thin_below
    counted = [r for r in rows if r.limit.in_margin] or rows
    worst = min(counted, key=lambda r: float(r.margin))
    states = [r.verdict(thin) for r in rows]
    state = max(states, key=SEVERITY.index)
    # How often it starts is told below in both layers.
    reasons = [r.limit.reason(r) for r in rows if r.limit.key != StartChance.key]
    if spot.site in (Site.SUPPLY, Site.SUPPLY_BREAKER, Site.MAIN):
        reasons += _known_from(checked)
    if spot.site is Site.SUPPLY:
        reasons += [
            f"{s.label}: {s.continuous_w:,.0f} W running, {s.starting_w:,.0f} W starting "
            f"({s.source})"
            for s in checked.result.derate
        ]
    if isinstance(worst.about, Start):
        reasons += _of_start(spot, worst.about, checked)
    title = _title(spot, worst, checked)
    return Station(
        spot.key,
        worst.check,
        title,
        worst.limit.subtitle(worst),
        float(worst.margin),
        state,
        worst.limit.reading(worst),
        tuple(dict.fromkeys(reasons)),
        worst.limit.formula,
    )


def chance_words(row: StartRow, margin: float = 0.0) -> str:
    """How often a start succeeds, in both layers, as a person would say it.

    Args:
        row: the start.
        margin: of the start by the trip criterion in force; below zero a motor that gets going
            breaks a rule by it, which is not called starting.

    Returns:
        A sentence.
    """
    said = ""
    if row.chance is not None:
        times = f"{row.chance * 100:.0f} times in 100"
        over = margin < 0.0 and row.outcome == "starts"
        said = f"gets going {times}, but not within the limits" if over else f"starts {times}"
    low, high = row.chance_rig_low, row.chance_rig_high
    if low is None or high is None or high - low < WORTH_SAYING:
        return said
    said += f"; this one rig between {low * 100:.0f} and {high * 100:.0f} in 100"
    return said + (
        ", depending most on its locked-rotor amps: measure them" if row.chance_decided_by else ""
    )


def start_margin(checked: Checked, load: str) -> float:
    """Margin of a load's start by the trip criterion in force [1].

    Args:
        checked: a check that keeps what pictures need.
        load: id of the load.

    Returns:
        Margin [1].
    """
    rules = checked.case.setup.rules
    return min(
        float(r.margin)
        for r in by_criterion(checked.rows, rules.trip_criterion)
        if r.place.site is Site.LOAD_START and r.where == load and r.limit.in_margin
    )


def _of_start(spot: Spot, start: Start, checked: Checked) -> list[str]:
    """The lines behind a start: where its figures come from, its chance, what to watch."""
    case, result = checked.case, checked.result
    demand = case.demands[start.starters[0].demand]
    row = result.coincidence
    said = []
    if spot.site is Site.LOAD_START:
        row = next(s for s in result.starts if s.load == demand.load.id)
        if demand.plate is not None:
            known = "typical" if demand.plate.lra_typical else demand.load.provenance
            said.append(
                f"locked-rotor amps {demand.plate.lra_a:.0f} A, running "
                f"{demand.plate.rla_a:.1f} A: {known.replace('-', ' ')}"
            )
        if row.chance is not None:
            said.append(chance_words(row, start_margin(checked, demand.load.id)))
    assert row is not None
    if start.gives_first == "path":
        said.append("the cords and contacts on the way give first, not the supply")
    if start.islands:
        said.append(
            "near its edge the outcome changes back and forth: do not count on the last few per "
            "cent"
        )
    if start.restart is not None:
        said.append(
            f"restarted at once, before pressures equalize: {start.restart}; wait three to five "
            "minutes"
        )
    if start.straight_to_high is not None:
        said.append(f"switched straight from off to high: {start.straight_to_high}")
    if start.night is not None:
        said.append(
            f"about {start.night.starts:.0f} starts a night of ten hours; a start fails "
            f"{how_often(start.night.fails)}"
        )
    if start.per_night:
        said.append(f"{how_often(start.per_night)} of ten hours; order and waits avoid it")
    return said


def _legs(checked: Checked) -> list[Station]:
    """A station for each leg of two, against the smallest limit it has for hours."""
    rows, up = checked.result.legs, checked.case.feed.upstream
    if "L2" not in rows or up.tied:
        return []
    thin, out = checked.case.setup.rules.thin_below, []
    for leg, name in enumerate(LEG_NAMES):
        row, limits = rows[name], of_leg(checked.now, checked.rows, leg)
        if not limits:
            continue
        worst = min(limits, key=lambda r: float(r.margin))
        mean_a = float(checked.now.mean_leg_amps(leg))
        reasons = [
            f"{row.a:.1f} A with everything on, {mean_a:.1f} A averaged over on and off times",
            *(r.limit.reason(r) for r in limits),
        ]
        if row.lost_neutral_v is not None:
            reasons.append(f"with an open neutral this leg would see {row.lost_neutral_v:.0f} V")
        out.append(
            Station(
                f"leg-{name}",
                "leg",
                f"Leg {name}",
                "settled",
                float(worst.margin),
                max((r.verdict(thin) for r in limits), key=SEVERITY.index),
                worst.limit.reading(worst),
                (*reasons, *_known_from(checked, leg)),
                worst.limit.formula,
            )
        )
    return out


def _known_from(checked: Checked, leg: int | None = None) -> list[str]:
    """Where the larger draws come from, largest first."""
    on = [d for d in checked.case.demands if leg is None or d.leg in (leg, 2)]
    largest = sorted(on, key=lambda d: -sum(x.amps for x in d.steady))[:MAX_KNOWN]
    return [
        f"{d.load.name} {sum(x.amps for x in d.steady):.1f} A: "
        f"{d.load.provenance.replace('-', ' ')}"
        for d in largest
    ]
