"""Places by wants, and many setups at once: the two grids of the reach."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.spreadsheet import csv_text
from web.accounts.access import account_of
from web.design.context import UNITS, Context, cookie_of
from web.design.drawing import small_bar
from web.design.fields import from_units
from web.design.templatetags.figures import percent
from web.design.typed import typed_figure
from web.setups import repository
from web.setups.drawing import draw_margins
from web.setups.models import SavedSetup
from web.setups.stations import Answer
from web.storage.views import number_of
from web.supplies.models import Supply
from web.supplies.post import memories_of, with_hours
from web.verdicts import jobs
from web.verdicts.models import Job
from web.verdicts.sound import sound_setup

MAX_PLACES, MAX_WANTS, MAX_SETUPS = 24, 6, 300
FIGURES = (
    ("outdoor_c", "Heat outdoors", "°C"),
    ("shore_v", "Volts at the post", "V"),
    ("altitude_m", "Height", "m"),
)
WIDTH = 260.0
ORDER = {"fails": 0, "thin": 1, "holds": 2}


def _busy(request: HttpRequest, busy: jobs.Busy) -> HttpResponse:
    context = {"title": "Busy, still working", "advice": busy.advice}
    return render(request, "design/error.html", context, status=503)


def _requested_places(saved: SavedSetup, setup: Setup) -> Document | None:
    """Stored supplies that suit the rig as places, the wants of its setups as columns.

    A place is reached the way a setup of this rig reaches that supply; else as this setup does.
    """
    same = SavedSetup.objects.current(saved.owner).filter(rig=saved.rig_id) if saved.rig_id else []
    asking = [(one, repository.compose(one)) for one in [saved, *same]]
    ways = {one.supply_id: whole.get("hookup", []) for one, whole in reversed(asking)}
    places = []
    stored_ones = list(Supply.objects.current(saved.owner)[:MAX_PLACES])
    memories = memories_of(stored_ones)
    for stored in stored_ones:
        place = {"name": stored.name[:120], "supply": stored.document}
        if stored.pk in ways:
            place["hookup"] = ways[stored.pk]
        if not _suits(setup, place):
            continue
        places.append(place)
        memory = memories.get(stored.pk)
        if memory is not None and memory.soft is not None and len(places) < MAX_PLACES:
            late = f", soft {memory.soft.when}"
            softer = with_hours(stored.document, memory.soft)
            places.append(place | {"name": f"{stored.name[:90]}{late}", "supply": softer})
    wants: list[Document] = []
    for one, whole in asking:
        wanted = whole.get("wanted") or []
        if wanted and all(w["wanted"] != wanted for w in wants):
            wants.append({"name": one.name[:120], "wanted": wanted})
    if not places or not wants:
        return None
    return {
        "format": "iron-margin/places",
        "version": 1,
        "places": places,
        "wants": wants[:MAX_WANTS],
    }


def _suits(setup: Setup, place: Document) -> bool:
    """Whether the supply of a place can feed this rig at all, reached that way."""
    there = {part: place[part] for part in ("supply", "hookup") if part in place}
    try:
        read_setup(write_setup(setup) | there)
    except SetupError:
        return False
    return True


@require_safe
def places(request: HttpRequest, pk: int) -> HttpResponse:
    """Which of the kept supplies holds what is wanted."""
    saved, setup = sound_setup(request, pk)
    requested = _requested_places(saved, setup)
    job = None
    if "job" in request.GET:  # only looked at: asking again would begin one that failed anew
        number = number_of(request.GET["job"])
        job = jobs.look(get_object_or_404(Job, pk=number, owner=account_of(request), kind="places"))
    elif requested is not None:
        try:
            job = jobs.ask(account_of(request), "places", write_setup(setup), requested)
        except jobs.Busy as busy:
            return _busy(request, busy)
    context = {"saved": saved, "job": job} | _grid(job)
    partial = request.headers.get("HX-Target") == "grid"
    return render(request, f"reach/{'_grid' if partial else 'places'}.html", context)


def _grid(job: Job | None) -> Context:
    if job is None or job.status != jobs.DONE:
        place = jobs.place_of(job) if job is not None and job.status == jobs.WAITING else 0
        return {"place": place}
    answer = job.found
    rows = []
    for name, verdicts, margins, sentences in zip(
        answer["places"], answer["verdict"], answer["margin"], answer["sentence"], strict=True
    ):
        cells = [
            {"verdict": v, "margin": m, "sentence": s, "bar": small_bar(m, v)}
            for v, m, s in zip(verdicts, margins, sentences, strict=True)
        ]
        rows.append((name, cells))
    return {"rows": rows, "wants": answer["wants"], "answer": _best(answer)}


def _best(answer: Document) -> Answer:
    """The place that holds the first want with most room; that none does where none does."""
    first = zip(answer["places"], answer["verdict"], answer["margin"], strict=True)
    found = [(margins[0], name, verdicts[0]) for name, verdicts, margins in first]
    margin, name, verdict = max(found, key=lambda x: (x[2] != "fails", x[0]))
    want = answer["wants"][0]
    if verdict == "fails":
        said = f"Of your {len(found)} places, {name} comes closest for “{want}”: {percent(margin)}."
        return Answer("None holds", said, verdict)
    holding = sum(1 for _, _, v in found if v != "fails")
    said = f"It holds “{want}” with {percent(margin)}, the most of your {len(found)} places; "
    return Answer(name, f"{said}{holding} of them hold it.", verdict)


@dataclass(frozen=True)
class Dot:
    """A setup on the map of margins: before across, after upwards."""

    name: str
    x: float
    y: float
    state: str


@require_safe
def clients(request: HttpRequest) -> HttpResponse:
    """Every setup asked again with something changed: who turns thin, who fails."""
    held = SavedSetup.objects.current(account_of(request))[:MAX_SETUPS]
    context = {"setups": held, "figures": FIGURES, "answer": _today(held)}
    return render(request, "reach/clients.html", context | {"drawn": draw_margins(held)})


def _today(held: Iterable[SavedSetup]) -> Answer:
    """How the setups stand as they are."""
    states = [s.verdict for s in held if not s.stale]
    count, fail, thin = len(states), states.count("fails"), states.count("thin")
    said = (
        f"As they are, {thin} more are thin. Type a hotter day or a weaker post, and see which "
        "setups change."
    )
    return Answer(f"{fail} of {count} fail", said, "fails" if fail else "holds")


@require_POST
def begin_clients(request: HttpRequest) -> HttpResponse:
    """Put the sweep into the queue."""
    chosen = {number_of(pk) for pk in request.POST.getlist("pk")[:MAX_SETUPS]}
    units = cookie_of(request, "units", UNITS, "us")
    figures = []
    for field, _, unit in FIGURES:
        value = typed_figure(request.POST.get(field))
        if value is not None:
            figures.append([field, round(from_units(value, unit, units), 4)])
    found = SavedSetup.objects.of(account_of(request)).select_related("rig", "supply")
    rows = []
    for saved in found.filter(pk__in=chosen)[:MAX_SETUPS]:
        try:
            document = write_setup(read_setup(repository.compose(saved)))
        except SetupError:
            continue
        rows.append({"pk": saved.pk, "name": saved.name, "document": document})
    if not rows or not figures:
        held = SavedSetup.objects.current(account_of(request))[:MAX_SETUPS]
        context = {"setups": held, "figures": FIGURES, "answer": _today(held)}
        context["fault"] = "Check at least one setup, and type at least one figure to change."
        return render(request, "reach/clients.html", context, status=422)
    try:
        job = jobs.ask(
            account_of(request), "sweep", rows[0]["document"], {"rows": rows, "figures": figures}
        )
    except jobs.Busy as busy:
        return _busy(request, busy)
    return redirect("reach-sweep", job=job.pk)


def _sweep(request: HttpRequest, number: int) -> Job:
    found: Job = get_object_or_404(Job, pk=number, owner=account_of(request), kind="sweep")
    return found


@require_safe
def sweep(request: HttpRequest, job: int) -> HttpResponse:
    """How far a sweep is, or who turned."""
    found = jobs.look(_sweep(request, job))
    place = jobs.place_of(found) if found.status == jobs.WAITING else 0
    done = round(100 * found.done / found.todo) if found.todo else 0
    context: Context = {"job": found, "place": place, "percent": done}
    if found.status == jobs.DONE:
        context |= _turned(found.found)
    partial = request.headers.get("HX-Target") == "sweep"
    return render(request, f"reach/{'_sweep' if partial else 'sweep'}.html", context)


@require_POST
def cancel_sweep(request: HttpRequest, job: int) -> HttpResponse:
    """Stop a sweep."""
    jobs.cancel(_sweep(request, job))
    return redirect("reach-sweep", job=job)


def _turned(answer: Document) -> Document:
    rows = sorted(
        answer["rows"],
        key=lambda r: (r["fault"] == "", ORDER.get(r["after"], -1), r["after_margin"]),
    )
    dots = [
        Dot(r["name"], _place(r["before_margin"]), WIDTH - _place(r["after_margin"]), r["after"])
        for r in rows
        if not r["fault"]
    ]
    turned = [r for r in rows if ORDER.get(r["after"], 0) < ORDER.get(r["before"], 0)]
    return {"rows": rows, "dots": dots, "turned": len(turned), "figures": answer["figures"]}


def _place(margin: float) -> float:
    """A margin from −50 to +50 % on the map's axes."""
    return round(WIDTH * (min(max(margin, -0.5), 0.5) + 0.5), 1)


@require_safe
def sweep_csv(request: HttpRequest, job: int) -> HttpResponse:
    """A sweep as CSV."""
    found = _sweep(request, job)
    names = ("name", "before", "before_margin", "after", "after_margin", "sentence", "fault")
    rows = [tuple(r[name] for name in names) for r in found.found.get("rows", ())]
    answer = HttpResponse(csv_text([names, *rows]), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="sweep.csv"'
    return answer
