"""The pages of a setup: each reads the request, calls the service, renders."""

from __future__ import annotations

import json
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from ironmargin.errors import Fault, SetupError
from ironmargin.setup.reading import LARGEST_FILE_BYTES
from ironmargin.verdict.picture import picture_csv, picture_of
from ironmargin.verdict.remedy import nearest_remedy
from ironmargin.verdict.result import result_json
from web.design.context import UNITS, cookie_of
from web.setups import stored, typical
from web.setups.drawings import draw
from web.setups.fields import Form, edited
from web.setups.models import SavedSetup
from web.setups.sentence import sentence_of

PAGE = 24
LOST = "The page lost its setup on the way. Reload it; your saved setups are safe."


def home(request: HttpRequest) -> HttpResponse:
    """The newest setup for who is signed in; the door for who is not."""
    if not request.user.is_authenticated:
        return render(request, "setups/door.html")
    first = SavedSetup.objects.of(request.user).order_by("-updated_at").first()
    return redirect("setup", pk=first.pk) if first else redirect("setups")


@login_required
@require_GET
def index(request: HttpRequest) -> HttpResponse:
    """The owner's setups, searched and paged."""
    found = SavedSetup.objects.of(request.user).defer("document")
    query = request.GET.get("q", "").strip()[:100]
    if query:
        found = found.filter(name__icontains=query)
    page = Paginator(found, PAGE).get_page(request.GET.get("page"))
    undo = SavedSetup.objects.filter(owner=request.user, pk=request.session.pop("undo", 0)).exclude(deleted_at=None).first()
    return render(request, "setups/index.html", {"page": page, "query": query, "undo": undo})


def _units(request: HttpRequest) -> str:
    posted = request.POST.get("units", "")
    return posted if posted in UNITS else cookie_of(request, "units", UNITS, "us")


def _shown_units(request: HttpRequest) -> str:
    """The units to show: those just changed to, else those the form is in."""
    changed = request.POST.get("units_changed", "")
    return changed if changed in UNITS else _units(request)


def _context(request: HttpRequest, judged: stored.Judged, saved: SavedSetup | None) -> dict[str, Any]:
    """What the page of one setup shows."""
    units, checked = _shown_units(request), judged.checked
    assumed = {a.field: a.value for a in checked.result.assumed} if checked else {}
    faults = judged.fault_by_path
    form = Form(judged.document, units, faults, assumed, request.POST.dict() if request.method == "POST" else {})
    groups = [*form.supply_groups(), form.condition_group(), *form.path_groups()]
    rows = list(form.load_rows())
    placed = {*form.paths(), "name"}
    context = {
        "saved": saved, "document": json.dumps(judged.document), "version": saved.version if saved else 0, "units": units, "groups": groups, "rows": rows,
        "faults": judged.faults, "loose_faults": [f for f in judged.faults if f.path not in placed], "name_fault": faults.get("name", ""),
        "name": str(judged.document.get("name", "")), "typical_supplies": typical.supplies(), "typical_loads": typical.loads(),
        "parts": sentence_of(checked, units) if checked else None,
    }
    return context | (draw(checked, judged.picture) if checked else {})


@login_required
@require_GET
def new(request: HttpRequest) -> HttpResponse:
    """A new setup, begun from typical values."""
    document = typical.first_setup()
    return render(request, "setups/page.html", _context(request, stored.judge(document), None))


@login_required
@require_GET
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """A saved setup with its verdict."""
    saved = get_object_or_404(SavedSetup.objects.of(request.user), pk=pk)
    picture = request.GET.get("start")
    judged = stored.judge(saved.document, picture)
    return render(request, "setups/page.html", _context(request, judged, saved))


def _base(request: HttpRequest) -> dict[str, Any] | None:
    """The document a posted form stands on; None if it did not arrive."""
    raw = request.POST.get("document", "")
    try:
        document = json.loads(raw) if len(raw) <= LARGEST_FILE_BYTES else None
    except (ValueError, RecursionError):
        return None
    return document if isinstance(document, dict) else None


def _posted(request: HttpRequest) -> dict[str, Any] | None:
    """The document with the form's inputs put in, and then what it asked for."""
    document = _base(request)
    if document is None:
        return None
    post = request.POST.dict()
    document = edited(document, post, _units(request))
    replaced = typical.put_in(document, post)
    return document if replaced is None else replaced


def _lost(request: HttpRequest) -> HttpResponse:
    return render(request, "setups/_faults.html", {"loose_faults": [Fault("", "lost", LOST)]}, status=422)


@require_POST
def preview(request: HttpRequest) -> HttpResponse:
    """Judge what the form holds now; nothing is stored."""
    if not request.user.is_authenticated:
        return render(request, "setups/_signed_out.html", status=401)
    document = _posted(request)
    if document is None:
        return _lost(request)
    picture = request.POST.get("picture") or None
    judged = stored.judge(document, picture)
    saved = SavedSetup.objects.of(request.user).filter(pk=_number(request.POST.get("saved"))).first()
    context = _context(request, judged, saved) | {"version": _number(request.POST.get("version"))}
    anew = any(request.POST.get(k) for k in (*typical.ASKS, "units_changed")) or Form(document, "si").paths() != Form(_base(request) or {}, "si").paths()
    body = "setups/_verdict.html" if judged.checked else "setups/_faulty.html"
    template, context["body"] = ("setups/_form_and_verdict.html", body) if anew else (body, body)
    return render(request, template, context, status=200 if judged.checked else 422)


