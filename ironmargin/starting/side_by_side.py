"""Work on both cores at once, where its long parts run compiled and let other threads go on."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

Task = TypeVar("Task")
Found = TypeVar("Found")
CORES = len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
"""Cores this process may use."""


def side_by_side(work: Callable[[Task], Found], tasks: Sequence[Task]) -> list[Found]:
    """What the work makes of each task, in their order. Two threads take one task after another;
    the same figures as one by one, for work that shares nothing it changes.

    Raises:
        What the work raises; no task is begun after that.
    """
    if len(tasks) < 2 or CORES < 2:
        return [work(task) for task in tasks]
    found: list[Any] = [None] * len(tasks)
    failed: list[BaseException] = []
    left = iter(range(len(tasks)))

    def take() -> None:
        for at in left:
            found[at] = work(tasks[at])

    def help_out() -> None:
        try:
            take()
        except BaseException as error:
            failed.append(error)
            for _ in left:  # nobody begins another
                pass

    other = threading.Thread(target=help_out, daemon=True)
    try:
        other.start()
        take()
    finally:
        for _ in left:
            pass
        other.join()
    if failed:
        raise failed[0]
    return found
