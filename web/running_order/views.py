"""The running order of a setup: sets, trades, the start sequence, the day, the card."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.document import Document
from ironmargin.errors import Fault
from web.accounts.access import account_of
from web.design.context import Context
from web.design.printing import pdf_answer
from web.design.typed import typed_figure
from web.running_order import service
from web.running_order.card import SIZES, card_pdf
from web.running_order.drawing import draw_stairs
from web.running_order.models import DayTasks, StepReading
from web.setups import judging, measured
from web.setups.models import SavedSetup
from web.setups.question import Question, opened
from web.setups.stations import Answer, Judgment
from web.storage.views import number_of
from web.verdicts import jobs, workbench
from web.verdicts.models import Job
from web.verdicts.sound import sound_document
from web.verdicts.view_model import view_model

MAX_READINGS = 400
CARD_SIZES = (("a6", "A6"), ("a5", "A5"), ("letter", "Letter"))


def station(request: HttpRequest, question: Question, judged: Judgment) -> Context:
    """The running order of a question, and the day of its setup."""
    saved, document = question.saved, question.sound()
    assert saved is not None
    day = service.tasks_of(saved, document)
    context = {
        "readings": saved.readings.all()[:12],
        "card_sizes": CARD_SIZES,
        "names": service.names_of(document),
    }
    try:
        order = _order(request, saved, document)
    except jobs.Busy as busy:
        return {"answer": Answer("Busy", busy.advice), "busy": True}
    return context | order | _day(document, day, [])


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The running order."""
    return workbench.page(request, opened(request, pk), "order")


def _order(request: HttpRequest, saved: SavedSetup, document: Document) -> Document:
    job = jobs.ask(account_of(request), "order", document)
    return _found(job, saved)


def _found(job: Job, saved: SavedSetup) -> Context:
    """An order as far as it is found."""
    place = jobs.place_of(job) if job.status == jobs.WAITING else 0
    context: Context = {"job": job, "saved": saved, "place": place}
    if job.status != jobs.DONE:
        waits = Answer(
            "Computing…", "Checking every combination of loads and every order of starts."
        )
        return context | {"answer": waits}
    found = service.order_context(job.document, job.found)
    stairs = draw_stairs(found["steps"], _limit_a(job.document))
    return context | found | {"answer": service.answer_of(found, job.document), "stairs": stairs}


def _limit_a(document: Document) -> float | None:
    """The least amps a leg may carry for hours, as the verdict has them [A]."""
    data, _ = view_model(document)
    limits = [c["limit_a"] for c in data["rail"]["totals"]] if data else []
    return min((a for a in limits if a), default=None)


@require_safe
def order(request: HttpRequest, pk: int, job: int) -> HttpResponse:
    """How far the order is, or the order."""
    saved = get_object_or_404(SavedSetup.objects.of(account_of(request)), pk=pk)
    found = jobs.look(get_object_or_404(Job, pk=job, owner=account_of(request), kind="order"))
    return render(request, "running_order/_answer.html", _found(found, saved))


def _weakest(document: Document) -> str:
    """The sentence of what gives first; empty where the question has faults."""
    checked = judging.judge(document).checked
    return checked.result.weakest.sentence if checked is not None else ""


@require_POST
def reading(request: HttpRequest, pk: int) -> HttpResponse:
    """What was read at a step; kept for the log."""
    saved, document = sound_document(request, pk)
    read, volts = (typed_figure(request.POST.get(k)) for k in ("read_a", "read_v"))
    read_a = read if read is not None and 0 <= read < 1000 else None
    read_v = volts if volts is not None and 0 <= volts < 1000 else None
    tripped = "tripped" in request.POST
    load = request.POST.get("load", "")[:60]
    expect = typed_figure(request.POST.get("expect_a"))
    known = load in service.names_of(document)
    if not known or (read_a is None and not tripped):
        return render(
            request,
            "running_order/_reading.html",
            {"fault": "Type the amps you read, 0 to 999."},
            status=422,
        )
    entry: Document = {"kind": "start", "load": load, "instrument": "clamp"}
    entry |= {"outcome": "trips" if tripped else "starts", "notes": "read while starting in order"}
    entry |= {"settled_a": read_a} if read_a is not None else {}
    entry |= {"settled_v": read_v} if read_v is not None else {}
    measured.note(saved, entry)
    if saved.readings.count() < MAX_READINGS:
        expected = expect if expect is not None and abs(expect) < 1e6 else 0.0
        StepReading.objects.create(
            setup=saved,
            load=load,
            mode=request.POST.get("mode", "")[:20],
            expect_a=expected,
            read_a=read_a,
            read_v=read_v,
            tripped=tripped,
        )
    context = {
        "saved": saved,
        "read_a": read_a,
        "expect_a": expect,
        "tripped": tripped,
        "load": load,
        "name": service.names_of(document)[load],
    }
    if tripped:
        context |= {
            "why": _weakest(document),
            "weaker": document["supply"]["kind"] in ("generator", "parallel"),
        }
    return render(request, "running_order/_reading.html", context)


@require_POST
def replan(request: HttpRequest, pk: int) -> HttpResponse:
    """The order again after something tripped: without that load, or taking the supply as weaker
    than its plate.
    """
    saved, document = sound_document(request, pk)
    changed, said = service.after_a_trip(document, request.POST.get("without", ""))
    if changed is None:
        fault = "Nothing is left to plan. Choose other loads in the setup, or another supply."
        response = render(request, "running_order/_reading.html", {"fault": fault}, status=422)
        response["HX-Retarget"] = "#now-answer"
        response["HX-Reswap"] = "innerHTML"
        return response
    job = jobs.ask(account_of(request), "order", changed)
    return render(request, "running_order/_answer.html", _found(job, saved) | {"said": said})


