"""The page of a setup: its form and its verdict. Each view reads the request, calls a service,
renders.
"""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.planning.first_fix import first_fix
from ironmargin.verdict.picture import picture_csv, picture_of
from ironmargin.verdict.result import result_json
from web.accounts.access import account_of, readers_may
from web.accounts.demo import DEMO_USER
from web.accounts.limits import address_of, allowed, too_often
from web.rigs.models import Rig
from web.setups import drafts, judging, repository, typical
from web.setups.models import SavedSetup
from web.setups.posted import posted_document
from web.setups.question import Question, opened, posted, requested, resumed
from web.setups.views import own_setup
from web.storage.views import number_of, one_of
from web.supplies import typical as typical_supplies
from web.supplies.models import Supply
from web.verdicts import quick_check, workbench
from web.verdicts.applying import remedied

VERDICT = "verdict"


@login_not_required
@readers_may
def home(request: HttpRequest) -> HttpResponse:
    """The Board for who is signed in; the first question for who is not."""
    if not request.user.is_authenticated:
        maximum, seconds = settings.LIMITS["quick-check"]
        if request.GET and not allowed("quick-check", address_of(request), maximum, seconds):
            return too_often(request, seconds)
        quick_check.remember(request)
        return render(request, "verdicts/quick_check.html", quick_check.requested(request.GET))
    if request.user.username == DEMO_USER and "setup" not in request.session:
        shown = SavedSetup.objects.current(account_of(request)).order_by("-updated_at", "-id")
        first = shown.first()
        if first is not None:  # what a visitor of the demo sees first
            return redirect("setup", pk=first.pk)
    return redirect("board")


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
    draft = drafts.of(request, None)
    if draft is not None and not {"rig", "supply", "typical"} & set(request.GET):
        return workbench.page(request, resumed(request, draft, None), VERDICT)
    return workbench.page(request, Question(document, None, rig, supply, changed=True), VERDICT)


@require_POST
def drop_draft(request: HttpRequest) -> HttpResponse:
    """Go back to what is saved."""
    pk = number_of(request.POST.get("saved"))
    saved = own_setup(request, pk) if pk else None
    drafts.drop(request, saved)
    return redirect("setup", pk=saved.pk) if saved else redirect("setup-new")


@require_safe
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """A setup with its verdict."""
    return workbench.page(request, opened(request, pk), VERDICT)


@readers_may
@require_POST
def preview(request: HttpRequest) -> HttpResponse:
    """Judge what the form holds now, and draw the open station; it is stored as a draft."""
    question = posted(request)
    if question is None:
        return workbench.lost(request)
    wanted = request.POST.get("apply", "")
    changed = remedied(request, question.document, wanted) if wanted else None
    if changed is not None:
        question = requested(request, changed, question.saved, question.rig, question.supply)
    return workbench.answer(request, question)


@require_POST
def remedy(request: HttpRequest) -> HttpResponse:
    """What would make a failing setup hold: slower than the verdict, so asked for after it."""
    document, _, _ = posted_document(request)
    judged = judging.judge(document) if document is not None else None
    if judged is None or (judged.faults and judged.setup is None):
        return HttpResponse(status=204)
    found, whole = first_fix(judged.checked) if judged.checked else (None, False)
    return render(request, "verdicts/_remedy.html", {"remedy": found, "whole": whole})


@require_safe
def result(request: HttpRequest, pk: int) -> HttpResponse:
    """The check of a setup as the open result format."""
    judged = repository.judge_saved(own_setup(request, pk), remedy=True)
    if judged.checked is None:
        return JsonResponse({"faults": [str(f) for f in judged.faults]}, status=422)
    return JsonResponse(
        result_json(judged.checked.result), json_dumps_params={"ensure_ascii": False}
    )


@require_safe
def start_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The figures of one start's picture."""
    saved = own_setup(request, pk)
    load = request.GET.get("start", "")
    checked = repository.judge_saved(saved, load).checked
    if checked is None or not checked.starts:
        return HttpResponse(
            "This setup has no start to write.\n", content_type="text/plain", status=404
        )
    chosen = next(
        (s for s in checked.starts if checked.case.demands[s.starters[0].demand].load.id == load),
        checked.starts[0],
    )
    response = HttpResponse(
        picture_csv(picture_of(checked, chosen)), content_type="text/csv; charset=utf-8"
    )
    response["Content-Disposition"] = (
        f'attachment; filename="{slugify(saved.name) or "setup"}-start.csv"'
    )
    return response
