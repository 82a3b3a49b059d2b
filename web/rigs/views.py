"""The pages of rigs: each reads the request, calls the service, renders."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from ironmargin.errors import Fault, SetupError
from ironmargin.setup.hookup import BREAKER_TRIPS
from ironmargin.setup.model import INSULATIONS
from ironmargin.setup.post import BREAKER_STANDARDS
from web.accounts.access import account_of
from web.design.context import UNITS, Context, cookie_of
from web.design.fields import words
from web.design.typed import as_percent
from web.rigs import csv_format, own_sheet, service, space, table, table_edits, twelve
from web.rigs import typical as typical_loads
from web.rigs.drawing import draw_rig
from web.rigs.likely import likely, off_the_battery
from web.rigs.models import Rig
from web.rigs.named import load_of, name_and_draw
from web.storage import actions
from web.storage.views import listing, number_of

SERVICES = (
    ("120", "one leg, 120 V (30 A inlet or less)"),
    ("120/240", "two legs, 120/240 V (50 A, or a house)"),
    ("230", "230 V"),
)


def mine(request: HttpRequest, pk: int) -> Rig:
    """A rig of whoever asks."""
    rig: Rig = get_object_or_404(Rig.objects.of(account_of(request)), pk=pk)
    return rig


@require_http_methods(["GET", "POST"])
def index(request: HttpRequest) -> HttpResponse:
    """The owner's rigs; a POST makes a new one."""
    context = listing(request, Rig) | {"services": SERVICES}
    if request.method == "POST":
        try:
            rig = service.make(
                account_of(request),
                request.POST.get("name", ""),
                request.POST.get("service", "120"),
            )
            return redirect("rig", pk=rig.pk)
        except service.Refused as refused:
            context |= {"faults": refused.faults, "typed": request.POST.get("name", "")}
        except actions.TooMany as many:
            context |= {"faults": [Fault("", "too-many", many.advice)]}
        return render(request, "rigs/index.html", context, status=422)
    for rig in context["page"]:
        rig.drawn = draw_rig(rig.document)
    return render(request, "rigs/index.html", context)


def _context(rig: Rig) -> Context:
    total = service.totals_of(rig.document)
    return {
        "rig": rig,
        "document": rig.document,
        "groups": table.groups(rig.document, total),
        "totals": total,
        "drawn": draw_rig(rig.document),
        "titles": table.TITLES,
        "places": table.places(rig.document),
        "kinds": [(k, words(k)) for k in table.KINDS],
        "priorities": table.PRIORITIES,
        "provenances": table.FROM,
        "circuits": list(table.circuit_cells(rig.document)),
        "trips": BREAKER_TRIPS,
        "standards": BREAKER_STANDARDS,
        "lockouts": table.lockouts_named(rig.document),
        "dc": (dc := rig.document.get("dc", {})),
        "dc_usable": as_percent(dc["usable_fraction"]) if "usable_fraction" in dc else "",
        "dc_words": twelve.words(rig.document),
        "chargers": twelve.chargers(rig.document),
        "trickle": twelve.TRICKLES,
        "insulations": INSULATIONS,
        "services": SERVICES,
        "split": rig.document.get("service") == "120/240",
    }


@require_safe
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """A rig: its panel and the working table of its loads."""
    rig = mine(request, pk)
    used = rig.setups.filter(deleted_at=None).only("name", "verdict", "iron_margin")[:12]
    return render(
        request,
        "rigs/page.html",
        _context(rig)
        | {
            "typical": typical_loads.loads(),
            "typical_groups": typical_loads.groups(),
            "setups": used,
            "room": space.shown(rig.document, cookie_of(request, "units", UNITS, "us")),
        },
    )


def _answer(
    request: HttpRequest,
    rig: Rig,
    *,
    redraw: bool,
    said: str = "",
    problems: list[str] | None = None,
) -> HttpResponse:
    """What every edit answers: the totals, and the whole table where rows moved."""
    template = "rigs/_redrawn.html" if redraw else "rigs/_edited.html"
    return render(request, template, _context(rig) | {"said": said, "problems": problems or []})


