"""Remedies, what decides, reports and shared links of a setup."""

from __future__ import annotations

from datetime import timedelta

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from web.accounts.access import account_of, readers_may
from web.clients.models import client_of_rig
from web.design.context import Context, paper_of
from web.design.drawing import small_bar
from web.design.printing import pdf_answer
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.setups.posted import posted_document
from web.storage import actions
from web.storage.views import number_of
from web.verdicts import jobs
from web.verdicts.large import in_line
from web.verdicts.models import Job, Share
from web.verdicts.report import CLIENT, MAX_LETTERS, report_pdf
from web.verdicts.sentence import conditions_words
from web.verdicts.view_model import plain_document, view_model

SHARE_DAYS = (1, 7, 30, 90)
MAX_SHARES = 20
MAX_SHOWN = 5
LOOKS_AGAIN_S = "4"
SEARCHED = ("remedies", "sensitivity")
KINDS = (*SEARCHED, "large")
"""Searches of a verdict's page: those it asks for, and its verdict where that waits in line; others
are polled where they are asked for."""
MAX_LEFT = 20


@readers_may
@require_POST
def search(request: HttpRequest, kind: str) -> HttpResponse:
    """Begin a search for what the form holds, or find the one that was done before."""
    if kind not in SEARCHED:
        raise Http404
    document, _, _ = posted_document(request)
    plain, _ = plain_document(document or {})
    if plain is None:
        return HttpResponse(status=204)
    try:
        return _job(request, jobs.ask(account_of(request), kind, plain))
    except jobs.Busy as busy:
        return _busy(request, busy)


def _job(request: HttpRequest, job: Job) -> HttpResponse:
    context: Context = {
        "job": job,
        "percent": round(100 * job.done / job.todo) if job.todo else 0,
        "place": jobs.place_of(job) if job.status == jobs.WAITING else 0,
    }
    if job.status == jobs.DONE and job.kind == "remedies":
        found = [
            r | {"number": n, "bar": small_bar(r["iron_margin"], r["verdict"])}
            for n, r in enumerate(job.found["remedies"])
        ]
        context |= {"remedies": found[:MAX_SHOWN], "more": found[MAX_SHOWN:]}
    if job.status == jobs.DONE and job.kind == "sensitivity":
        inputs = job.found["inputs"][:8]
        maximum = max([abs(x["high"] - x["low"]) for x in inputs] or [1.0])
        context["inputs"] = [x | {"width": 100 * (x["high"] - x["low"]) / maximum} for x in inputs]
    answer = render(request, f"verdicts/_{job.kind}.html", context)
    if job.kind == "large" and job.status == jobs.DONE:
        answer["HX-Trigger"] = "redraw"
    return answer


@require_safe
def poll(request: HttpRequest, pk: int) -> HttpResponse:
    """How far a search is."""
    try:
        found = get_object_or_404(Job, pk=pk, owner=account_of(request), kind__in=KINDS)
        if found.kind == "large" and found.status == jobs.CANCELLED:
            # The page before this one said that it was left; this one still waits.
            return _job(request, jobs.ask(found.owner, found.kind, found.document, found.tasks))
        return _job(request, jobs.look(found))
    except jobs.Busy as busy:
        return _busy(request, busy)


@readers_may
@require_POST
def left(request: HttpRequest) -> HttpResponse:
    """A page was left: its searches are not waited for any more."""
    jobs.leave(account_of(request), [number_of(n) for n in request.POST.getlist("job")[:MAX_LEFT]])
    return HttpResponse(status=204)


def _busy(request: HttpRequest, busy: jobs.Busy) -> HttpResponse:
    answer = render(request, "verdicts/_busy.html", {"advice": busy.advice}, status=503)
    answer["Retry-After"] = "60"
    return answer


