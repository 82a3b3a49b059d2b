"""How often something may be asked for: tries counted by what is tried and by whom, in the
database, so that every process counts the same.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from functools import wraps

from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.utils import timezone

from web.accounts.demo import DEMO_USER
from web.accounts.models import Tally


def address_of(request: HttpRequest) -> str:
    """Where a request comes from: the proxy's word where one stands before this, else the wire."""
    hops = settings.PROXIES
    said = str(request.headers.get("X-Forwarded-For", "")).split(",") if hops else []
    if hops and len(said) >= hops:
        return str(said[-hops]).strip()[:45]
    return str(request.META.get("REMOTE_ADDR", ""))[:45]


def person_of(request: HttpRequest) -> str:
    """Whoever is signed in; in the open demo, which is everybody's, whoever is at an address."""
    who = str(request.user.pk)
    return f"{who} {address_of(request)}" if request.user.get_username() == DEMO_USER else who


def mail_of(request: HttpRequest) -> str:
    """The mail address a letter is asked for."""
    return str(request.POST.get("email", "")).strip().lower()[:100]


def allowed(what: str, who: str, maximum: int, seconds: int, now: datetime | None = None) -> bool:
    """Count a try; whether it is within ``maximum`` in the stretch of ``seconds`` it falls into."""
    now = now or timezone.now()
    began = now - timedelta(seconds=now.timestamp() % seconds)
    key = f"{what}:{who}"[:120]
    table = Tally._meta.db_table
    with connection.cursor() as cursor:
        # One statement, so that two tries at once both count (MariaDB's own form of it).
        cursor.execute(
            f"INSERT INTO {table} (`key`, began, tries) VALUES (%s, %s, 1) "  # noqa: S608
            "ON DUPLICATE KEY UPDATE tries = IF(began = VALUES(began), tries + 1, 1), "
            "began = VALUES(began)",
            [key, began.replace(microsecond=0, tzinfo=None)],
        )
    return Tally.objects.get(key=key).tries <= maximum


View = Callable[..., HttpResponseBase]


def limited(
    what: str,
    *,
    by: Callable[[HttpRequest], str] = address_of,
    methods: tuple[str, ...] = ("POST",),
) -> Callable[[View], View]:
    """A view that may be asked for so often as ``settings.LIMITS`` says, by address or by whatever
    ``by`` makes of a request.
    """

    def wrap(view: View) -> View:
        @wraps(view)
        def counted(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponseBase:
            maximum, seconds = settings.LIMITS[what]
            if request.method in methods and not allowed(what, by(request), maximum, seconds):
                return too_often(request, seconds)
            return view(request, *args, **kwargs)

        return counted

    return wrap


def too_often(request: HttpRequest, seconds: int) -> HttpResponse:
    """What is said to who asks too often."""
    wait = f"{seconds // 60} minutes" if seconds > 90 else "a minute"
    context = {
        "title": "Too often",
        "advice": f"That was asked for too often from here. Wait {wait} and try again.",
    }
    answer = render(request, "design/error.html", context, status=429)
    answer["Retry-After"] = str(seconds)
    return answer
