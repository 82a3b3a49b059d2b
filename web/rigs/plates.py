"""Plates: read as they are typed, or from a photograph, into a load of a rig."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST

from ironmargin.document import Document
from ironmargin.loads.plate_reader import PLATE, PlateReading, read_plate
from ironmargin.loads.printed import Horsepower, Printed
from ironmargin.setup.loads import load_kinds
from ironmargin.setup.records import specs
from ironmargin.setup.spec import Choice, Number
from web.accounts.limits import limited, person_of
from web.design.context import Context
from web.design.fields import words
from web.design.labels import LABELS
from web.design.photo_words import shown
from web.design.pictures import LARGEST_BYTES, NotAPicture
from web.design.typed import typed_in
from web.rigs import service
from web.rigs.plate_photo import read as read_photo
from web.rigs.views import mine
from web.storage import actions

UNIT_NAMES = {"V": "volts", "A": "amp", "W": "watts", "Hz": "hz", "VA": "volt-amp", "hp": "horse"}
"""What names a unit in a label: beside that it is not written again."""


def _unit_beside(label: str, unit: str) -> str:
    """The unit to write beside a label; none where the label names it, or there is none."""
    named = UNIT_NAMES.get(unit)
    return "" if unit == "1" or (named is not None and named in label.lower()) else unit


def _load_rows(load: Document | None) -> list[tuple[str, str]]:
    """A load as it was read, in words: what each figure is called, and the figure with its unit."""
    if load is None:
        return []
    known = specs(load_kinds()[load["kind"]])
    found = [("What it is", str(load["name"])), ("Kind of load", words(load["kind"]))]
    for key, value in load.items():
        if key in ("name", "kind", "from"):
            continue
        _, spec, _ = known[key]
        label = LABELS.get(key, (spec.doc, ""))[0]
        plain = f"{value:g} {spec.unit}" if isinstance(spec, Number) else words(str(value))
        found.append((label, plain))
    return [*found, ("Known from", words(load["from"]))]


def _told(reading: PlateReading) -> Context:
    """What is shown of a plate that was read; what is wrong stands by its label."""
    return {
        "reading": reading,
        "load_rows": _load_rows(reading.load),
        "faults": {PLATE[key].doc: said for key, said in reading.faults},
    }


def _plate_fields(posted: Mapping[str, str]) -> list[Context]:
    return [
        {
            "key": key,
            "label": spec.doc,
            "unit": _unit_beside(spec.doc, spec.unit) if isinstance(spec, Number) else "",
            # A phone's pad of figures has no stroke for 208/230 and 1/2.
            "figure": isinstance(spec, Number) and not isinstance(spec, Printed | Horsepower),
            "value": posted.get(key, ""),
            "choices": [("", "not on the plate"), *((c, words(c)) for c in spec.of)]
            if isinstance(spec, Choice)
            else [],
        }
        for key, spec in PLATE.items()
    ]


@require_http_methods(["GET", "POST"])
def plate(request: HttpRequest, pk: int) -> HttpResponse:
    """The plate reader: figures in, a load out, with what was read, derived and assumed."""
    rig = mine(request, pk)
    posted = request.POST if request.method == "POST" else {"kind": "air-conditioner"}
    given = {
        key: typed_in(posted[key], spec.unit)
        if isinstance(spec, Number)
        else posted[key].strip()[:120]
        for key, spec in PLATE.items()
        if posted.get(key, "").strip()
    }
    reading = read_plate(given, rig.document.get("service", "120"))
    if request.method == "GET":  # nothing typed yet: nothing to complain of
        reading = replace(reading, conflicts=(), faults=())
    context = {"rig": rig, "fields": _plate_fields(posted), **_told(reading)}
    if request.method == "POST" and "take" in posted and reading.load is not None:
        try:
            service.add_load(rig, rig.version, reading.load)
        except (service.Refused, actions.Conflict) as refused:
            return render(
                request, "rigs/_reading.html", context | {"refused": str(refused)}, status=422
            )
        messages.success(request, f"{reading.load['name']} is in the table.")
        response = HttpResponse(status=204)
        response["HX-Redirect"] = reverse("rig", args=[rig.pk])
        return response
    if request.method == "POST":
        return render(request, "rigs/_reading.html", context)
    return render(request, "rigs/plate.html", context)


@limited("photo", by=person_of)
@require_POST
def plate_photo(request: HttpRequest, pk: int) -> HttpResponse:
    """A photographed plate: what is sure is filled in, the rest is asked; nothing is kept."""
    rig = mine(request, pk)
    found: list[Document] = []
    given: Document = {}
    fault = ""
    file = request.FILES.get("photo")
    try:
        if file is None or not file.size:
            raise NotAPicture("choose a photograph first")
        if file.size > LARGEST_BYTES:
            raise NotAPicture(f"it must be at most {LARGEST_BYTES // 1_000_000} MB")
        given, found = read_photo(file.read())
    except NotAPicture as why:
        fault = str(why)
    given = {"kind": "air-conditioner"} | given
    reading = read_plate(given, rig.document.get("service", "120"))
    typed = {key: shown(value) for key, value in given.items()}
    context = {
        "rig": rig,
        "fields": _plate_fields(typed),
        **_told(reading),
        "photo_fault": fault,
        "figures": found,
    }
    return render(request, "rigs/plate.html", context, status=422 if fault else 200)
