"""What is kept of a client: plain words, each with its length, the rigs by number, and visits."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date

from ironmargin.document import Document

FIELDS = (
    ("site", "Site or pitch", 200),
    ("address", "Address", 400),
    ("contact", "Phone or e-mail", 200),
    ("notes", "Notes", 5000),
)
"""Name, words and most letters of each."""
MAX_RIGS, MAX_VISITS, MAX_TOLD = 50, 200, 1000


def empty() -> Document:
    """A client of whom only the name is known."""
    return {name: "" for name, _, _ in FIELDS} | {"rigs": [], "visits": []}


def words(value: object, maximum: int) -> str:
    """A text without control characters but for line ends, no longer than may be."""
    stored = (c for c in str(value or "") if c.isprintable() or c == "\n")
    return "".join(stored).strip()[:maximum]


def typed(document: Document, posted: Mapping[str, str]) -> Document:
    """The document with what was typed."""
    return document | {
        name: words(posted[name], maximum) for name, _, maximum in FIELDS if name in posted
    }


def day_of(on: str) -> date:
    """A day as typed; one that is none is today."""
    try:
        return date.fromisoformat(on.strip())
    except ValueError:
        return date.today()


def visited(document: Document, on: str, told: str) -> Document:
    """The document with one visit more, the newest first; a day that is none is today."""
    visit = {"on": day_of(on).isoformat(), "told": words(told, MAX_TOLD)}
    stored = [visit, *document["visits"]][:MAX_VISITS]
    return document | {"visits": sorted(stored, key=lambda v: v["on"], reverse=True)}


def sound(data: Mapping[str, object], rigs: list[int]) -> Document:
    """A document from a file, with the rigs as they are numbered here."""
    found = typed(empty(), {name: str(data.get(name) or "") for name, _, _ in FIELDS})
    visits = data.get("visits")
    for visit in reversed(visits if isinstance(visits, list) else []):
        if isinstance(visit, dict):
            found = visited(found, str(visit.get("on", "")), str(visit.get("told", "")))
    return found | {"rigs": rigs[:MAX_RIGS]}
