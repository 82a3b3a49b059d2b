"""The page of a setup: its form and its verdict. Each view reads the request, calls a service,
renders.
"""

from __future__ import annotations

import json
from typing import Any

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils.crypto import get_random_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.errors import Fault
from ironmargin.planning.remedies import nearest_remedy
from ironmargin.verdict.picture import picture_csv, picture_of
from ironmargin.verdict.result import result_json
from web.accounts.access import account_of
from web.accounts.limits import address_of, allowed, too_often
from web.design.context import UNITS
from web.keeping.views import number_of, one_of
from web.rigs import typical as typical_loads
from web.rigs.models import Rig
from web.setups import drafts, stored, typical
from web.setups.context import take_to_hand
from web.setups.form import Form, same_inputs
from web.setups.models import Draft, SavedSetup
from web.setups.posted import base_document, posted_document, units_of
from web.setups.views import own_setup
from web.supplies import typical as typical_supplies
from web.supplies.models import Supply
from web.verdicts.door import asked
from web.verdicts.drawings.path import draw_path
from web.verdicts.large import in_line
from web.verdicts.sentence import conditions_words
from web.verdicts.shown import shown

ONCE = 32
LOST = "The page lost its setup on the way. Reload it; your saved setups are safe."


def home(request: HttpRequest) -> HttpResponse:
    """The setup at hand for who is signed in; the door for who is not."""
    if not request.user.is_authenticated:
        most, seconds = settings.LIMITS["door"]
        if request.GET and not allowed("door", address_of(request), most, seconds):
            return too_often(request, seconds)
        return render(request, "verdicts/door.html", asked(request.GET))
    mine = SavedSetup.objects.current(account_of(request))
    first = (
        mine.filter(pk=request.session.get("setup", 0)).first()
        or mine.order_by("-updated_at", "-id").first()
    )
    return redirect("setup", pk=first.pk) if first else redirect("rigs")


def _shown_units(request: HttpRequest) -> str:
    """The units to show: those just changed to, else those the form is in."""
    changed = request.POST.get("units_changed", "")
    return changed if changed in UNITS else units_of(request)


