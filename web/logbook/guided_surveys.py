"""Two walks that end in the log: the survey, one thing at a time, and a soft starter's learning."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from ironmargin.document import Document
from ironmargin.electrics.motor import STARTS_TO_LEARN
from ironmargin.learning.looking import learning_peaks
from ironmargin.learning.running import demand_in
from ironmargin.setup.loads import COOLING_MODES, AirConditioner, Load, Rotating
from ironmargin.setup.model import Setup
from web.design.context import paper_of
from web.design.printing import PAPER_CSS, pdf_answer, to_pdf
from web.design.typed import typed_figure
from web.logbook import service
from web.logbook.models import LogEntry
from web.setups.models import SavedSetup
from web.verdicts.report import MAX_PRINTED
from web.verdicts.sound import sound_setup

RUN_S, REST_S = 30, 300
MAX_A, MAX_V, MAX_W = 5000.0, 300.0, 1e6
Requested = tuple[Load, str | None]
"""A load of the survey, and the mode it is asked in."""


def _asks(setup: Setup) -> list[Requested]:
    """What the survey switches on, one after the other: an air conditioner once in each mode."""
    return [
        (load, mode)
        for load in setup.rig.loads
        for mode in (COOLING_MODES if isinstance(load, AirConditioner) else (None,))
    ]


def _figure(request: HttpRequest, name: str, maximum: float) -> tuple[float | None, str]:
    """A posted figure, or None and what is wrong with it."""
    typed = request.POST.get(name, "").strip()[:40]
    if not typed:
        return None, ""
    value = typed_figure(typed)
    if value is None or not 0.0 <= value <= maximum:
        return None, f'must be a number from 0 to {maximum:g} (got "{typed}")'
    return value, ""


def _key(pk: int) -> str:
    return f"survey-{pk}"


@require_safe
def survey(request: HttpRequest, pk: int) -> HttpResponse:
    """The step of the survey in hand."""
    saved, setup = sound_setup(request, pk)
    return _survey(request, saved, setup, "")


def _survey(request: HttpRequest, saved: SavedSetup, setup: Setup, fault: str) -> HttpResponse:
    steps: list[Document] = request.session.get(_key(saved.pk), [])
    asks = _asks(setup)
    at = len(steps)
    load, mode = asks[at - 1] if 0 < at <= len(asks) else (None, None)
    expected = watts = None
    if load is not None:
        demand = demand_in(setup, load.id, mode)
        expected = sum(d.amps for d in demand.steady)
        watts = sum(d.va.real for d in demand.steady)
    context = {
        "saved": saved,
        "steps": steps,
        "load": load,
        "mode": (mode or "").replace("-", " "),
        "number": at + 1,
        "count": len(asks) + 1,
        "done": at > len(asks),
        "expected": expected,
        "watts": watts,
        "fault": fault,
    }
    return render(request, "logbook/survey.html", context, status=422 if fault else 200)


@require_POST
def survey_next(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a reading, pass over a load, go back one, or end the survey and keep it."""
    saved, setup = sound_setup(request, pk)
    steps: list[Document] = list(request.session.get(_key(saved.pk), []))
    asks = _asks(setup)
    if "back" in request.POST:
        request.session[_key(saved.pk)] = steps[:-1]
        return redirect("log-survey", pk=pk)
    if "keep" in request.POST:
        entry = {
            "kind": "survey",
            "at": timezone.now().isoformat(timespec="seconds"),
            "steps": [s for s in steps if "amps" in s or "watts" in s],
        }
        if entry["steps"] and not service.faults_of(setup, entry):
            service.store(saved, entry, "")
            messages.success(request, "The survey is in the log: look at what it tells.")
        request.session.pop(_key(saved.pk), None)
        return redirect("log", pk=pk)
    if len(steps) > len(asks):
        return redirect("log-survey", pk=pk)
    load, mode = asks[len(steps) - 1] if steps else (None, None)
    step: Document = {"on": [load.id] if load is not None else []}
    if mode is not None:
        step["mode"] = mode
    if "skip" not in request.POST:
        amps, fault = _figure(request, "amps", MAX_A)
        watts, fault_w = _figure(request, "watts", MAX_W)
        volts, fault_v = _figure(request, "volts", MAX_V)
        fault = fault or fault_w or fault_v
        if fault or (amps is None and watts is None):
            return _survey(request, saved, setup, fault or "type the amps you read, or the watts")
        step |= {"amps": amps} if amps is not None else {"watts": watts}
        if volts is not None:
            step["volts"] = volts
    request.session[_key(saved.pk)] = [*steps, step]
    return redirect("log-survey", pk=pk)


