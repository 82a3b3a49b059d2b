"""Which size holds: every supply of a catalogue with every aid, and which of them anybody would
choose.

A row is dominated where another holds at least as well, is no heavier, no louder, lasts as long and
costs no more, and is better in one of these.
"""

from __future__ import annotations

import csv
from collections.abc import Callable
from dataclasses import replace

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.limits.ledger import FAILS, HOLDS
from ironmargin.per_cent import PLACES
from ironmargin.reaching.starters import starters, starters_json, starters_words
from ironmargin.record import record
from ironmargin.setup.changed import with_engines
from ironmargin.setup.engines import FUELS, Cylinder, Generator, Noise, Parallel
from ironmargin.setup.loads import Rotating, SoftStart
from ironmargin.setup.model import Setup
from ironmargin.setup.rules import check_rules
from ironmargin.tables import rows
from ironmargin.verdict.check import examine_unless_fails
from ironmargin.verdict.result import Result

SIZE_FORMAT = "iron-margin/size"
PLAIN_STARTS = ("run-capacitor", "start-capacitor", "hard-start")
FUELS_OFFERED = ("gasoline", "propane")
NOISE_AT_M = 7.0
TWICE_DB = 3.0
"""Two sets are so much louder than one [dB]: 10·log10(2)."""
COLUMNS = ("key", "name", "continuous_w", "starting_w", "voltage_v", "output")
CLASSES_W = (1500.0, 3000.0, 5000.0, 8000.0)
"""Continuous power up to which a set is of cost class 1, 2, 3, 4 (common practice)."""


@record
class Offer:
    """A supply of the catalogue: generic where it is the shipped one."""

    key: str
    name: str
    supply: Generator
    cost_class: int


@record
class Sized:
    """An offer with an aid, judged.

    Attributes:
        aid: ``none``, ``hard-start``, ``soft-start`` or ``second-set``.
        hours: on what is on board [h].
        seconds: of the slowest start [s], None where one does not start.
        dominated: another row is at least as good in everything.
        if_cuts_off: its verdict if its electronics cut off at their limit, where nobody says and it
            is another one.
    """

    key: str
    name: str
    fuel: str
    aid: str
    verdict: str
    margin: float
    check: str
    where: str
    hours: float | None
    seconds: float | None
    mass_kg: float | None
    dba_at_7m: float | None
    cost_class: int
    dominated: bool = False
    if_cuts_off: str = ""


def _geared(start: str) -> Callable[[Setup], Setup]:
    def aid(setup: Setup) -> Setup:
        soft = SoftStart() if start == "soft-start" else None
        wanted = {w.load for w in setup.wanted}
        loads = tuple(
            replace(x, start=start, soft_start=soft)
            if isinstance(x, Rotating)
            and x.start_gear in PLAIN_STARTS
            and x.id in wanted
            and (x.takes_kit or start != "hard-start")
            else x
            for x in setup.rig.loads
        )
        return replace(setup, rig=replace(setup.rig, loads=loads))

    return aid


def _doubled(setup: Setup) -> Setup:
    one = setup.supply
    if isinstance(one, Generator) and one.inverter and one.output != "120/240":
        return replace(setup, supply=Parallel(units=(one, one)))
    return setup


AIDS: dict[str, Callable[[Setup], Setup]] = {
    "none": lambda setup: setup,
    "hard-start": _geared("hard-start"),
    "soft-start": _geared("soft-start"),
    "second-set": _doubled,
}
"""One row an aid."""
AID_WORDS = {
    "none": "as it is",
    "hard-start": "hard-start kit",
    "soft-start": "soft starter",
    "second-set": "two of them",
}


def _cost_class(continuous_w: float, inverter: bool) -> int:
    size = sum(continuous_w > edge for edge in CLASSES_W) + 1
    return size + inverter


