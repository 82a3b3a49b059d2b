"""Whole accounts in and out. What a page can wait for is done at once; a large one goes through the
queue of the searches, and a page shows how it stands.

A transfer is taken in within one transaction that ends with its own row, so that a worker killed on
the way leaves nothing, and one presumed lost cannot take it in twice.
"""

from __future__ import annotations

import io
import time
import zipfile
from datetime import timedelta
from multiprocessing.connection import Connection
from typing import TypeVar

from django.conf import settings
from django.contrib import messages
from django.contrib.auth.models import User
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.db.models import F, Sum
from django.db.models.functions import Length
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe
from django_tasks import task

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from web.accounts.access import ACTOR, access_in, access_of, account_of, demand_change
from web.accounts.limits import allowed, too_often
from web.storage import actions
from web.storage.account import LARGEST_ZIP, UNREADABLE, large_directory, pack, unpack, unpacked
from web.storage.kinds import KINDS
from web.storage.line import RUNNING, WAITING, is_lost
from web.storage.models import TransferJob, TransferPart
from web.storage.subprocesses import FAILED, child_at

AT_ONCE_BYTES, AT_ONCE_THINGS = 1_000_000, 60
"""What a page waits for: about a second of one core (measured: docs/reliability.md)."""
PART_BYTES = 1 << 20
PATIENCE_S = 120.0
MAX_MEMORY = 1 << 30
LISTEN_S = 0.5
LOST = timedelta(seconds=15)
"""A running transfer nobody has heard of for so long went down with its worker."""
MAX_TURNS = 2
MAX_FAULTS = 40
STORED = timedelta(hours=1)
"""How long a packed account is offered instead of being packed anew."""
BEHIND = -100
"""Transfers give way to searches, which somebody watches."""
DONE = "done"
LIVE = (WAITING, RUNNING)
Answer = TypeVar("Answer", HttpResponse, StreamingHttpResponse)
ZIP = "iron-margin-account.zip"


class TooOften(Exception):
    """So many large accounts were asked for that no more are taken on."""


class Overtaken(Exception):
    """Another turn of the same transfer has begun: what this one did is taken back."""


@require_safe
def export(request: HttpRequest) -> HttpResponse:
    """The account as a zip, or the page of one being packed or packed a moment ago."""
    owner = account_of(request)
    if _is_small(owner):
        return _zip(HttpResponse(pack(owner)))
    packed_now = recent(owner, TransferJob.OUT)
    if packed_now is not None and packed_now.status != FAILED and "anew" not in request.GET:
        return redirect("transfer", packed_now.pk)
    return _carried(request, TransferJob.OUT)


@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Take an account's zip in beside what is there."""
    owner, file = account_of(request), request.FILES.get("file")
    demand_change(owner.pk)
    try:
        if file is None:
            raise SetupError([Fault("file", "missing", "choose the zip of an account first")])
        raw = file.read(LARGEST_ZIP + 1)
        if len(raw) <= LARGEST_ZIP and _unpacks_to(raw) > AT_ONCE_BYTES:
            return _carried(request, TransferJob.IN, raw)
        counts = unpack(owner, raw)
    except (SetupError, actions.TooMany) as error:
        return render(request, "storage/account.html", {"faults": _faults(error)}, status=422)
    messages.success(request, taken(counts))
    return redirect("setups")


@require_safe
def transfer(request: HttpRequest, pk: int) -> HttpResponse:
    """How a transfer stands; its page asks for the changing part again and again."""
    found = _look(get_object_or_404(TransferJob, pk=pk, owner=account_of(request)))
    ahead = TransferJob.objects.filter(status__in=LIVE, asked_at__lt=found.asked_at).count()
    context = {"transfer": found, "ahead": ahead if found.status == WAITING else 0}
    if found.status == DONE and found.way == TransferJob.IN:
        context["taken"] = taken(found.answer or {})
    part = (
        "storage/_transfer.html" if request.headers.get("HX-Request") else "storage/transfer.html"
    )
    return render(request, part, context)


