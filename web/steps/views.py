"""Steps: where the hands are, one at a time."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.errors import SetupError
from ironmargin.practice.lists import TITLES
from ironmargin.practice.steps import STOPPED
from web.accounts.access import account_of
from web.design.context import Context, paper_of
from web.design.printing import PAPER_CSS, pdf_answer, to_pdf
from web.design.queued import held as acknowledged
from web.design.typed import typed_figure
from web.setups import measured
from web.setups.question import Question, opened
from web.setups.stations import Answer, Judgment
from web.steps import service
from web.steps.drawing import draw_steps
from web.steps.models import Checklist
from web.storage.views import number_of
from web.verdicts import workbench
from web.verdicts.sound import sound_setup


def station(request: HttpRequest, question: Question, judged: Judgment) -> Context:
    """The list in hand, or the lists there are."""
    mine = Checklist.objects.filter(owner=account_of(request), setup=question.saved)
    held = None if "all" in request.GET else mine.filter(ended="").order_by("-made_at").first()
    if held is not None:
        return _shown(held)
    ended = list(mine.exclude(ended="").defer("steps")[:20])
    today = timezone.localdate()
    done = [c.purpose for c in ended if c.ended == "done" and c.made_at.date() == today]
    requested = request.GET.get("list", "")
    purpose = requested if requested in TITLES else service.next_purpose(done)
    steps = service.filled(question.setup(), purpose)
    return {
        "titles": service.titles(),
        "purpose": purpose,
        "steps": steps,
        "stops": draw_steps(steps),
        "open": mine.filter(ended="").defer("steps"),
        "ended": ended,
        "names": TITLES,
        "answer": Answer(TITLES[purpose], service.told(steps)),
    }


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The steps of a setup: the list in hand; which to begin, and which are done."""
    return workbench.page(request, opened(request, pk), "steps")


@require_POST
def begin(request: HttpRequest, pk: int) -> HttpResponse:
    """Begin a list."""
    saved, setup = sound_setup(request, pk)
    purpose = request.POST.get("for", "")
    if purpose not in TITLES:
        raise Http404
    return redirect("steps-list", pk=service.begin(saved, setup, purpose).pk)


def _own(request: HttpRequest, pk: int) -> Checklist:
    found: Checklist = get_object_or_404(
        Checklist.objects.select_related("setup"), pk=pk, owner=account_of(request)
    )
    return found


def _shown(held: Checklist, fault: str = "", said: str = "") -> Context:
    """A list at the step in hand."""
    steps = service.numbered(held)
    return {
        "held": held,
        "saved": held.setup,
        "title": TITLES[held.purpose],
        "step": steps[held.place],
        "stops": draw_steps(held.steps, held.place, bool(held.ended)),
        "steps": steps,
        "count": len(steps),
        "gate": service.gate_of(held.steps[held.place]),
        "fault": fault,
        "said": said,
        "stopped": STOPPED,
    }


def _page(
    request: HttpRequest, held: Checklist, status: int = 200, fault: str = "", said: str = ""
) -> HttpResponse:
    question = opened(request, held.setup_id)
    return workbench.page(request, question, "steps", _shown(held, fault, said), status=status)


@require_safe
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """The step in hand."""
    return _page(request, _own(request, pk))


@require_POST
def go(request: HttpRequest, pk: int) -> HttpResponse:
    """Finish the step in hand, or go back one."""
    _own(request, pk)
    if "back" in request.POST:
        service.back(account_of(request), pk)
        return acknowledged(request, redirect("steps-list", pk=pk))
    reading = request.POST.get("reading", "")[:100]
    place = number_of(request.POST.get("place"))
    try:
        held, passed = service.go_on(
            account_of(request), pk, place, reading, request.user.get_username()
        )
    except SetupError as error:
        fault = error.faults[0].message
        return _page(request, _own(request, pk), 422, fault)
    if passed is not None:
        _note(held, place, reading)
    if passed is not None and not passed.passes:
        return acknowledged(request, _page(request, held, 422, said=passed.sentence))
    return acknowledged(request, redirect("steps-list", pk=pk))


def _note(held: Checklist, place: int, reading: str) -> None:
    """Put what was read at a gate into the log, where it is a reading of the supply."""
    step = held.steps[place]
    gate = service.gate_of(step)
    if gate is None:
        return
    notes = f"read at “{step['text'][:80]}”"
    value = typed_figure(reading)
    if step["id"] in ("tester", "tester-again"):
        words = reading.strip().lower()
        measured.note(held.setup, {"kind": "supply", "tester": words, "notes": notes})
    elif gate.unit == "V" and step["id"].startswith("volts") and value is not None:
        measured.note(held.setup, {"kind": "supply", "volts": value, "notes": notes})


@require_safe
def printed(request: HttpRequest, pk: int) -> HttpResponse:
    """A list as PDF: what was done, read, by whom, when."""
    held = _own(request, pk)
    context = {
        "held": held,
        "saved": held.setup,
        "title": TITLES[held.purpose],
        "steps": service.numbered(held),
    }
    html = render_to_string("steps/print.html", context)
    name = f"{held.setup.name} {held.purpose}"
    return pdf_answer(to_pdf(html, "report.css", html, PAPER_CSS[paper_of(request)]), name, "steps")


@require_safe
def blank(request: HttpRequest, pk: int, purpose: str) -> HttpResponse:
    """A list as PDF that nobody has begun, for the wall by the panel."""
    saved, setup = sound_setup(request, pk)
    if purpose not in TITLES:
        raise Http404
    steps = [s | {"number": n} for n, s in enumerate(service.filled(setup, purpose), 1)]
    context = {"saved": saved, "title": TITLES[purpose], "steps": steps}
    html = render_to_string("steps/print.html", context)
    return pdf_answer(
        to_pdf(html, "report.css", html, PAPER_CSS[paper_of(request)]),
        f"{saved.name} {purpose}",
        "steps",
    )


@require_safe
def calendar(request: HttpRequest, pk: int) -> HttpResponse:
    """Reminders of the upkeep as a calendar file."""
    saved, setup = sound_setup(request, pk)
    answer = HttpResponse(service.reminders(saved, setup), content_type="text/calendar")
    name = slugify(saved.name) or "upkeep"
    answer["Content-Disposition"] = f'attachment; filename="{name}-upkeep.ics"'
    return answer
