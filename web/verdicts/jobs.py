"""Searches that take longer than a page may: asked for here, run by worker processes from a queue.

The queue is django-tasks on the database. A worker makes a child of itself for each search. It
listens to the child and to the database: a search that was cancelled, or whose page was
left, ends within a second; one whose worker was killed is taken up again, once. Each beginning has
a turn of its own, so that a task from an earlier one finds nothing to do.
"""

from __future__ import annotations

import json
import time
from datetime import timedelta
from multiprocessing.connection import Connection

from django.conf import settings
from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.db.models import F, Q
from django.utils import timezone
from django_tasks import task

from ironmargin.document import Document
from ironmargin.errors import SetupError
from web.storage.line import is_lost
from web.storage.subprocesses import child_at
from web.verdicts import searches
from web.verdicts.models import Job
from web.verdicts.view_model import content_key

PATIENCE_S = 90.0
MAX_MEMORY = 3 * 1024**3
LISTEN_S = 0.25
"""How often a worker looks whether its search is still wanted."""
LOST = timedelta(seconds=15)
"""A running search nobody has heard of for so long went down with its worker."""
LEFT = timedelta(seconds=20)
"""A search whose page has not asked for so long is not waited for any more."""
GRACE = timedelta(seconds=1)
MAX_TURNS = 2
MAX_JOBS = 200
MAX_LIVE = 6
"""Searches one owner may have waiting or running."""
MAX_WAITING = 300
"""Searches that may wait in all."""
DONE, FAILED, CANCELLED, RUNNING, WAITING = "done", "failed", "cancelled", "running", "waiting"
LIVE = (WAITING, RUNNING)


class Busy(Exception):
    """So many searches wait that no more are taken in."""

    advice = "Many searches are waiting just now. Try again in a minute; nothing is lost."


def ask(owner: User, kind: str, document: Document, tasks: Document | None = None) -> Job:
    """The search for a question: the one that was done before, else a new one, begun.

    Raises:
        Busy: too many are waiting, or the owner is gone.
    """
    key = content_key(document, kind, tasks)
    job = Job.objects.filter(owner=owner, kind=kind, key=key).first()
    if job is not None and job.status not in (FAILED, CANCELLED):
        return look(job)
    rank = _room(owner, job)
    fresh = {"document": document, "tasks": tasks} | _waiting(rank)
    if job is None:
        try:
            job, made = Job.objects.get_or_create(
                owner=owner, kind=kind, key=key, defaults=fresh | {"turn": 1, "tried": 1}
            )
        except IntegrityError:  # whose account was deleted in this moment
            raise Busy from None
        if not made:  # the same question from another page, in the same moment
            return look(job)
    else:
        Job.objects.filter(pk=job.pk).update(**fresh, turn=F("turn") + 1, tried=1)
        _refresh(job)
    _line_up(job)
    return job


def failed(owner: User, kind: str, document: Document, tasks: Document | None) -> bool:
    """Whether this was asked before and failed; asking again begins it again."""
    key = content_key(document, kind, tasks)
    return Job.objects.filter(owner=owner, kind=kind, key=key, status=FAILED).exists()


def look(job: Job) -> Job:
    """A search as it stands, noted as still waited for; taken up again where its worker was
    lost.
    """
    Job.objects.filter(pk=job.pk).update(seen_at=timezone.now())
    _refresh(job)
    if is_lost(job, run_search, LOST):
        if job.tried < MAX_TURNS:
            _begin(job)
        else:
            why = {"why": "its worker stopped twice; a smaller question may work"}
            Job.objects.filter(pk=job.pk, turn=job.turn, status=job.status).update(
                status=FAILED, answer=why
            )
        _refresh(job)
    return job


def place_of(job: Job) -> int:
    """How many wait before a waiting search, itself counted."""
    ahead = Job.objects.filter(status=WAITING).filter(
        Q(rank__lt=job.rank) | Q(rank=job.rank, beat_at__lt=job.beat_at)
    )
    return ahead.count() + 1


def forget_old(owner_id: int) -> None:
    """Keep the newest searches of an owner and let the rest go."""
    old = Job.objects.filter(owner=owner_id).order_by("-beat_at").values_list("pk", flat=True)
    Job.objects.filter(pk__in=list(old[MAX_JOBS : MAX_JOBS + 50])).delete()


def _room(owner: User, job: Job | None) -> int:
    """The rank of a search that is to be put in line: behind what others asked for first, the more
    so the more its owner has waiting. The oldest of an owner who asks for many at once are stopped:
    nobody waits for them any more.

    Raises:
        Busy: too many are waiting.
    """
    live = Job.objects.filter(owner=owner, status__in=LIVE).order_by("-beat_at", "-id")
    others = [pk for pk in live.values_list("pk", flat=True) if job is None or pk != job.pk]
    if stale := others[MAX_LIVE - 1 :]:
        Job.objects.filter(pk__in=stale).update(status=CANCELLED)
    if Job.objects.filter(status=WAITING).count() >= MAX_WAITING:
        if job is not None:
            Job.objects.filter(pk=job.pk).update(status=CANCELLED)
        raise Busy
    return len(others) - len(stale)