@require_safe
def packed(request: HttpRequest, pk: int) -> StreamingHttpResponse:
    """The zip of a transfer that was packed."""
    found = get_object_or_404(
        TransferJob, pk=pk, owner=account_of(request), way=TransferJob.OUT, status=DONE
    )
    if not found.parts.exists():
        raise Http404
    raws = found.parts.values_list("raw", flat=True).iterator(chunk_size=1)
    return _zip(StreamingHttpResponse(bytes(raw) for raw in raws))


def recent(owner: User, way: str | None = None) -> TransferJob | None:
    """The latest transfer of an account within the hour, if any."""
    found = TransferJob.objects.filter(owner=owner, asked_at__gt=timezone.now() - STORED)
    return (found.filter(way=way) if way else found).order_by("-pk").first()


def taken(counts: dict[str, int]) -> str:
    """What came along, in words."""
    ones = {"rigs": "rig", "supplies": "supply", "setups": "setup"}
    rigs, supplies, setups = (
        f"{counts[n]} {one if counts[n] == 1 else n}" for n, one in ones.items()
    )
    return f"Imported {rigs}, {supplies} and {setups}, with their logs and histories."


def _zip(answer: Answer) -> Answer:
    answer["Content-Type"] = "application/zip"
    answer["Content-Disposition"] = f'attachment; filename="{ZIP}"'
    return answer


def _faults(error: SetupError | actions.TooMany) -> list[Fault]:
    if isinstance(error, actions.TooMany):
        return [Fault("", "too-many", error.advice)]
    return error.faults[:MAX_FAULTS]


def _is_small(owner: User) -> bool:
    """Whether an account is packed while a page waits."""
    held = [k.model.objects.of(owner) for k in KINDS.values()]
    if sum(things.count() for things in held) > AT_ONCE_THINGS:
        return False
    sizes = (x.aggregate(n=Sum(Length("document")))["n"] or 0 for x in held)
    return sum(sizes) <= AT_ONCE_BYTES


def _unpacks_to(raw: bytes) -> int:
    """How many bytes a zip says it holds; 0 of what is none or lists too much, which is refused at
    once.
    """
    if large_directory(raw):
        return 0
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as file:
            return unpacked(file)
    except UNREADABLE:
        return 0


def _carried(request: HttpRequest, way: str, raw: bytes = b"") -> HttpResponse:
    """The page of a transfer put in line."""
    try:
        return redirect("transfer", _ask(request, way, raw).pk)
    except TooOften:
        return too_often(request, settings.LIMITS["transfer"][1])


def _ask(request: HttpRequest, way: str, raw: bytes = b"") -> TransferJob:
    """Put a transfer in line; the one that is under way where this account has one.

    Raises:
        TooOften: this account had as many as it may have.
    """
    owner = account_of(request)
    with transaction.atomic():
        actions.one_at_a_time(owner)
        live = TransferJob.objects.filter(owner=owner, way=way, status__in=LIVE).first()
        if live is not None:
            messages.error(request, "One is still running; here is its progress.")
            return _look(live)
        if not allowed("transfer", str(owner.pk), *settings.LIMITS["transfer"]):
            raise TooOften
        TransferJob.objects.filter(owner=owner, way=way).delete()
        made = TransferJob.objects.create(owner=owner, who=access_of(request).user, way=way)
        _store(made, raw)
        _begin(made)
    return made


def _store(transfer: TransferJob, raw: bytes) -> None:
    for number, at in enumerate(range(0, len(raw), PART_BYTES)):
        TransferPart.objects.create(transfer=transfer, number=number, raw=raw[at : at + PART_BYTES])


