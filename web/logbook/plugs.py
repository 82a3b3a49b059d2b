"""A plug felt: guided minutes at known amps, kept as one entry of the log."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.crypto import get_random_string
from django.views.decorators.http import require_http_methods

from ironmargin.case import prepare
from ironmargin.document import Document
from ironmargin.learning.entries import PlugEntry, Warmth
from ironmargin.learning.log import read_log
from ironmargin.learning.plug import Felt, felt, full_amps
from ironmargin.setup.model import Setup
from ironmargin.sustaining.steady import settled, source_amps
from web.design.fields import Fields, Group, put_all
from web.logbook import service
from web.logbook.drawing import Warming, draw_plug
from web.setups.posted import units_of
from web.verdicts.sound import sound_setup

MINUTES = (0, 5, 15, 30)
KEYS = ("amps", "air_c", "by")
ONCE = 32


def _blank() -> Document:
    return {service.PREFIX: {"kind": "plug", "readings": [{"minute": m} for m in MINUTES]}}


def _groups(form: Fields) -> tuple[Group, list[tuple[int, Group]]]:
    """The head of the form, and what is read at each minute."""
    head = form.group(PlugEntry, KEYS, service.PREFIX, "")
    rows = [
        (minute, form.group(Warmth, ("surface_c", "felt"), f"{service.PREFIX}.readings[{n}]", ""))
        for n, minute in enumerate(MINUTES)
    ]
    return head, rows


def _typed(posted: QueryDict, units: str) -> Document:
    """The document of the form with all that was typed."""
    document = _blank()
    head, rows = _groups(Fields(document, units))
    known = [*head.fields, *(f for _, group in rows for f in group.fields)]
    put_all(document, known, posted, units)
    return document


def entry_of(posted: QueryDict, units: str) -> Document:
    """The entry the form holds, as the open format has it."""
    entry: Document = _typed(posted, units)[service.PREFIX]
    entry["by"] = entry.get("by") or posted.get(f"{service.PREFIX}.by") or "infrared"
    item = str(posted.get("item", ""))
    entry["item"] = int(item) if item.isdecimal() and len(item) < 3 else -1
    entry["readings"] = [one for one in entry["readings"] if len(one) > 1]
    entry["at"] = timezone.now().isoformat(timespec="seconds")
    return entry


def _parts(setup: Setup) -> list[tuple[int, str]]:
    """The parts of the hook-up, by number and words."""
    return [(n, part.name or part.kind.replace("-", " ")) for n, part in enumerate(setup.hookup)]


def _usual_amps(setup: Setup) -> float:
    """What flows with everything wanted on: the figure to start from [A]."""
    case = prepare(setup)
    return float(max(abs(a) for a in source_amps(case, settled(case))))


@require_http_methods(["GET", "POST"])
def plug(request: HttpRequest, pk: int) -> HttpResponse:
    """The guided minutes: a look at what they tell, and their entry in the log."""
    saved, setup = sound_setup(request, pk)
    units, posted = units_of(request), request.POST
    faults: dict[str, str] = {}
    estimate: Felt | None = None
    drawn: Warming | None = None
    if request.method == "POST":
        entry = entry_of(posted, units)
        found = service.faults_of(setup, entry)
        for fault in found:
            faults.setdefault(_input_of(fault.path, entry), fault.message)
        if not found:
            (read,) = read_log({"entries": [entry]}, setup).entries
            assert isinstance(read, PlugEntry)
            estimate = felt(read, full_amps(setup, read.item))
            if estimate is None:
                faults[""] = "Two temperatures at 3 A or more tell of a contact."
            else:
                drawn = draw_plug(estimate, read)
            if estimate is not None and "keep" in posted:
                service.store(saved, entry, posted.get("once", "")[:ONCE], setup)
                messages.success(request, f"Saved: {estimate.sentence}")
                return redirect(f"{reverse('log', args=[pk])}#log-figures")
    document = _typed(posted, units) if request.method == "POST" else _blank()
    head, rows = _groups(Fields(document, units, faults, {}, posted.dict()))
    context = {
        "saved": saved,
        "parts": _parts(setup),
        "item": posted.get("item", "0"),
        "head": head,
        "rows": rows,
        "usual": _usual_amps(setup),
        "told": estimate,
        "drawn": drawn,
        "fault": faults.get("", ""),
        "loose": [f for path, f in faults.items() if path and path not in _paths(head, rows)],
        "once": posted.get("once", "")[:ONCE] or get_random_string(16),
        "units": units,
    }
    return render(request, "logbook/plug.html", context, status=422 if faults else 200)


def _paths(head: Group, rows: list[tuple[int, Group]]) -> set[str]:
    return {f.path for group in (head, *(g for _, g in rows)) for f in group.fields}


def _input_of(path: str, entry: Document) -> str:
    """The input a fault of an entry stands at."""
    head, _, rest = path.partition("readings[")
    if not rest:
        return path
    number, _, name = rest.partition("].")
    at = int(number) if number.isdecimal() else 0
    minute = entry["readings"][at]["minute"] if at < len(entry["readings"]) else MINUTES[0]
    return f"{head}readings[{MINUTES.index(minute)}].{name}"
