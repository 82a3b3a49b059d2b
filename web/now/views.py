"""Now: what is on in the rig, and what may come on."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from ironmargin.per_cent import PLACES
from ironmargin.planning.present import AFTER, MAY, NEVER, ON, Present, present
from ironmargin.setup.loads import COOLING_MODES
from ironmargin.setup.model import Setup
from web.accounts.access import account_of
from web.keeping.views import number_of
from web.now.models import OFF, RigNow, now_of, press
from web.setups.models import SavedSetup
from web.verdicts.sound import sound_setup

MOST_ASKED = 16_000
"""Sets a phone takes along, times the loads squared that each costs: a rig of 25 loads whole."""
GROUPS = (
    (ON, "On now"),
    (MAY, "May come on at once"),
    (AFTER, "After something goes off"),
    (NEVER, "Never on this supply"),
)


def home(request: HttpRequest) -> HttpResponse:
    """The present of the setup at hand."""
    if not request.user.is_authenticated:
        return redirect("sign-in")
    mine = SavedSetup.objects.current(account_of(request))
    held = mine.filter(pk=request.session.get("setup", 0)).first() or mine.first()
    return redirect("now", pk=held.pk) if held else redirect("setups")


def _known(setup: Setup, on: dict[str, Any]) -> dict[str, str | None]:
    """What is on, as far as this rig has it."""
    known = {x.id for x in setup.rig.loads}
    return {k: m if m in COOLING_MODES else None for k, m in on.items() if k in known and m != OFF}


def _off(on: dict[str, Any]) -> frozenset[str]:
    """What is always on by preference and was switched off."""
    return frozenset(k for k, m in on.items() if m == OFF)


def _context(saved: SavedSetup, setup: Setup, held: RigNow) -> dict[str, Any]:
    found = present(setup, _known(setup, held.on), _off(held.on))
    groups = [(key, title, [c for c in found.chips if c.say == key]) for key, title in GROUPS]
    return {"saved": saved, "held": held, "now": found, "groups": [g for g in groups if g[2]]}


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The rig as it stands."""
    saved, setup = sound_setup(request, pk)
    return render(request, "now/page.html", _context(saved, setup, now_of(saved)))


@login_required
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
    if not request.user.is_authenticated:
        return render(request, "design/_signed_out.html", status=401)
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


@login_required
@require_safe
def table(request: HttpRequest, pk: int) -> HttpResponse:
    """Now as plain data, for the phone that loses its network: what is on, and what may come on
    for every set of one load more or less; of a large rig for the first of its loads.
    """
    saved, setup = sound_setup(request, pk)
    held = now_of(saved)
    on = _known(setup, held.on)
    off = _off(held.on)
    states = {_key(on): _plain(present(setup, on, off))}
    for load in setup.rig.loads[: MOST_ASKED // len(setup.rig.loads) ** 2]:
        other = {k: m for k, m in on.items() if k != load.id}
        if load.id not in on:
            other = on | {load.id: None}
        states[_key(other)] = _plain(present(setup, other, off))
    return JsonResponse(
        {"name": saved.name, "at": timezone.now().isoformat(), "now": _key(on), "states": states}
    )


def _key(on: dict[str, str | None]) -> str:
    return "+".join(sorted(on))


def _plain(found: Present) -> dict[str, Any]:
    return {
        "amps": round(found.amps, 1),
        "volts": round(found.volts),
        "margin": round(found.margin, PLACES),
        "chips": [
            {
                "load": c.load,
                "name": c.name,
                "say": c.say,
                "first_off": list(c.first_off),
                "margin": c.margin if c.margin is None else round(c.margin, PLACES),
                "amps": c.amps if c.amps is None else round(c.amps, 1),
                "cycle": list(c.cycle),
            }
            for c in found.chips
        ],
    }
