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

from ironmargin.reaching.reach import up_to_words
from ironmargin.setup.reading import read_setup
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
def to_pdf(html: str, styles: str, identity: str, more_css: str = "") -> bytes:
    """HTML as PDF; the identifier follows from the content, so that the same content gives the same
    bytes.
    """
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration

    fonts, fetcher = FontConfiguration(), _fetcher()
    sheet = CSS(string=_styles(styles) + more_css, font_config=fonts, url_fetcher=fetcher)
    page = HTML(string=html, url_fetcher=fetcher)
    raw: bytes = page.write_pdf(
        stylesheets=[sheet],
        font_config=fonts,
        pdf_identifier=hashlib.sha256(identity.encode()).hexdigest()[:32].encode(),
    )
    return raw


@lru_cache(maxsize=KEPT_PRINTS)
def _up_to(text: str) -> str:
    return up_to_words(read_setup(json.loads(text)))


def up_to(document: dict[str, Any]) -> str:
    """How far a question holds, in heat and height; its load named."""
    words = _up_to(json.dumps(document, sort_keys=True))
    for load in document["rig"]["loads"]:
        words = words.replace(f"then {load['id']} gives", f"then {load['name']} gives")
    return words


def report_pdf(document: dict[str, Any]) -> bytes | None:
    """The report of a question; None where it has faults."""
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
        "loads": {f"rig.loads[{n}]": x["name"] for n, x in enumerate(document["rig"]["loads"])},
    }
    return to_pdf(
        render_to_string("verdicts/report.html", context),
        "report.css",
        content_key(document, document.get("name", ""), document.get("notes", "")),
    )
