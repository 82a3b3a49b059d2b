"""Places and wants: which pitch holds what.

Rows are supplies with their way to the rig (a place), columns named wants ("night: one unit and the
fridge"); each cell is one whole check.
"""

from __future__ import annotations

from dataclasses import replace
from os import PathLike

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.per_cent import PLACES, percent
from ironmargin.record import record
from ironmargin.setup.fields import choice, given, number, text
from ironmargin.setup.hookup import HOOKUP_KINDS, HookupItem
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.reading import json_of
from ironmargin.setup.records import Kinds, Many, Record, file_schema, read_record
from ironmargin.setup.rules import check_rules
from ironmargin.setup.spec import INVALID, Faults
from ironmargin.setup.supply import Supply, supply_kinds
from ironmargin.verdict.check import examine
from ironmargin.verdict.sentences import say

PLACES_FORMAT = "iron-margin/places"
GRID_FORMAT = "iron-margin/places-grid"
MAX_PLACES, MAX_WANTS = 40, 12
ORDER = {"holds": 0, "thin": 1, "fails": 2}


@record(kw_only=True)
class Place:
    """A supply with its way to the rig."""

    name: str = text("What you call it", maximum=120, filled=True)
    supply: Supply = given(Kinds("What feeds the rig there", None, supply_kinds))
    hookup: tuple[HookupItem, ...] | None = given(
        Many(
            "From there to the rig; the setup's own if not said",
            None,
            Kinds(of=lambda: HOOKUP_KINDS),
            maximum=30,
        ),
        default=None,
    )
    outdoor_c: float | None = number("°C", "Its heat", minimum=-40, maximum=60, default=None)
    altitude_m: float | None = number("m", "Its height", minimum=-430, maximum=6000, default=None)


@record(kw_only=True)
class Want:
    """A named want: what is to run together."""

    name: str = text("What you call it", maximum=120, filled=True)
    wanted: tuple[Wanted, ...] = given(
        Many("The loads", None, Record(of=Wanted), minimum=1, maximum=100)
    )


@record(kw_only=True)
class Places:
    """A question of places and wants."""

    format: str = choice("Always iron-margin/places", (PLACES_FORMAT,), default=PLACES_FORMAT)
    version: int = number("1", "Version of the format", minimum=1, maximum=1, default=1, whole=True)
    places: tuple[Place, ...] = given(
        Many("The places", None, Record(of=Place), minimum=1, maximum=MAX_PLACES)
    )
    wants: tuple[Want, ...] | None = given(
        Many(
            "What is wanted; else the setup's own",
            None,
            Record(of=Want),
            minimum=1,
            maximum=MAX_WANTS,
        ),
        default=None,
    )


@record
class Cell:
    """One place and want: the verdict, its margin and its sentence."""

    verdict: str
    margin: float
    sentence: str


@record
class Grid:
    """Every place by every want, the place that holds most first."""

    places: tuple[str, ...]
    wants: tuple[str, ...]
    cells: tuple[tuple[Cell, ...], ...]


def read_places(data: object, setup: Setup) -> Places:
    """Turn parsed JSON into places for a setup.

    Args:
        data: parsed JSON, from anywhere.
        setup: supply, path, rig and rules of the question.

    Returns:
        The places.

    Raises:
        SetupError: with every fault found.
    """
    faults: Faults = []
    found = read_record(Places, data, "", faults)
    if found is not INVALID:
        known = {load.id for load in setup.rig.loads}
        for n, want in enumerate(found.wants or ()):
            for m, one in enumerate(want.wanted):
                if one.load not in known:
                    rule = f'must be one of the rig\'s loads (got "{one.load}")'
                    faults.append(Fault(f"wants[{n}].wanted[{m}].load", "no-such-load", rule))
        for n, place in enumerate(found.places):
            for fault in check_rules(at_place(setup, place)):
                faults.append(Fault(f"places[{n}].{fault.path}", fault.code, fault.message))
    if faults:
        raise SetupError(faults)
    places: Places = found
    return places


def load_places(path: str | PathLike[str], setup: Setup) -> Places:
    """Read a places file.

    Args:
        path: of the file.
        setup: supply, path, rig and rules of the question.

    Returns:
        The places.

    Raises:
        SetupError: the file cannot be opened or holds none.
    """
    return read_places(json_of(path, "places"), setup)


def at_place(setup: Setup, place: Place) -> Setup:
    """The setup's question asked at a place.

    Args:
        setup: supply, path, rig and rules of the question.
        place: with its supply, and weather and path where they are known.

    Returns:
        The setup.
    """
    conditions = setup.conditions
    if place.outdoor_c is not None:
        conditions = replace(conditions, outdoor_c=place.outdoor_c)
    if place.altitude_m is not None:
        conditions = replace(conditions, altitude_m=place.altitude_m)
    hookup = setup.hookup if place.hookup is None else place.hookup
    return replace(setup, supply=place.supply, hookup=hookup, conditions=conditions)


def grid_of(setup: Setup, requested: Places) -> Grid:
    """Check every want at every place; places that hold more wants, and with more iron, first.

    Args:
        setup: supply, path, rig and rules of the question.
        requested: places and wants.

    Returns:
        A verdict for each want at each place.
    """
    wants = requested.wants or (Want(name="As the setup", wanted=setup.wanted),)
    rows = []
    for place in requested.places:
        there = at_place(setup, place)
        cells = []
        for want in wants:
            checked = examine(replace(there, wanted=want.wanted))
            words = say(checked, None, looked=False)
            cells.append(Cell(checked.result.verdict, checked.result.iron_margin, words.sentence))
        rows.append((place.name, tuple(cells)))
    rows.sort(
        key=lambda r: (sum(ORDER[c.verdict] for c in r[1]), -min(c.margin for c in r[1]), r[0])
    )
    return Grid(tuple(r[0] for r in rows), tuple(w.name for w in wants), tuple(r[1] for r in rows))


def grid_json(found: Grid) -> Document:
    """The JSON object of a grid.

    Args:
        found: the grid.

    Returns:
        The JSON object.
    """
    return {
        "format": GRID_FORMAT,
        "version": 1,
        "places": list(found.places),
        "wants": list(found.wants),
        "verdict": [[c.verdict for c in row] for row in found.cells],
        "margin": [[round(c.margin, PLACES) for c in row] for row in found.cells],
        "sentence": [[c.sentence for c in row] for row in found.cells],
    }


def grid_words(found: Grid) -> str:
    """The grid in lines for the terminal.

    Args:
        found: the grid.

    Returns:
        The lines.
    """
    wide = max(len(p) for p in found.places)
    lines = []
    for n, want in enumerate(found.wants):
        lines.append(f"{want}:")
        lines += [
            f"  {place:<{wide}}  {row[n].verdict:<5} {percent(row[n].margin):>6}"
            for place, row in zip(found.places, found.cells, strict=True)
        ]
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)


def places_schema() -> Document:
    """The JSON Schema of places, made from the core's own types.

    Returns:
        A JSON Schema, draft 2020-12.
    """
    return file_schema(PLACES_FORMAT, Places)
