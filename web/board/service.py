"""The Board: every rig on every supply, from the setups that ask about them."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import User

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.setup.parts import read_supply
from web.design.drawing import Bar, small_bar
from web.rigs.models import Rig
from web.setups import repository
from web.setups.models import SavedSetup
from web.supplies.models import Supply
from web.supplies.words import short_name
from web.verdicts import jobs
from web.verdicts.view_model import plain_document

MAX_RIGS, MAX_SUPPLIES = 60, 30
AT_ONCE = 6
"""Cells that one search of the queue computes, so that the first ones come soon."""
HIGH_V = 180.0
"""Between the volts of a 120 V leg and a 230 V one [V]."""


@dataclass(frozen=True)
class Cell:
    """One rig on one supply: the setup that asks about it, or that none does yet."""

    rig: int
    supply: int
    ident: str
    setup: SavedSetup | None
    bar: Bar | None
    others: int
    fits: bool
    barred: bool = False
    """Its verdict cannot be computed: its figures have to be looked at."""


@dataclass(frozen=True)
class Row:
    """A rig with its cells, one for each supply."""

    rig: Rig
    words: str
    cells: list[Cell]


@dataclass(frozen=True)
class Board:
    """The grid, whether some of it is still to be computed, and the setups it was made of, the
    newest first.
    """

    supplies: list[tuple[Supply, str]]
    rows: list[Row]
    waits: bool
    setups: list[SavedSetup]


def _is_high(document: Document) -> bool:
    """Whether a supply brings 230 V to a leg."""
    try:
        return read_supply(document).service_v > HIGH_V
    except SetupError:
        return False


def _words(rig: Rig) -> str:
    loads = rig.document["loads"]
    built = {"120": "one leg", "120/240": "two legs", "230": "230 V"}[
        rig.document.get("service", "120")
    ]
    cools = sum(1 for x in loads if x["kind"] == "air-conditioner")
    units = f", {cools} air conditioner{'s' if cools > 1 else ''}" if cools else ""
    return f"{built}, {rig.document.get('main_a', 30):g} A main{units}"


def board_of(account: User, query: str = "") -> Board:
    """The Board of an account; ``query`` leaves the rigs and supplies with those words in the
    name, and what of the other kind they are asked about with.
    """
    setups = setups_of(account)
    requested = by_pair(setups)
    rigs = list(Rig.objects.current(account).order_by("-updated_at", "-id")[:MAX_RIGS])
    supplies = list(Supply.objects.current(account).order_by("-updated_at", "-id"))
    if query:
        rigs, supplies = _searched(rigs, supplies, requested, query.casefold())
    used = {s.pk: sum(1 for _, supply in requested if supply == s.pk) for s in supplies}
    supplies.sort(key=lambda s: -used[s.pk])
    supplies = supplies[:MAX_SUPPLIES]
    high = {s.pk: _is_high(s.document) for s in supplies}
    rows = []
    for rig in rigs:
        is_high = rig.document.get("service") == "230"
        cells = [
            cell_of(rig.pk, s.pk, requested.get((rig.pk, s.pk), []), fits=high[s.pk] == is_high)
            for s in supplies
        ]
        rows.append(Row(rig, _words(rig), cells))
    waits = any(c.setup is not None and c.setup.stale for row in rows for c in row.cells)
    return Board([(s, short_name(s.document)) for s in supplies], rows, waits, setups)


def setups_of(account: User) -> list[SavedSetup]:
    """What stands on a rig and a supply of the inventory, the newest first."""
    found = SavedSetup.objects.current(account).exclude(rig=None).exclude(supply=None)
    return list(found.defer("document").order_by("-updated_at", "-id"))


def by_pair(setups: list[SavedSetup]) -> dict[tuple[int, int], list[SavedSetup]]:
    """The setups of each rig on each supply, in the order they came."""
    requested: dict[tuple[int, int], list[SavedSetup]] = {}
    for setup in setups:
        requested.setdefault((setup.rig_id or 0, setup.supply_id or 0), []).append(setup)
    return requested


def _searched(
    rigs: list[Rig],
    supplies: list[Supply],
    requested: dict[tuple[int, int], list[SavedSetup]],
    words: str,
) -> tuple[list[Rig], list[Supply]]:
    named_rigs = {r.pk for r in rigs if words in r.name.casefold()}
    named_supplies = {s.pk for s in supplies if words in s.name.casefold()}
    near_rigs = named_rigs or {r for r, s in requested if s in named_supplies}
    near_supplies = named_supplies or {s for r, s in requested if r in named_rigs}
    return ([r for r in rigs if r.pk in near_rigs], [s for s in supplies if s.pk in near_supplies])


def cell_of(
    rig: int, supply: int, setups: list[SavedSetup], *, fits: bool = True, barred: bool = False
) -> Cell:
    """A cell: the setup that was changed last speaks for it."""
    first = setups[0] if setups else None
    known = first is not None and not first.stale
    bar = small_bar(first.iron_margin, first.verdict) if first is not None and known else None
    others = max(len(setups) - 1, 0)
    return Cell(rig, supply, f"cell-{rig}-{supply}", first, bar, others, fits, barred)


def computed_cells(account: User, waiting: list[int]) -> tuple[list[Cell], bool]:
    """The cells of some setups that have been computed since, and whether others are not yet.

    Some of those that wait are put in line; their verdicts are stored as they come.
    """
    mine = SavedSetup.objects.current(account).filter(pk__in=waiting)
    held = list(mine.select_related("rig", "supply").order_by("-updated_at", "-id"))
    stale = [setup for setup in held if setup.stale]
    barred = _compute(account, stale[:AT_ONCE]) if stale else set()
    done = [setup for setup in held if not setup.stale or setup.pk in barred]
    requested = by_pair(setups_of(account)) if done else {}
    cells = []
    for s in done:
        if s.rig_id and s.supply_id:
            others = [x for x in requested.get((s.rig_id, s.supply_id), []) if x.pk != s.pk]
            cells.append(cell_of(s.rig_id, s.supply_id, [s, *others], barred=s.pk in barred))
    return cells, len(done) < len(held)


def _compute(account: User, some: list[SavedSetup]) -> set[int]:
    """Ask the queue for the verdicts of some setups, and store what it has found; the numbers of
    those that have none: their figures have to be corrected, or their search failed.
    """
    sound: list[tuple[SavedSetup, Document]] = []
    for setup in some:
        document, _ = plain_document(repository.compose(setup))
        if document is not None:
            sound.append((setup, document))
    barred = {setup.pk for setup in some} - {setup.pk for setup, _ in sound}
    if not sound:
        return barred
    tasks = {"rows": [{"pk": setup.pk, "document": document} for setup, document in sound]}
    if jobs.failed(account, "cells", sound[0][1], tasks):
        return {setup.pk for setup in some}
    job = jobs.ask(account, "cells", sound[0][1], tasks)
    if job.status != jobs.DONE:
        return barred
    found = {row["pk"]: row for row in job.found["rows"]}
    for setup, _ in sound:
        repository.note_verdict(setup, {k: v for k, v in found[setup.pk].items() if k != "pk"})
    return barred


def closest(account: User) -> SavedSetup | None:
    """The failing setup that lacks least."""
    mine = SavedSetup.objects.current(account).filter(stale=False, verdict="fails")
    found: SavedSetup | None = mine.defer("document").order_by("-iron_margin").first()
    return found


def least_certain(board: Board) -> tuple[Rig, int, int] | None:
    """The rig with the most loads on typical figures: how many, of how many."""
    best: tuple[Rig, int, int] | None = None
    for row in board.rows:
        loads = row.rig.document["loads"]
        typical = sum(1 for x in loads if x.get("from", "typical") == "typical")
        if typical and (best is None or typical > best[1]):
            best = (row.rig, typical, len(loads))
    return best


def last_changed(account: User) -> list[SavedSetup]:
    """The three setups that were changed last."""
    mine = SavedSetup.objects.current(account).defer("document").order_by("-updated_at", "-id")
    return list(mine[:3])
