"""The setups an owner keeps: the list, side by side, files in and out."""

from __future__ import annotations

import json

from django.contrib import messages
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.errors import Fault, SetupError
from ironmargin.setup.reading import LARGEST_FILE_BYTES, write_setup
from web.accounts.access import account_of
from web.design.context import Context
from web.design.drawing import small_bar
from web.setups import judging, repository
from web.setups.comparing import comparison, comparison_rows
from web.setups.drawing import MAX_DRAWN, draw_margins
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage.transfers import recent
from web.storage.views import listing, number_of

MAX_COMPARED = 6
MAX_OF_A_NAME = 50
"""Setups of the name of a file that it is held against."""
MAX_CHOSEN = 8


@require_safe
def index(request: HttpRequest) -> HttpResponse:
    """The owner's setups, searched and paged."""
    transfer = recent(account_of(request))
    return render(request, "setups/index.html", _listed(request) | {"transfer": transfer})


def _listed(request: HttpRequest) -> Context:
    """A page of setups, each with its bar."""
    found = listing(request, SavedSetup)
    for setup in found["page"]:
        setup.bar = None if setup.stale else small_bar(setup.iron_margin, setup.verdict)
    return found | {"drawn": draw_margins(found["page"])}


@require_safe
def drawn(request: HttpRequest) -> HttpResponse:
    """The newest setups on one line by their margin, for pages that are about something else."""
    newest = SavedSetup.objects.current(account_of(request)).order_by("-updated_at")
    found = draw_margins(newest.only("name", "verdict", "iron_margin", "stale")[:MAX_DRAWN])
    return render(request, "setups/_margins.html", {"drawn": found})


def own_setup(request: HttpRequest, pk: int) -> SavedSetup:
    found: SavedSetup = get_object_or_404(
        SavedSetup.objects.of(account_of(request)).select_related("rig", "supply"), pk=pk
    )
    return found


@require_safe
def chip(request: HttpRequest, pk: int) -> HttpResponse:
    """A setup's verdict as a small bar, computed anew where what it stands on has changed."""
    saved = own_setup(request, pk)
    repository.refresh(saved)
    return render(request, "setups/_chip.html", {"setup": saved, "bare": True})


@require_safe
def chooser(request: HttpRequest) -> HttpResponse:
    """The setups last changed, or those with the typed words in their name."""
    query = request.GET.get("q", "").strip()[:100]
    mine = SavedSetup.objects.current(account_of(request)).defer("document")
    found = mine.filter(name__icontains=query) if query else mine
    recent = found.order_by("-updated_at", "-id")[:MAX_CHOSEN]
    return render(request, "setups/_chooser.html", {"found": recent, "q": query})


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Some setups side by side, each with its bar."""
    wanted = [number_of(pk) for pk in request.GET.getlist("pk")][:MAX_COMPARED]
    found = {
        s.pk: s
        for s in SavedSetup.objects.of(account_of(request))
        .select_related("rig", "supply")
        .filter(pk__in=wanted)
    }
    shown = [
        (found[pk], repository.judge_saved(found[pk]))
        for pk in dict.fromkeys(wanted)
        if pk in found
    ]
    first = shown[0][1] if shown else None
    columns = [
        comparison(saved, judged, first if judged is not first else None) for saved, judged in shown
    ]
    return render(
        request, "setups/compare.html", {"columns": columns, "rows": comparison_rows(columns)}
    )


@require_safe
def export(request: HttpRequest, pk: int) -> HttpResponse:
    """The setup as a file of the open format."""
    saved = own_setup(request, pk)
    response = HttpResponse(
        json.dumps(repository.compose(saved), indent=1, ensure_ascii=False) + "\n",
        content_type="application/json",
    )
    response["Content-Disposition"] = (
        f'attachment; filename="{slugify(saved.name) or "setup"}.setup.json"'
    )
    return response


@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Import a setup file: kept if it is sound, every fault named if not."""
    file = request.FILES.get("file")
    if file is None:
        return _refused(request, [Fault("file", "missing", "choose a *.setup.json file first")])
    if (file.size or 0) > LARGEST_FILE_BYTES:
        return _refused(
            request,
            [
                Fault(
                    "file",
                    "large",
                    f"must be at most {LARGEST_FILE_BYTES:,} bytes (got {file.size:,})",
                )
            ],
        )
    try:
        raw = file.read(LARGEST_FILE_BYTES + 1)
        judged = judging.judge(judging.parse_document(raw), remedy=True)
        held = _already_here(account_of(request), judged)
        if held is not None:
            since = f"{held.created_at:%-d %B %Y}"
            message = f"“{held.name}” is already here since {since}; nothing was added."
            messages.info(request, message)
            return redirect("setup", pk=held.pk)
        stored = repository.store(account_of(request), judged, action="took in")
    except SetupError as error:
        return _refused(request, error.faults)
    except actions.TooMany as many:
        return _refused(request, [Fault("", "too-many", many.advice)])
    messages.success(request, f"Imported “{stored.name}”. {judging.former_names(raw)}".rstrip())
    return redirect("setup", pk=stored.pk)


def _already_here(owner: User, judged: judging.Judged) -> SavedSetup | None:
    """The setup an owner has with every figure of a file, so that a file taken in twice is one."""
    setup = judged.setup
    if setup is None:
        return None
    same_name = SavedSetup.objects.current(owner).filter(name=setup.name)
    held: SavedSetup
    for held in same_name.select_related("rig", "supply")[:MAX_OF_A_NAME]:
        try:
            if write_setup(judging.read(repository.compose(held))) == write_setup(setup):
                return held
        except SetupError:
            continue
    return None


def _refused(request: HttpRequest, faults: list[Fault]) -> HttpResponse:
    return render(
        request, "setups/index.html", _listed(request) | {"import_faults": faults}, status=422
    )