def _waiting(rank: int) -> dict[str, object]:
    """What a row holds that has just been put in line."""
    now = timezone.now()
    return {
        "status": WAITING,
        "done": 0,
        "todo": 0,
        "answer": None,
        "rank": rank,
        "beat_at": now,
        "seen_at": now,
    }


def _begin(job: Job) -> None:
    """Put a search whose worker was lost in line again."""
    rank = _room(job.owner, job)
    Job.objects.filter(pk=job.pk).update(**_waiting(rank), turn=F("turn") + 1, tried=F("tried") + 1)
    _refresh(job)
    _line_up(job)


def _line_up(job: Job) -> None:
    """Hand the turn of a search to the queue."""
    if settings.JOBS_INLINE:
        _inline(job)
    else:
        transaction.on_commit(lambda: _enqueue(job, -min(job.rank, 100)))


def _enqueue(job: Job, priority: int) -> None:
    run_search.using(priority=priority).enqueue(job.pk, job.turn)


def cancel(job: Job) -> None:
    """Stop a search; its process is ended by the worker that listens to it."""
    Job.objects.filter(pk=job.pk, status__in=LIVE).update(status=CANCELLED)


def leave(owner: User, numbers: list[int]) -> None:
    """A page of an owner's was left: its searches end in a second, unless another page asks for
    them until then.
    """
    forgotten = timezone.now() - LEFT + GRACE
    Job.objects.filter(owner=owner, pk__in=numbers, status__in=LIVE).update(seen_at=forgotten)


@task()
def run_search(pk: int, turn: int) -> None:
    """Run one turn of a search to its end, or until nobody wants it any more."""
    wanted = Job.objects.filter(pk=pk, turn=turn, status=WAITING)
    if wanted.filter(seen_at__lt=timezone.now() - LEFT).update(status=CANCELLED):
        return
    if not wanted.update(status=RUNNING, beat_at=timezone.now()):
        return
    job = Job.objects.get(pk=pk)
    requested = (job.kind, job.document, job.tasks)
    with child_at(_search, *requested, max_bytes=MAX_MEMORY) as pipe:
        fresh = _listen(job, pipe)
    if fresh is not None:
        Job.objects.filter(pk=pk, turn=turn, status=RUNNING).update(**fresh, beat_at=timezone.now())
    forget_old(job.owner_id)


def _listen(job: Job, pipe: Connection) -> Document | None:
    """What a child found; None where the search was cancelled or left meanwhile."""
    until = time.monotonic() + PATIENCE_S
    mine = Job.objects.filter(pk=job.pk, turn=job.turn, status=RUNNING)
    progress: dict[str, int] = {}
    while time.monotonic() < until:
        try:
            while pipe.poll(0 if progress else LISTEN_S):
                kind, said = pipe.recv()
                if kind != "progress":
                    return {"status": kind, "answer": said}
                progress = said
        except EOFError:
            return {"status": FAILED, "answer": {"why": "it ended without an answer"}}
        if not mine.update(**progress, beat_at=timezone.now()):
            return None
        progress = {}
        if mine.filter(seen_at__lt=timezone.now() - LEFT).update(status=CANCELLED):
            return None
    return {"status": FAILED, "answer": {"why": "it took too long"}}


def _search(theirs: Connection, kind: str, document: Document, tasks: Document | None) -> None:
    """A search in its own process."""

    def progress(done: int, todo: int) -> None:
        theirs.send(("progress", {"done": done, "todo": todo}))

    try:
        answer = json.loads(json.dumps(searches.run(kind, document, tasks, progress)))
        theirs.send((DONE, answer))
    except SetupError as error:
        theirs.send((FAILED, {"why": "\n".join(map(str, error.faults))[:2000]}))


def _refresh(job: Job) -> None:
    """A search as its row stands; one whose row is gone, with its owner, counts as cancelled."""
    try:
        job.refresh_from_db()
    except Job.DoesNotExist:
        job.status = CANCELLED


def _inline(job: Job) -> None:
    """A search in this very process, for tests that wait for nothing."""
    try:
        answer = searches.run(job.kind, job.document, job.tasks, lambda done, todo: None)
        fresh = {"status": DONE, "answer": json.loads(json.dumps(answer))}
    except SetupError as error:
        fresh = {"status": FAILED, "answer": {"why": "\n".join(map(str, error.faults))[:2000]}}
    Job.objects.filter(pk=job.pk, status=WAITING).update(**fresh, beat_at=timezone.now())
    _refresh(job)