def context_of(
    request: HttpRequest,
    document: dict[str, Any],
    saved: SavedSetup | None,
    rig: Rig | None = None,
    supply: Supply | None = None,
    picture: str | None = None,
) -> dict[str, Any]:
    """What the page of one setup shows: what was computed (now or before), and the form over the
    document.
    """
    units = _shown_units(request)
    against, over = _against(request, document, picture)
    data, faults = shown(document, picture, over)
    waits: dict[str, Any] = {}
    if any(f.code == stored.TOO_MUCH for f in faults):
        data, waits = in_line(account_of(request), document, picture, over)
        faults = ()
    if data and saved is not None and saved.stale and stored.is_large(document):
        stored.note_shown(saved, document, data)
    by_path: dict[str, str] = {}
    for fault in faults:
        by_path.setdefault(fault.path, fault.message)
    form = Form(
        document,
        units,
        by_path,
        data["assumed"] if data else {},
        request.POST.dict() if request.method == "POST" else {},
    )
    placed = {*form.paths(), "name"} if faults else set()
    context: dict[str, Any] = {
        "saved": saved,
        "document": json.dumps(document),
        "version": saved.version if saved else 0,
        "once": request.POST.get("once", "")[:ONCE] or get_random_string(ONCE // 2),
        "units": units,
        # Called by the templates that draw the form; a verdict alone draws none of it.
        "groups": lambda: [*form.supply_groups(), form.condition_group()],
        "rows": lambda: list(form.load_rows()),
        "faults": faults,
        "loose_faults": [f for f in faults if f.path not in placed],
        "name_fault": by_path.get("name", ""),
        "name": str(document.get("name", "")),
        "typical_supplies": typical_supplies.supplies(),
        "typical_loads": typical_loads.groups(),
        "rig": rig,
        "supply": supply,
        "path_groups": lambda: list(form.path_groups()),
        "typical_parts": typical.parts(),
        "conditions_words": conditions_words(document, units) if data else "",
        "kept_rigs": lambda: Rig.objects.current(account_of(request)).only("name")[:200],
        "kept_supplies": lambda: Supply.objects.current(account_of(request)).only("name")[:200],
        "against": against,
    }
    if saved is not None and saved.rig_id:
        others = (
            SavedSetup.objects.current(account_of(request))
            .filter(rig=saved.rig_id)
            .exclude(pk=saved.pk)
        )
        context["variants"] = others.only("name", "verdict", "iron_margin", "stale")[:8]
    return context | waits | (data or {"path": draw_path(document, None)})


def _against(
    request: HttpRequest, document: dict[str, Any], picture: str | None
) -> tuple[str, dict[str, Any] | None]:
    """What the start is compared with: the same with other start gear, or another saved setup."""
    asked = request.POST.get("against", "")
    if asked == "gear":
        return asked, typical.other_gear(document, picture)
    other = one_of(
        lambda: SavedSetup.objects.of(account_of(request)).select_related("rig", "supply"), asked
    )
    return (asked, stored.compose(other)) if other is not None else ("", None)


@login_required
@require_safe
def new(request: HttpRequest) -> HttpResponse:
    """A new setup: on the rig and supply asked for, else on the newest ones, else begun from
    typical values.
    """
    rigs, supplies = (
        Rig.objects.current(account_of(request)),
        Supply.objects.current(account_of(request)),
    )
    newest = (
        None
        if "typical" in request.GET
        else next((r for r in rigs[:20] if r.document["loads"]), None)
    )
    rig = one_of(lambda: rigs, request.GET.get("rig")) or newest
    supply = one_of(lambda: supplies, request.GET.get("supply"))
    document = typical.first_setup()
    if rig is not None:
        document = typical.on_rig(document | {"name": f"{rig.name}, new question"}, rig.document)
        document["supply"] = typical_supplies.fitting_supply(rig.document.get("service", "120"))
    if supply is not None:
        document["supply"] = supply.document
    draft = drafts.of(request.user, None)
    if draft is not None and "draft" in request.GET:
        return _taken_up(request, draft, None)
    context = context_of(request, document, None, rig, supply) | {"draft": draft}
    return render(request, "verdicts/page.html", context)


def _taken_up(request: HttpRequest, draft: Draft, saved: SavedSetup | None) -> HttpResponse:
    """The page over what was typed and not saved, on the versions it was begun from."""
    bases = {name: number_of(value) for name, value in draft.bases.items()}
    rig, supply = (
        model.objects.of(account_of(request)).filter(pk=bases[f"{name}_pk"]).first()
        for model, name in ((Rig, "rig"), (Supply, "supply"))
    )
    for held, name in ((rig, "rig"), (supply, "supply")):
        if held is not None:
            held.version = bases[f"{name}_version"]
    context = context_of(request, draft.document, saved, rig, supply)
    return render(request, "verdicts/page.html", context | {"version": bases["version"]})


@login_required
@require_POST
def drop_draft(request: HttpRequest) -> HttpResponse:
    """Forget what was typed into a setup and not saved."""
    pk = number_of(request.POST.get("saved"))
    saved = own_setup(request, pk) if pk else None
    drafts.drop(request.user, saved)
    return redirect("setup", pk=saved.pk) if saved else redirect("setup-new")


@login_required
@require_safe
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """A saved setup with its verdict."""
    saved = own_setup(request, pk)
    stored.refresh(saved)
    take_to_hand(request, saved.pk)
    draft = drafts.of(request.user, saved)
    if draft is not None and "draft" in request.GET:
        return _taken_up(request, draft, saved)
    rig = saved.rig if saved.rig is not None and saved.rig.deleted_at is None else None
    supply = saved.supply
    supply = supply if supply is not None and supply.deleted_at is None else None
    document = stored.compose(saved)
    context = context_of(request, document, saved, rig, supply, request.GET.get("start"))
    return render(request, "verdicts/page.html", context | {"draft": draft})


def lost(request: HttpRequest) -> HttpResponse:
    return render(
        request, "components/faults.html", {"loose_faults": [Fault("", "lost", LOST)]}, status=422
    )


@require_POST
def preview(request: HttpRequest) -> HttpResponse:
    """Judge what the form holds now; it is kept as a draft, not saved."""
    if not request.user.is_authenticated:
        return render(request, "design/_signed_out.html", status=401)
    document, rig, supply = posted_document(request)
    if document is None:
        return lost(request)
    picture = request.POST.get("picture") or None
    saved = one_of(lambda: SavedSetup.objects.of(account_of(request)), request.POST.get("saved"))
    drafts.note(request.user, saved, document, request.POST)
    context = context_of(request, document, saved, rig, supply, picture) | {
        "version": number_of(request.POST.get("version"))
    }
    anew = any(request.POST.get(k) for k in (*typical.ASKS, "units_changed")) or not same_inputs(
        document, base_document(request) or {}
    )
    sound = "result" in context
    waits = "job" in context or "advice" in context
    body = "verdicts/_verdict.html" if sound else "verdicts/_faulty.html"
    template, context["body"] = ("verdicts/_form_and_verdict.html", body) if anew else (body, body)
    return render(request, template, context, status=200 if sound or waits else 422)


@require_POST
def remedy(request: HttpRequest) -> HttpResponse:
    """What would make a failing setup hold: slower than the verdict, so asked for after it."""
    if not request.user.is_authenticated:
        return render(request, "design/_signed_out.html", status=401)
    document, _, _ = posted_document(request)
    judged = stored.judge(document) if document is not None else None
    if judged is None or (judged.faults and judged.setup is None):
        return HttpResponse(status=204)
    found, whole = nearest_remedy(judged.checked) if judged.checked else (None, False)
    return render(request, "verdicts/_remedy.html", {"remedy": found, "whole": whole})


@login_required
@require_safe
def result(request: HttpRequest, pk: int) -> HttpResponse:
    """The check of a setup as the open result format."""
    judged = stored.judge_saved(own_setup(request, pk), remedy=True)
    if judged.checked is None:
        return JsonResponse({"faults": [str(f) for f in judged.faults]}, status=422)
    return JsonResponse(
        result_json(judged.checked.result), json_dumps_params={"ensure_ascii": False}
    )


@login_required
@require_safe
def start_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The figures of one start's picture."""
    saved = own_setup(request, pk)
    load = request.GET.get("start", "")
    checked = stored.judge_saved(saved, load).checked
    if checked is None or not checked.starts:
        return HttpResponse(
            "This setup has no start to write.\n", content_type="text/plain", status=404
        )
    chosen = next(
        (s for s in checked.starts if checked.case.demands[s.starters[0].demand].load.id == load),
        checked.starts[0],
    )
    response = HttpResponse(picture_csv(picture_of(checked, chosen)), content_type="text/csv")
    response["Content-Disposition"] = (
        f'attachment; filename="{slugify(saved.name) or "setup"}-start.csv"'
    )
    return response
