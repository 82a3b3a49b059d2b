"""The same request sent twice makes one thing: a form that is pressed twice, a program that repeats
what it got no answer to.

A form carries a key of its own; a program sends Idempotency-Key. Of the first the answer is kept
for a day, by a hash of key, sender, address and everything that was sent, so that the same key with
other content is another request. Whoever sends it meanwhile waits for that answer.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from web.storage.models import Answered

FIELD, HEADER = "idempotency", "Idempotency-Key"
PROGRAMS = "/api/v1/"
MAX_KEY, MAX_BODY = 100, 200_000
STORED = timedelta(days=1)
LOST = timedelta(seconds=60)
"""A request nobody has answered for so long went down with its server."""
WAITS_S, LOOKS_S = 8.0, 0.1


def key_of(request: HttpRequest) -> str:
    """What a request is known by; empty where it says nothing, or nobody sends it."""
    said = request.headers.get(HEADER) or (
        request.POST.get(FIELD, "") if not request.path.startswith(PROGRAMS) else ""
    )
    sender = request.headers.get("Authorization") or (
        f"user {request.user.pk}" if request.user.is_authenticated else ""
    )
    if not said or len(said) > MAX_KEY or not sender:
        return ""
    digest = hashlib.sha256()
    for part in (said, sender, request.get_full_path(), *_sent(request)):
        digest.update(hashlib.sha256(part.encode() if isinstance(part, str) else part).digest())
    return digest.hexdigest()


def _sent(request: HttpRequest) -> list[str | bytes]:
    """Everything that was sent but the form's own token."""
    if request.path.startswith(PROGRAMS):
        return [request.body]
    left_out = ("csrfmiddlewaretoken", FIELD)
    fields = [(k, v) for k, values in request.POST.lists() for v in values if k not in left_out]
    found: list[str | bytes] = [f"{k}={v}" for k, v in fields]
    files: Any = request.FILES
    for name in files:
        for file in files.getlist(name):
            found += [name, file.name or "", file.read()]
            file.seek(0)
    return found


class OnceOnly:
    """Answers a request that was sent before with what it was answered with."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.answer(request)
        key = getattr(request, "once_key", "")
        if key:
            _note(key, response, whole=request.path.startswith(PROGRAMS))
        return response

    def process_view(self, request: HttpRequest, view: object, *_: object) -> HttpResponse | None:
        """Take the request on, or give the answer of the first."""
        if request.method != "POST":
            return None
        key = key_of(request)
        if not key:
            return None
        try:
            with transaction.atomic():
                Answered.objects.create(key=key)
        except IntegrityError:
            return _first_answer(request, key)
        request.once_key = key  # type: ignore[attr-defined]
        return None


def _note(key: str, response: HttpResponse, *, whole: bool) -> None:
    """Keep the answer of a request that made something: where it led to, or, of the interface for
    programs, the ``whole`` of it. What failed may be sent again; what a page says is not kept, it
    may hold a secret that is shown once.
    """
    mine = Answered.objects.filter(pk=key)
    body = response.content if whole and not response.streaming else b""
    tells = "Location" in response or whole
    if response.status_code >= 400 or not tells or len(body) > MAX_BODY:
        mine.delete()
        return
    mine.update(
        status=response.status_code,
        location=response.get("Location", "")[:500],
        etag=response.get("ETag", "")[:100],
        content_type=response.get("Content-Type", "")[:100],
        body=body,
    )


def _first_answer(request: HttpRequest, key: str) -> HttpResponse | None:
    """The answer of the first of these requests, as soon as it is there; None where it was lost, so
    that this one takes its place.
    """
    until = time.monotonic() + WAITS_S
    while True:
        held = Answered.objects.filter(pk=key).first()
        if held is None or (not held.status and held.made_at < timezone.now() - LOST):
            Answered.objects.filter(pk=key, status=0).delete()
            return None
        if held.status:
            answer = HttpResponse(bytes(held.body), status=held.status)
            for name, value in (
                ("Content-Type", held.content_type),
                ("Location", held.location),
                ("ETag", held.etag),
            ):
                if value:
                    answer[name] = value
            return answer
        if time.monotonic() > until:
            context = {
                "title": "Still at work",
                "advice": "This was sent before and is still being done. Look again in a moment.",
            }
            return render(request, "design/error.html", context, status=409)
        time.sleep(LOOKS_S)


def forget_old() -> int:
    """Let answers older than a day go; how many went."""
    gone, _ = Answered.objects.filter(made_at__lt=timezone.now() - STORED).delete()
    return gone
