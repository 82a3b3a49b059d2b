"""A log out and in with its account: its entries, and what was kept with them."""

from __future__ import annotations

from typing import Any, cast

from django.utils import timezone

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.learning.entries import written_at
from ironmargin.learning.log import LOG_FORMAT, read_log
from ironmargin.setup.reading import read_setup
from web.design.pictures import NotAPicture
from web.logbook import evidence
from web.logbook.models import MAX_ENTRIES, LogEntry
from web.setups import repository
from web.setups.models import SavedSetup

EVIDENCE = "evidence"
"""Beside an entry of an account's zip: what was kept with it."""


def log_out(saved: SavedSetup) -> list[Document] | None:
    """A setup's own entries, as they go with its account."""
    held = LogEntry.objects.filter(setup=saved, deleted_at=None).select_related("evidence")
    found = []
    for entry in held:
        stored = evidence.out(entry)
        found.append(entry.document | ({EVIDENCE: stored} if stored else {}))
    return found or None


def log_take(saved: SavedSetup, data: object) -> None:
    """Put a log into a setup that was just taken in.

    Raises:
        SetupError: it is none, or has entries that are none of this setup.
    """
    setup = read_setup(repository.compose(saved))
    beside: dict[int, Any] = {}
    if isinstance(data, list):
        data = [dict(e) if isinstance(e, dict) else e for e in data]
        for at, entry in enumerate(data):
            if isinstance(entry, dict) and EVIDENCE in entry:
                beside[at] = entry.pop(EVIDENCE)
    faults = []
    try:
        read_log({"format": LOG_FORMAT, "version": 1, "entries": data}, setup)
    except SetupError as error:
        for f in error.faults:
            faults.append(Fault(f.path.replace("entries", "log", 1), f.code, f.message))
    stored: dict[int, tuple[str, bytes]] = {}
    for at, one in beside.items():
        try:
            stored[at] = evidence.taken(one)
        except NotAPicture as why:
            faults.append(Fault(f"log[{at}].{EVIDENCE}", EVIDENCE, str(why)))
    if faults:
        raise SetupError(faults)
    for at, entry in enumerate(cast(list[Document], data)[:MAX_ENTRIES]):
        when = written_at(entry["at"]) if entry.get("at") else timezone.now()
        row = LogEntry.objects.create(setup=saved, kind=entry["kind"], document=entry, at=when)
        refused = evidence.store(row, *stored[at]) if at in stored else ""
        if refused:
            raise SetupError([Fault(f"log[{at}].{EVIDENCE}", EVIDENCE, refused)])
