"""Saving a setup: as new, over itself, or as a variant; with or without scripts; and what is said
where somebody else saved it meanwhile.
"""

from __future__ import annotations

from typing import cast

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ironmargin.document import Document
from ironmargin.errors import Fault
from ironmargin.setup.reading import write_setup
from web.accounts.access import account_of
from web.design.context import Context
from web.setups import drafts, judging, repository
from web.setups.models import SavedSetup
from web.setups.posted import posted_document
from web.setups.question import requested
from web.setups.views import own_setup
from web.storage import actions
from web.storage.merging import merged
from web.storage.views import number_of
from web.storage.words import difference
from web.verdicts import workbench
from web.verdicts.workbench import ONCE

READ = {"setup": "version", "rig": "rig_version", "supply": "supply_version"}
"""The versions a page was read in, by the names of its fields."""
MAX_ROWS = 12


def _named_apart(judged: judging.Judged, saved: SavedSetup | None) -> judging.Judged:
    """A variant under a name that says what differs, where it was given none of its own."""
    if saved is None or judged.document.get("name") != saved.name:
        return judged
    assert judged.setup is not None
    differs = difference(repository.compose(saved), write_setup(judged.setup))
    name = f"{saved.name}: {differs or 'a copy'}"[:120]
    return judging.judge(judged.document | {"name": name}, remedy=True)


def _conflict(
    request: HttpRequest, conflict: actions.Conflict, saved: SavedSetup | None, yours: object
) -> Document:
    """What both changed, figure by figure, and both put together as a draft to be taken up."""
    context: Context = {"newer": conflict.newer, "what": conflict.what, "copy": True}
    if saved is None:
        return context
    newest = own_setup(request, saved.pk)
    theirs = repository.compose(newest)
    base = repository.as_it_was(
        newest, {k: number_of(request.POST.get(v)) for k, v in READ.items()}
    )
    both, rows = merged(base if base is not None else theirs, theirs, yours)
    bases = {
        "version": newest.version,
        "rig_pk": newest.rig_id or "",
        "rig_version": newest.rig.version if newest.rig else "",
        "supply_pk": newest.supply_id or "",
        "supply_version": newest.supply.version if newest.supply else "",
    }
    drafts.note(request, newest, cast(Document, both), bases)
    taken = drafts.of(request, newest) is not None
    return context | {"rows": rows[:MAX_ROWS], "merged": newest if taken else None}


@require_POST
def save(request: HttpRequest) -> HttpResponse:
    """Keep what the form holds, as a new setup or over the one it came from."""
    document, rig, supply = posted_document(request)
    if document is None:
        return workbench.lost(request)
    post = request.POST
    pk = number_of(post.get("saved"))
    judged = judging.judge(document, remedy=True)
    saved = own_setup(request, pk) if pk else None
    scripted = "HX-Request" in request.headers
    if judged.setup is None:
        question = requested(request, document, saved, rig, supply)
        if scripted:
            faults = {"faults": judged.faults}
            return render(request, "verdicts/_faulty.html", faults, status=422)
        return workbench.page(request, question, "verdict", status=422)
    sound = write_setup(judged.setup)
    try:
        if saved is None or "as_copy" in post:
            once = post.get("once", "")[:ONCE]
            judged = _named_apart(judged, saved)
            stored = repository.store(
                account_of(request), judged, what_if="as_copy" in post, once=once
            )
        else:
            versions = {
                "setup": number_of(post.get("version")),
                "rig": number_of(post.get("rig_version")),
                "supply": number_of(post.get("supply_version")),
            }
            stored = repository.store_again(saved, judged, versions, rig, supply)
    except actions.Conflict as conflict:
        context = _conflict(request, conflict, saved, sound)
        template = "storage/_conflict.html" if scripted else "verdicts/conflict.html"
        return render(request, template, context, status=409)
    except actions.TooMany as many:
        said: Document = {"loose_faults": [Fault("", "too-many", many.advice)]}
        said |= {"title": "Too many", "advice": many.advice}
        template = "components/faults.html" if scripted else "design/error.html"
        return render(request, template, said, status=422)
    drafts.drop(request, saved)
    messages.success(request, f"Saved “{stored.name}”.")
    if not scripted:
        return redirect("setup", pk=stored.pk)
    response = HttpResponse(status=204)
    response["HX-Redirect"] = reverse("setup", args=[stored.pk])
    return response
