"""The clients of an installer: list and search, who and where, their rigs, each visit."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from ironmargin.document import Document
from web.accounts.access import account_of
from web.clients import document as form
from web.clients import photos
from web.clients.models import Client, Photo
from web.design.context import Context
from web.design.pictures import NotAPicture
from web.rigs.models import Rig
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage.views import listing, number_of

MAX_LISTED = 200
TAKEN = (
    "Somebody changed this client from another page. Here it is as it stands now; make your change "
    "again."
)


def _own(request: HttpRequest, pk: int) -> Client:
    client: Client = get_object_or_404(Client.objects.of(account_of(request)), pk=pk)
    return client


def _rigs(client: Client) -> list[Rig]:
    """The client's rigs that are there and the owner's."""
    held = Rig.objects.current(client.owner).filter(pk__in=client.document["rigs"])
    return list(held.only("name"))


@require_http_methods(["GET", "POST"])
def index(request: HttpRequest) -> HttpResponse:
    """The clients, found by any of their words; a POST makes one."""
    if request.method == "POST":
        name = " ".join(request.POST.get("name", "").split())[:200]
        if not name:
            messages.error(request, "Name: must not be empty.")
            return redirect("clients")
        try:
            made = actions.make(Client, account_of(request), name, form.empty())
        except actions.TooMany as many:
            messages.error(request, many.advice)
            return redirect("clients")
        return redirect("client", pk=made.pk)
    words = (f"document__{name}" for name, _, _ in form.FIELDS)
    context = listing(request, Client, *words)
    return render(request, "clients/index.html", context)


@require_safe
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """A client."""
    client = _own(request, pk)
    rigs = _rigs(client)
    setups = SavedSetup.objects.current(client.owner).filter(rig__in=rigs)
    others = Rig.objects.current(client.owner).exclude(pk__in=[r.pk for r in rigs]).only("name")
    fields = [(name, words, client.document[name], maximum) for name, words, maximum in form.FIELDS]
    context: Context = {
        "item": client,
        "fields": fields,
        "rigs": rigs,
        "others": others[:MAX_LISTED],
        "setups": setups.only("name", "verdict", "iron_margin", "rig_id")[:MAX_LISTED],
        "photos": client.photos.defer("raw"),
        "visits": client.document["visits"],
        "today": timezone.localdate().isoformat(),
    }
    return render(request, "clients/page.html", context)


def _changed(
    request: HttpRequest, client: Client, said: str, document: Document, name: str | None = None
) -> HttpResponse:
    """Change a client as the page showed it, and show it again."""
    try:
        actions.change(client, number_of(request.POST.get("version")), name=name, document=document)
        messages.success(request, said)
    except actions.Conflict:
        messages.error(request, TAKEN)
    return redirect("client", pk=client.pk)


@require_POST
def save(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what was typed."""
    client = _own(request, pk)
    name = " ".join(request.POST.get("name", "").split())[:200] or client.name
    document = form.typed(client.document, request.POST.dict())
    return _changed(request, client, "Saved.", name=name, document=document)


@require_POST
def visit(request: HttpRequest, pk: int) -> HttpResponse:
    """Add a visit, or remove one."""
    client, post = _own(request, pk), request.POST
    if "remove" in post:
        at = number_of(post.get("remove"))
        stored = [v for n, v in enumerate(client.document["visits"]) if n != at]
        document = client.document | {"visits": stored}
        return _changed(request, client, "Removed.", document=document)
    document = form.visited(client.document, post.get("on", ""), post.get("told", ""))
    return _changed(request, client, "Visit saved.", document=document)


@require_POST
def photo(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep a photograph, or remove one."""
    client, post = _own(request, pk), request.POST
    if "remove" in post:
        gone = get_object_or_404(Photo, client=client, pk=number_of(post.get("remove")))
        gone.delete()
        messages.success(request, "Photograph removed.")
        return redirect("client", pk=pk)
    try:
        photos.store(client, request.FILES.get("file"), post.get("on", ""), post.get("caption", ""))
        messages.success(request, "Photograph saved.")
    except NotAPicture as why:
        messages.error(request, f"Photograph: {why}.")
    return redirect("client", pk=pk)


@require_safe
def photo_raw(request: HttpRequest, pk: int, photo: int) -> HttpResponse:
    """A photograph, as it is kept."""
    held = get_object_or_404(Photo, client=_own(request, pk), pk=photo)
    answer = HttpResponse(bytes(held.raw), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    answer["Content-Disposition"] = 'inline; filename="photograph.jpg"'
    return answer


@require_POST
def rig(request: HttpRequest, pk: int) -> HttpResponse:
    """Add a rig of the account to a client, or remove it."""
    client, post = _own(request, pk), request.POST
    held = [r.pk for r in _rigs(client)]
    if "remove" in post:
        stored = [x for x in held if x != number_of(post.get("remove"))]
        document = client.document | {"rigs": stored}
        return _changed(request, client, "Removed.", document=document)
    chosen = get_object_or_404(
        Rig.objects.current(account_of(request)), pk=number_of(post.get("rig"))
    )
    rigs = [*dict.fromkeys([*held, chosen.pk])][: form.MAX_RIGS]
    document = client.document | {"rigs": rigs}
    return _changed(request, client, f"{chosen.name} added.", document=document)
