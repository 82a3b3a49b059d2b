"""A subprocess beside the pages: made when it is first needed, and again when it went;
no fork of the one that pages come from.
"""

from __future__ import annotations

import multiprocessing
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import CancelledError, TimeoutError
from typing import TypeVar

from django.conf import settings
from pebble import ProcessExpired, ProcessPool

T = TypeVar("T")
USUAL_DEADLINE_S = 20.0
"""The deadline of a request that the figures of every pool are meant for [s]."""


class NotDone(Exception):
    """Work that took too long or too much, or whose process went."""


class SubprocessPool:
    """One subprocess.

    Attributes:
        max_tasks: after so many it is made anew; begin, args: what it does first; preload:
            modules that it is made with; max_s, max_wait_s: what a task may take, and with its
            turn and the beginning of the process; where requests have a longer deadline than
            usual, or a shorter one, so have tasks [s].
    """

    def __init__(
        self,
        max_tasks: int,
        begin: Callable[..., None],
        *args: object,
        max_s: float,
        max_wait_s: float,
        preload: Sequence[str] = (),
    ) -> None:
        self.max_tasks, self.begin, self.args, self.preload = max_tasks, begin, args, preload
        self.max_s, self.max_wait_s = max_s, max_wait_s
        self.lock = threading.Lock()
        self.pool: ProcessPool | None = None

    def begun(self) -> ProcessPool:
        """The process, at work."""
        with self.lock:
            if self.pool is None or not self.pool.active:
                server = multiprocessing.get_context("forkserver")
                if self.preload:
                    server.set_forkserver_preload(list(self.preload))
                self.pool = ProcessPool(
                    max_workers=1,
                    max_tasks=self.max_tasks,
                    initializer=self.begin,
                    initargs=list(self.args),
                    context=server,
                )
            return self.pool

    def ask(self, work: Callable[..., T], *args: object) -> T:
        """What some work gives, done in the subprocess.

        Raises:
            NotDone: it takes too long or too much.
        """
        longer = settings.DEADLINE_S / USUAL_DEADLINE_S
        made = self.begun().schedule(work, args=list(args), timeout=longer * self.max_s)
        try:
            found: T = made.result(timeout=longer * self.max_wait_s)
        except (TimeoutError, MemoryError, ProcessExpired, CancelledError) as error:
            made.cancel()  # type: ignore[no-untyped-call]
            raise NotDone from error
        return found

    def end(self) -> None:
        """The process ends; the next task begins another."""
        with self.lock:
            if self.pool is not None:
                self.pool.stop()  # type: ignore[no-untyped-call]
                self.pool.join()
                self.pool = None
