"""The first rig: a few questions on one page, by what is to be fed, all on typical figures, and a
verdict to begin from.
"""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils.crypto import get_random_string
from django.views.decorators.http import require_http_methods

from ironmargin.document import Document
from web.accounts.access import account_of
from web.rigs.typical import load_document, loads
from web.setups import judging, repository
from web.storage import actions
from web.supplies import typical as typical_supplies
from web.verdicts.quick_check import EURO_SUPPLIES, LOADS, STARTS, SUPPLIES, carried, two_legs

Choices = tuple[tuple[str, str], ...]
CORDS: Choices = (
    ("0", "no cord, plugged straight in"), ("7.62", "25 ft (7.6 m)"), ("15.24", "50 ft (15 m)"),
    ("30.48", "100 ft (30 m)"),
)  # fmt: skip
"""Length in metres and words; of the gauge that goes with the inlet (common practice)."""
SECOND: Choices = (("no", "no"), ("yes", "yes, another like it"))
HOUSE_FEED: Choices = (
    ("interlock", "an inlet and an interlock"), ("switch", "an inlet and a transfer switch"),
    ("none", "extension cords only"),
)  # fmt: skip
ALL_SUPPLIES = typical_supplies.supplies()
HOUSE_COOLERS = tuple(x for x in LOADS if x[0].startswith(("condenser-", "ac-window-")))
VAN_COOLERS: Choices = (
    ("ac-230-small", "van roof unit"), ("ac-230-inverter", "inverter-driven van unit"),
)  # fmt: skip
STALL_COOLERS: Choices = (
    ("ac-window-5k", "5,000 Btu/h window unit"), ("ac-window-10k", "10,000 Btu/h window unit"),
)  # fmt: skip
ALWAYS_ON = (
    "fridge-rv", "charger-55", "fridge-house", "freezer-chest", "charger-230-20", "furnace-blower",
)  # fmt: skip


@dataclass(frozen=True)
class Branch:
    """What is asked about one sort of rig.

    Attributes:
        words: what a person calls it; what: its kind in the format; usual: answers to begin from.
        beside: what else may run, by key; named by plate: fields asked of the nameplate.
    """

    words: str
    what: str | None
    supplies: Choices
    coolers: Choices
    beside: tuple[str, ...]
    usual: dict[str, str]


BRANCHES = {
    "rv": Branch(
        "RV or trailer", "vehicle", SUPPLIES,
        tuple(x for x in LOADS if not x[0].startswith("condenser-")),
        ("fridge-rv", "charger-55", "microwave-rv", "water-heater-rv", "coffee-drip",
         "space-heater", "tv"),
        {"supply": "inv-2200", "cord": "7.62", "cooler": "ac-13k"},
    ),
    "house": Branch(
        "House or clinic", "building", SUPPLIES, HOUSE_COOLERS,
        ("well-pump-half", "well-pump-one", "fridge-house", "freezer-chest", "furnace-blower",
         "sump-pump", "router", "lights-led", "medical-concentrator"),
        {"supply": "inv-7000", "cord": "7.62", "cooler": "condenser-25", "feed": "interlock"},
    ),
    "van": Branch(
        "Van or boat, 230 V", "vehicle", EURO_SUPPLIES, VAN_COOLERS,
        ("charger-230-20", "kettle-230", "induction-hob-230", "microwave-230", "heater-230",
         "battery-bike-charger"),
        {"supply": "post-230-16", "cord": "30.48", "cooler": "ac-230-small"},
    ),
    "stall": Branch(
        "Market stall", "stall", SUPPLIES, STALL_COOLERS,
        ("freezer-chest", "fridge-house", "lights-led", "coffee-drip", "toaster-oven",
         "heat-lamp", "fan-box"),
        {"supply": "inv-3000", "cord": "15.24", "cooler": "none"},
    ),
}  # fmt: skip
FIRST = "rv"
USUAL = {"start": "as-it-is", "second": "no", "feed": "none"}
PLATE = (
    ("running_a", "Running amps (RLA) on its nameplate, if you can read it", 200.0),
    ("lra_a", "Locked-rotor amps (LRA) on its nameplate", 1000.0),
)


def branch_of(data: QueryDict) -> tuple[str, Branch]:
    """The branch that was chosen; the first one where none or nonsense was."""
    key = str(data.get("what", FIRST))
    key = key if key in BRANCHES else FIRST
    return key, BRANCHES[key]


def lists_of(branch: Branch) -> dict[str, tuple[str, Choices]]:
    """The questions that are answered from a list: words and choices, by name."""
    lists = {
        "supply": ("What does it run on?", branch.supplies),
        "cord": ("How long is the cord?", CORDS),
        "cooler": ("Which air conditioner?", (*branch.coolers, ("none", "no air conditioner"))),
        "start": ("How does it start?", STARTS),
        "second": ("Is there a second one?", SECOND),
    }
    if branch.what == "building":
        lists["feed"] = ("How is the house connected?", HOUSE_FEED)
    return lists


def chosen(data: QueryDict, branch: Branch) -> dict[str, str]:
    """What was chosen, each of what may be; the usual one where nothing or nonsense was."""
    usual = USUAL | branch.usual
    return {
        name: str(data[name]) if data.get(name) in dict(some) else usual[name]
        for name, (_, some) in lists_of(branch).items()
    }


