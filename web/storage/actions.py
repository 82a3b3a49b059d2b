"""The one way stored things change: permission, change, history entry. Pages, imports and scripts
call the same.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

import jsonpatch
from django.contrib.auth import get_user_model
from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F, QuerySet
from django.utils import timezone

from ironmargin.document import Document
from web.accounts.access import actor_name, demand_change
from web.storage.models import Change, Stored
from web.storage.words import difference

LISTENERS: dict[str, list[Callable[[Any], None]]] = {}
"""What is to be told when the document of a thing of a kind has changed; filled from the layers
above.
"""
Thing = TypeVar("Thing", bound=Stored)
STORED_CHANGES = 200
"""Changes remembered of each thing; older ones fall away."""


class Conflict(Exception):
    """Somebody changed the same thing in the meantime; ``newer`` is how it is now, ``what`` the
    last change of it.
    """

    def __init__(self, newer: Stored) -> None:
        self.newer = newer
        last = Change.objects.filter(kind=newer.kind, item=newer.pk).first()
        self.what = last.what if last else ""
        super().__init__(
            f"{newer.name} was changed at {newer.updated_at:%H:%M:%S} from another page"
        )


class TooMany(Exception):
    """The owner has as many of these as there may be."""

    def __init__(self, model: type[Stored]) -> None:
        there_are = f"You have {model.maximum} {model.kind}s, the most there may be."
        self.advice = f"{there_are} Delete one and try again."
        super().__init__(self.advice)


def tell_of(kind: str, listener: Callable[[Stored], None]) -> None:
    """Have ``listener`` told of every change of a document of this kind, in the same
    transaction.
    """
    LISTENERS.setdefault(kind, []).append(listener)


def _note(item: Stored, action: str, what: str = "") -> None:
    before = Change.objects.filter(kind=item.kind, item=item.pk).first()
    now = Change.objects.create(
        owner_id=item.owner_id,
        who=actor_name(item.owner),
        kind=item.kind,
        item=item.pk,
        version=item.version,
        action=action,
        what=what[:300],
        name=item.name,
        state=_state(item),
    )
    if before is not None and before.state is not None:
        back = jsonpatch.make_patch(now.state, before.state).patch
        Change.objects.filter(pk=before.pk).update(state=None, back=back)
    old = Change.objects.filter(kind=item.kind, item=item.pk).values_list("id", flat=True)[
        STORED_CHANGES : STORED_CHANGES + 50
    ]
    if old:
        Change.objects.filter(id__in=list(old)).delete()


def state_after(entry: Change) -> Document:
    """What a thing was after a change: the newest state, taken back change by change."""
    newer = Change.objects.filter(kind=entry.kind, item=entry.item, pk__gte=entry.pk)
    state: Document = {}
    for one in newer:  # newest first
        state = one.state if one.state is not None else jsonpatch.apply_patch(state, one.back or [])
    return state


def _state(item: Stored) -> Document:
    """What of a thing its history keeps: its document and the plain columns that go with it."""
    return {"name": item.name, "document": item.document} | {
        name: getattr(item, name) for name in getattr(item, "remembered", ())
    }


def one_at_a_time(owner: User) -> None:
    """Wait until no other request makes something for this owner; within a transaction."""
    get_user_model().objects.select_for_update().get(pk=owner.pk)


def make(
    model: type[Thing],
    owner: User,
    name: str,
    document: Document,
    *,
    action: str = "made",
    **columns: object,
) -> Thing:
    """Keep a new thing.

    Raises:
        PermissionDenied: whoever acts may not change this account; so of every action here.
        TooMany: the owner has all there may be.
    """
    demand_change(owner.pk)
    with transaction.atomic():
        one_at_a_time(owner)  # two requests at once must not both be the last
        if model.objects.of(owner).count() >= model.maximum:
            raise TooMany(model)
        item = model.objects.create(owner=owner, name=name, document=document, **columns)
        _note(item, action)
        return item


def change(
    item: Thing,
    version: int,
    *,
    name: str | None = None,
    document: Document | None = None,
    what: str | None = None,
    action: str = "changed",
    **columns: object,
) -> Thing:
    """Change a thing, if nobody else has since ``version`` was read; the check is the database's.

    Raises:
        Conflict: somebody has.
    """
    demand_change(item.owner_id)
    said = (
        what
        if what is not None
        else difference(
            item.document, document if document is not None else item.document, item.name, name
        )
    )
    columns |= ({"name": name} if name is not None else {}) | (
        {"document": document} if document is not None else {}
    )
    with transaction.atomic():
        done = (
            type(item)
            .objects.filter(pk=item.pk, version=version, deleted_at=None)
            .update(**columns, version=F("version") + 1, updated_at=timezone.now())
        )
        fresh = type(item).objects.get(pk=item.pk)
        if not done:
            raise Conflict(fresh)
        _note(fresh, action, said)
        if document is not None:
            for listener in LISTENERS.get(fresh.kind, []):
                listener(fresh)
        return fresh


def _mark(item: Stored, action: str, **columns: object) -> None:
    demand_change(item.owner_id)
    with transaction.atomic():
        type(item).objects.filter(pk=item.pk).update(**columns, version=F("version") + 1)
        item.refresh_from_db()
        _note(item, action)


def delete(item: Stored) -> None:
    """Delete a thing so that it can be taken back."""
    _mark(item, "deleted", deleted_at=timezone.now())


def restore(item: Stored) -> None:
    """Take a deletion back."""
    _mark(item, "restored", deleted_at=None)


def archive(item: Stored, away: bool) -> None:
    """Put a thing away, or bring it back."""
    _mark(
        item, "archived" if away else "brought back", archived_at=timezone.now() if away else None
    )


def duplicate(item: Thing) -> Thing:
    """A copy under a name of its own."""
    taken = set(type(item).objects.of(item.owner).values_list("name", flat=True))
    name = next(
        n
        for n in (f"{item.name}, copy", *(f"{item.name}, copy {k}" for k in range(2, 600)))
        if n[:200] not in taken
    )
    links = {
        name: getattr(item, name)
        for name in (*getattr(item, "remembered", ()), *getattr(item, "links", ()))
    }
    document = item.document | ({"name": name[:120]} if "name" in item.document else {})
    return make(type(item), item.owner, name[:200], document, **links)


def history(item: Stored) -> QuerySet[Change]:
    """The changes of a thing, newest first."""
    return Change.objects.filter(kind=item.kind, item=item.pk, owner_id=item.owner_id)


def go_back(item: Thing, entry: Change, version: int) -> Thing:
    """Make a thing what it was after an earlier change; that is a change itself.

    Raises:
        Conflict: somebody changed it in the meantime.
    """
    state = dict(state_after(entry))
    document = state.pop("document")
    return change(
        item,
        version,
        name=state.pop("name"),
        document=document,
        what=f"as it was at {entry.at:%d %b %H:%M}",
        action="went back",
        **state,
    )
