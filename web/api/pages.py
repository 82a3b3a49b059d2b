"""Tokens on the page of one's account, and the interface described without outside scripts."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from web.accounts.access import readers_may, signed_in
from web.accounts.demo import is_demo
from web.api.models import LASTS_DAYS, MAX_TOKENS, READ, SCOPES, Token, make
from web.api.views import api


def _page(request: HttpRequest, status: int = 200, **more: object) -> HttpResponse:
    schema = api.get_openapi_schema()
    operations = [
        {"path": path, "method": method.upper(), **operation}
        for path, methods in schema["paths"].items()
        for method, operation in methods.items()
    ]
    context = {
        "tokens": Token.objects.filter(owner=request.user.pk),
        "scopes": SCOPES,
        "days": LASTS_DAYS,
        "operations": operations,
        "demo": is_demo(request.user),
    }
    return render(request, "api/page.html", context | more, status=status)


@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """Tokens, and what a program may ask."""
    return _page(request)


@readers_may
@require_POST
def token_make(request: HttpRequest) -> HttpResponse:
    """Make a token and show its secret, this once."""
    if is_demo(request.user):
        raise Http404
    name = request.POST.get("name", "").strip()[:80]
    scope, days = request.POST.get("scope", READ), request.POST.get("days", "")
    if not name:
        return _page(request, 422, fault="give it a name, as: the office's spreadsheet")
    if scope not in dict(SCOPES) or days not in map(str, LASTS_DAYS):
        return _page(request, 422, fault="choose what it may do and how long it is valid")
    if Token.objects.filter(owner=request.user.pk).count() >= MAX_TOKENS:
        return _page(request, 422, fault=f"at most {MAX_TOKENS} tokens; revoke one first")
    _, secret = make(signed_in(request), name, scope, int(days))
    answer = _page(request, secret=secret)
    answer["Cache-Control"] = "private, no-store"
    return answer


@readers_may
@require_POST
def token_end(request: HttpRequest, pk: int) -> HttpResponse:
    """End a token at once."""
    get_object_or_404(Token, pk=pk, owner=request.user.pk).delete()
    return redirect("programs")


@readers_may
@require_POST
def tokens_end(request: HttpRequest) -> HttpResponse:
    """End every token of one's account at once."""
    if is_demo(request.user):
        raise Http404
    ended, _ = Token.objects.filter(owner=request.user.pk).delete()
    messages.success(request, f"{ended} token{'s' if ended != 1 else ''} ended.")
    return redirect("programs")
