"""One printed page set in type, in a process of its own: it knows no Django and no stored row."""

from __future__ import annotations

import ctypes
import os
import resource
import signal
from functools import cache
from pathlib import Path

os.environ.setdefault("SOURCE_DATE_EPOCH", "1767225600")
# The moment fonts say they were made at: without it every print would differ.
HERE = Path(__file__).parent
FONTS = HERE / "static" / "design" / "fonts"
PR_SET_PDEATHSIG = 1


def begin(max_bytes: int) -> None:
    """Make this process one that prints: bounded in memory, and gone with who made it."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (max_bytes, max_bytes))


def _fetcher() -> object:
    """Printing reads the shipped fonts and nothing else: no address, no other file."""
    from weasyprint.urls import URLFetcher

    class ShippedFonts(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: object = None) -> object:
            if not url.startswith(FONTS.as_uri() + "/") or ".." in url:
                raise ValueError("printing fetches nothing")
            return super().fetch(url, headers)

    return ShippedFonts(allowed_protocols=("file",))


@cache
def _styles(name: str) -> str:
    return (HERE / "print" / name).read_text(encoding="utf-8").replace("FONTS", FONTS.as_uri())


def typeset(
    html: str, styles: str, identifier: bytes, more_css: str, fit: tuple[float, ...]
) -> bytes:
    """HTML as PDF. Of the sizes of type in ``fit`` [pt], largest first, the first that fills one
    page; else the last.
    """
    from weasyprint import CSS, HTML  # what only prints need, no web process holds
    from weasyprint.document import Document
    from weasyprint.text.fonts import FontConfiguration

    fonts, fetcher = FontConfiguration(), _fetcher()
    page = HTML(string=html, url_fetcher=fetcher)

    def laid_out(css: str) -> Document:
        words = _styles("fonts.css") + _styles(styles) + more_css + css
        sheet = CSS(string=words, font_config=fonts, url_fetcher=fetcher)
        return page.render(stylesheets=[sheet], font_config=fonts)

    found = None
    for points in fit:
        found = laid_out(f"body[class] {{ font-size: {points:g}pt; }}")
        if len(found.pages) == 1:
            break
    found = found if found is not None else laid_out("")
    raw: bytes = found.write_pdf(pdf_identifier=identifier)
    return raw
