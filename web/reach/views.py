"""How far a setup holds: the map over two figures, the limits, and what size of set would hold."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.practice.steps import words_of
from ironmargin.reaching.axes import NAMED, put
from ironmargin.reaching.size import AID_WORDS
from ironmargin.reaching.where_words import PLACES, where_words
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from web.accounts.access import account_of
from web.design.context import UNITS, Context, cookie_of
from web.design.drawing import small_bar
from web.design.fields import from_units, in_units
from web.design.typed import typed_figure
from web.reach.drawing import (
    AXES,
    COLUMNS,
    ROWS,
    TITLES,
    answer_of,
    draw_map,
    draw_sizes,
    limit_sentences,
    span,
)
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.setups.question import Question, opened
from web.setups.stations import Answer, Judgment
from web.setups.views import own_setup
from web.storage import actions
from web.storage.views import number_of
from web.verdicts import jobs, workbench
from web.verdicts.models import Job

GEAR = {"as-it-is": "As it is", "hard-start": "Hard-start kit", "soft-start": "Soft starter"}
MAX_SIZES = 12


def _axes_of(request: HttpRequest, setup: Setup) -> tuple[dict[str, str], list[str]]:
    """What a map is asked over: two figures that were chosen, else all there are, for the search to
    choose from; and the names of all there are.
    """
    service = setup.rig.service
    known = [field for field in AXES if NAMED[field].read(setup) is not None]
    x, y = request.GET.get("x", ""), request.GET.get("y", "")
    chosen = [x, y] if x in known and y in known and x != y else known
    requested = {}
    for at, field in enumerate(chosen):
        low, high = span(field, service)
        requested[field] = f"{field}={low:g}:{high:g}:{(COLUMNS, ROWS)[min(at, 1)]}"
    return requested, known


def station(request: HttpRequest, question: Question, judged: Judgment) -> Context:
    """The reach of a question: its map and its sizes, as far as they are found."""
    setup, document = question.setup(), question.sound()
    requested, known = _axes_of(request, setup)
    tasks: Document = {"axes": requested}
    if len(requested) == 2 and set(requested) != set(known):
        tasks = dict(zip(("x", "y"), requested.values(), strict=True))
    account = account_of(request)
    cool, hot = _take_day(request)
    context: Context = {"axes": [(field, TITLES[field]) for field in known]}
    context |= {"cool": cool, "hot": hot}
    try:
        found = {"map": jobs.ask(account, "reach", document, tasks)}
        if request.method != "POST":  # while figures are changed, its sizes are asked for after it
            found["sizes"] = jobs.ask(account, "size", document)
    except jobs.Busy as busy:
        return context | {"answer": Answer("Busy", busy.advice), "busy": True}
    parts = {name: _part(request, question.saved, job) for name, job in found.items()}
    waits = Answer("Computing…", "Every point of the map is one check.")
    context["answer"] = parts["map"].get("answer", waits)
    return context | parts


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The reach of a setup."""
    return workbench.page(request, opened(request, pk), "reach")


def _part(request: HttpRequest, saved: SavedSetup | None, job: Job) -> Context:
    """What one of the page's two searches has found so far."""
    context: Context = {"job": job, "saved": saved}
    context["percent"] = round(100 * job.done / job.todo) if job.todo else 0
    context["place"] = jobs.place_of(job) if job.status == jobs.WAITING else 0
    if job.status != jobs.DONE:
        return context
    setup = read_setup(job.found.get("setup") or job.document)
    names = where_words(setup)
    units = cookie_of(request, "units", UNITS, "us")
    if job.kind == "reach":
        now = {f: v for f in AXES if (v := NAMED[f].read(setup)) is not None}
        limits = limit_sentences(job.found["limits"], names, units)
        context |= {
            "map": draw_map(job.found, names, now, units, _day_of(request)),
            "limits": limits,
            "x": job.found["x"]["field"],
            "y": job.found["y"]["field"],
            "fix": job.found["fix"],
            "answer": answer_of(job.found, names, units),
        }
    else:
        # A row is another supply: its breaker is not the post's.
        context |= _sizes(job.found, names | {"breaker": PLACES["breaker"]})
    return context


def _day_of(request: HttpRequest) -> tuple[float, ...]:
    """The day's coolest and hottest as they were last typed [°C]."""
    held = request.session.get("day")
    return tuple(held) if isinstance(held, list) else ()


def _take_day(request: HttpRequest) -> tuple[str, ...]:
    """Keep the day's temperatures that were typed; what is shown of them."""
    units = cookie_of(request, "units", UNITS, "us")
    if "cool" in request.GET or "hot" in request.GET:
        typed = [typed_figure(request.GET.get(name)) for name in ("cool", "hot")]
        request.session["day"] = [
            round(from_units(x, "°C", units), 2) for x in typed if x is not None and -60 <= x <= 160
        ]
    shown = [f"{in_units(x, '°C', units)[0]:.0f}" for x in _day_of(request)]
    return tuple([*shown, "", ""][:2])


