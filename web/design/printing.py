"""Pages on paper: set in processes apart (pebble), each bounded in memory and a print in time, so
that no page costs a web server more than that. The same content gives the same bytes.
"""

from __future__ import annotations

import hashlib
import multiprocessing
import threading
from concurrent.futures import CancelledError
from functools import lru_cache

from django.http import HttpResponse
from django.utils.text import slugify
from pebble import ProcessExpired, ProcessPool

from web.design import typeset

AT_ONCE = 1
"""Prints a web process has made side by side; there are as many web processes as cores."""
PRINTS_A_PROCESS = 50
MOST_MEMORY = 1 << 30
MOST_S, MOST_WAIT_S = 15.0, 18.0
"""How long a print may take, and how long one is waited for, its line included: less than the
deadline of a request.
"""
KEPT_PRINTS = 24
"""Prints kept by each web process: a shared link may be asked for again and again."""


PAPER_CSS = {"letter": "", "a4": "@page { size: A4; }"}
"""More style for each size of paper; what is printed is set for letter."""


class NotPrinted(Exception):
    """A print that needs more time or memory than it may have."""

    advice = (
        "This page could not be set for paper in the time and memory a print may have. Try it "
        "again in a minute; if it fails again, print a smaller setup, or take its file."
    )


class Printers:
    """The processes that print, made when the first is needed."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.pool: ProcessPool | None = None

    def begun(self) -> ProcessPool:
        """The processes, which are no fork of this one: its threads and connections stay here."""
        with self.lock:
            if self.pool is None or not self.pool.active:
                server = multiprocessing.get_context("forkserver")
                server.set_forkserver_preload([typeset.__name__, "weasyprint"])
                self.pool = ProcessPool(
                    max_workers=AT_ONCE,
                    max_tasks=PRINTS_A_PROCESS,
                    initializer=typeset.begin,
                    initargs=[MOST_MEMORY],
                    context=server,
                )
            return self.pool


PRINTERS = Printers()


@lru_cache(maxsize=KEPT_PRINTS)
def to_pdf(
    html: str, styles: str, identity: str, more_css: str = "", fit: tuple[float, ...] = ()
) -> bytes:
    """HTML as PDF in one of the style sheets of ``print/``; the identifier follows from the
    content. Sizes of type in ``fit`` as :func:`web.design.typeset.typeset` has them.

    Raises:
        NotPrinted: it would take too long or too much.
    """
    identifier = hashlib.sha256(identity.encode()).hexdigest()[:32].encode()
    asked = [html, styles, identifier, more_css, fit]
    print_ = PRINTERS.begun().schedule(typeset.typeset, args=asked, timeout=MOST_S)
    try:
        raw: bytes = print_.result(timeout=MOST_WAIT_S)
    except (TimeoutError, MemoryError, ProcessExpired, CancelledError) as error:
        print_.cancel()  # type: ignore[no-untyped-call]
        raise NotPrinted from error
    return raw


def pdf_answer(raw: bytes, name: str, otherwise: str) -> HttpResponse:
    """A print to be kept under a name, or under another where that has no letters."""
    answer = HttpResponse(raw, content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(name) or otherwise}.pdf"'
    return answer
