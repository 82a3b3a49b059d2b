"""What the lists of kept things share: search and pages; deleting with undo, archiving, copies,
history.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import reduce
from operator import or_
from typing import TypeVar

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import models
from django.db.models import Q
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from web.accounts.access import account_of
from web.design.context import Context
from web.storage import actions
from web.storage.kinds import KINDS
from web.storage.models import Change, Stored

PAGE = 24
M = TypeVar("M", bound=models.Model)


def number_of(text: str | None) -> int:
    """A small whole number that was posted, or 0."""
    return int(text) if text and text.isascii() and text.isdigit() and len(text) < 18 else 0


def one_of(things: Callable[[], models.QuerySet[M]], text: str | None) -> M | None:
    """The thing of a posted number among what ``things`` gives; not asked where there is none."""
    pk = number_of(text)
    return things().filter(pk=pk).first() if pk else None


def listing(request: HttpRequest, model: type[Stored], *also: str) -> Context:
    """A page of an owner's things, searched, with what was just deleted to be taken back.

    Args:
        also: lookups beside the name that are searched, as ``document__site``.
    """
    query = request.GET.get("q", "").strip()[:100]
    put_away = "archived" in request.GET
    account = account_of(request)
    found = (
        model.objects.of(account).exclude(archived_at=None)
        if put_away
        else model.objects.current(account)
    )
    if query:
        fits = (Q(**{f"{lookup}__icontains": query}) for lookup in ("name", *also))
        found = found.filter(reduce(or_, fits))
    kind, _, pk = str(request.session.pop("undo", "")).partition(":")
    undo = (
        model.objects.filter(owner=account_of(request), pk=number_of(pk))
        .exclude(deleted_at=None)
        .first()
        if kind == model.kind
        else None
    )
    return {
        "page": Paginator(found, PAGE).get_page(request.GET.get("page")),
        "query": query,
        "put_away": put_away,
        "undo": undo,
        "kind": model.kind,
    }


def _mine(request: HttpRequest, kind: str, pk: int, *, gone: bool = False) -> Stored:
    if kind not in KINDS:
        raise Http404
    model = KINDS[kind].model
    found: Stored = get_object_or_404(
        model.objects.filter(owner=account_of(request))
        if gone
        else model.objects.of(account_of(request)),
        pk=pk,
    )
    return found


@require_POST
def delete(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Delete something; the list offers to take it back."""
    item = _mine(request, kind, pk)
    actions.delete(item)
    request.session["undo"] = f"{kind}:{item.pk}"
    return redirect(KINDS[kind].index)


@require_POST
def restore(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Take a deletion back."""
    item = _mine(request, kind, pk, gone=True)
    if item.deleted_at is not None:
        actions.restore(item)
    messages.success(request, f"“{item.name}” is back.")
    return redirect(KINDS[kind].index)


@require_POST
def archive(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Put something away, or bring it back."""
    item = _mine(request, kind, pk)
    actions.archive(item, item.archived_at is None)
    messages.success(
        request, f"“{item.name}” is {'archived' if item.archived_at else 'back in the list'}."
    )
    return redirect(KINDS[kind].index)


@require_POST
def duplicate(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """A copy."""
    item = _mine(request, kind, pk)
    try:
        made = actions.duplicate(item)
    except actions.TooMany as many:
        messages.error(request, many.advice)
        return redirect(KINDS[kind].index)
    return redirect(KINDS[kind].page, pk=made.pk)


@require_safe
def history(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Who changed what, and when."""
    item = _mine(request, kind, pk)
    changes = actions.history(item).defer("state", "back")
    page = Paginator(changes, PAGE).get_page(request.GET.get("page"))
    return render(
        request,
        "storage/history.html",
        {"item": item, "page": page, "kind": kind, "back": KINDS[kind].page},
    )


@require_POST
def go_back(request: HttpRequest, kind: str, pk: int, change: int) -> HttpResponse:
    """Make it what it was after an earlier change."""
    item = _mine(request, kind, pk)
    entry = get_object_or_404(Change, pk=change, kind=kind, item=pk, owner=account_of(request))
    try:
        actions.go_back(item, entry, number_of(request.POST.get("version")))
    except actions.Conflict as conflict:
        messages.error(request, f"Not restored: {conflict}. Look at the newest change first.")
        return redirect("history", kind=kind, pk=pk)
    messages.success(request, f"“{item.name}” is as it was at {entry.at:%H:%M on %d %b} again.")
    return redirect(KINDS[kind].page, pk=pk)
