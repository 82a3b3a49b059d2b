"""Work on both cores at once, where its long parts run compiled and let other threads go on."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import Any, TypeVar

Task = TypeVar("Task")
Found = TypeVar("Found")
CORES = len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
"""Cores this process may use."""


@cache
def _helper() -> ThreadPoolExecutor:
    """The one thread that helps whoever asks. It is kept: to start one anew waits for it to take
    the interpreter and give it back, some milliseconds each time.
    """
    return ThreadPoolExecutor(1, thread_name_prefix="side-by-side")


if hasattr(os, "register_at_fork"):  # a child has none of its parent's threads
    os.register_at_fork(after_in_child=_helper.cache_clear)


def side_by_side(work: Callable[[Task], Found], tasks: Sequence[Task]) -> list[Found]:
    """What the work makes of each task, in their order. Two threads take one task after another;
    the same figures as one by one, for work that shares nothing it changes. While the helper is
    busy elsewhere the caller does them alone.

    Args:
        work: a function that changes nothing it shares.
        tasks: what it is called with.

    Returns:
        The results, in the order of the tasks.

    Raises:
        BaseException: what the work raises; no task is begun after that.
    """
    if len(tasks) < 2 or CORES < 2:
        return [work(task) for task in tasks]
    found: list[Any] = [None] * len(tasks)
    left = iter(range(len(tasks)))

    def take() -> None:
        try:
            for at in left:
                found[at] = work(tasks[at])
        finally:
            for _ in left:  # after a failure nobody begins another
                pass

    other = _helper().submit(take)
    try:
        take()
    finally:
        if not other.cancel():
            other.exception()  # it has begun: wait for it, whatever becomes of the caller's own
    if not other.cancelled():
        other.result()
    return found
