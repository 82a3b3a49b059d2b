"""Dear verdicts that programs ask for, computed in a subprocess that stands behind the pages:
however many ask, a page has the core when it wants it.
"""

from __future__ import annotations

import os
import resource
import threading

from ironmargin.document import Document
from ironmargin.planning.answer import check_fully
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.work import work_of
from ironmargin.verdict.result import result_json
from web.design.pool import NotDone, SubprocessPool

CHEAP = 100_000
"""Work, as :func:`ironmargin.setup.work.work_of` counts it, that is done where it is asked: a rig
of four compressors and sixteen other loads, seventy milliseconds (measured)."""
NICE = 19
MAX_BYTES = 1 << 30
MAX_S, MAX_WAIT_S = 10.0, 15.0
"""What a verdict may take, and with the beginning of its process [s]."""
MAX_INSIDE = 1
"""Requests of a web process that wait for such a verdict: each holds a thread that pages need. Who
comes meanwhile is told to come again."""
VERDICTS_A_PROCESS = 500


def _begin(nice: int) -> None:
    """In the subprocess."""
    os.nice(nice)
    resource.setrlimit(resource.RLIMIT_AS, (MAX_BYTES, MAX_BYTES))


def _verdict(document: Document) -> Document:
    return result_json(check_fully(read_setup(document), remedy=False).result)


class Full(Exception):
    """Others wait for such a verdict already, or this one took too long."""

    advice = (
        "Other verdicts of this size are being computed. Ask again in a few seconds, or ask for a "
        "task of the kind large."
    )


class Lane(SubprocessPool):
    """The subprocess, and how many wait for it.

    Attributes:
        inside: places for those who wait.
    """

    def __init__(self, nice: int = NICE) -> None:
        super().__init__(VERDICTS_A_PROCESS, _begin, nice, max_s=MAX_S, max_wait_s=MAX_WAIT_S)
        self.inside = threading.BoundedSemaphore(MAX_INSIDE)

    def verdict(self, setup: Setup) -> Document:
        """The verdict of a setup, as the ``check`` command gives it.

        Raises:
            Full: others wait for theirs already, or it took too long.
        """
        if not self.inside.acquire(blocking=False):
            raise Full
        try:
            return self.ask(_verdict, write_setup(setup))
        except NotDone:
            raise Full from None
        finally:
            self.inside.release()


LANE = Lane()


def is_dear(setup: Setup) -> bool:
    """Whether a verdict is left to the subprocess."""
    return work_of(setup) > CHEAP
