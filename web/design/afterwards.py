"""Work that nobody waits for: done once the answer to a request is on its way, in its own thread.

What is lost with a killed process may be lost: a copy kept for the next time, a moment of use.
What was acknowledged to a person never belongs here.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable

from django.core.signals import request_finished, request_started

log = logging.getLogger(__name__)


class _Waiting(threading.local):
    """What waits for the end of this thread's request, None outside of one; and what it has made
    that is not stored yet.
    """

    work: list[Callable[[], object]] | None = None

    def __init__(self) -> None:
        self.made: dict[str, str] = {}


waiting = _Waiting()


def afterwards(work: Callable[[], object]) -> None:
    """Do something after the answer; at once where there is no request."""
    if waiting.work is None:
        work()
    else:
        waiting.work.append(work)


def store_afterwards(key: str, text: str, store: Callable[[str, str], object]) -> None:
    """Store a text after the answer; until then :func:`made_already` finds it."""
    if waiting.work is not None:
        waiting.made[key] = text
    afterwards(lambda: store(key, text))


def made_already(key: str) -> str | None:
    """What this request has made and not stored yet."""
    return waiting.made.get(key)


def _begin(**_: object) -> None:
    waiting.work, waiting.made = [], {}


def _end(**_: object) -> None:
    todo, waiting.work = waiting.work or [], None
    waiting.made = {}
    for work in todo:
        try:
            work()
        except Exception:  # the answer has gone: there is nobody to tell but the log
            log.exception("what was left for after the answer failed")


request_started.connect(_begin, dispatch_uid="afterwards")
request_finished.connect(_end, dispatch_uid="afterwards")
