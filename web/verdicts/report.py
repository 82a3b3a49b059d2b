"""The printed report of a setup for a client: the same bytes for the same question."""

from __future__ import annotations

import hashlib
import json
import os
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

from django.conf import settings
from django.template.loader import render_to_string

from ironmargin.learning.running import demand_in
from ironmargin.planning.remedies import find_remedies
from ironmargin.reaching.reach import up_to_words
from ironmargin.setup.reading import read_setup
from ironmargin.setup.work import work_of
from web.verdicts.sentence import conditions_words
from web.verdicts.shown import content_key, shown

os.environ.setdefault("SOURCE_DATE_EPOCH", "1767225600")
# The moment fonts say they were made at: without it every print would differ.
KEPT_PRINTS = 24
"""Prints kept by each worker: a shared link may be asked for again and again."""
HERE = Path(__file__).parent
FONTS = Path(settings.BASE_DIR) / "web" / "design" / "static" / "design" / "fonts"


def _fetcher() -> Any:
    """Printing reads the shipped fonts and nothing else: no address, no other file."""
    from weasyprint.urls import URLFetcher

    class ShippedFonts(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: Any = None) -> Any:
            if not url.startswith(FONTS.as_uri() + "/") or ".." in url:
                raise ValueError("printing fetches nothing")
            return super().fetch(url, headers)

    return ShippedFonts(allowed_protocols=("file",))


@cache
def _styles(name: str) -> str:
    return (HERE / name).read_text(encoding="utf-8").replace("FONTS", FONTS.as_uri())


@lru_cache(maxsize=KEPT_PRINTS)
def to_pdf(
    html: str, styles: str, identity: str, more_css: str = "", fit: tuple[float, ...] = ()
) -> bytes:
    """HTML as PDF; the identifier follows from the content, so that the same content gives the same
    bytes. Of the sizes of type in ``fit`` [pt], largest first, the first that fills one page.
    """
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration

    fonts, fetcher = FontConfiguration(), _fetcher()
    page = HTML(string=html, url_fetcher=fetcher)

    def laid_out(css: str) -> Any:
        words = _styles(styles) + more_css + css
        sheet = CSS(string=words, font_config=fonts, url_fetcher=fetcher)
        return page.render(stylesheets=[sheet], font_config=fonts)

    found = None
    for points in fit:
        found = laid_out(f"body[class] {{ font-size: {points:g}pt; }}")
        if len(found.pages) == 1:
            break
    found = found if found is not None else laid_out("")
    name = hashlib.sha256(identity.encode()).hexdigest()[:32].encode()
    raw: bytes = found.write_pdf(pdf_identifier=name)
    return raw


@lru_cache(maxsize=KEPT_PRINTS)
def _up_to(text: str) -> str:
    setup = read_setup(json.loads(text))
    return up_to_words(setup) if work_of(setup) <= MOST_SEARCHED else ""


def up_to(document: dict[str, Any]) -> str:
    """How far a question holds, in heat and height; its load named. Nothing of a setup too large to
    be asked so often.
    """
    words = _up_to(json.dumps(document, sort_keys=True))
    for load in document["rig"]["loads"]:
        words = words.replace(f"then {load['id']} gives", f"then {load['name']} gives")
    return words


CLIENT = (("client", "For whom"), ("place", "Where"), ("by", "By whom"), ("date", "Date"))
"""What a report says of itself where it goes to a client."""
MOST_LETTERS = 120
MOST_REMEDIES = 3
MOST_PRINTED = 80
"""Loads on paper; a rig that has more is read from its file."""
MOST_SEARCHED = 60_000
"""Work of a check up to which a report tries every change and pair; of a larger setup it names
none, its page searches in the queue.
"""
TRIPPED = (
    "Note which one opened and what was running; a hand on the breaker tells whether it is warm.",
    "Switch the loads off, the air conditioners first, and leave them off for five minutes.",
    "Put the breaker fully off, then on; or stop the set, press its reset, and start it again.",
    "Start what is needed most, alone, and read amps and volts before the next.",
    "What opens again at once, is hot or smells stays off until a licensed electrician saw it.",
)
"""What to do after something opened (common practice, no source)."""


def report_pdf(document: dict[str, Any], client: dict[str, str] | None = None) -> bytes | None:
    """The report of a question, for a client where one is named; None where it has faults."""
    data, _ = shown(document)
    if data is None:
        return None
    context = data | {
        "document": document,
        "name": document.get("name", ""),
        "notes": document.get("notes", ""),
        "conditions_words": conditions_words(document, "si"),
        "conditions_us": conditions_words(document, "us"),
        "up_to": up_to(document),
        "client": [(words, client[key]) for key, words in CLIENT if client and client.get(key)],
        "asked": _asked(document),
        "more": max(len(document["rig"]["loads"]) - MOST_PRINTED, 0),
        "remedies": _remedies(document) if data["verdict"] != "holds" else (),
        "tripped": TRIPPED,
        "loads": {f"rig.loads[{n}]": x["name"] for n, x in enumerate(document["rig"]["loads"])},
    }
    return to_pdf(
        render_to_string("verdicts/report.html", context),
        "report.css",
        content_key(document, document.get("name", ""), document.get("notes", ""), client or {}),
    )


def _asked(document: dict[str, Any]) -> list[dict[str, Any]]:
    """The loads of the question: which are wanted, what each draws, and how that is known."""
    setup = read_setup(document)
    wanted = {w.load: w.mode for w in setup.wanted}
    rows = []
    for load in setup.rig.loads[:MOST_PRINTED]:
        mode = wanted.get(load.id)
        on = load.id in wanted or load.always_on
        amps = sum(d.amps for d in demand_in(setup, load.id, mode).steady) if on else None
        words = (mode or "on").replace("-", " ") if on else "off"
        lra = getattr(load, "lra_a", None)
        rows.append({"name": load.name, "mode": words, "amps": amps, "lra": lra, "on": on,
                     "known": load.provenance})  # fmt: skip
    return rows


@lru_cache(maxsize=KEPT_PRINTS)
def _found(text: str) -> tuple[tuple[str, str, float], ...]:
    setup = read_setup(json.loads(text))
    if work_of(setup) > MOST_SEARCHED:
        return ()
    found = find_remedies(setup).found[:MOST_REMEDIES]
    return tuple((r.what, r.verdict, r.iron_margin) for r in found)


def _remedies(document: dict[str, Any]) -> tuple[tuple[str, str, float], ...]:
    """What would make it hold, best first."""
    return _found(json.dumps(document, sort_keys=True))
