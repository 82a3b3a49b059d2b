"""Whether what waits or runs in the queue still has somebody who does it."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Protocol

from django.utils import timezone
from django_tasks_db.models import DBTaskResult

WAITING, RUNNING = "waiting", "running"


class Work(Protocol):
    """What a turn is taken for: a search or a transfer."""

    pk: int
    status: str
    turn: int
    beat_at: datetime


class Task(Protocol):
    """What the queue does, by where its code stands."""

    @property
    def module_path(self) -> str: ...


def is_lost(work: Work, task: Task, after: timedelta) -> bool:
    """Whether a search's or a transfer's turn went down with its worker: it runs and was not heard
    of for so long, or it waits and nobody is left to take it up, because its worker died as it did.
    """
    if work.beat_at >= timezone.now() - after:
        return False
    if work.status == WAITING:
        requested = DBTaskResult.objects.ready().filter(
            task_path=task.module_path, args_kwargs__args__0=work.pk, args_kwargs__args__1=work.turn
        )
        return not requested.exists()
    return bool(work.status == RUNNING)
