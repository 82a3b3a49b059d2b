"""Browsers somebody is signed in with: noted at sign-in, forgotten at sign-out, ended from afar."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.contrib.auth.signals import user_logged_in, user_logged_out
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from web.accounts.demo import is_demo
from web.accounts.models import SignIn

MAX_STORED = 50
KNOWN = ("Firefox", "Edg", "Chrome", "Safari")
ON = ("Android", "iPhone", "iPad", "Windows", "Mac OS", "Linux")


def browser_of(request: HttpRequest) -> str:
    """A browser in two words, as its owner would know it again."""
    said = request.headers.get("User-Agent", "")
    name = next((n for n in KNOWN if n in said), "a browser")
    system = next((n for n in ON if n in said), "")
    return f"{'Edge' if name == 'Edg' else name}{f' on {system}' if system else ''}"


@receiver(user_logged_in)
def note(sender: object, request: HttpRequest, user: User, **_: object) -> None:
    """Note a browser; the demo's are everybody's and nobody's to end."""
    if is_demo(user):
        return
    if not request.session.session_key:
        request.session.save()
    SignIn.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={"user": user, "browser": browser_of(request), "at": timezone.now()},
    )
    old = SignIn.objects.filter(user=user).values_list("pk", flat=True)[MAX_STORED:]
    SignIn.objects.filter(pk__in=list(old)).delete()


@receiver(user_logged_out)
def forget(sender: object, request: HttpRequest, user: User, **_: object) -> None:
    """Forget a browser that signed out."""
    SignIn.objects.filter(session_key=request.session.session_key or "").delete()


def live_of(user: User) -> list[SignIn]:
    """Browsers whose session still holds."""
    noted = list(SignIn.objects.filter(user=user))
    held = Session.objects.filter(
        session_key__in=[s.session_key for s in noted], expire_date__gt=timezone.now()
    )
    alive = set(held.values_list("session_key", flat=True))
    return [s for s in noted if s.session_key in alive]


def end(user: User, pk: int | None, but: str) -> int:
    """End one browser's session, or with None all but one's own; returns how many ended."""
    mine = SignIn.objects.filter(user=user).exclude(session_key=but)
    ended = list(mine if pk is None else mine.filter(pk=pk))
    Session.objects.filter(session_key__in=[s.session_key for s in ended]).delete()
    SignIn.objects.filter(pk__in=[s.pk for s in ended]).delete()
    return len(ended)
