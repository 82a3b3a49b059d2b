"""The history of a thing as it goes with its account and comes back."""

from __future__ import annotations

from datetime import datetime

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from web.storage.actions import STORED_CHANGES, state_after
from web.storage.kinds import DependentRecord
from web.storage.models import ACTIONS, Change, Stored

TEXTS = {"who": 150, "action": 20, "what": 300, "name": 200}
KNOWN = {action for action, _ in ACTIONS}


def out(item: Stored) -> list[Document] | None:
    """The changes of a thing, newest first: the newest with its state, each older one with the way
    back to it.
    """
    rows = Change.objects.filter(kind=item.kind, item=item.pk)
    return [
        {
            **{name: getattr(row, name) for name in TEXTS},
            "at": row.at.isoformat(),
            "version": row.version,
            **({"state": row.state} if row.state is not None else {"back": row.back}),
        }
        for row in rows
    ] or None


def take(item: Stored, data: object) -> None:
    """Give a thing that was just taken in its past instead of the entry that says so. Versions kept
    before changes were kept as ways back have their whole states.

    Raises:
        SetupError: it is no history, or one that leads nowhere.
    """
    try:
        held = data if isinstance(data, list) else []
        rows = [_row(item, one) for one in held[:STORED_CHANGES]]
        if not rows or rows[0].state is None:
            raise ValueError("must begin with a whole state and go back from there")
        if any((r.state is None) == (r.back is None) for r in rows):
            raise ValueError("an entry has a whole state or a way back, one of them")
    except (TypeError, KeyError, ValueError) as error:
        rule = f"must be changes as they were exported: {str(error)[:80]}"
        raise SetupError([Fault("history", "history", rule)]) from None
    Change.objects.filter(kind=item.kind, item=item.pk).delete()
    for row in reversed(rows):
        row.save()
    # Its number goes on from there, so that a merge finds the state it was changed from.
    type(item).objects.filter(pk=item.pk).update(version=rows[0].version)
    item.version = rows[0].version
    try:
        state_after(rows[-1])
    except Exception as error:  # whatever a patch that does not fit raises
        rule = f"must lead back to its beginning: {type(error).__name__}"
        raise SetupError([Fault("history", "history", rule)]) from None


def _row(item: Stored, one: Document) -> Change:
    if one["action"] not in KNOWN or not isinstance(one["version"], int):
        raise ValueError("an entry has an action and a version")
    if "back" in one and not isinstance(one["back"], list):
        raise ValueError("the way back is a list")
    if "state" in one and not (
        isinstance(one["state"], dict)
        and isinstance(one["state"].get("name"), str)
        and isinstance(one["state"].get("document"), dict)
    ):
        raise ValueError("a state has a name and a document")
    texts = {name: str(one[name])[:maximum] for name, maximum in TEXTS.items()}
    return Change(
        owner_id=item.owner_id,
        kind=item.kind,
        item=item.pk,
        at=datetime.fromisoformat(one["at"]),
        version=min(max(one["version"], 1), 2**31 - 1),
        state=one.get("state"),
        back=one.get("back"),
        **texts,
    )


HISTORY = DependentRecord("history", out, take)
