"""What was typed into a setup's form and not saved: stored as it is typed, and there again on every
page of the setup.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import TypedDict

from django.contrib.auth.models import User
from django.db import DatabaseError, transaction
from django.http import HttpRequest
from django.utils import timezone

from ironmargin.document import Document
from ironmargin.errors import SetupError
from web.accounts.access import signed_in
from web.accounts.demo import DEMO_USER
from web.setups import judging, repository
from web.setups.models import Draft, SavedSetup

BASES = ("version", "rig_pk", "rig_version", "supply_pk", "supply_version")
SHARED_DAYS = 1
"""How long a draft of the demo is stored [days]; its browser session is seldom older."""


class Whose(TypedDict):
    """Whom a draft belongs to."""

    owner: User
    holder: str


def _whose(request: HttpRequest) -> Whose:
    """The account's person, and in the demo the one browser: what a visitor typed there is not
    shown to the next.
    """
    user = signed_in(request)
    shared = user.username == DEMO_USER
    return {"owner": user, "holder": (request.session.session_key or "") if shared else ""}


def note(
    request: HttpRequest, saved: SavedSetup | None, document: Document, post: Mapping[str, object]
) -> bool:
    """Store what a form holds now, and say whether it differs from what is saved."""
    if saved is not None and _same(document, repository.compose(saved)):
        drop(request, saved)
        return False
    bases = {name: str(post.get(name, ""))[:18] for name in BASES}
    try:
        json.dumps(document, allow_nan=False)
        draft = Draft(
            item=saved.pk if saved else 0, document=document, bases=bases, **_whose(request)
        )
        with transaction.atomic():
            Draft.objects.bulk_create(
                [draft], update_conflicts=True, update_fields=["document", "bases", "at"]
            )
    except (ValueError, RecursionError, DatabaseError):
        pass  # what no form posts (not-a-number, a tower of lists) is judged, but not stored
    return True


def _same(one: Document, other: Document) -> bool:
    """Whether two documents mean the same: a form spells out what a file leaves to its default."""
    try:
        return one == other or judging.read(one) == judging.read(other)
    except (SetupError, ValueError, RecursionError):
        return False


def of(request: HttpRequest, saved: SavedSetup | None) -> Draft | None:
    """What was typed and not saved, if anything."""
    item = saved.pk if saved else 0
    return Draft.objects.filter(item=item, **_whose(request)).first()


def drop(request: HttpRequest, saved: SavedSetup | None) -> None:
    """Forget what was typed."""
    Draft.objects.filter(item=saved.pk if saved else 0, **_whose(request)).delete()


def purge(since: datetime) -> int:
    """Delete the demo's drafts of sessions that are over; ``since`` is of no matter to them."""
    old = timezone.now() - timedelta(days=SHARED_DAYS)
    gone, _ = Draft.objects.exclude(holder="").filter(at__lt=old).delete()
    return gone
