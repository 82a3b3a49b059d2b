"""Work in a child of a worker process, which stays warm: the child begins at once, can be ended at
once, takes its memory with it, and goes with the worker that made it.
"""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import resource
import signal
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection

from django.db import connection

PR_SET_PDEATHSIG = 1
FAILED = "failed"
TOO_LARGE = {"why": "it needs more memory than it may have"}


@contextmanager
def child_at(work: Callable[..., None], *args: object, max_bytes: int) -> Iterator[Connection]:
    """A child at work, as the connection it tells of it; ended at the end.

    Args:
        work: called in the child with its end of the connection and ``args``. It may open the
            database anew. What needs more memory than ``max_bytes`` is told as failed.
    """
    connection.close()  # the child must not share it
    fork = multiprocessing.get_context("fork")
    ours, theirs = fork.Pipe(duplex=False)
    child = fork.Process(target=_begin, args=(theirs, work, args, max_bytes))
    child.start()
    theirs.close()
    try:
        yield ours
    finally:
        child.kill()
        child.join()
        ours.close()


def _begin(
    theirs: Connection, work: Callable[..., None], args: tuple[object, ...], max_bytes: int
) -> None:
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    parent = multiprocessing.parent_process()
    if parent is None or os.getppid() != parent.pid:
        return  # it went before this took hold
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    resource.setrlimit(resource.RLIMIT_AS, (max_bytes, max_bytes))
    try:
        work(theirs, *args)
    except MemoryError:
        theirs.send((FAILED, TOO_LARGE))
