"""Pages on paper: set in subprocesses (pebble), each bounded in memory and a print in time, so
that no page costs a web server more than that. The same content gives the same bytes.
"""

from __future__ import annotations

import hashlib
from functools import lru_cache

from django.http import HttpResponse
from django.utils.text import slugify

from web.design import typeset
from web.design.pool import NotDone, SubprocessPool

PRINTS_A_PROCESS = 50
MAX_MEMORY = 1 << 30
MAX_S, MAX_WAIT_S = 15.0, 18.0
"""How long a print may take, and how long one is waited for, its line included: less than the
deadline of a request [s].
"""
STORED_PRINTS = 24
"""Prints kept by each web process: a shared link may be asked for again and again."""


PAPER_CSS = {"letter": "", "a4": "@page { size: A4; }"}
"""More style for each size of paper; what is printed is set for letter."""


class NotPrinted(Exception):
    """A print that needs more time or memory than it may have."""

    advice = (
        "This page could not be set for paper in the time and memory a print may have. Try it "
        "again in a minute; if it fails again, print a smaller setup, or take its file."
    )


def printer(max_bytes: int = MAX_MEMORY) -> SubprocessPool:
    """A process that prints, in so much memory [bytes]."""
    return SubprocessPool(
        PRINTS_A_PROCESS,
        typeset.begin,
        max_bytes,
        max_s=MAX_S,
        max_wait_s=MAX_WAIT_S,
        preload=(typeset.__name__, "weasyprint"),
    )


PRINTER = printer()


@lru_cache(maxsize=STORED_PRINTS)
def to_pdf(
    html: str, styles: str, identity: str, more_css: str = "", fit: tuple[float, ...] = ()
) -> bytes:
    """HTML as PDF in one of the style sheets of ``print/``; the identifier follows from the
    content. Sizes of type in ``fit`` as :func:`web.design.typeset.typeset` has them.

    Raises:
        NotPrinted: it would take too long or too much.
    """
    identifier = hashlib.sha256(identity.encode()).hexdigest()[:32].encode()
    requested = (html, styles, identifier, more_css, fit)
    try:
        return PRINTER.ask(typeset.typeset, *requested)
    except NotDone as error:
        raise NotPrinted from error


def pdf_answer(raw: bytes, name: str, otherwise: str) -> HttpResponse:
    """A print to be kept under a name, or under another where that has no letters."""
    answer = HttpResponse(raw, content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(name) or otherwise}.pdf"'
    return answer
