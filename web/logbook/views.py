"""The log of a setup: quick entry, predicted beside measured, corrections taken or declined."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.crypto import get_random_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.errors import Fault, SetupError
from ironmargin.learning.capture import MAX_BYTES, read_capture
from ironmargin.learning.learn import Found
from ironmargin.learning.log import LARGEST_LOG_BYTES, read_log, write_log
from ironmargin.setup.model import Setup
from ironmargin.setup.versions import renamed
from web.accounts.access import account_of
from web.design.context import Context
from web.design.queued import held
from web.logbook import evidence, service, telling
from web.logbook.drawing import Walk, draw_trace, draw_walk
from web.logbook.models import LogEntry
from web.logbook.pairs import pairs_of
from web.rigs.models import Rig
from web.setups.models import SavedSetup
from web.setups.posted import units_of
from web.setups.question import Question, opened
from web.setups.stations import Judgment
from web.storage import actions
from web.verdicts import workbench
from web.verdicts.sound import sound_setup

MAX_SHOWN = 60


def _kind(request: HttpRequest) -> str:
    requested = request.POST.get("kind") or request.GET.get("kind", "")
    return requested if requested in service.KINDS else "start"


def _context(
    request: HttpRequest,
    saved: SavedSetup,
    setup: Setup,
    faults: list[Fault],
    filled: Mapping[str, str] | None = None,
) -> Context:
    """The page; ``filled`` are figures a photograph or a sound puts into the form."""
    kind = _kind(request)
    found, lines = service.told(saved, setup)
    by_path: dict[str, str] = {}
    for fault in faults:
        by_path.setdefault(fault.path, fault.message)
    posted = request.POST.dict() if faults or filled is not None else {}
    posted |= {f"{service.PREFIX}.{key}": value for key, value in (filled or {}).items()}
    group = service.form_of(
        kind, units_of(request), by_path, posted, engine=bool(setup.supply.engines)
    )
    shown = {f.path for f in group.fields}
    have = _instruments(request)
    return {
        "saved": saved,
        "kind": kind,
        "kinds": service.kinds_for(setup, kind),
        "group": group,
        "loose_faults": [f for f in faults if f.path not in shown],
        "posted": posted,
        "loads": setup.rig.loads,
        "running": request.POST.getlist("running") if posted else service.usually_on(setup, kind),
        "modes": service.modes_of(setup),
        "places": service.places_of(setup),
        "once": get_random_string(16),
        "found": found,
        "corrections": (rows := telling.corrections(saved, found)),
        "odds": telling.odds_words(found),
        "folded": any(row.folded for row in rows),
        "answer": telling.answer_of(found, lines),
        "quick": service.quick_of(setup, lines),
        # Called by the template that shows it: an answer alone does not.
        "next": lambda: telling.next_of(setup, have),
        "have": [(key, words, key in have) for key, words in telling.HELD],
        "lines": lines[:MAX_SHOWN],
        "walk": _walk(found, lines),
        "hidden": max(len(lines) - MAX_SHOWN, 0),
    }


def _instruments(request: HttpRequest) -> tuple[str, ...]:
    """The instruments this person says they have, kept for the session; an ear is always there."""
    known = dict(telling.HELD)
    if "haves" in request.GET:
        request.session["instruments"] = [x for x in request.GET.getlist("have") if x in known]
    held = request.session.get("instruments", list(telling.USUAL))
    return (*(x for x in held if x in known), "by-ear")


def _walk(found: Found, lines: list[service.Line]) -> Walk | None:
    """The noise walk drawn, where the log has one."""
    if found.noise is None:
        return None
    read = [
        (float(d["at_m"]), float(d["dba"]), str(d.get("side", "beside")))
        for d in (line.entry.document for line in lines)
        if d.get("kind") == "noise" and not d.get("inside")
    ]
    return draw_walk(found.noise.at_1m_dba, found.noise.per_doubling_db, read)


def station(request: HttpRequest, question: Question, judged: Judgment) -> Context:
    """The log of a setup, read against the question."""
    assert question.saved is not None
    return _context(request, question.saved, question.setup(), [])


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The log."""
    return workbench.page(request, opened(request, pk), "log")


def page_with(
    request: HttpRequest,
    pk: int,
    setup: Setup,
    faults: list[Fault],
    filled: Mapping[str, str] | None = None,
    **more: object,
) -> HttpResponse:
    """The log's page with what was wrong, or with what was read."""
    question = opened(request, pk)
    assert question.saved is not None
    context = _context(request, question.saved, setup, faults, filled) | more
    return workbench.page(request, question, "log", context, status=422 if faults else 200)