def _offer(row: dict[str, str]) -> Offer:
    inverter = not row["key"].startswith("con-")
    supply = Generator(
        continuous_w=float(row["continuous_w"]),
        starting_w=float(row["starting_w"]),
        voltage_v=float(row["voltage_v"]),
        output=row["output"],
        inverter=inverter,
        tank_l=float(row["tank_l"]) if row.get("tank_l") else None,
        cylinder=Cylinder(),
        mass_kg=float(row["mass_kg"]) if row.get("mass_kg") else None,
        noise=Noise(dba=float(row["dba_7m"]), at_m=NOISE_AT_M) if row.get("dba_7m") else None,
    )
    given = row.get("cost_class")
    cost = int(given) if given else _cost_class(supply.continuous_w, inverter)
    return Offer(row["key"], row["name"], supply, cost)


def shipped() -> tuple[Offer, ...]:
    """The generic sizes of the tables.

    Returns:
        In the order of the table.
    """
    return tuple(_offer(row) for row in rows("typical_supplies"))


def read_catalogue(path: str) -> tuple[Offer, ...]:
    """A catalogue from a CSV file with the columns of the shipped one.

    Args:
        path: of the file.

    Returns:
        The offers.

    Raises:
        SetupError: with every fault, each with its line.
    """
    try:
        with open(path, encoding="utf-8-sig", newline="") as file:
            lines = list(csv.DictReader(file))
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise SetupError([Fault(path, "file", f"cannot be read: {error}")]) from None
    faults, found = [], []
    for at, line in enumerate(lines, 2):
        missing = [c for c in COLUMNS if not line.get(c)]
        if missing:
            faults.append(Fault(f"line {at}", "missing", f"must have {', '.join(missing)}"))
            continue
        try:
            found.append(_offer({k: v for k, v in line.items() if k and v is not None}))
        except ValueError as error:
            faults.append(Fault(f"line {at}", "number", f"must hold numbers: {error}"))
    if not lines:
        faults.append(Fault(path, "empty", "must have at least one supply (got none)"))
    if faults:
        raise SetupError(faults)
    return tuple(found)


def size(setup: Setup, offers: tuple[Offer, ...] | None = None) -> tuple[Sized, ...]:
    """Every offer on every fuel with every aid, in the order of the catalogue; what does not fit
    the rig at all is left out.

    Args:
        setup: supply, path, rig and rules of the question.
        offers: the catalogue; the shipped one where None.

    Returns:
        One row an offer, fuel and aid.
    """
    found = []
    for offer in offers if offers is not None else shipped():
        for fuel in FUELS_OFFERED if offer.supply.fuel in FUELS else ():
            base = replace(setup, supply=replace(offer.supply, fuel=fuel))
            for aid, change in AIDS.items():
                changed = change(base)
                if (aid != "none" and changed == base) or check_rules(changed):
                    continue
                found.append(_sized(offer, fuel, aid, changed))
    return tuple(replace(row, dominated=_dominated(row, found)) for row in found)


def _sized(offer: Offer, fuel: str, aid: str, setup: Setup) -> Sized:
    checked = examine_unless_fails(setup)
    result = checked.result
    supply, if_cuts_off = offer.supply, ""
    unsaid = all(u.inverter and u.character is None for u in setup.supply.carrying)
    if unsaid and result.verdict != FAILS:
        # Nobody says what this set does at its limit: the other way round decides some of them.
        cut = examine_unless_fails(with_engines(setup, character="cuts-off")).result.verdict
        if_cuts_off = cut if cut != result.verdict else ""
    several = 2 if aid == "second-set" else 1
    louder = TWICE_DB if several == 2 else 0.0
    return Sized(
        offer.key,
        offer.name,
        fuel,
        aid,
        result.verdict,
        result.iron_margin,
        result.weakest.check,
        result.weakest.where,
        result.endurance.fuel_h,
        _slowest_s(result),
        supply.mass_kg * several if supply.mass_kg is not None else None,
        supply.noise.dba + louder if supply.noise is not None else None,
        offer.cost_class * several + (aid in ("soft-start", "hard-start")),
        if_cuts_off=if_cuts_off,
    )


