"""A process that works apart from the pages: made when it is first needed, and again when it went;
no fork of the one that pages come from.
"""

from __future__ import annotations

import multiprocessing
import threading
from collections.abc import Callable
from typing import Any

from pebble import ProcessPool


class ApartPool:
    """One process apart.

    Attributes:
        most_tasks: after so many it is made anew; begin, args: what it does first.
    """

    def __init__(self, most_tasks: int, begin: Callable[..., None], *args: Any) -> None:
        self.most_tasks, self.begin, self.args = most_tasks, begin, args
        self.lock = threading.Lock()
        self.pool: ProcessPool | None = None

    def begun(self) -> ProcessPool:
        """The process, at work."""
        with self.lock:
            if self.pool is None or not self.pool.active:
                self.pool = ProcessPool(
                    max_workers=1,
                    max_tasks=self.most_tasks,
                    initializer=self.begin,
                    initargs=list(self.args),
                    context=multiprocessing.get_context("forkserver"),
                )
            return self.pool