def _changing(
    request: HttpRequest,
    pk: int,
    work: Callable[[Rig, int], object],
    *,
    redraw: bool = True,
    said: str = "",
) -> HttpResponse:
    """Run one change; faults and conflicts become answers beside the cell, and nothing typed is
    lost.
    """
    rig = mine(request, pk)
    try:
        done = work(rig, number_of(request.POST.get("version")))
    except service.Refused as refused:
        return render(
            request, "rigs/_refused.html", {"faults": refused.faults, "rig": rig}, status=422
        )
    except actions.Conflict as conflict:
        context = {
            "newer": conflict.newer,
            "what": conflict.what,
            "typed": request.POST.get("value", "")[:200],
        }
        return render(request, "rigs/_conflict.html", context, status=409)
    fresh, again = done if isinstance(done, tuple) else (done, redraw)
    return _answer(request, fresh, redraw=again, said=said)


@require_POST
def edit(request: HttpRequest, pk: int) -> HttpResponse:
    """One cell of the table or the panel."""
    post = request.POST
    return _changing(
        request,
        pk,
        lambda rig, version: service.edit_cell(
            rig, version, post.get("load", ""), post.get("column", ""), post.get("value", "")
        ),
    )


@require_POST
def edit_detail(request: HttpRequest, pk: int) -> HttpResponse:
    """One field of a load's drawer."""
    post = request.POST
    return _changing(
        request,
        pk,
        lambda rig, version: service.edit_detail(
            rig, version, post.get("load", ""), post.get("column", ""), post.get("value", "")
        ),
    )


@require_safe
def drawer(request: HttpRequest, pk: int) -> HttpResponse:
    """Every field of one load."""
    rig = mine(request, pk)
    load = next((x for x in rig.document["loads"] if x["id"] == request.GET.get("load")), None)
    if load is None:
        return HttpResponse("This load is gone; reload the page.", status=404)
    return render(
        request, "rigs/_drawer.html", {"rig": rig, "load": load, "fields": service.details(load)}
    )