def plated(data: QueryDict) -> dict[str, float]:
    """Figures of the nameplate that were typed and can be read."""
    found = {}
    for name, _, maximum in PLATE:
        try:
            value = float(str(data.get(name, "")).replace(",", "."))
        except ValueError:
            continue
        if 0.0 < value <= maximum:
            found[name] = value
    return found


def document_of(
    answers: dict[str, str],
    beside: list[str],
    name: str,
    branch: Branch = BRANCHES[FIRST],
    plate: dict[str, float] | None = None,
) -> Document:
    """The whole question that the answers make."""
    feed = typical_supplies.supply_document(answers["supply"]) or {}
    euro = "230" in answers["supply"]
    split = two_legs(feed)
    taken: set[str] = set()
    rig_loads: list[Document] = []
    wanted: list[Document] = []

    def add(key: str, **more: object) -> None:
        load = load_document(key, taken)
        if load is not None:
            taken.add(load["id"])
            rig_loads.append(load | more)
            cools = load["kind"] == "air-conditioner"
            wanted.append({"load": load["id"]} | ({"mode": "high-cool"} if cools else {}))

    if answers["cooler"] != "none":
        gear: Document = {"start": "soft-start"} if answers["start"] == "soft-start" else {}
        gear |= (plate | {"from": "plate"}) if plate else {}
        add(answers["cooler"], **gear)
        if answers["second"] == "yes":
            heavy = rig_loads[0].get("voltage_v", 120) > 200
            leg = {"leg": "L2"} if split and not heavy else {}
            short = str(rig_loads[0]["name"]).split(",")[0]
            rig_loads[0]["name"] = f"{short} 1"
            add(answers["cooler"], **gear, **leg, name=f"{short} 2")
    for key in beside:
        if key in branch.beside:
            add(key, **({"always_on": True} if key in ALWAYS_ON else {}))
    wide = split or any(x.get("voltage_v", 120) > 235 for x in rig_loads)
    service = "230" if euro else "120/240" if wide else "120"
    rig: Document = {"name": name[:100] or "My rig", "service": service, "loads": rig_loads}
    rig["main_a"] = _main_a(service, branch)
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": name[:120] or "My rig",
        "supply": feed,
        "hookup": _path_of(answers, service, split),
        "rig": rig | ({"what": branch.what} if branch.what else {}),
        "wanted": wanted,
    }


def _main_a(service: str, branch: Branch) -> float:
    """The main breaker that goes with a service (common practice)."""
    if branch.what == "building":
        return 100 if service == "120/240" else 30
    return {"230": 16, "120/240": 50, "120": 30}[service]


def _path_of(answers: dict[str, str], service: str, split: bool) -> list[Document]:
    """What lies between: the cord, and into a building its inlet and transfer gear."""
    metres = float(answers["cord"])
    sizes: dict[str, float] = {"awg": 6 if split else 10, "rating_a": 50 if split else 30}
    if service == "230":
        sizes = {"mm2": 2.5, "rating_a": 16}
    path: list[Document] = []
    if metres:
        path.append({"kind": "cord", "length_m": metres} | sizes)
    if answers.get("feed", "none") != "none":
        path.append({"kind": "inlet", "rating_a": 50 if split else 30})
        path.append({"kind": "transfer", "type": answers["feed"]})
    return path


@require_http_methods(["GET", "POST"])
def first_rig(request: HttpRequest) -> HttpResponse:
    """Ask, and store what the answers make."""
    posted = request.method == "POST"
    data = request.POST if posted else carried(request)
    key, branch = branch_of(data)
    fault = ""
    if posted:
        answers, name = chosen(data, branch), request.POST.get("name", "").strip()
        beside = request.POST.getlist("beside")
        judged = judging.judge(document_of(answers, beside, name, branch, plated(data)))
        if judged.setup is None:
            fault = judged.faults[0].message
        else:
            try:
                once = request.POST.get("once", "")[:32]
                stored = repository.store(account_of(request), judged, once=once)
            except actions.TooMany as many:
                fault = many.advice
            else:
                said = "These are typical figures. Measuring makes the answer more certain."
                messages.success(request, said)
                return redirect("setup", pk=stored.pk)
    names = dict(loads())
    ticked = [x for x in branch.beside if x in ALWAYS_ON or x.startswith("well-pump-half")]
    context = {
        "what": key,
        "branches": [(k, b.words) for k, b in BRANCHES.items()],
        "chosen": chosen(data, branch),
        "lists": [
            (n, name, words, options)
            for n, (name, (words, options)) in enumerate(lists_of(branch).items(), 1)
        ],
        "plate": [(name, words, data.get(name, "")) for name, words, _ in PLATE],
        "beside": [(x, names[x]) for x in branch.beside],
        "ticked": request.POST.getlist("beside") if posted else ticked,
        "name": request.POST.get("name", ""),
        "once": request.POST.get("once") or get_random_string(16),
        "fault": fault,
    }
    return render(request, "verdicts/first.html", context, status=422 if fault else 200)
