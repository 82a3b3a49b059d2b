"""What the page of a setup shows that is too large to be checked while a page waits."""

from __future__ import annotations

import json

from django.contrib.auth.models import User

from ironmargin.document import Document
from web.verdicts import jobs
from web.verdicts.view_model import plain_document, store


def in_line(
    owner: User,
    document: Document,
    picture: str | None = None,
    over: Document | None = None,
    *,
    mine: bool = True,
) -> tuple[Document | None, Document]:
    """What the queue has computed of it, or how far it is with it: ``job`` with its ``place``, or
    the ``advice`` of a queue that is full.

    Args:
        mine: who asks may begin it again where it failed; others may not, or a page left open would
        keep the worker of its owner busy.
    """
    plain, _ = plain_document(document)
    other, _ = plain_document(over) if over is not None else (None, ())
    assert plain is not None
    tasks = {"picture": picture, "against": other}
    if not mine and jobs.failed(owner, "large", plain, tasks):
        return None, {"advice": "It could not be computed. Ask who shared it."}
    try:
        job = jobs.ask(owner, "large", plain, tasks)
    except jobs.Busy as busy:
        return None, {"advice": busy.advice}
    if job.status != jobs.DONE:
        place = jobs.place_of(job) if job.status == jobs.WAITING else 0
        return None, {"job": job, "place": place}
    store(plain, picture, other, json.dumps(job.found))
    return job.found, {}
