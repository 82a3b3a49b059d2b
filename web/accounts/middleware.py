"""The policy at the door. Who is not signed in gets past it only to views that say so (Django's
``login_not_required``); readers of an account change nothing in it, but through views that say that
they may (``access.readers_may``).
"""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render

from web.accounts.access import ACTOR, access_of, is_for_readers

SAFE = ("GET", "HEAD", "OPTIONS", "TRACE")


class SignedIn(LoginRequiredMiddleware):
    """Sends who is not signed in to the sign-in; whoever has typed something keeps it."""

    def process_view(
        self,
        request: HttpRequest,
        view_func: Callable[..., HttpResponseBase],
        view_args: tuple[object, ...],
        view_kwargs: dict[str, object],
    ) -> HttpResponseBase | None:
        """A page that is only looked at leads to the sign-in. A part of one, and what is sent, is
        answered where it was asked: a redirect would take what was typed away.
        """
        sent_on = super().process_view(request, view_func, view_args, view_kwargs)
        if sent_on is not None and "HX-Request" in request.headers:
            return render(request, "design/_signed_out.html", status=401)
        if sent_on is not None and request.method not in SAFE:
            return render(request, "design/signed_out.html", status=401)
        return sent_on


class Policy:
    """Knows who acts while a request is answered, and refuses what a reader may not do."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        known = request.user.is_authenticated
        token = ACTOR.set(access_of(request) if known else None)
        try:
            return self.answer(request)
        finally:
            ACTOR.reset(token)

    def process_view(
        self, request: HttpRequest, view: Callable[..., object], *_: object
    ) -> HttpResponse | None:
        """Refuse a change before the view sees it."""
        actor = ACTOR.get()
        if actor is None or actor.may_change or request.method in SAFE or is_for_readers(view):
            return None
        context = {
            "title": "Read only",
            "advice": f"You read {actor.account}’s account; its owner may make you an editor.",
        }
        return render(request, "design/error.html", context, status=403)
