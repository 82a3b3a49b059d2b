"""Hours of a setup: fuel, battery, money and noise on one screen."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.case import prepare
from ironmargin.enduring.endurance import lasting, series_csv
from ironmargin.errors import SetupError
from ironmargin.learning.entries import NoiseEntry
from ironmargin.learning.fits import learn_noise
from ironmargin.learning.log import read_log
from ironmargin.planning.ration import RANKS
from web.accounts.access import account_of
from web.design.context import UNITS, Context, cookie_of
from web.hours import pitch, rationing, service
from web.hours.models import AccountPrices
from web.hours.prices import shown_prices, typed_prices, with_prices
from web.setups.models import SavedSetup
from web.setups.posted import units_of
from web.setups.question import Question, opened
from web.setups.stations import Judgment
from web.verdicts import workbench
from web.verdicts.sound import sound_setup


def _prices(request: HttpRequest) -> dict[str, float]:
    held = AccountPrices.objects.filter(owner=account_of(request)).first()
    return dict(held.prices) if held is not None else {}


def _reflects(saved: SavedSetup | None) -> str:
    """What the log's noise walk says of the place; empty without one."""
    if saved is None:
        return ""
    rows = saved.log.filter(kind="noise", deleted_at=None).values_list("document", flat=True)[:60]
    try:
        log = read_log({"entries": list(rows)})
    except SetupError:
        return ""
    found = learn_noise([(at, e) for at, e in enumerate(log.entries) if isinstance(e, NoiseEntry)])
    return found.sentence if found is not None and len(found.used) > 1 else ""


@require_POST
def prices(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep the account's prices."""
    saved, _ = sound_setup(request, pk)
    typed = typed_prices(request.POST, cookie_of(request, "units", UNITS, "us"))
    AccountPrices.objects.update_or_create(owner=account_of(request), defaults={"prices": typed})
    messages.success(request, "Prices saved for all your setups.")
    return redirect("hours", pk=saved.pk)


def station(request: HttpRequest, question: Question, judged: Judgment) -> Context:
    """The hours of a question: stores, fuels, noise, prices, rations."""
    units = units_of(request)
    prices = _prices(request)
    setup = with_prices(question.setup(), prices)
    context = service.answer(setup, request.GET, units)
    found, sentence, rows = rationing.rationed(setup, request.GET, units)
    return context | {
        "noise": pitch.drawn(context["now"], context["found"], request.GET, units),
        "reflects": _reflects(question.saved),
        "prices": shown_prices(prices, units),
        "ration": found,
        "ration_sentence": sentence,
        "ration_rows": rows,
        "ranks": RANKS,
        "curve": rationing.curve_of(found) if found is not None else [],
        "engine": bool(setup.supply.engines),
        "battery": setup.supply.battery is not None,
        "fields": {
            k: request.GET.get(k, "") for k in ("days", "litres", "allowed", "solar", "sun")
        },
    }


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The hours; a moved slider redraws them."""
    question = opened(request, pk)
    part = request.headers.get("HX-Target")
    if part not in ("hours", "noise"):
        return workbench.page(request, question, "hours")
    try:
        setup = question.setup()
    except SetupError as error:
        return render(request, "components/faults.html", {"loose_faults": error.faults}, status=422)
    units = cookie_of(request, "units", UNITS, "us")
    setup = with_prices(setup, _prices(request))
    context = service.answer(setup, request.GET, units)
    context |= {"saved": question.saved}
    if part == "hours":
        return render(request, "hours/_hours.html", context | {"swap": True})
    context |= {
        "noise": pitch.drawn(context["now"], context["found"], request.GET, units),
        "reflects": _reflects(question.saved),
    }
    return render(request, "hours/_noise.html", context)


@require_safe
def series(request: HttpRequest, pk: int) -> HttpResponse:
    """The series behind the drawing, as CSV."""
    saved, setup = sound_setup(request, pk)
    found = lasting(
        prepare(service.requested(setup, request.GET, cookie_of(request, "units", UNITS, "us"))),
        step_s=service.STEP_S,
    )
    answer = HttpResponse(series_csv(found), content_type="text/csv; charset=utf-8")
    name = slugify(saved.name) or "hours"
    answer["Content-Disposition"] = f'attachment; filename="{name}-hours.csv"'
    return answer