def _number(text: str | None) -> int:
    return int(text) if text and text.isascii() and text.isdigit() and len(text) < 18 else 0


@require_POST
def remedy(request: HttpRequest) -> HttpResponse:
    """What would make a failing setup hold: slower than the verdict, so asked for after it."""
    if not request.user.is_authenticated:
        return render(request, "setups/_signed_out.html", status=401)
    document = _posted(request)
    judged = stored.judge(document) if document is not None else None
    if judged is None or judged.checked is None:
        return HttpResponse(status=204)
    return render(request, "setups/_remedy.html", {"remedy": nearest_remedy(judged.checked)})


@require_POST
def save(request: HttpRequest) -> HttpResponse:
    """Keep what the form holds, as a new setup or over the one it came from."""
    if not request.user.is_authenticated:
        return render(request, "setups/_signed_out.html", status=401)
    document = _posted(request)
    if document is None:
        return _lost(request)
    pk = _number(request.POST.get("saved"))
    judged = stored.judge(document, remedy=True)
    saved = get_object_or_404(SavedSetup.objects.of(request.user), pk=pk) if pk else None
    if judged.checked is None:
        return render(request, "setups/_faulty.html", _context(request, judged, saved), status=422)
    try:
        if saved is None or "as_copy" in request.POST:
            kept = stored.keep(request.user, judged)
        else:
            kept = stored.keep_again(saved, judged, _number(request.POST.get("version")))
    except stored.Conflict as conflict:
        return render(request, "setups/_conflict.html", {"newer": conflict.newer}, status=409)
    except stored.TooMany:
        fault = Fault("", "too-many", f"You have {stored.MOST_SETUPS} setups, the most there may be. Delete one and save again.")
        return render(request, "setups/_faults.html", {"loose_faults": [fault]}, status=422)
    messages.success(request, f"Saved “{kept.name}”.")
    response = HttpResponse(status=204)
    response["HX-Redirect"] = reverse("setup", args=[kept.pk])
    return response


@login_required
@require_POST
def delete(request: HttpRequest, pk: int) -> HttpResponse:
    """Delete a setup; the list offers to take it back."""
    saved = get_object_or_404(SavedSetup.objects.of(request.user), pk=pk)
    stored.delete(saved)
    request.session["undo"] = saved.pk
    return redirect("setups")


@login_required
@require_POST
def restore(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a deletion back."""
    saved = get_object_or_404(SavedSetup, pk=pk, owner=request.user)
    stored.restore(saved)
    messages.success(request, f"“{saved.name}” is back.")
    return redirect("setups")


@login_required
@require_GET
def export(request: HttpRequest, pk: int) -> HttpResponse:
    """The setup as a file of the open format."""
    saved = get_object_or_404(SavedSetup.objects.of(request.user), pk=pk)
    response = HttpResponse(json.dumps(saved.document, indent=1, ensure_ascii=False) + "\n", content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{slugify(saved.name) or "setup"}.setup.json"'
    return response


@login_required
@require_GET
def result(request: HttpRequest, pk: int) -> HttpResponse:
    """The check of a setup as the open result format."""
    saved = get_object_or_404(SavedSetup.objects.of(request.user), pk=pk)
    judged = stored.judge(saved.document, remedy=True)
    if judged.checked is None:
        return JsonResponse({"faults": [str(f) for f in judged.faults]}, status=422)
    return JsonResponse(result_json(judged.checked.result), json_dumps_params={"ensure_ascii": False})


@login_required
@require_GET
def start_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The figures of one start's picture."""
    saved = get_object_or_404(SavedSetup.objects.of(request.user), pk=pk)
    load = request.GET.get("start", "")
    checked = stored.judge(saved.document, load).checked
    if checked is None or not checked.starts:
        return HttpResponse("This setup has no start to write.\n", content_type="text/plain", status=404)
    chosen = next((s for s in checked.starts if checked.case.demands[s.starters[0].demand].load.id == load), checked.starts[0])
    response = HttpResponse(picture_csv(picture_of(checked, chosen)), content_type="text/csv")
    response["Content-Disposition"] = f'attachment; filename="{slugify(saved.name) or "setup"}-start.csv"'
    return response


@login_required
@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Import a setup file: kept if it is sound, every fault named if not."""
    file = request.FILES.get("file")
    if file is None:
        return _refused(request, [Fault("file", "missing", "choose a *.setup.json file first")])
    if (file.size or 0) > LARGEST_FILE_BYTES:
        return _refused(request, [Fault("file", "large", f"must be at most {LARGEST_FILE_BYTES:,} bytes (got {file.size:,})")])
    try:
        judged = stored.judge(stored.parse_document(file.read(LARGEST_FILE_BYTES + 1)), remedy=True)
        kept = stored.keep(request.user, judged)
    except SetupError as error:
        return _refused(request, error.faults)
    except stored.TooMany:
        return _refused(request, [Fault("", "too-many", f"You have {stored.MOST_SETUPS} setups, the most there may be. Delete one first.")])
    messages.success(request, f"Took in “{kept.name}”.")
    return redirect("setup", pk=kept.pk)


def _refused(request: HttpRequest, faults: list[Fault]) -> HttpResponse:
    page = Paginator(SavedSetup.objects.of(request.user).defer("document"), PAGE).get_page(1)
    return render(request, "setups/index.html", {"page": page, "query": "", "import_faults": faults}, status=422)
