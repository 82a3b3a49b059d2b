"""The quick check, without an account: one supply, one air conditioner, with or without a soft
starter, on typical figures. What can be asked is a short list, so what can be computed is, too.
"""

from __future__ import annotations

from django.http import HttpRequest, QueryDict

from ironmargin.document import Document
from web.design.context import Context
from web.rigs.typical import load_document
from web.supplies import typical as typical_supplies
from web.verdicts.view_model import view_model

LOADS = (
    ("ac-8k", "8,000 Btu/h roof unit"),
    ("ac-9k", "9,000 Btu/h roof unit"),
    ("ac-11k", "11,000 Btu/h roof unit"),
    ("ac-13k", "13,500 Btu/h roof unit"),
    ("ac-15k", "15,000 Btu/h roof unit"),
    ("ac-window-5k", "5,000 Btu/h window unit"),
    ("ac-window-10k", "10,000 Btu/h window unit"),
    *(
        (f"condenser-{tenths}", f"{tons} ton condensing unit, 240 V")
        for tenths, tons in ((15, "1.5"), (20, "2"), (25, "2.5"), (30, "3"), (40, "4"), (50, "5"))
    ),
)
EURO = "230"
"""What the keys of supplies and loads of 230 V have in them."""
EURO_LOADS = (
    ("ac-230-small", "roof unit, 230 V"), ("ac-230-inverter", "inverter-driven unit, 230 V"),
)  # fmt: skip
SUPPLIES = tuple(s for s in typical_supplies.supplies() if EURO not in s[0])
EURO_SUPPLIES = tuple(s for s in typical_supplies.supplies() if EURO in s[0])
STARTS = (("as-it-is", "as it is"), ("soft-start", "with a soft starter"))
FIRST = {"supply": "inv-2200", "load": "ac-13k", "start": "as-it-is"}
FITS = {True: EURO_LOADS[0][0], False: FIRST["load"]}
"""The air conditioner that is taken where the one chosen has other volts, by whether it is 230."""
WIDE = ("120/240", "split")


def two_legs(supply: Document) -> bool:
    """Whether a supply brings two legs; of an inverter/charger its inverter does."""
    inside = supply.get("inverter")  # of a generator it says what kind of generator it is
    of_it = inside.get("output") if isinstance(inside, dict) else None
    said = {supply.get("legs"), supply.get("output"), of_it}
    return bool(said & set(WIDE))


def fitting(supply: str, load: str) -> str:
    """The air conditioner that was chosen, or the usual one of the supply's volts."""
    return load if (EURO in supply) == (EURO in load) else FITS[EURO in supply]


def question(supply: str, load: str, start: str) -> Document:
    """The setup of a quick check: an air conditioner of the supply's volts."""
    feed = typical_supplies.supply_document(supply)
    load = fitting(supply, load)
    one = load_document(load, set())
    if start == "soft-start":
        one = {k: v for k, v in (one or {}).items() if k != "start"} | {"start": start}
    split = feed is not None and two_legs(feed)
    service = "120/240" if split or (one or {}).get("voltage_v") else "120"
    mains = {"120": 30, "120/240": 50, EURO: 16}
    service = EURO if EURO in supply else service
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "Quick check",
        "supply": feed,
        "hookup": [],
        "rig": {"name": "your rig", "service": service, "main_a": mains[service], "loads": [one]},
        "wanted": [{"load": load}],
    }


CARRIED = "quick_check"
"""What was chosen before there was an account, in the browser's session."""


def carried(request: HttpRequest) -> QueryDict:
    """What the first questions begin from: what this address says, else what was chosen on the
    front page.
    """
    if request.GET:
        return request.GET
    held = QueryDict(mutable=True)
    before = request.session.get(CARRIED) or {}
    for name, value in before.items():
        held["cooler" if name == "load" else name] = str(value)
    if str(before.get("load", "")).startswith("condenser-"):
        held["what"] = "house"
    if EURO in str(before.get("supply", "")):
        held["what"] = "van"
        held["cooler"] = fitting(EURO, str(before.get("load", "")))
    return held


def remember(request: HttpRequest) -> None:
    """Note what was chosen on the front page for the account that may follow."""
    found = {name: request.GET[name][:40] for name in FIRST if request.GET.get(name)}
    if found:
        request.session[CARRIED] = found


def requested(query: QueryDict) -> Document:
    """What the quick check shows: the lists, what was chosen, and the answer once something was."""
    lists = (
        ("supply", "What it runs on", (*SUPPLIES, *EURO_SUPPLIES)),
        ("load", "Air conditioner", (*LOADS, *EURO_LOADS)),
        ("start", "How it starts", STARTS),
    )
    chosen: dict[str, str] = {
        name: str(query[name]) if query.get(name) in dict(some) else FIRST[name]
        for name, _, some in lists
    }
    chosen["load"] = fitting(chosen["supply"], chosen["load"])
    context: Context = {"lists": [(*one, chosen[one[0]]) for one in lists]}
    if not any(name in query for name in FIRST):
        return context
    data, faults = view_model(question(**chosen))
    return context | {"answer": data, "fault": faults[0].message if faults else ""}
