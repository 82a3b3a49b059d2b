"""Now: what is on in the rig, and what may come on."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from ironmargin.document import Document
from ironmargin.planning.present import AFTER, MAY, NEVER, ON, present
from ironmargin.setup.loads import COOLING_MODES
from ironmargin.setup.managing import manages_words
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import write_setup
from web.accounts.access import account_of
from web.design.context import Context
from web.now.models import OFF, RigNow, now_of, press
from web.setups import repository
from web.setups.models import SavedSetup
from web.storage.views import number_of
from web.verdicts import jobs
from web.verdicts.sound import sound_setup
from web.verdicts.view_model import view_model

GROUPS = (
    (ON, "On now"),
    (MAY, "Can be turned on now"),
    (AFTER, "Turn something off first"),
    (NEVER, "Not on this supply"),
)


def home(request: HttpRequest) -> HttpResponse:
    """The present of the setup at hand."""
    mine = SavedSetup.objects.current(account_of(request))
    held = mine.filter(pk=request.session.get("setup", 0)).first() or mine.first()
    return redirect("now", pk=held.pk) if held else redirect("setups")


def _known(setup: Setup, on: Document) -> dict[str, str | None]:
    """What is on, as far as this rig has it."""
    known = {x.id for x in setup.rig.loads}
    return {k: m if m in COOLING_MODES else None for k, m in on.items() if k in known and m != OFF}


def _off(on: Document) -> frozenset[str]:
    """What is always on by preference and was switched off."""
    return frozenset(k for k, m in on.items() if m == OFF)


def _context(saved: SavedSetup, setup: Setup, held: RigNow) -> Context:
    found = present(setup, _known(setup, held.on), _off(held.on))
    groups = [(key, title, [c for c in found.chips if c.say == key]) for key, title in GROUPS]
    on, off = _known(setup, held.on), _off(held.on)
    state = {"on": on | dict.fromkeys(off, OFF), "version": held.version}
    return {"saved": saved, "held": held, "now": found, "groups": groups, "state": state}


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The rig as it stands."""
    saved, setup = sound_setup(request, pk)
    data, _ = view_model(repository.compose(saved))
    context = _context(saved, setup, now_of(saved))
    context["manages"] = manages_words(setup)
    context["tonight"] = data["result"].get("tonight", "") if data else ""
    return render(request, "now/page.html", context)


@require_safe
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """What another phone has pressed since; 204 where nothing has."""
    saved, setup = sound_setup(request, pk)
    held = now_of(saved)
    if held.version == number_of(request.GET.get("version")):
        return HttpResponse(status=204)
    return render(request, "now/_now.html", _context(saved, setup, held))


@require_POST
def put(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a load on or off: ``set`` is the load's id and ``on``, ``off`` or a mode."""
    saved, setup = sound_setup(request, pk)
    ident, _, state = request.POST.get("set", "").rpartition("=")
    held = now_of(saved)
    loads = {x.id: x for x in setup.rig.loads}
    if ident in loads and state in ("on", OFF, *COOLING_MODES):
        mode = state if state in COOLING_MODES else None
        held = press(saved, ident, mode, state != OFF, keeps_off=loads[ident].always_on)
    if "HX-Request" not in request.headers:
        return redirect("now", pk=saved.pk)
    return render(request, "now/_now.html", _context(saved, setup, held))


@require_safe
def table(request: HttpRequest, pk: int) -> HttpResponse:
    """Now after every press, for a device that may lose its network; 202 while it is computed."""
    saved, setup = sound_setup(request, pk)
    held = now_of(saved)
    on, off = _known(setup, held.on), sorted(_off(held.on))
    try:
        job = jobs.ask(account_of(request), "now", write_setup(setup), {"on": on, "off": off})
    except jobs.Busy as busy:
        return JsonResponse({"advice": busy.advice}, status=503)
    if job.status != jobs.DONE:
        return JsonResponse({}, status=202)
    at = timezone.localtime(job.beat_at).strftime("%H:%M")
    return JsonResponse({"at": at, "states": job.found["states"]})