# the day


def _day(
    document: Document,
    day: DayTasks,
    faults: Sequence[Fault | Document],
    tasks: Document | None = None,
) -> Document:
    """What the day's part of the page shows; the plan only where it still is of these tasks."""
    shown = tasks if tasks is not None else day.tasks
    plan = day.plan
    fits = plan is not None and {p["task"] for p in plan["placed"]} <= {
        t["id"] for t in day.tasks["tasks"]
    }
    return {
        "day": day,
        "tasks": shown["tasks"],
        "running": shown.get("running") or [],
        "generator_hours": service.windows_words(shown, "generator_hours"),
        "quiet": service.windows_words(shown, "quiet"),
        "max_generator_h": shown.get("max_generator_h", ""),
        "day_faults": faults,
        "load_names": list(service.names_of(document).items()),
        "plan": plan if fits else None,
        "drawn": service.draw_day(document, day.tasks, plan) if fits and plan is not None else None,
        "unplaced": [
            {
                "name": next(
                    (
                        t.get("name") or t["load"]
                        for t in day.tasks["tasks"]
                        if t["id"] == u["task"]
                    ),
                    u["task"],
                )
            }
            | u
            for u in (plan["unplaced"] if fits and plan is not None else [])
        ],
    }


@require_POST
def plan_day(request: HttpRequest, pk: int) -> HttpResponse:
    """Plan the day of the tasks in the form; a task moved on the timeline arrives as a lock."""
    saved, document = sound_document(request, pk)
    day = service.tasks_of(saved, document)
    tasks = service.posted_tasks(request.POST)
    faults = service.faults_of(tasks, document)
    context: Context = {"saved": saved}
    if faults:
        return render(
            request,
            "running_order/_day.html",
            context | _day(document, day, faults, tasks),
            status=422,
        )
    read = number_of(request.POST.get("day_version"))
    mine = DayTasks.objects.filter(pk=day.pk, version=read)
    if not mine.update(tasks=tasks, version=read + 1):
        theirs = ", ".join(str(t.get("name") or t.get("load")) for t in day.tasks["tasks"][:6])
        says = f"This day was planned from another page meanwhile: {theirs or 'no tasks'}."
        lost = [{"path": "", "message": f"{says} Plan again to keep yours instead."}]
        context |= _day(document, day, lost, tasks)
        return render(request, "running_order/_day.html", context, status=409)
    day.refresh_from_db()
    return _planned(
        request, saved, document, day, jobs.ask(account_of(request), "day", document, tasks)
    )


def _planned(
    request: HttpRequest, saved: SavedSetup, document: Document, day: DayTasks, job: Job
) -> HttpResponse:
    context: Context = {"saved": saved}
    if job.status == jobs.DONE:
        DayTasks.objects.filter(pk=day.pk, version=day.version).update(plan=job.answer)
        day.refresh_from_db()
        return render(request, "running_order/_day.html", context | _day(document, day, []))
    if job.status in (jobs.FAILED, jobs.CANCELLED):
        lines = [
            {"path": "", "message": line}
            for line in job.found.get("why", "it was stopped").split("\n")
        ]
        return render(
            request, "running_order/_day.html", context | _day(document, day, lines), status=422
        )
    return render(
        request, "running_order/_day.html", context | _day(document, day, []) | {"day_job": job}
    )


@require_safe
def day_job(request: HttpRequest, pk: int, job: int) -> HttpResponse:
    """How far the day's plan is, or the plan."""
    saved, document = sound_document(request, pk)
    return _planned(
        request,
        saved,
        document,
        service.tasks_of(saved, document),
        jobs.look(get_object_or_404(Job, pk=job, owner=account_of(request), kind="day")),
    )


def _plan_of(request: HttpRequest, pk: int) -> tuple[SavedSetup, Document, DayTasks]:
    saved, document = sound_document(request, pk)
    day = service.tasks_of(saved, document)
    if day.plan is None:
        raise Http404
    return saved, document, day


@require_safe
def day_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The planned day as CSV."""
    saved, document, day = _plan_of(request, pk)
    response = HttpResponse(
        service.plan_csv(document, day.plan or {}), content_type="text/csv; charset=utf-8"
    )
    response["Content-Disposition"] = (
        f'attachment; filename="{slugify(saved.name) or "day"}-day.csv"'
    )
    return response


@require_safe
def day_ics(request: HttpRequest, pk: int) -> HttpResponse:
    """The planned day as iCalendar, for tomorrow or the day asked for."""
    saved, _, day = _plan_of(request, pk)
    try:
        on = date.fromisoformat(request.GET.get("date", ""))
    except ValueError:
        on = timezone.now().date() + timedelta(days=1)
    response = HttpResponse(
        service.calendar(saved, day.tasks, day.plan or {}, on),
        content_type="text/calendar; charset=utf-8",
    )
    response["Content-Disposition"] = f'attachment; filename="{slugify(saved.name) or "day"}.ics"'
    return response


@require_safe
def card(request: HttpRequest, pk: int, size: str) -> HttpResponse:
    """The card by the panel."""
    saved, document = sound_document(request, pk)
    if size not in SIZES:
        raise Http404
    job = jobs.ask(account_of(request), "order", document)
    if job.status != jobs.DONE:
        advice = (
            f"The order is still being computed, number {jobs.place_of(job)} in line. Load this "
            "page again in a moment: the card comes by itself once it is there."
        )
        answer = render(
            request, "design/error.html", {"title": "Not yet", "advice": advice}, status=202
        )
        answer["Retry-After"] = "3"
        return answer
    raw = card_pdf(saved.name, document, job.found, size, saved.supply)
    return pdf_answer(raw, f"{saved.name} {saved.pk} {size}", "card")
