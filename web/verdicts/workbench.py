"""The workbench: one setup in one frame, on every station.

A change takes one way, each turn in a module of its own: the posted form becomes a document
(``setups.question``), the document is judged (``judged_of``), the station makes its view of it
(``setups.stations``), and the view is drawn: whole pages by :func:`page`, answers by
:func:`answer`.
"""

from __future__ import annotations

import json

from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils.crypto import get_random_string

from ironmargin.document import Document
from ironmargin.errors import Fault
from web.accounts.access import account_of
from web.design.context import UNITS, Context
from web.rigs import typical as typical_loads
from web.rigs.models import Rig
from web.setups import judging, repository, typical
from web.setups.form import Form, same_inputs
from web.setups.models import SavedSetup
from web.setups.posted import base_document, units_of
from web.setups.question import Question
from web.setups.stations import Station, route, station_of
from web.storage.views import one_of
from web.supplies import typical as typical_supplies
from web.supplies.models import Supply
from web.verdicts.drawings.path import draw_path
from web.verdicts.drawings.rail import draws_of
from web.verdicts.large import in_line
from web.verdicts.sentence import conditions_words
from web.verdicts.view_model import view_model

ONCE = 32
LOST = "The page lost its setup. Reload it; your saved setups are safe."
MAX_LISTED = 200
MAX_VARIANTS = 8
OF_BOTH = ("question", "saved", "changed", "name", "units", "conditions_words", "variants")
"""What rail and station both show."""


def _shown_units(request: HttpRequest) -> str:
    """The units to show: those just changed to, else those the form is in."""
    changed = request.POST.get("units_changed", "")
    return changed if changed in UNITS else units_of(request)


def judged_of(request: HttpRequest, question: Question) -> Context:
    """A question judged: what was computed of it, now or before, or its faults, or that it waits in
    line.
    """
    document, saved = question.document, question.saved
    picture = request.POST.get("picture") or request.GET.get("start") or None
    against, over = _against(request, document, picture)
    data, faults = view_model(document, picture, over)
    waits: Document = {}
    if any(f.code == judging.TOO_MUCH for f in faults):
        data, waits = in_line(account_of(request), document, picture, over)
        faults = ()
    if data and saved is not None and saved.stale and judging.is_large(document):
        repository.note_shown(saved, document, data)
    return {"faults": faults, "against": against} | waits | (data or {})


def _against(
    request: HttpRequest, document: Document, picture: str | None
) -> tuple[str, Document | None]:
    """What the start is compared with: the same with other start gear, or another saved setup."""
    requested = request.POST.get("against", "")
    if requested == "gear":
        return requested, typical.other_gear(document, picture)
    other = one_of(
        lambda: SavedSetup.objects.of(account_of(request)).select_related("rig", "supply"),
        requested,
    )
    return (requested, repository.compose(other)) if other is not None else ("", None)