@require_safe
def power_sheet(request: HttpRequest, pk: int) -> HttpResponse:
    """What each load takes, on paper."""
    saved, setup = sound_setup(request, pk)
    rows = []
    for load in setup.rig.loads[:MAX_PRINTED]:
        demand = demand_in(setup, load.id, None)
        rows.append(
            {
                "name": load.name,
                "amps": sum(d.amps for d in demand.steady),
                "watts": sum(d.va.real for d in demand.steady),
                "lra": getattr(load, "lra_a", None),
                "known": load.provenance,
            }
        )
    more = len(setup.rig.loads) - len(rows)
    html = render_to_string(
        "logbook/power_sheet.html", {"saved": saved, "rows": rows, "more": more}
    )
    return pdf_answer(
        to_pdf(html, "report.css", html, PAPER_CSS[paper_of(request)]),
        f"{saved.name} power",
        "power",
    )


def _starters(setup: Setup) -> list[Rotating]:
    motors = (x for x in setup.rig.loads if isinstance(x, Rotating))
    return [x for x in motors if x.start == "soft-start"]


def _learned(saved: SavedSetup, ident: str) -> list[LogEntry]:
    """The learning starts of one load, oldest first."""
    rows = LogEntry.objects.filter(setup=saved, kind="start", deleted_at=None)
    return [
        row
        for row in rows
        if row.document.get("load") == ident and "learned_starts" in row.document.get("changed", {})
    ]


@require_safe
def learning(request: HttpRequest, pk: int) -> HttpResponse:
    """Five starts of a soft starter, half a minute on and five minutes off."""
    saved, setup = sound_setup(request, pk)
    return _learning(request, saved, setup, "")


def _learning(request: HttpRequest, saved: SavedSetup, setup: Setup, fault: str) -> HttpResponse:
    starters = _starters(setup)
    wanted = request.POST.get("load") or request.GET.get("load", "")
    load = next((x for x in starters if x.id == wanted), starters[0] if starters else None)
    rows: list[LogEntry] = []
    predicted: list[float] = []
    if load is not None:
        rows = _learned(saved, load.id)
        predicted = learning_peaks(setup, load.id)
    peaks = [float(r.document["peak_a"]) for r in rows if r.document.get("peak_a") is not None]
    maximum = max([*predicted, *peaks, 1.0]) * 1.1

    def line(values: list[float]) -> list[tuple[float, float]]:
        return [
            (20.0 + 50.0 * n, round(120.0 * (1 - v / maximum), 1)) for n, v in enumerate(values)
        ]

    context = {
        "saved": saved,
        "starters": starters,
        "load": load,
        "rows": rows,
        "number": len(rows) + 1,
        "of": STARTS_TO_LEARN,
        "over": len(rows) >= STARTS_TO_LEARN,
        "goal": predicted[-1] if predicted else None,
        "curve": "M" + "L".join(f"{x} {y}" for x, y in line(predicted)) if predicted else "",
        "dots": line(peaks),
        "run_s": RUN_S,
        "rest_s": REST_S,
        "fault": fault,
    }
    return render(request, "logbook/learning.html", context, status=422 if fault else 200)


@require_POST
def learning_next(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep the peak of a learning start."""
    saved, setup = sound_setup(request, pk)
    ident = request.POST.get("load", "")
    if ident not in {x.id for x in _starters(setup)}:
        raise Http404
    peak, fault = _figure(request, "peak_a", MAX_A)
    if peak is None:
        return _learning(request, saved, setup, fault or "type the highest amps you read")
    count = len(_learned(saved, ident))
    entry = {
        "kind": "start",
        "load": ident,
        "outcome": "starts",
        "peak_a": peak,
        "at": timezone.now().isoformat(timespec="seconds"),
        "changed": {"learned_starts": min(count, STARTS_TO_LEARN)},
        "notes": f"learning start {count + 1}",
    }
    faults = service.faults_of(setup, entry)
    if faults:
        return _learning(request, saved, setup, faults[0].message)
    service.store(saved, entry, request.POST.get("once", ""))
    return redirect(f"{reverse('log-learning', args=[saved.pk])}?load={ident}")
