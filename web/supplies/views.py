"""The pages of supplies: the form over the document, and the derate from plate to here and now."""

from __future__ import annotations

import json

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.sensing.supply_plate import PLACES
from ironmargin.setup.model import Conditions
from ironmargin.setup.parts import read_supply
from ironmargin.setup.reading import LARGEST_FILE_BYTES
from ironmargin.setup.records import write_record
from ironmargin.tables import FOOT_M, fahrenheit
from ironmargin.verdict.cautions import MONOXIDE
from web.accounts.access import account_of, readers_may
from web.accounts.limits import limited, person_of
from web.design.context import UNITS, Context, cookie_of
from web.design.fields import from_units
from web.design.pictures import NotAPicture
from web.design.typed import typed_figure
from web.storage import actions
from web.storage.views import listing, number_of
from web.supplies import typical as typical_supplies
from web.supplies.drawing import draw_supply
from web.supplies.form import SupplyForm, edited_supply
from web.supplies.models import Supply
from web.supplies.plate import read_plate
from web.supplies.post import draw_memory, memories_of, memory_of, with_hours
from web.supplies.words import derates, lift_words, short_name


@require_http_methods(["GET", "POST"])
def index(request: HttpRequest) -> HttpResponse:
    """The owner's supplies; a POST keeps a typical one to begin from."""
    context = listing(request, Supply) | {"typical": typical_supplies.supplies()}
    if request.method == "POST":
        document = typical_supplies.supply_document(request.POST.get("typical", ""))
        try:
            if document is None:
                raise SetupError(
                    [Fault("typical", "choice", "choose what kind of supply to start from")]
                )
            document = write_record(read_supply(document))
            made = actions.make(
                Supply,
                account_of(request),
                (request.POST.get("name", "").strip() or short_name(document))[:200],
                document,
            )
            return redirect("supply", pk=made.pk)
        except SetupError as error:
            context["faults"] = error.faults
        except actions.TooMany as many:
            context["faults"] = [Fault("", "too-many", many.advice)]
        return render(request, "supplies/index.html", context, status=422)
    memories = memories_of(context["page"])
    for item in context["page"]:
        item.words = short_name(item.document)
        item.gives = draw_supply(item.document)
        item.memory = memories.get(item.pk)
    context["units"] = cookie_of(request, "units", UNITS, "us")
    return render(request, "supplies/index.html", context)


def _conditions(request: HttpRequest, units: str) -> Conditions:
    """Where and when the derating chain is shown for; what cannot be read is as usual."""
    found = {}
    for key, unit, minimum, maximum in (
        ("outdoor_c", "°C", -40.0, 60.0),
        ("altitude_m", "m", -430.0, 6000.0),
    ):
        value = typed_figure(request.POST.get(key))
        if value is not None:
            found[key] = min(max(from_units(value, unit, units), minimum), maximum)
    return Conditions(**found)


def _context(
    request: HttpRequest, item: Supply, document: Document, faults: list[Fault]
) -> Context:
    posted = request.POST.get("units", "")
    units = posted if posted in UNITS else cookie_of(request, "units", UNITS, "us")
    conditions = _conditions(request, units)
    by_path: dict[str, str] = {}
    for fault in faults:
        by_path.setdefault(fault.path, fault.message)
    form = SupplyForm({"supply": document}, units, by_path, {}, request.POST.dict())
    supply = read_supply(document) if not faults else None
    hot, high = (
        (fahrenheit(conditions.outdoor_c), conditions.altitude_m / FOOT_M)
        if units == "us"
        else (conditions.outdoor_c, conditions.altitude_m)
    )
    units_of = [u for u in (document.get("units") or [document]) if isinstance(u, dict)]
    return {
        "item": item,
        "document": json.dumps(document),
        "groups": list(form.supply_groups(full=True)),
        "faults": faults,
        "units": units,
        "loose_faults": [
            f
            for f in faults
            if f.path not in {x.path for g in form.supply_groups(full=True) for x in g.fields}
        ],
        "derating_chains": derates(supply, conditions) if supply is not None else [],
        "gives": draw_supply(document),
        "has_plate": document.get("kind") in PLACES,
        "hot": f"{hot:.0f}",
        "high": f"{high:.0f}",
        "monoxide": MONOXIDE,
        "lifts": [
            w
            for u in units_of
            if (
                w := lift_words(
                    u.get("mass_kg") if isinstance(u.get("mass_kg"), (int, float)) else None
                )
            )
        ],
        "name": request.POST.get("name", item.name),
        "setups": item.setups.filter(deleted_at=None).only("name", "verdict", "iron_margin")[:12],
    }