@readers_may
@require_POST
def cancel(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop a search."""
    job = get_object_or_404(Job, pk=pk, owner=account_of(request), kind__in=KINDS)
    jobs.cancel(job)
    return _job(request, get_object_or_404(Job, pk=pk))


@require_POST
def take(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Make a remedy a variant of its own."""
    job = get_object_or_404(
        Job, pk=pk, owner=account_of(request), kind="remedies", status=jobs.DONE
    )
    found = job.found["remedies"]
    if not 0 <= number < len(found):
        raise Http404
    document = dict(found[number]["setup"])
    name = request.POST.get("name", "").strip() or document["name"]
    document["name"] = f"{name}: {found[number]['what'][:1].lower()}{found[number]['what'][1:]}"[
        :200
    ]
    judged = judging.judge(document, remedy=True)
    try:
        stored = repository.store(account_of(request), judged, what_if=True)
    except actions.TooMany as many:
        messages.error(request, many.advice)
        return redirect("setups")
    messages.success(request, f"“{stored.name}” is now a separate setup.")
    response = HttpResponse(status=204)
    response["HX-Redirect"] = reverse("setup", args=[stored.pk])
    return response


def _pdf(
    request: HttpRequest, setup: SavedSetup, client: dict[str, str] | None = None
) -> HttpResponse:
    raw = report_pdf(repository.compose(setup), client, paper_of(request), setup.supply)
    if raw is None:
        raise Http404
    return pdf_answer(raw, setup.name, "setup")


@require_safe
def report(request: HttpRequest, pk: int) -> HttpResponse:
    """The printed report, for the client who was named."""
    mine = SavedSetup.objects.of(account_of(request)).select_related("rig", "supply")
    client = {key: request.GET.get(key, "").strip()[:MAX_LETTERS] for key, _ in CLIENT}
    setup = get_object_or_404(mine, pk=pk)
    return _pdf(request, setup, client if any(client.values()) else None)


@require_safe
def report_for(request: HttpRequest, pk: int) -> HttpResponse:
    """Ask whom a report is for."""
    saved = get_object_or_404(SavedSetup.objects.of(account_of(request)), pk=pk)
    usual = {"by": request.user.get_username(), "date": f"{timezone.now():%d %B %Y}"}
    usual |= client_of_rig(account_of(request), saved.rig_id)
    fields = [(key, words, usual.get(key, "")) for key, words in CLIENT]
    return render(request, "verdicts/report_for.html", {"saved": saved, "fields": fields})


@require_POST
def share(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a link that shows this setup to whoever has it."""
    setup = get_object_or_404(SavedSetup.objects.of(account_of(request)), pk=pk)
    days = number_of(request.POST.get("days"))
    if setup.shares.filter(revoked_at=None, expires_at__gt=timezone.now()).count() < MAX_SHARES:
        Share.objects.create(
            setup=setup,
            expires_at=timezone.now() + timedelta(days=days if days in SHARE_DAYS else 7),
        )
    return _shares(request, setup)


@require_POST
def unshare(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a link back."""
    link = get_object_or_404(Share, pk=pk, setup__owner=account_of(request))
    Share.objects.filter(pk=link.pk).update(revoked_at=timezone.now())
    return _shares(request, link.setup)


def _shares(request: HttpRequest, setup: SavedSetup) -> HttpResponse:
    live = [s for s in setup.shares.order_by("-made_at") if s.live]
    links = [(s, request.build_absolute_uri(reverse("shared", args=[s.token]))) for s in live]
    return render(
        request, "verdicts/_shares.html", {"saved": setup, "links": links, "days": SHARE_DAYS}
    )


@require_safe
def shares(request: HttpRequest, pk: int) -> HttpResponse:
    """The live links of a setup."""
    return _shares(request, get_object_or_404(SavedSetup.objects.of(account_of(request)), pk=pk))


def _shared(token: str) -> SavedSetup:
    link = Share.objects.select_related("setup__rig", "setup__supply").filter(token=token).first()
    if link is None or not link.live or link.setup.deleted_at is not None:
        raise Http404
    return link.setup


@login_not_required
@require_safe
def shared(request: HttpRequest, token: str) -> HttpResponse:
    """A setup as whoever has its link sees it: read-only."""
    setup = _shared(token)
    document = repository.compose(setup)
    data, faults = view_model(document)
    if any(f.code == judging.TOO_MUCH for f in faults):
        data, waits = in_line(setup.owner, document, mine=False)
        if data is None:
            page = {"name": setup.name, "read_only": True} | waits
            waiting = render(request, "verdicts/shared_waits.html", page, status=202)
            if "job" in waits:
                waiting["Refresh"] = LOOKS_AGAIN_S
            return _unseen(waiting)
    if data is None:
        raise Http404
    context = {
        "name": setup.name,
        "token": token,
        "first": True,
        "read_only": True,
        "conditions_words": conditions_words(document, "si"),
    }
    return _unseen(render(request, "verdicts/shared.html", data | context))


def _unseen(response: HttpResponse) -> HttpResponse:
    """A shared page that no index keeps and no other site is told the address of."""
    response["Referrer-Policy"] = "no-referrer"
    response["X-Robots-Tag"] = "noindex"
    response["Cache-Control"] = "private, no-store"
    return response


@login_not_required
@require_safe
def shared_report(request: HttpRequest, token: str) -> HttpResponse:
    """The printed report of a shared setup."""
    return _pdf(request, _shared(token))
