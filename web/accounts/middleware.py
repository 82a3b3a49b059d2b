"""The policy at the door: readers of an account change nothing in it, whatever the address."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from web.accounts.access import ACTOR, access_of

SAFE = ("GET", "HEAD", "OPTIONS", "TRACE")
READERS_MAY = frozenset(
    {
        "sign-in", "sign-out", "sign-up", "enter-demo", "password-change", "password-reset",
        "password-reset-confirm", "two-factor", "sessions-end", "account-switch", "account-leave",
        "invitation", "jobs-left", "job-cancel", "search", "setup-preview", "supply-preview",
        "drills-answer", "drills-begin-exam", "home", "account-delete", "token-make", "token-end",
        "tokens-end", "account-mail", "paper",
    }
)  # fmt: skip
"""Addresses that change nothing of the account at hand, though they are posted to: one's own
sign-in, one's own learning, and what is only computed."""


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

    def process_view(self, request: HttpRequest, view: Any, *_: Any) -> HttpResponse | None:
        """Refuse a change before the view sees it."""
        actor, match = ACTOR.get(), request.resolver_match
        if actor is None or actor.may_change or request.method in SAFE or match is None:
            return None
        if match.url_name in READERS_MAY:
            return None
        context = {
            "title": "Read only",
            "advice": f"You read {actor.account}’s account; its owner may make you an editor.",
        }
        return render(request, "design/error.html", context, status=403)
