"""Hours of a setup: fuel, battery, money and noise on one screen."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.text import slugify
from django.views.decorators.http import require_safe

from ironmargin.case import prepare
from ironmargin.enduring.endurance import engines, lasting, series_csv
from web.design.context import UNITS, cookie_of
from web.hours import service
from web.verdicts.sound import sound_setup


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The hours; a moved slider redraws them."""
    saved, setup = sound_setup(request, pk)
    units = cookie_of(request, "units", UNITS, "us")
    context = service.answer(setup, request.GET, units) | {"saved": saved}
    if request.headers.get("HX-Target") == "hours":
        return render(request, "hours/_hours.html", context)
    found, sentence, rows = service.rationed(setup, request.GET, units)
    context |= {
        "noise": service.rings(context["now"], context["found"]),
        "ration": found,
        "ration_sentence": sentence,
        "ration_rows": rows,
        "curve": service.curve_of(found) if found is not None else [],
        "engine": bool(engines(setup.supply)),
        "fields": {k: request.GET.get(k, "") for k in ("days", "litres", "allowed")},
    }
    return render(request, "hours/page.html", context)


@login_required
@require_safe
def series(request: HttpRequest, pk: int) -> HttpResponse:
    """The series behind the drawing, as CSV."""
    saved, setup = sound_setup(request, pk)
    found = lasting(
        prepare(service.asked(setup, request.GET, cookie_of(request, "units", UNITS, "us"))),
        step_s=service.STEP_S,
    )
    answer = HttpResponse(series_csv(found), content_type="text/csv")
    name = slugify(saved.name) or "hours"
    answer["Content-Disposition"] = f'attachment; filename="{name}-hours.csv"'
    return answer
