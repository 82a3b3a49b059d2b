"""How the interface for programs reads, answers and refuses: bodies, problems, versions, pages."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterable
from typing import TypeVar, cast

from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.parser import Parser
from ninja.security import HttpBearer

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.setup.versions import notice, renamed
from web.accounts.access import ACTOR, Access
from web.accounts.limits import allowed
from web.accounts.models import OWNER, READER
from web.api import lane
from web.api.models import WRITE, Token, token_of
from web.storage import actions
from web.storage.models import Stored
from web.verdicts import jobs

K = TypeVar("K", bound=Stored)
E = TypeVar("E", bound=Exception)
PROBLEM = "application/problem+json"
PAGE = 50


class Limited(Exception):
    """A token asks too often."""


class NoVersion(Exception):
    """A change does not say which version it is of."""


class Bearer(HttpBearer):
    """A token; whoever has it acts for its account within its scope."""

    openapi_description = "A token made on the page of your account."

    def authenticate(self, request: HttpRequest, token: str) -> Token | None:
        """The token's account, or nobody."""
        held = token_of(token)
        if held is None:
            return None
        maximum, seconds = settings.LIMITS["api"]
        if not allowed("api", str(held.pk), maximum, seconds):
            raise Limited
        now = timezone.now()
        if held.used_at is None or (now - held.used_at).total_seconds() > 60:
            type(held).objects.filter(pk=held.pk).update(used_at=now)
        # Reset by the policy's middleware, which holds the request from without.
        role = OWNER if held.scope == WRITE else READER
        ACTOR.set(Access(held.owner, held.owner, role))
        return held


FORMER = "ironmargin.former_names"
"""Where a request carries what is said of the former names in its body."""


class Api(NinjaAPI):
    """An answer to a body with former names says so (``Warning``, as of HTTP/1.1: RFC 7234 5.5)."""

    def create_response(
        self,
        request: HttpRequest,
        data: object,
        *,
        status: int | None = None,
        temporal_response: HttpResponse | None = None,
    ) -> HttpResponse:
        """The answer, with its warning."""
        response = super().create_response(
            request, data, status=status, temporal_response=temporal_response
        )
        if words := request.META.get(FORMER, ""):
            response["Warning"] = f'299 - "{words}"'
        return response


class Bodies(Parser):
    """Bodies that are JSON and nothing worse: no NaN, no name twice, no endless nesting."""

    def parse_body(self, request: HttpRequest) -> Document:
        """The body's JSON."""
        try:
            found = json.loads(
                request.body.decode("utf-8"), object_pairs_hook=_once, parse_constant=_refuse,
                parse_float=_finite,
            )  # fmt: skip
            former: dict[str, str] = {}
            body = cast(Document, renamed(found, former))
            request.META[FORMER] = notice(former)
            return body
        except (ValueError, RecursionError) as error:
            raise HttpError(400, f"the body is not JSON: {str(error)[:120]}") from None


def _once(pairs: list[tuple[str, object]]) -> Document:
    found = dict(pairs)
    if len(found) < len(pairs):
        raise ValueError("a name stands twice")
    return found


def _refuse(word: str) -> float:
    raise ValueError(f"{word} is no figure")


def _finite(word: str) -> float:
    value = float(word)
    if not math.isfinite(value):
        raise ValueError(f"{word[:20]} is too large")
    return value


def problem(
    status: int, title: str, detail: str = "", faults: Iterable[Fault] = (), **headers: str
) -> HttpResponse:
    """A refusal as RFC 9457 has it, with the forms' own codes for each fault."""
    body: Document = {"type": "about:blank", "title": title, "status": status}
    if detail:
        body["detail"] = detail
    if faults:
        body["faults"] = [{"path": f.path, "code": f.code, "message": f.message} for f in faults]
    answer = HttpResponse(json.dumps(body), content_type=PROBLEM, status=status)
    for name, value in headers.items():
        answer[name.replace("_", "-")] = value
    return answer


def refuse_in_words(api: NinjaAPI) -> None:
    """Have every refusal of an interface be a problem of the same shape."""

    def on(kind: type[E], answer: Callable[[E], HttpResponse]) -> None:
        api.add_exception_handler(kind, lambda request, error: answer(cast(E, error)))

    on(SetupError, lambda e: problem(422, "Faults", faults=e.faults[:100]))
    on(actions.TooMany, lambda e: problem(409, "Too many", e.advice))
    on(actions.Conflict, lambda e: problem(412, "Changed meanwhile", str(e)))
    on(PermissionDenied, lambda e: problem(403, "Read only", "this token may only read"))
    on(NoVersion, lambda e: problem(428, "Which version?", "send If-Match with the ETag you read"))
    on(lane.Full, lambda e: problem(503, "Busy", e.advice, Retry_After="3"))
    on(jobs.Busy, lambda e: problem(503, "Busy", e.advice, Retry_After="60"))
    on(Limited, lambda e: problem(429, "Too often", "wait a minute", Retry_After="60"))
    on(
        AuthenticationError,
        lambda e: problem(401, "No token", "send a valid token", WWW_Authenticate="Bearer"),
    )
    on(Http404, lambda e: problem(404, "Not found", "nothing of yours is there"))
    on(HttpError, lambda e: problem(e.status_code, "Not done", str(e)))
    on(
        ValidationError,
        lambda e: problem(
            422,
            "Faults",
            faults=[Fault(".".join(map(str, x["loc"][1:])), x["type"], x["msg"]) for x in e.errors],
        ),
    )


def etag_of(item: Stored) -> str:
    """The version of a thing, as a header has it; of a setup with those of the rig and the supply
    it stands on, whose figures are part of it.
    """
    below = [getattr(item, name, None) for name in ("rig", "supply")]
    versions = [str(x.version) for x in (item, *below) if x is not None]
    return f'"{item.kind}-{item.pk}-{"-".join(versions)}"'


def names_version(header: str, item: Stored) -> bool:
    """Whether a header names the version of a thing. Compression on the way makes a tag weak
    (``W/``): it names the same version still.
    """
    tags = [tag.strip().removeprefix("W/") for tag in header.split(",")]
    return etag_of(item) in tags or tags == ["*"]


def version_of(request: HttpRequest, item: Stored) -> int:
    """The version a change is of.

    Raises:
        NoVersion: it says none.
        Conflict: it says another than the thing has.
    """
    said = request.headers.get("If-Match", "").strip()
    if not said:
        raise NoVersion
    if not names_version(said, item):
        raise actions.Conflict(item)
    return int(item.version)


def page_of(found: QuerySet[K], cursor: int | None) -> tuple[list[K], int | None]:
    """A page of things, newest first, and where the next one begins."""
    if cursor is not None:
        found = found.filter(pk__lt=cursor)
    held = list(found.order_by("-pk")[: PAGE + 1])
    return held[:PAGE], held[PAGE - 1].pk if len(held) > PAGE else None