def _sizes(answer: Document, names: dict[str, str]) -> Context:
    # All are generators, and the column is narrow: an inverter, a conventional one.
    titles = {r["supply"]: r["name"].replace(" generator,", ",") for r in answer["rows"]}
    rows = [
        r
        | {
            "name": titles[r["supply"]],
            "aid_words": AID_WORDS[r["aid"]],
            "first": names.get(r["gives_first"]["where"], r["gives_first"]["where"]),
            "bar": small_bar(r["iron_margin"], r["verdict"]),
        }
        for r in answer["rows"]
        if not r["dominated"]
    ]
    order = {"holds": 0, "thin": 1, "fails": 2}
    rows.sort(key=lambda r: (order[r["verdict"]], r["cost_class"], -r["iron_margin"]))
    worth = [r for r in rows if r["verdict"] != "fails"][:MAX_SIZES]
    nearest = max(rows, key=lambda r: r["iron_margin"], default=None)
    worth = worth or ([nearest] if nearest else [])
    return {
        "rows": worth,
        "sizes_drawn": draw_sizes(rows),
        "more": [r for r in rows if r not in worth],
        "smallest": [(AID_WORDS[aid], titles[key]) for aid, key in answer["smallest"].items()],
        "dominated": len(answer["rows"]) - len(rows),
        "starters": _starters(answer.get("starters", []), names),
    }


def _starters(rows: list[Document], names: dict[str, str]) -> list[Context]:
    """Start gear side by side, a group for each motor; of those that do not hold as they are, the
    first is open.
    """
    groups: dict[str, list[Document]] = {}
    for r in rows:
        bar = small_bar(r["start_margin"], r["start"])
        drawn = {"bar": bar, "gear": GEAR[r["gear"]], "said": words_of(r["outcome"])}
        groups.setdefault(r["load"], []).append(r | drawn)
    opens = next((load for load, found in groups.items() if found[0]["start"] != "holds"), None)
    return [
        {"name": names.get(load, load), "rows": found, "open": load == opens}
        for load, found in groups.items()
    ]


@require_safe
def sizes(request: HttpRequest, pk: int) -> HttpResponse:
    """The sizes of a setup as it is being changed."""
    question = opened(request, pk)
    try:
        job = jobs.ask(account_of(request), "size", question.sound())
    except jobs.Busy as busy:
        return HttpResponse(busy.advice)
    except SetupError:
        return HttpResponse("Correct the figures first.")
    context = _part(request, question.saved, job) | {"polled": True}
    return render(request, "reach/_size.html", context)


@require_safe
def part(request: HttpRequest, pk: int, job: int) -> HttpResponse:
    """How far one of the searches is, or what it found."""
    saved = own_setup(request, pk)
    found = get_object_or_404(Job, pk=job, owner=account_of(request), kind__in=("reach", "size"))
    context = _part(request, saved, jobs.look(found)) | {"polled": True}
    return render(request, f"reach/_{found.kind}.html", context)


def _map_of(request: HttpRequest, number: str | None) -> Job:
    found: Job = get_object_or_404(
        Job, pk=number_of(number), owner=account_of(request), kind="reach", status=jobs.DONE
    )
    return found


@require_POST
def variant(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a point of the map a setup of its own."""
    saved = own_setup(request, pk)
    found = _map_of(request, request.POST.get("job"))
    row, column = (number_of(request.POST.get(name)) for name in ("row", "column"))
    axes = [(found.found["x"], column), (found.found["y"], row)]
    setup = read_setup(found.found.get("setup") or found.document)
    try:
        for axis, at in axes:
            if at >= len(axis["values"]):
                raise Http404
            setup = put(setup, axis["field"], axis["values"][at])
    except SetupError as error:
        messages.error(request, f"No such setup: {error.faults[0].message}.")
        return redirect("reach", pk=saved.pk)
    name = f"{saved.name}: " + ", ".join(
        f"{TITLES[a['field']].lower()} {a['values'][n]:g}" for a, n in axes
    )
    changed = write_setup(setup) | {"name": name[:200]}
    try:
        stored = repository.store(
            account_of(request), judging.judge(changed, remedy=True), what_if=True
        )
    except actions.TooMany as many:
        messages.error(request, many.advice)
        return redirect("reach", pk=saved.pk)
    messages.success(request, f"“{stored.name}” is now a separate setup.")
    return redirect("setup", pk=stored.pk)


@require_safe
def map_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The map as CSV."""
    saved = own_setup(request, pk)
    found = _map_of(request, request.GET.get("job"))
    answer = found.found
    lines = [f"{answer['x']['field']},{answer['y']['field']},verdict,iron_margin,check,where"]
    for y, verdicts, margins, firsts in zip(
        answer["y"]["values"],
        answer["verdict"],
        answer["margin"],
        answer["gives_first"],
        strict=True,
    ):
        for x, v, m, first in zip(answer["x"]["values"], verdicts, margins, firsts, strict=True):
            lines.append(f"{x:.6g},{y:.6g},{v},{m:.4f},{first['check']},{first['where']}")
    response = HttpResponse("\n".join(lines) + "\n", content_type="text/csv; charset=utf-8")
    name = f"{slugify(saved.name) or 'setup'}-reach.csv"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