@require_POST
def add(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what the form holds."""
    saved, setup = sound_setup(request, pk)
    kind = _kind(request)
    entry = service.typed_entry(kind, request.POST, units_of(request))
    if kind == "start" and request.POST.get("trace"):
        try:
            entry["trace"] = json.loads(request.POST["trace"][:MAX_BYTES])
        except (ValueError, RecursionError):
            entry["trace"] = None
    faults = service.faults_of(setup, entry)
    if faults:
        return page_with(request, pk, setup, faults)
    stored = service.store(saved, entry, request.POST.get("once", ""), setup)
    if stored is None:
        full = Fault("", "full", "This log is full. Delete old entries first.")
        return page_with(request, pk, setup, [full])
    messages.success(request, "Saved.")
    if request.POST.get("keep") and request.POST.get("kept"):
        refused = evidence.store_waiting(stored, request.POST["kept"])
        if refused:
            messages.error(request, f"The reading is saved; not what was seen or heard: {refused}.")
    back = redirect(f"{reverse('log', args=[saved.pk])}?kind={kind}#entries")
    return held(request, back)


@require_POST
def capture(request: HttpRequest, pk: int) -> HttpResponse:
    """Read a meter's capture and draw it; it is kept only with the entry."""
    _, setup = sound_setup(request, pk)
    file = request.FILES.get("file")
    try:
        if file is None:
            raise SetupError([Fault("file", "missing", "choose a CSV file first")])
        if (file.size or 0) > MAX_BYTES:
            rule = f"a capture has at most {MAX_BYTES:,} bytes; cut it to the start"
            raise SetupError([Fault("file", "large", f"{rule} (got {file.size:,})")])
        found = read_capture(file.read(MAX_BYTES + 1))
    except SetupError as error:
        return page_with(request, pk, setup, list(error.faults))
    trace = json.dumps([list(row) for row in found.rows])
    drawn = draw_trace(found.rows)
    return page_with(request, pk, setup, [], capture=found, drawn=drawn, trace=trace)


@require_POST
def drop(request: HttpRequest, pk: int, entry: int) -> HttpResponse:
    """Take an entry out, or put it back."""
    saved, _ = sound_setup(request, pk)
    row = get_object_or_404(LogEntry, pk=entry, setup=saved)
    service.take_out(row, "back" in request.POST)
    if row.deleted_at:
        request.session["log_undo"] = row.pk
        messages.success(request, "Entry taken out.")
    return redirect("log", pk=saved.pk)


@require_POST
def correct(request: HttpRequest, pk: int) -> HttpResponse:
    """Take the corrections that are ticked, decline the others."""
    saved, setup = sound_setup(request, pk)
    chosen = frozenset(x[:120] for x in request.POST.getlist("field"))
    try:
        labels = service.take(saved, setup, chosen)
    except actions.Conflict as conflict:
        messages.error(request, f"{conflict}. Look again and decide.")
        return redirect("log", pk=saved.pk)
    history = reverse("history", args=["setup", saved.pk])
    said = f"Corrected: {', '.join(labels)}." if labels else "The figures stay."
    messages.success(request, f"{said} The history ({history}) takes it back.")
    return redirect("log", pk=saved.pk)


@require_safe
def before_and_after(request: HttpRequest, pk: int) -> HttpResponse:
    """Starts read before something was fitted and after, each pair on one picture."""
    saved, setup = sound_setup(request, pk)
    return render(request, "logbook/pairs.html", {"saved": saved, "pairs": pairs_of(saved, setup)})


@require_safe
def of_rig(request: HttpRequest, pk: int) -> HttpResponse:
    """Everything read on a rig, setup by setup."""
    rig = get_object_or_404(Rig.objects.of(account_of(request)), pk=pk)
    groups, faulty = service.of_rig(rig)
    return render(request, "logbook/rig.html", {"rig": rig, "groups": groups, "faulty": faulty})


@require_safe
def export(request: HttpRequest, pk: int) -> HttpResponse:
    """The log as a file of the open format."""
    saved, setup = sound_setup(request, pk)
    answer = JsonResponse(
        service.plain_log(saved, setup), json_dumps_params={"indent": 1, "ensure_ascii": False}
    )
    name = slugify(saved.name) or "log"
    answer["Content-Disposition"] = f'attachment; filename="{name}.log.json"'
    return answer


@require_POST
def take_in(request: HttpRequest, pk: int) -> HttpResponse:
    """A log file: the good entries are kept, every bad one is named."""
    saved, setup = sound_setup(request, pk)
    file = request.FILES.get("file")
    faults: list[Fault] = []
    data: Any = None
    if file is None or (file.size or 0) > LARGEST_LOG_BYTES:
        rule = f"choose a log of at most {LARGEST_LOG_BYTES:,} bytes"
        faults.append(Fault("file", "file", f"{rule} (got {file.size if file else 'nothing'})"))
    else:
        try:
            data = renamed(json.loads(file.read(LARGEST_LOG_BYTES + 1).decode("utf-8-sig")))
        except (ValueError, RecursionError) as error:
            faults.append(Fault("file", "json", f"not a log: {str(error)[:80]}"))
    entries = data.get("entries") if isinstance(data, dict) else None
    stored = 0
    if not faults and not isinstance(entries, list):
        faults.append(Fault("entries", "list", "must be a list of entries"))
    for at, entry in enumerate(entries[:400] if isinstance(entries, list) else []):
        bad = (
            service.faults_of(setup, entry)
            if isinstance(entry, dict)
            else [Fault("entry", "object", "must be an object")]
        )
        if bad:
            faults += [
                Fault(f.path.replace("entry", f"entries[{at}]", 1), f.code, f.message) for f in bad
            ]
            continue
        plain = write_log(read_log({"entries": [entry]}))["entries"][0]
        stored += service.store(saved, plain, "") is not None
    if faults:
        return page_with(request, pk, setup, faults, stored=stored)
    messages.success(request, f"{stored} entries imported.")
    return redirect("log", pk=saved.pk)
