"""Searches that take longer than a page may.

Each runs as the core's own command line in a process of its own, so that it takes nothing from the
pages' workers and can be stopped at once; a thread reads its progress into the database, where any
worker finds it. A process pool inside the web server would die with a worker and could not be
stopped in the middle of a search; a task queue would be one more server.
"""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import tempfile
import threading
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import close_old_connections, connection
from django.utils import timezone

from web.verdicts.models import Job
from web.verdicts.shown import content_key

OPTIONS = {"remedies": ["--progress"]}
AT_ONCE = threading.BoundedSemaphore(1)
"""Searches of one web worker at the same time."""
LEASH = ["setpriv", "--pdeathsig", "KILL"] if shutil.which("setpriv") else []
"""Debian's util-linux: a search must not outlive the server that began it."""
PATIENCE_S = 90
SILENT = timedelta(seconds=60)
"""A search nobody has heard of for so long went down with its worker and is begun again."""
MOST_JOBS = 200
MOST_SAID = 12
MOST_LIVE = 6
"""Searches one owner may have waiting or running."""
DONE, FAILED, CANCELLED, RUNNING, WAITING = "done", "failed", "cancelled", "running", "waiting"


def ask(
    owner: Any, kind: str, document: dict[str, Any], tasks: dict[str, Any] | None = None
) -> Job:
    """The search for a question: the one that was done before, else a new one, begun. ``kind`` is a
    command of the core's command line.
    """
    key = content_key(document, kind, tasks)
    job, made = Job.objects.get_or_create(
        owner=owner, kind=kind, key=key, defaults={"document": document, "tasks": tasks}
    )
    lost = job.status in (RUNNING, WAITING) and job.beat_at < timezone.now() - SILENT
    if made or lost or job.status in (FAILED, CANCELLED):
        Job.objects.filter(pk=job.pk).update(
            status=WAITING, done=0, todo=0, answer=None, beat_at=timezone.now(), document=document
        )
        job.refresh_from_db()
        _forget_old(owner)
        _overtake(job)
        _begin(job)
        return Job.objects.filter(pk=job.pk).first() or job
    return job


def _forget_old(owner: Any) -> None:
    old = list(
        Job.objects.filter(owner=owner)
        .order_by("-beat_at")
        .values_list("pk", flat=True)[MOST_JOBS:]
    )
    Job.objects.filter(pk__in=old).delete()


def _overtake(job: Job) -> None:
    """Stop the oldest searches of an owner who asks for many at once: nobody waits for them any
    more.
    """
    live = (
        Job.objects.filter(owner=job.owner_id, status__in=(WAITING, RUNNING))
        .order_by("-beat_at", "-id")
        .values_list("pk", flat=True)
    )
    Job.objects.filter(pk__in=list(live[MOST_LIVE:])).exclude(pk=job.pk).update(status=CANCELLED)


def _begin(job: Job) -> None:
    if settings.JOBS_INLINE:
        work(job.pk)
    else:
        threading.Thread(target=_in_thread, args=(job.pk,), daemon=True).start()


def _in_thread(pk: int) -> None:
    try:
        with AT_ONCE:
            work(pk)
    finally:
        close_old_connections()
        connection.close()


def cancel(job: Job) -> None:
    """Stop a search; its process is ended by the thread that reads it."""
    Job.objects.filter(pk=job.pk, status__in=(WAITING, RUNNING)).update(status=CANCELLED)


def work(pk: int) -> None:
    """Run one search to its end, or until it is cancelled."""
    if not Job.objects.filter(pk=pk, status=WAITING).update(status=RUNNING, beat_at=timezone.now()):
        return
    job = Job.objects.get(pk=pk)
    with tempfile.TemporaryDirectory(prefix="ironmargin-job-") as folder:
        file = Path(folder) / "q.setup.json"
        file.write_text(json.dumps(job.document), encoding="utf-8")
        out = (Path(folder) / "out").open("w+b")
        options = OPTIONS.get(job.kind, [])
        if job.tasks is not None:
            (Path(folder) / "tasks.json").write_text(json.dumps(job.tasks), encoding="utf-8")
            options = ["--tasks", str(Path(folder) / "tasks.json")]
        # Our own command, its kind one of ours, its files of our making; it dies with whoever
        # started it.
        process = subprocess.Popen(  # noqa: S603
            [*LEASH, sys.executable, "-m", "ironmargin", job.kind, str(file), "--json", *options],
            stdout=out,
            stderr=subprocess.PIPE,
            text=True,
            cwd=settings.BASE_DIR,
        )
        watch = threading.Timer(PATIENCE_S, process.kill)
        watch.start()
        try:
            said: list[str] = []
            for line in process.stderr or ():
                said = [*said, line.strip()][-MOST_SAID:]
                if not _note(job, line):
                    process.kill()
            code = process.wait()
        finally:
            watch.cancel()
        out.seek(0)
        raw = out.read()
        out.close()
    failed = {"status": FAILED, "answer": {"why": "\n".join(said)[:2000] or "it took too long"}}
    fresh = {"status": DONE, "answer": json.loads(raw)} if code == 0 and raw else failed
    Job.objects.filter(pk=pk, status=RUNNING).update(**fresh, beat_at=timezone.now())


def _note(job: Job, line: str) -> bool:
    """Keep a line of progress; False where the search was cancelled meanwhile."""
    try:
        said = json.loads(line)
        done, todo = int(said["tried"]), int(said["of"])
    except (ValueError, KeyError, TypeError):
        return True
    return bool(
        Job.objects.filter(pk=job.pk, status=RUNNING).update(
            done=done, todo=todo, beat_at=timezone.now()
        )
    )
