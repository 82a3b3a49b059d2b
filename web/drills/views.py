"""Drills: call a setup before it is computed."""

from __future__ import annotations

import re
import secrets

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from ironmargin.practice.drills import BANDS, THEMES, TITLES, Drill
from ironmargin.setup.reading import write_setup
from web.accounts.access import account_of, readers_may, signed_in
from web.design.context import UNITS, Context, cookie_of, paper_of
from web.design.printing import PAPER_CSS, pdf_answer, to_pdf
from web.drills import service
from web.rigs.drawing import draw_rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage.views import number_of
from web.verdicts.sentence import conditions_words, parts_of

EXAM_KEY = re.compile(r"[0-9a-f]{16}\Z")


def _requested(request: HttpRequest, found: Drill) -> Context:
    units = cookie_of(request, "units", UNITS, "us")
    return {
        "drawn": draw_rig(write_setup(found.setup)["rig"]),
        "drill": found,
        "parts": parts_of(found.checked),
        "loads": found.setup.rig.loads,
        "conditions": conditions_words({"conditions": _conditions(found)}, units),
        "title": TITLES[found.theme],
    }


def _conditions(found: Drill) -> dict[str, float]:
    held = found.setup.conditions
    return {"outdoor_c": held.outdoor_c, "altitude_m": held.altitude_m}


@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """The next drill."""
    theme, difficulty = request.GET.get("theme", ""), request.GET.get("difficulty", "easy")
    found = service.next_of(signed_in(request), theme, difficulty)
    context = _requested(request, found) | {
        "standing": service.standing(signed_in(request)),
        "themes": TITLES.items(),
        "difficulties": BANDS,
        "chosen": theme,
    }
    return render(request, "drills/page.html", context)


def _of(request: HttpRequest) -> Drill:
    post = request.POST
    theme, difficulty = post.get("theme", ""), post.get("difficulty", "")
    if theme not in THEMES or difficulty not in BANDS:
        raise Http404
    return service.the_drill(number_of(post.get("seed")) % service.SEEDS, theme, difficulty)


@readers_may
@require_POST
def answer(request: HttpRequest) -> HttpResponse:
    """What was said beside what the engine says."""
    found = _of(request)
    exam = request.POST.get("exam", "")
    if exam:
        if not EXAM_KEY.match(exam):
            raise Http404
        # The question is the examination's own, whatever was posted.
        count = service.exam_result(signed_in(request), exam)["count"]
        if count >= service.EXAM:
            return redirect("drills-exam", exam=exam)
        found = service.exam_drill(signed_in(request), exam, count)
    made = service.answer(signed_in(request), found, request.POST, exam)
    if exam:
        return redirect("drills-exam", exam=exam)
    context = _requested(request, found) | {"answer": made, "result": found.checked.result}
    return render(request, "drills/answer.html", context)


@require_POST
def store(request: HttpRequest) -> HttpResponse:
    """Keep a drill's setup, and take it to the bench."""
    found = _of(request)
    name = f"Drill: {TITLES[found.theme].lower()}, {found.difficulty}, {found.seed}"
    document = write_setup(found.setup) | {"name": name}
    account = account_of(request)
    mine = SavedSetup.objects.current(account).filter(name=name).first()
    try:
        stored = mine or repository.store(
            account_of(request), judging.judge(document, remedy=True), what_if=True
        )
    except actions.TooMany as many:
        messages.error(request, many.advice)
        return redirect("drills")
    return redirect(f"{reverse('bench', args=[stored.pk])}?new=1")


@readers_may
@require_POST
def begin_exam(request: HttpRequest) -> HttpResponse:
    """Begin an examination of twenty."""
    return redirect("drills-exam", exam=secrets.token_hex(8))


@require_safe
def exam(request: HttpRequest, exam: str) -> HttpResponse:
    """The question of an examination in hand, or how it went."""
    if not EXAM_KEY.match(exam):
        raise Http404
    result = service.exam_result(signed_in(request), exam)
    context: Context = {"exam": result}
    if not result["over"]:
        context |= _requested(
            request, service.exam_drill(signed_in(request), exam, result["count"])
        )
    return render(request, "drills/exam.html", context)


@require_safe
def certificate(request: HttpRequest, exam: str) -> HttpResponse:
    """The certificate of an examination that is over."""
    result = service.exam_result(signed_in(request), exam)
    if not EXAM_KEY.match(exam) or not result["over"]:
        raise Http404
    html = render_to_string(
        "drills/certificate.html", {"exam": result, "who": request.user.get_username()}
    )
    return pdf_answer(
        to_pdf(html, "report.css", html, PAPER_CSS[paper_of(request)]), "drills", "drills"
    )
