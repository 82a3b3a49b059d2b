"""What a setup on a post comes to in the hours in which the post is soft."""

from __future__ import annotations

from collections.abc import Mapping

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from ironmargin.document import Document
from ironmargin.learning.post import Hours
from web.design.templatetags.figures import percent, state_word
from web.setups.posted import posted_document
from web.supplies.models import Supply
from web.supplies.post import with_hours
from web.verdicts.view_model import view_model

SOFTER_BY_OHM = 0.01
"""What a post must have more than the question says, so that another verdict is worth a line
[ohm]."""


def soft_hours(document: Mapping[str, object], post: Supply | None) -> Hours | None:
    """When the post was read softer than the question takes it to be; None if never, or if nobody
    knows.
    """
    if post is None:
        return None
    soft = post.soft_hours
    supply = document.get("supply")
    if soft is None or not isinstance(supply, dict):
        return None
    requested = supply.get("source_ohm")
    known = isinstance(requested, int | float) and requested > soft.ohm - SOFTER_BY_OHM
    return None if known else soft


def in_soft_hours(document: Document, post: Supply | None) -> tuple[Hours, Document] | None:
    """Those hours with what the question comes to in them; None where there is nothing to say."""
    hours = soft_hours(document, post)
    if hours is None:
        return None
    data, _ = view_model(document | {"supply": with_hours(document["supply"], hours)})
    # Its faults are said where the verdict is.
    return None if data is None else (hours, data)


def soft_words(document: Document, post: Supply | None) -> str:
    """The same in a sentence, for paper; empty where there is nothing to say."""
    found = in_soft_hours(document, post)
    if found is None:
        return ""
    hours, data = found
    return (
        f"{hours.when[0].upper()}{hours.when[1:]} this post was read at {hours.ohm:.2f} Ω, "
        f"{hours.open_v:.0f} V without load. Then: {state_word(data['verdict'])}, "
        f"{percent(data['iron_margin'])}."
    )


@require_POST
def by_hour(request: HttpRequest) -> HttpResponse:
    """The verdict of what the form holds in the soft hours: slower than the verdict, so asked for
    after it.
    """
    document, _, post = posted_document(request)
    found = in_soft_hours(document, post) if document is not None else None
    if document is None or found is None:
        return HttpResponse()
    hours, data = found
    now, _ = view_model(document)  # kept: the page has just asked for it
    other = now is None or now["verdict"] != data["verdict"]
    context = {"hours": hours, "result": data["result"], "supply": post, "other": other}
    return render(request, "verdicts/_by_hour.html", context)
