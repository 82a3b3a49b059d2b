"""The interface for programs: rigs, supplies, setups, verdicts, log entries and searches.

The same actions and answers as the pages', as JSON. Documents are those of the open formats; faults
carry the same codes as the forms'.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from ninja import Body, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.setup.model import Setup
from ironmargin.setup.parts import read_rig, read_supply
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.records import write_record
from ironmargin.setup.work import work_of
from ironmargin.verdict.result import result_json
from web.accounts.access import demand_change
from web.api import lane
from web.api.wire import (
    Api,
    Bearer,
    Bodies,
    etag_of,
    names_version,
    page_of,
    refuse_in_words,
    version_of,
)
from web.logbook import service as logbook
from web.logbook.models import LogEntry
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage import models as storage
from web.supplies.models import Supply
from web.verdicts import jobs
from web.verdicts.models import Job

SEARCHED = Literal["remedies", "sensitivity", "order", "size", "large"]
MAX_ENTRIES = 400

api = Api(
    title="Iron Margin",
    version="1",
    description="An estimate, not an approval. Local codes and licensed practice come first.",
    urls_namespace="api",
    auth=Bearer(),
    parser=Bodies(),
    docs_url=None,
)
refuse_in_words(api)


class Named(Schema):
    """A thing to be kept."""

    name: str = Field(min_length=1, max_length=120)
    document: Document


class Stored(Schema):
    """A thing that is kept; ``version`` rises with every change and is its ETag."""

    id: int
    name: str
    version: int
    archived: bool
    document: Document


class Page(Schema):
    """Some things, newest first; ``next`` is the cursor of the page after."""

    items: list[Stored]
    next: int | None = None


class Problem(Schema):
    """A refusal (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str = ""
    faults: list[dict[str, str]] = []


class Requested(Schema):
    """A question and what kind of search answers it."""

    kind: SEARCHED
    document: Document


class Task(Schema):
    """A search: how far it is, and once it is done what it found."""

    id: int
    kind: str
    status: str
    done: int
    todo: int
    place: int | None = None
    answer: Document | None = None


class Entry(Schema):
    """An entry of a log, as the open format has it."""

    id: int
    document: Document


REFUSED: dict[Any, Any] = dict.fromkeys((400, 401, 403, 404, 409, 412, 422, 428, 429, 503), Problem)
Answers = REFUSED | {200: Stored}


def owner_of(request: HttpRequest) -> User:
    """Whom the token acts for."""
    owner: User = request.auth.owner  # type: ignore[attr-defined]
    return owner


def plain(item: storage.Stored, document: Document | None = None) -> Document:
    """A thing as the interface shows it."""
    return {
        "id": item.pk,
        "name": item.name,
        "version": item.version,
        "archived": item.archived_at is not None,
        "document": document if document is not None else item.document,
    }


def shown(
    item: storage.Stored, status: int = 200, document: Document | None = None
) -> HttpResponse:
    """A thing with its version as ETag."""
    answer = JsonResponse(plain(item, document), status=status)
    answer["ETag"] = etag_of(item)
    return answer


def inventory(model: type[storage.Stored], read: Callable[[Document], Document]) -> Router:
    """The addresses of one kind of the inventory; ``read`` makes a document sound."""
    router = Router(tags=[model.kind])

    def own(request: HttpRequest, pk: int) -> storage.Stored:
        found: storage.Stored = get_object_or_404(model.objects.of(owner_of(request)), pk=pk)
        return found

    @router.get("/", response={200: Page} | REFUSED, operation_id=f"{model.kind}_list")
    def all_of(request: HttpRequest, cursor: int | None = None) -> Document:
        """List them, a page at a time."""
        items, after = page_of(model.objects.of(owner_of(request)), cursor)
        return {"items": [plain(x) for x in items], "next": after}

    @router.post("/", response={201: Stored} | REFUSED, operation_id=f"{model.kind}_make")
    def make(request: HttpRequest, body: Named) -> HttpResponse:
        """Create one."""
        sound = read(body.document)
        return shown(actions.make(model, owner_of(request), body.name, sound), 201)

    @router.get("/{pk}", response=Answers, operation_id=f"{model.kind}_get")
    def one(request: HttpRequest, pk: int) -> HttpResponse:
        """Get one; with If-None-Match, 304 if it has not changed."""
        return unless_known(request, own(request, pk))

    @router.put("/{pk}", response=Answers, operation_id=f"{model.kind}_put")
    def put(request: HttpRequest, pk: int, body: Named) -> HttpResponse:
        """Change one; send If-Match with the version you read."""
        item = own(request, pk)
        version = version_of(request, item)
        sound = read(body.document)
        return shown(actions.change(item, version, name=body.name, document=sound))

    @router.delete("/{pk}", response={204: None} | REFUSED, operation_id=f"{model.kind}_delete")
    def delete(request: HttpRequest, pk: int) -> HttpResponse:
        """Delete one; the page can restore it for thirty days."""
        item = own(request, pk)
        version_of(request, item)
        actions.delete(item)
        return HttpResponse(status=204)

    return router


def unless_known(
    request: HttpRequest, item: storage.Stored, document: Document | None = None
) -> HttpResponse:
    """A thing, or 304 where the program has this version already."""
    if names_version(request.headers.get("If-None-Match", ""), item):
        answer = HttpResponse(status=304)
        answer["ETag"] = etag_of(item)
        return answer
    return shown(item, document=document)


def sound_rig(document: Document) -> Document:
    """A rig's document as the core writes it."""
    return write_record(read_rig(document))


def sound_supply(document: Document) -> Document:
    """A supply's document as the core writes it."""
    return write_record(read_supply(document))


api.add_router("/rigs", inventory(Rig, sound_rig))
api.add_router("/supplies", inventory(Supply, sound_supply))
setups = Router(tags=["setup"])


def own_setup(request: HttpRequest, pk: int) -> SavedSetup:
    """A setup of whom the token acts for."""
    mine = SavedSetup.objects.of(owner_of(request)).select_related("rig", "supply")
    found: SavedSetup = get_object_or_404(mine, pk=pk)
    return found


@setups.get("/", response={200: Page} | REFUSED, operation_id="setup_list")
def setup_list(request: HttpRequest, cursor: int | None = None) -> Document:
    """List setups, a page at a time, each with its rig and supply."""
    mine = SavedSetup.objects.of(owner_of(request)).select_related("rig", "supply")
    items, after = page_of(mine, cursor)
    return {"items": [plain(x, repository.compose(x)) for x in items], "next": after}


@setups.post("/", response={201: Stored} | REFUSED, operation_id="setup_make")
def setup_make(request: HttpRequest, body: Body[Document]) -> HttpResponse:
    """Create a setup; its rig and supply are created where they do not exist yet."""
    owner = owner_of(request)
    demand_change(owner.pk)
    judged = _judged(body)
    saved = repository.store(owner, judged)
    return shown(saved, 201, repository.compose(saved))


def _judged(document: Document) -> judging.Judged:
    judged = judging.judge(document)
    if judged.setup is None:
        raise SetupError(list(judged.faults))
    return judged


@setups.get("/{pk}", response=Answers, operation_id="setup_get")
def setup_get(request: HttpRequest, pk: int) -> HttpResponse:
    """Get one setup."""
    saved = own_setup(request, pk)
    return unless_known(request, saved, repository.compose(saved))


@setups.put("/{pk}", response=Answers, operation_id="setup_put")
def setup_put(request: HttpRequest, pk: int, body: Body[Document]) -> HttpResponse:
    """Change a setup, and its rig and supply where their figures differ."""
    saved = own_setup(request, pk)
    versions = repository.versions_of(saved) | {"setup": version_of(request, saved)}
    demand_change(saved.owner_id)
    stored = repository.store_again(saved, _judged(body), versions, saved.rig, saved.supply)
    fresh = own_setup(request, stored.pk)
    return shown(fresh, document=repository.compose(fresh))


@setups.delete("/{pk}", response={204: None} | REFUSED, operation_id="setup_delete")
def setup_delete(request: HttpRequest, pk: int) -> HttpResponse:
    """Delete a setup; the page can restore it for thirty days."""
    saved = own_setup(request, pk)
    version_of(request, saved)
    actions.delete(saved)
    return HttpResponse(status=204)


@setups.get("/{pk}/verdict", response={200: Document} | REFUSED, operation_id="setup_verdict")
def setup_verdict(request: HttpRequest, pk: int) -> object:
    """Get the verdict of a saved setup, as the ``check`` command gives it."""
    saved = own_setup(request, pk)
    return _verdict(judging.read(repository.compose(saved)), lambda: repository.judge_saved(saved))


@setups.get("/{pk}/log", response={200: list[Entry]} | REFUSED, operation_id="log_list")
def log_list(request: HttpRequest, pk: int) -> list[Document]:
    """List what was measured on a setup."""
    held = LogEntry.objects.filter(setup=own_setup(request, pk), deleted_at=None)
    return [{"id": e.pk, "document": e.document} for e in held[:MAX_ENTRIES]]


@setups.post("/{pk}/log", response={201: Entry} | REFUSED, operation_id="log_add")
def log_add(request: HttpRequest, pk: int, body: Body[Document], once: str = "") -> object:
    """Add an entry; sent again with the same ``once`` it is stored once."""
    saved = own_setup(request, pk)
    demand_change(saved.owner_id)
    faults = logbook.faults_of(read_setup(repository.compose(saved)), body)
    if faults:
        raise SetupError(faults)
    stored = logbook.store(saved, body, once)
    if stored is None:
        raise HttpError(409, "this log is full; delete old entries first")
    return 201, {"id": stored.pk, "document": stored.document}


@setups.delete("/{pk}/log/{entry}", response={204: None} | REFUSED, operation_id="log_delete")
def log_delete(request: HttpRequest, pk: int, entry: int) -> HttpResponse:
    """Delete an entry."""
    saved = own_setup(request, pk)
    demand_change(saved.owner_id)
    logbook.take_out(get_object_or_404(LogEntry, pk=entry, setup=saved, deleted_at=None))
    return HttpResponse(status=204)


api.add_router("/setups", setups)


@api.post("/verdicts", response={200: Document} | REFUSED, tags=["verdict"])
def verdict(request: HttpRequest, body: Body[Document]) -> object:
    """Get the verdict of a setup without saving it."""
    return _verdict(judging.read(body), lambda: _judged(body))


def _verdict(setup: Setup, judge: Callable[[], judging.Judged]) -> object:
    """The verdict as the ``check`` command gives it; a dear one behind the pages, one too large at
    once is a task of the kind ``large``.
    """
    if lane.is_dear(setup) and work_of(setup) <= judging.MAX_AT_ONCE:
        return lane.LANE.verdict(setup)
    judged = judge()
    if judged.checked is None:
        raise SetupError(list(judged.faults))
    return result_json(judged.checked.result)


tasks = Router(tags=["task"])


def task_shown(job: Job, status: int = 200) -> HttpResponse:
    """A search with where it stands."""
    place = jobs.place_of(job) if job.status == jobs.WAITING else None
    body = {
        "id": job.pk, "kind": job.kind, "status": job.status, "done": job.done, "todo": job.todo,
        "place": place, "answer": job.answer,
    }  # fmt: skip
    answer = JsonResponse(body, status=status)
    if job.status in jobs.LIVE:
        answer["Retry-After"] = "1"
    return answer


@tasks.post("/", response={202: Task} | REFUSED, operation_id="task_ask")
def task_ask(request: HttpRequest, body: Requested) -> HttpResponse:
    """Start a search in the queue; ask for its progress at least every twenty seconds."""
    sound = write_setup(read_setup(body.document))
    return task_shown(jobs.ask(owner_of(request), body.kind, sound), 202)


@tasks.get("/{pk}", response={200: Task} | REFUSED, operation_id="task_get")
def task_get(request: HttpRequest, pk: int) -> HttpResponse:
    """Get the progress of a search, and its answer once it is done."""
    return task_shown(jobs.look(get_object_or_404(Job, pk=pk, owner=owner_of(request))))


@tasks.delete("/{pk}", response={204: None} | REFUSED, operation_id="task_cancel")
def task_cancel(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop a search."""
    jobs.cancel(get_object_or_404(Job, pk=pk, owner=owner_of(request)))
    return HttpResponse(status=204)


api.add_router("/tasks", tasks)
