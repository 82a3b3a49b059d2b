"""The Board: what holds where."""

from __future__ import annotations

from datetime import datetime

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.views.decorators.http import require_safe

from web.accounts.access import account_of
from web.board import service
from web.rigs.models import Rig
from web.setups.drawing import MAX_DRAWN, draw_margins
from web.storage.views import number_of
from web.verdicts import jobs

SEEN = "board_at"
MAX_WAITING = 2_000


@require_safe
def board(request: HttpRequest) -> HttpResponse:
    """Every rig on every supply; whoever has no rig yet is asked for the first one."""
    account = account_of(request)
    query = request.GET.get("q", "").strip()[:100]
    found = service.board_of(account, query)
    if not found.rows and not query and not Rig.objects.of(account).exists():
        return redirect("first-rig")
    context = {
        "board": found,
        "drawn": draw_margins(found.setups[:MAX_DRAWN]),
        "query": query,
        "closest": service.closest(account),
        "uncertain": service.least_certain(found),
        "since": _since(request),
        "recent": service.last_changed(account),
    }
    request.session[SEEN] = timezone.now().isoformat()
    return render(request, "board/board.html", context)


def _since(request: HttpRequest) -> datetime | None:
    """When this person last looked at the Board."""
    return parse_datetime(str(request.session.get(SEEN, "")))


@require_safe
def cells(request: HttpRequest) -> HttpResponse:
    """The cells that have been computed since they were asked for."""
    waiting = [number_of(pk) for pk in request.GET.getlist("pk")][:MAX_WAITING]
    try:
        found, more = service.computed_cells(account_of(request), waiting)
    except jobs.Busy:
        found, more = [], True
    done = {cell.setup.pk for cell in found if cell.setup is not None}
    left = [pk for pk in waiting if pk not in done] if more else []
    setups = [] if left else service.setups_of(account_of(request))[:MAX_DRAWN]
    context = {"cells": found, "left": left, "drawn": draw_margins(setups)}
    return render(request, "board/_cells.html", context)