def rail_context(request: HttpRequest, question: Question, judged: Context) -> Context:
    """What the rail shows: the form over the document, and what it stands on."""
    document, saved, units = question.document, question.saved, _shown_units(request)
    by_path: dict[str, str] = {}
    for fault in judged["faults"]:
        by_path.setdefault(fault.path, fault.message)
    assumed = judged.get("assumed", {})
    posted = request.POST.dict() if request.method == "POST" else {}
    form = Form(document, units, by_path, assumed, posted)
    placed = {*form.paths(), "name"} if by_path else set()
    account = account_of(request)
    context: Context = {
        "question": question,
        "saved": saved,
        "changed": question.changed,
        "document": json.dumps(document),
        "version": question.version,
        "once": request.POST.get("once", "")[:ONCE] or get_random_string(ONCE // 2),
        "units": units,
        # Called by the templates that draw the form; an answer alone draws none of it.
        "supply_groups": lambda: list(form.supply_groups()),
        "here": form.condition_group,
        "place": form.place_group,
        "draws": lambda: draws_of(form, judged.get("rail")),
        "rows_drawn": lambda: list(
            zip(form.load_rows(), (d for d, _ in draws_of(form, judged.get("rail"))), strict=True)
        ),
        "path_groups": lambda: list(form.path_groups()),
        "loose_faults": [f for f in judged["faults"] if f.path not in placed],
        "name_fault": by_path.get("name", ""),
        "name": str(document.get("name", "")),
        "typical_supplies": typical_supplies.supplies(),
        "typical_loads": typical_loads.groups(),
        "typical_parts": typical.parts(),
        "rig": question.rig,
        "supply": question.supply,
        "kept_rigs": lambda: Rig.objects.current(account).only("name")[:MAX_LISTED],
        "kept_supplies": lambda: Supply.objects.current(account).only("name")[:MAX_LISTED],
        "variants": lambda: _variants(account, saved),
    }
    if "result" in judged:
        context["conditions_words"] = conditions_words(document, units)
    else:
        context["path"] = draw_path(document, None)
    return context


def _variants(account: User, saved: SavedSetup | None) -> list[SavedSetup]:
    """Other setups of the same rig."""
    if saved is None or not saved.rig_id:
        return []
    others = SavedSetup.objects.current(account).filter(rig=saved.rig_id).exclude(pk=saved.pk)
    return list(others.only("name", "verdict", "iron_margin", "stale")[:MAX_VARIANTS])


def _framed(
    request: HttpRequest, question: Question, station: Station, more: Document | None
) -> tuple[Document, Document]:
    """What the frame draws, its rail by itself, and what was judged."""
    judged = judged_of(request, question)
    rail = judged | rail_context(request, question, judged)
    sound = "result" in judged
    context = judged | {key: rail[key] for key in OF_BOTH if key in rail}
    context |= {
        "station": station,
        "tabs": [(s, s.url(question)) for s in route()],
        "body": station.template if sound else "verdicts/_faulty.html",
        # Drawn apart, so that a station's own words never meet the rail's.
        "draw_rail": lambda: render_to_string("setups/_rail.html", rail, request),
        "draw_figures": lambda: render_to_string("setups/_rail_figures.html", rail, request),
    }
    if sound:
        context |= station.view(request, question, judged) if more is None else more
    return context, judged


def page(
    request: HttpRequest,
    question: Question,
    key: str,
    more: Document | None = None,
    status: int = 200,
) -> HttpResponse:
    """A station as a whole page.

    Args:
        more: what the station's partial shows, in the place of its own view.
    """
    context, _ = _framed(request, question, station_of(key), more)
    return render(request, "verdicts/workbench.html", context, status=status)


def answer(request: HttpRequest, question: Question) -> HttpResponse:
    """What a change of the form is answered with: the open station, and the figures of the rail;
    the whole rail where its inputs are others now.
    """
    station = station_of(request.POST.get("station", "") if question.saved else "")
    context, judged = _framed(request, question, station, None)
    context["anew"] = _other_inputs(request, question)
    sound = "result" in judged
    apart = sound and not station.live
    if apart:
        context["body"] = station.answer
    waits = "job" in judged or "advice" in judged
    status = 200 if sound or waits else 422
    response = render(request, "verdicts/_answered.html", context, status=status)
    if apart:
        response["HX-Retarget"], response["HX-Reswap"] = "#answer", "outerHTML"
    return response


def _other_inputs(request: HttpRequest, question: Question) -> bool:
    """Whether the form has to be drawn anew: something was put in, or its inputs are others now."""
    asks = (*typical.ASKS, "units_changed", "undo", "apply")
    if any(request.POST.get(key) for key in asks):
        return True
    return not same_inputs(question.document, base_document(request) or {})


def lost(request: HttpRequest) -> HttpResponse:
    """That the form arrived without its setup."""
    return render(
        request, "components/faults.html", {"loose_faults": [Fault("", "lost", LOST)]}, status=422
    )
