"""The bench: the rig as a virtual panel where anything may be tripped."""

from __future__ import annotations

import json
from typing import cast

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.bench.script import BREAKER_EDGES, Begin
from ironmargin.bench.words import bench_csv, bench_json, ended
from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.protection.breaker import NOMINAL
from ironmargin.setup.records import specs
from web.accounts.access import account_of
from web.bench import service
from web.bench.drawing import panel
from web.bench.models import BenchRun
from web.design.context import UNITS, Context, cookie_of, paper_of
from web.design.fields import from_units, in_units
from web.design.printing import PAPER_CSS, to_pdf
from web.design.typed import typed_figure, typed_in, typed_number
from web.setups.question import Question, opened
from web.setups.stations import Judgment
from web.storage.views import number_of
from web.verdicts import workbench

MAX_RUNS_LISTED = 12
OPENS_AT = 10
"""How fast a bench runs that opened by itself."""
FIGURES = ("outdoor", "volts", "neighbour", "altitude", "fuel", "soc")


def station(request: HttpRequest, question: Question, judged: Judgment) -> Context:
    """The last bench of a setup, or the way to a new one."""
    mine = BenchRun.objects.filter(owner=account_of(request), setup=question.saved)
    last = None if "new" in request.GET else mine.first()
    if last is not None:
        return _context(last, question)
    runs = mine.only("made_at", "events")[:MAX_RUNS_LISTED]
    return {"runs": runs, "at_once": "new" not in request.GET}


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The bench of a setup."""
    return workbench.page(request, opened(request, pk), "bench")


def _room(typed: str, units: str) -> tuple[float | None, str]:
    """How warm it is inside as it was typed [°C], and what is wrong with it; None as outdoors."""
    if not typed.strip():
        return None, ""
    unit = in_units(0.0, "°C", units)[1]
    value = typed_in(typed[:20], unit)
    faults: list[Fault] = []
    stored = from_units(value, "°C", units) if isinstance(value, float) else value
    read = specs(Begin)["room_c"][1].read(stored, "room", faults)
    return (None, faults[0].message) if faults else (cast(float, read), "")


@require_POST
def begin(request: HttpRequest, pk: int) -> HttpResponse:
    """Begin a bench, with the setup as the rail has it."""
    question = opened(request, pk)
    try:
        setup = question.setup()
    except SetupError:
        return redirect("bench", pk=pk)
    saved = question.saved
    assert saved is not None
    on = [x[:60] for x in request.POST.getlist("on")][:200]
    edge = request.POST.get("breakers", NOMINAL)
    edge = edge if edge in BREAKER_EDGES else NOMINAL
    room_c, wrong = _room(request.POST.get("room", ""), cookie_of(request, "units", UNITS, "us"))
    if wrong:
        messages.warning(request, f"Inside {wrong}. The bench begins with the heat outdoors.")
    run = service.begin(saved, setup, request.POST.get("how", "off"), on, edge, room_c)
    if "runs" in request.POST:  # it opens running
        run = service.touch(account_of(request), run.pk, speed=OPENS_AT)
    if "HX-Request" in request.headers:
        return render(request, "bench/_station.html", _context(run, question))
    return redirect("bench-run", pk=run.pk)


def _own(request: HttpRequest, pk: int) -> BenchRun:
    run: BenchRun = get_object_or_404(
        BenchRun.objects.select_related("setup"), pk=pk, owner=account_of(request)
    )
    return run


def _context(run: BenchRun, question: Question | None = None) -> Context:
    """What a bench shows; with the question at hand, whether it is still the bench's."""
    bench = service.bench_of(run)
    numbered = list(enumerate(run.events))[::-1]
    return {
        "run": run,
        "saved": run.setup,
        "speeds": service.SPEEDS,
        "happened": numbered[:40],
        "other_setup": question is not None and question.sound() != run.document,
        **panel(bench),
    }


@require_safe
def run(request: HttpRequest, pk: int) -> HttpResponse:
    """A bench as it stands."""
    found = _own(request, pk)
    question = opened(request, found.setup_id)
    return workbench.page(request, question, "bench", _context(found))


@require_POST
def press(request: HttpRequest, pk: int) -> HttpResponse:
    """Do one thing, or only let time pass; 204 where nothing has changed since ``version``."""
    post = request.POST
    act = _act(post, cookie_of(request, "units", UNITS, "us"))
    ask: Document = {"next": "next" in post}
    if post.get("speed", "").isdigit():
        ask["speed"] = number_of(post["speed"])
    try:
        found = service.touch(account_of(request), pk, act, **ask)
    except BenchRun.DoesNotExist:
        raise Http404 from None
    except SetupError as error:
        return render(request, "components/faults.html", {"loose_faults": error.faults}, status=422)
    if "HX-Request" not in request.headers:
        return redirect("bench-run", pk=found.pk)
    quiet = act is None and not ask["next"] and "speed" not in ask
    if quiet and found.version == number_of(post.get("version")):
        return HttpResponse(status=204)
    return render(request, "bench/_bench.html", _context(found))


def _act(post: QueryDict, units: str) -> Document | None:
    """What was pressed: ``do`` is ``act/what/state``; a figure comes beside it."""
    do, _, rest = post.get("do", "")[:200].partition("/")
    what, _, state = rest.rpartition("/")
    if not do:
        return None
    act: Document = {"do": do}
    if what:
        act["what"] = what
    if state in ("on", "off"):
        act["on"] = state == "on"
    elif state:
        act["mode"] = state
    if do in FIGURES:
        act.pop("what", None)
        typed = typed_number(post.get(f"figure-{do}", "") or "x")
        unit = {"outdoor": "°C", "altitude": "m"}.get(do, "")
        over = typed_figure(post.get("over"))
        act["over_s"] = min(max(over, 0.0), 1440.0) * 60 if over is not None else 0.0
        act["figure"] = from_units(typed, unit, units) if isinstance(typed, float) else typed
    return act


@require_POST
def rewind(request: HttpRequest, pk: int) -> HttpResponse:
    """Go back to before an event, on a branch of its own."""
    branch = service.rewind(_own(request, pk), number_of(request.POST.get("event")))
    return redirect("bench-run", pk=branch.pk)


@require_safe
def export(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """The run as CSV, or as the open format."""
    found = _own(request, pk)
    if kind not in ("csv", "json", "pdf"):
        raise Http404
    bench = service.replayed(found)
    name = slugify(found.setup.name) or "bench"
    if kind == "csv":
        answer = HttpResponse(bench_csv(bench), content_type="text/csv; charset=utf-8")
    elif kind == "pdf":
        context = {
            "run": found,
            "saved": found.setup,
            "events": bench.events,
            "ended": ended(bench),
        }
        html = render_to_string("bench/print.html", context)
        answer = HttpResponse(
            to_pdf(html, "report.css", html, PAPER_CSS[paper_of(request)]),
            content_type="application/pdf",
        )
    else:
        text = json.dumps(bench_json(bench), ensure_ascii=False)
        answer = HttpResponse(text, content_type="application/json")
    answer["Content-Disposition"] = f'attachment; filename="{name}-bench.{kind}"'
    return answer
