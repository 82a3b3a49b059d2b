"""The first rig: six questions on one page, all on typical figures, and a verdict to begin from."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils.crypto import get_random_string
from django.views.decorators.http import require_http_methods

from web.accounts.access import account_of
from web.keeping import actions
from web.rigs.typical import load_document, loads
from web.setups import stored
from web.supplies import typical as typical_supplies
from web.verdicts.door import LOADS, STARTS, SUPPLIES, WIDE

CORDS = (("0", "none, plugged straight in"), ("8", "25 ft"), ("15", "50 ft"), ("30", "100 ft"))
"""Length in metres and words; of the gauge that goes with the inlet (common practice)."""
SECOND = (("no", "no"), ("yes", "yes, another like it"))
BESIDE = (
    "fridge-rv", "charger-55", "microwave-rv", "water-heater-rv", "coffee-drip", "space-heater",
    "tv",
)  # fmt: skip
USUAL = {"supply": "inv-2200", "cord": "8", "cooler": "ac-13k", "start": "as-it-is", "second": "no"}
ALWAYS_ON = ("fridge-rv", "charger-55")


def chosen(posted: QueryDict) -> dict[str, str]:
    """What was chosen, each of what may be; the usual one where nothing or nonsense was."""
    known = {
        "supply": SUPPLIES, "cord": CORDS, "cooler": (*LOADS, ("none", "")), "start": STARTS,
        "second": SECOND,
    }  # fmt: skip
    return {
        name: str(posted[name]) if posted.get(name) in dict(some) else USUAL[name]
        for name, some in known.items()
    }


def document_of(answers: dict[str, str], beside: list[str], name: str) -> dict[str, Any]:
    """The whole question that six answers make."""
    feed = typical_supplies.supply_document(answers["supply"]) or {}
    split = feed.get("output") in WIDE or feed.get("legs") in WIDE
    taken: set[str] = set()
    rig_loads: list[dict[str, Any]] = []
    wanted: list[dict[str, Any]] = []

    def add(key: str, **more: Any) -> None:
        load = load_document(key, taken)
        if load is not None:
            taken.add(load["id"])
            rig_loads.append(load | more)
            cools = load["kind"] == "air-conditioner"
            wanted.append({"load": load["id"]} | ({"mode": "high-cool"} if cools else {}))

    if answers["cooler"] != "none":
        gear = {"start": "soft-start"} if answers["start"] == "soft-start" else {}
        add(answers["cooler"], **gear)
        if answers["second"] == "yes":
            heavy = rig_loads[0].get("voltage_v", 120) > 200
            leg = {"leg": "L2"} if split and not heavy else {}
            add(answers["cooler"], **gear, **leg, name=f"{rig_loads[0]['name']}, second")
    for key in beside:
        if key in BESIDE:
            add(key, **({"always_on": True} if key in ALWAYS_ON else {}))
    wide = split or any(x.get("voltage_v", 120) > 200 for x in rig_loads)
    service = "120/240" if wide else "120"
    metres = float(answers["cord"])
    cord = {"kind": "cord", "awg": 6 if split else 10, "rating_a": 50 if split else 30}
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": name[:120] or "My rig",
        "supply": feed,
        "hookup": [cord | {"length_m": metres}] if metres else [],
        "rig": {
            "name": name[:100] or "My rig",
            "service": service,
            "main_a": 50 if service == "120/240" else 30,
            "loads": rig_loads,
        },
        "wanted": wanted,
    }


@login_required
@require_http_methods(["GET", "POST"])
def first_rig(request: HttpRequest) -> HttpResponse:
    """Ask, and keep what the answers make."""
    fault = ""
    if request.method == "POST":
        answers = chosen(request.POST)
        name = request.POST.get("name", "").strip()
        judged = stored.judge(document_of(answers, request.POST.getlist("beside"), name))
        if judged.setup is None:
            fault = judged.faults[0].message
        else:
            try:
                once = request.POST.get("once", "")[:32]
                kept = stored.keep(account_of(request), judged, once=once)
            except actions.TooMany as many:
                fault = many.advice
            else:
                messages.success(request, "On typical figures: measure, and it gets surer.")
                return redirect("setup", pk=kept.pk)
    names = dict(loads())
    context = {
        "chosen": chosen(request.POST),
        "lists": (
            ("supply", "1. What does it run on?", SUPPLIES),
            ("cord", "2. How long is the cord?", CORDS),
            ("cooler", "3. Which air conditioner?", (*LOADS, ("none", "none"))),
            ("start", "4. How does it start?", STARTS),
            ("second", "5. Is there a second one?", SECOND),
        ),
        "beside": [(key, names[key]) for key in BESIDE],
        "ticked": request.POST.getlist("beside") if request.method == "POST" else list(ALWAYS_ON),
        "name": request.POST.get("name", ""),
        "once": request.POST.get("once") or get_random_string(16),
        "fault": fault,
    }
    return render(request, "verdicts/first.html", context, status=422 if fault else 200)