@require_POST
def add(request: HttpRequest, pk: int) -> HttpResponse:
    """A new load by its name where that is a typical one, else by what it is, which is asked; what
    stands on it in watts or amps may be typed behind its name.
    """
    post, rig = request.POST, mine(request, pk)
    typed, what = post.get("name", "")[:120], post.get("what", "")
    name, _, _ = name_and_draw(typed)
    if not what and table.typical_named(name) is None:
        guess = likely(name, rig.document)
        titles = dict(typical_loads.loads())
        said = f'What is "{name}"? Choose what it is and its size, then press Add again'
        if guess:
            said = (
                f'Is "{name}" like this: {titles[guess]}? Press Add again; if not, choose another'
            )
        if off_the_battery(name, rig.document):
            said = (
                f'"{name}" runs off 12 V in most rigs and costs nothing here: write it under '
                "“12 V side”. If it has a plug of its own, choose what it is and press Add again"
            )
        context = {"faults": [Fault("", "what", said)], "rig": rig, "guess": guess, "adding": True}
        return render(request, "rigs/_refused.html", context, status=422)

    def work(rig: Rig, version: int) -> object:
        like = what if what in dict(typical_loads.loads()) else ""
        load = load_of(rig.document, typed, post.get("place", ""), like)
        return service.add_load(rig, version, load)

    return _changing(request, pk, work)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a load out; it can be taken back."""
    ident = request.POST.get("load", "")
    return _changing(
        request,
        pk,
        lambda rig, version: service.remove_load(rig, version, ident),
        said="Taken out.",
    )


@require_POST
def undo(request: HttpRequest, pk: int) -> HttpResponse:
    """Take the last change back."""

    def back(rig: Rig, version: int) -> object:
        entries = list(actions.history(rig)[:2])
        return actions.go_back(rig, entries[1], version) if len(entries) > 1 else rig

    return _changing(request, pk, back, said="Taken back.")


@require_POST
def circuit(request: HttpRequest, pk: int) -> HttpResponse:
    """A branch breaker more, or one less."""
    gone = request.POST.get("remove", "")
    return _changing(
        request,
        pk,
        lambda rig, version: (
            service.remove_circuit(rig, version, gone)
            if gone
            else service.add_circuit(rig, version)
        ),
    )


@require_POST
def lockout(request: HttpRequest, pk: int) -> HttpResponse:
    """Two loads that never run together, or may again."""
    post = request.POST
    first, second = post.get("first", "")[:60], post.get("second", "")[:60]
    gone = number_of(post.get("remove")) if "remove" in post else -1
    return _changing(
        request,
        pk,
        lambda rig, version: (
            service.remove_lockout(rig, version, gone)
            if gone >= 0
            else service.add_lockout(rig, version, first, second)
        ),
    )


@require_POST
def twelve_volt(request: HttpRequest, pk: int) -> HttpResponse:
    """The 12 V side."""
    post = {k: v[:6000] for k, v in request.POST.items() if isinstance(v, str)}
    return _changing(
        request, pk, lambda rig, version: service.set_twelve_volt(rig, version, post), redraw=False
    )


@require_POST
def room(request: HttpRequest, pk: int) -> HttpResponse:
    """The space its air conditioners cool."""
    post = {k: v[:40] for k, v in request.POST.items() if isinstance(v, str)}
    units = cookie_of(request, "units", UNITS, "us")
    return _changing(
        request,
        pk,
        lambda rig, version: service.put(rig, version, space.typed(rig.document, post, units)),
        redraw=False,
    )


@require_POST
def paste(request: HttpRequest, pk: int) -> HttpResponse:
    """A block of a spreadsheet pasted at a cell; what cannot be taken is named, the rest is
    kept.
    """
    rig = mine(request, pk)
    post = request.POST
    document, problems = table_edits.pasted(
        rig.document,
        number_of(post.get("row")),
        post.get("column", "name"),
        post.get("value", "")[:200_000],
    )
    try:
        rig = service.put(rig, number_of(post.get("version")), document)
    except service.Refused as refused:
        return render(
            request, "rigs/_refused.html", {"faults": refused.faults, "rig": rig}, status=422
        )
    except actions.Conflict as conflict:
        return render(
            request,
            "rigs/_conflict.html",
            {"newer": conflict.newer, "what": conflict.what, "typed": "the pasted rows"},
            status=409,
        )
    return _answer(request, rig, redraw=True, said="Pasted.", problems=problems)


@require_safe
def export_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The rig's loads as CSV, units in the header."""
    rig = mine(request, pk)
    response = HttpResponse(csv_format.write(rig.document), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(rig.name) or "rig"}.csv"'
    return response


@require_POST
def import_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """Loads from a CSV: all of them, or the good rows if so asked."""
    rig = mine(request, pk)
    file = request.FILES.get("file")
    raw = file.read(csv_format.LARGEST_BYTES + 1) if file else request.POST.get("raw", "").encode()
    taken: list[own_sheet.Taken] = []
    try:
        own = own_sheet.table_of(raw) if len(raw) <= csv_format.LARGEST_BYTES else None
        if own is not None and "kind" not in {title.strip() for title in own[0]}:
            taken, problems = own_sheet.read(own, rig.document)
            loads = [one.load for one in taken]
        else:
            loads, problems = csv_format.read(raw, rig.document)
    except SetupError as error:
        return render(
            request,
            "rigs/import.html",
            {"rig": rig, "problems": error.faults, "loads": [], "raw": ""},
            status=422,
        )
    if (problems or taken) and "good_rows" not in request.POST:
        context = {"rig": rig, "problems": problems, "loads": loads, "raw": raw.decode("utf-8-sig")}
        status = 422 if problems else 200
        return render(request, "rigs/import.html", context | {"taken": taken}, status=status)
    try:
        service.put(
            rig,
            rig.version,
            rig.document | {"loads": csv_format.merged(rig.document["loads"], loads)},
            what=f"{len(loads)} loads from a CSV",
        )
    except service.Refused as refused:
        return render(
            request,
            "rigs/import.html",
            {"rig": rig, "problems": refused.faults, "loads": [], "raw": ""},
            status=422,
        )
    except actions.Conflict as conflict:
        return render(
            request,
            "rigs/import.html",
            {
                "rig": rig,
                "problems": [Fault("", "conflict", f"{conflict}; try again")],
                "loads": [],
            },
            status=409,
        )
    messages.success(request, f"{len(loads)} loads imported.")
    return redirect("rig", pk=rig.pk)