@require_safe
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """A supply."""
    item = get_object_or_404(Supply.objects.of(account_of(request)), pk=pk)
    memory = memory_of(item)
    context = _context(request, item, item.document, [])
    if memory is not None:
        context |= {"memory": memory, "drawn": draw_memory(memory)}
    return render(request, "supplies/page.html", context)


@require_POST
def use_hours(request: HttpRequest, pk: int) -> HttpResponse:
    """Put what a post was like at some hours into the supply, for every setup on it."""
    item = get_object_or_404(Supply.objects.of(account_of(request)), pk=pk)
    memory = memory_of(item)
    requested = request.POST.get("hours", "")
    chosen = (
        None
        if memory is None
        else memory.whole
        if requested == "all"
        else next((h for h in memory.by_hours if str(h.first) == requested), None)
    )
    if chosen is None:
        messages.error(request, "Nothing was read at those hours.")
        return redirect("supply", pk=pk)
    document = with_hours(item.document, chosen)
    try:
        actions.change(item, number_of(request.POST.get("version")), document=document)
    except actions.Conflict as conflict:
        messages.error(request, f"{conflict}. Look again and choose.")
        return redirect("supply", pk=pk)
    messages.success(
        request,
        f"Setups here are now checked with {chosen.ohm:.2f} Ω and {chosen.open_v:.0f} V "
        f"({chosen.name}).",
    )
    return redirect("supply", pk=pk)


def _posted(request: HttpRequest, item: Supply) -> tuple[Document, list[Fault]]:
    """The document with what was typed put in, and its faults."""
    raw = request.POST.get("document", "")
    try:
        document = json.loads(raw) if 0 < len(raw) <= LARGEST_FILE_BYTES else item.document
    except (ValueError, RecursionError):
        document = item.document
    if not isinstance(document, dict):
        document = item.document
    units = request.POST.get("units", "us")
    document = edited_supply(document, request.POST.dict(), units if units in UNITS else "us")
    swapped = typical_supplies.supply_document(request.POST.get("use_supply", ""))
    document = swapped or document
    if (
        "add_unit" in request.POST
        and isinstance(document.get("units"), list)
        and 0 < len(document["units"]) < 8
    ):
        document["units"].append(dict(document["units"][-1]))
    if (
        "drop_unit" in request.POST
        and isinstance(document.get("units"), list)
        and len(document["units"]) > 2
    ):
        document["units"].pop()
    try:
        return write_record(read_supply(document)), []
    except SetupError as error:
        return document, error.faults


@limited("photo", by=person_of)
@require_POST
def plate(request: HttpRequest, pk: int) -> HttpResponse:
    """A photographed plate: what is sure is put into the form, the rest is asked; nothing is kept
    before Save.
    """
    item = get_object_or_404(Supply.objects.of(account_of(request)), pk=pk)
    fault, document = "", item.document
    units = cookie_of(request, "units", UNITS, "us")
    figures: list[Document] = []
    try:
        document, figures = read_plate(item.document, request.FILES.get("photo"), units)
    except NotAPicture as why:
        fault = str(why)
    context = _context(request, item, document, []) | {"figures": figures, "photo_fault": fault}
    return render(request, "supplies/page.html", context, status=422 if fault else 200)


@readers_may
@require_POST
def preview(request: HttpRequest, pk: int) -> HttpResponse:
    """The page's body for what the form holds now; nothing is stored."""
    item = get_object_or_404(Supply.objects.of(account_of(request)), pk=pk)
    document, faults = _posted(request, item)
    return render(
        request,
        "supplies/_body.html",
        _context(request, item, document, faults),
        status=422 if faults else 200,
    )


@require_POST
def save(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what the form holds."""
    item = get_object_or_404(Supply.objects.of(account_of(request)), pk=pk)
    document, faults = _posted(request, item)
    name = request.POST.get("name", "").strip()[:200]
    if not name:
        faults = [*faults, Fault("name", "empty", "must not be empty (got nothing)")]
    if faults:
        return render(request, "components/fault_box.html", {"faults": faults}, status=422)
    try:
        actions.change(item, number_of(request.POST.get("version")), name=name, document=document)
    except actions.Conflict as conflict:
        return render(
            request,
            "storage/_conflict.html",
            {"newer": conflict.newer, "what": conflict.what},
            status=409,
        )
    messages.success(request, f"Saved “{name}”.")
    response = HttpResponse(status=204)
    response["HX-Refresh"] = "true"
    return response