def _look(transfer: TransferJob) -> TransferJob:
    """A transfer as it stands; taken up again, once, where its worker was lost."""
    if is_lost(transfer, carry, LOST):
        if transfer.turn < MAX_TURNS:
            _begin(transfer)
        else:
            why = {"why": "its worker stopped twice"}
            mine = TransferJob.objects.filter(
                pk=transfer.pk, turn=transfer.turn, status=transfer.status
            )
            mine.update(status=FAILED, answer=why)
        transfer.refresh_from_db()
    return transfer


def _begin(transfer: TransferJob) -> None:
    mine = TransferJob.objects.filter(pk=transfer.pk, turn=transfer.turn)
    if not mine.update(status=WAITING, turn=F("turn") + 1, beat_at=timezone.now()):
        return
    transfer.refresh_from_db()
    if settings.JOBS_INLINE:
        if TransferJob.objects.filter(pk=transfer.pk).update(status=RUNNING):
            _end(transfer, _carry(transfer))
    else:
        _enqueue(transfer)


def _enqueue(transfer: TransferJob) -> None:
    carry.using(priority=BEHIND).enqueue(transfer.pk, transfer.turn)


@task()
def carry(pk: int, turn: int) -> None:
    """Carry a transfer one turn, in a child of this worker."""
    wanted = TransferJob.objects.filter(pk=pk, turn=turn, status=WAITING)
    if not wanted.update(status=RUNNING, beat_at=timezone.now()):
        return
    transfer = TransferJob.objects.get(pk=pk)
    with child_at(_tell, transfer, max_bytes=MAX_MEMORY) as pipe:
        _end(transfer, _listen(transfer, pipe))


def _listen(transfer: TransferJob, pipe: Connection) -> tuple[str, Document]:
    """What became of a transfer in a child's hands."""
    until = time.monotonic() + PATIENCE_S
    mine = TransferJob.objects.filter(pk=transfer.pk, turn=transfer.turn, status=RUNNING)
    while time.monotonic() < until:
        try:
            if pipe.poll(LISTEN_S):
                answer: tuple[str, Document] = pipe.recv()
                return answer
        except EOFError:
            return FAILED, {"why": "it ended without an answer"}
        mine.update(beat_at=timezone.now())
    return FAILED, {"why": "it took too long"}


def _tell(pipe: Connection, transfer: TransferJob) -> None:
    pipe.send(_carry(transfer))


def _carry(transfer: TransferJob) -> tuple[str, Document]:
    """Take a transfer in, or pack it, as who asked; how it ended, and what it held."""
    actor = access_in(transfer.who, transfer.owner_id)
    if actor is None:
        return FAILED, {"why": "the person who asked is no longer a member of this account"}
    before = ACTOR.set(actor)
    try:
        with transaction.atomic():
            if transfer.way == TransferJob.IN:
                raw = b"".join(bytes(part.raw) for part in transfer.parts.all())
                answer = unpack(transfer.owner, raw)
                transfer.parts.all().delete()
            else:
                raw = pack(transfer.owner)
                _store(transfer, raw)
                answer = {"bytes": len(raw)}
            mine = TransferJob.objects.filter(pk=transfer.pk, turn=transfer.turn, status=RUNNING)
            if not mine.update(status=DONE, answer=answer):
                raise Overtaken
    except (SetupError, actions.TooMany) as error:
        return FAILED, {"faults": [[f.path, f.message] for f in _faults(error)]}
    except PermissionDenied as error:
        return FAILED, {"why": str(error)}
    except Overtaken:
        return FAILED, {"why": "another turn of it has begun"}
    finally:
        ACTOR.reset(before)
    return DONE, answer


def _end(transfer: TransferJob, ended: tuple[str, Document]) -> None:
    """Note how a turn ended, unless it noted so itself or another has begun."""
    status, answer = ended
    mine = TransferJob.objects.filter(pk=transfer.pk, turn=transfer.turn, status=RUNNING)
    if mine.update(status=status, answer=answer):
        transfer.parts.all().delete()
    transfer.refresh_from_db()