def _slowest_s(result: Result) -> float | None:
    """The slowest of the starts [s]; None where there is none, or one does not start."""
    seconds = [s.seconds for s in result.starts]
    known = [s for s in seconds if s is not None]
    return max(known) if known and len(known) == len(seconds) else None


def _merits(row: Sized) -> tuple[float, ...]:
    """What is good in a row, each the larger the better."""
    return (
        row.margin,
        -(row.mass_kg or 0.0),
        -(row.dba_at_7m or 0.0),
        row.hours or 0.0,
        -float(row.cost_class),
    )


def _dominated(row: Sized, others: list[Sized]) -> bool:
    mine = _merits(row)
    return any(
        all(a >= b for a, b in zip(_merits(o), mine, strict=True)) and _merits(o) != mine
        for o in others
    )


def smallest(found: tuple[Sized, ...], offers: tuple[Offer, ...] | None = None) -> dict[str, str]:
    """For each aid and fuel the key of the smallest supply that holds, as ``aid`` on gasoline.

    Args:
        found: sizes that were tried.
        offers: that they are of; the shipped ones where None.

    Returns:
        Keys of offers, by aid.
    """
    power = {o.key: o.supply.continuous_w for o in (offers if offers is not None else shipped())}
    out: dict[str, str] = {}
    for aid in AIDS:
        holding = [r for r in found if r.aid == aid and r.verdict == HOLDS and r.fuel == "gasoline"]
        if holding:
            out[aid] = min(holding, key=lambda r: (power[r.key], r.key)).key
    return out


def size_json(setup: Setup, found: tuple[Sized, ...], offers: tuple[Offer, ...] | None) -> Document:
    """The JSON object of a sizing; what does not apply is left out.

    Args:
        setup: supply, path, rig and rules of the question.
        found: the sizing.
        offers: the catalogue; the shipped one where None.

    Returns:
        The JSON object.
    """

    def row(r: Sized) -> Document:
        out: Document = {
            "supply": r.key,
            "name": r.name,
            "fuel": r.fuel,
            "aid": r.aid,
            "verdict": r.verdict,
            "iron_margin": round(r.margin, PLACES),
            "gives_first": {"check": r.check, "where": r.where},
            "cost_class": r.cost_class,
            "dominated": r.dominated,
            **({"if_cuts_off": r.if_cuts_off} if r.if_cuts_off else {}),
        }
        more = {
            "hours": r.hours,
            "seconds": r.seconds,
            "mass_kg": r.mass_kg,
            "dba_at_7m": r.dba_at_7m,
        }
        return out | {k: round(v, 2) for k, v in more.items() if v is not None}

    return {
        "format": SIZE_FORMAT,
        "version": 1,
        "name": setup.name,
        "rows": [row(r) for r in found],
        "smallest": smallest(found, offers),
        "starters": starters_json(starters(setup)),
    }


def size_words(setup: Setup, found: tuple[Sized, ...], offers: tuple[Offer, ...] | None) -> str:
    """A sizing in lines for the terminal: the smallest for each aid, then what holds and is not
    dominated.

    Args:
        setup: supply, path, rig and rules of the question.
        found: the sizing.
        offers: the catalogue; the shipped one where None.

    Returns:
        The lines.
    """
    names = {r.key: r.name for r in found}
    lines = [setup.name]
    for aid, key in smallest(found, offers).items():
        lines.append(f"smallest that holds, {AID_WORDS[aid]}: {names[key]}")
    for r in found:
        if r.verdict == HOLDS and not r.dominated:
            hours = f", {r.hours:.1f} h" if r.hours is not None else ""
            mass = f", {r.mass_kg:.0f} kg" if r.mass_kg is not None else ""
            lines.append(
                f"{r.margin * 100:+5.0f} %  {r.name} on {r.fuel}, {AID_WORDS[r.aid]}{hours}{mass}"
            )
    if len(lines) == 1:
        lines.append("Nothing in the catalog holds here.")
    lines += starters_words(starters(setup))
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
