"""What was typed into a setup's form and not saved: kept as it is typed, offered back later."""

from __future__ import annotations

import json
from typing import Any

from django.db import DatabaseError, transaction

from ironmargin.errors import SetupError
from ironmargin.setup.reading import read_setup, write_setup
from web.accounts.demo import DEMO_USER
from web.setups import stored
from web.setups.models import Draft, SavedSetup

BASES = ("version", "rig_pk", "rig_version", "supply_pk", "supply_version")


def note(owner: Any, saved: SavedSetup | None, document: dict[str, Any], post: Any) -> None:
    """Keep what a form holds now; figures as they were saved need no draft.

    The demo's account is everybody's: what one visitor typed is not offered to the next.
    """
    if owner.username == DEMO_USER:
        return
    if saved is not None and _same(document, stored.compose(saved)):
        drop(owner, saved)
        return
    bases = {name: str(post.get(name, ""))[:18] for name in BASES}
    try:
        json.dumps(document, allow_nan=False)
        draft = Draft(owner=owner, item=saved.pk if saved else 0, document=document, bases=bases)
        with transaction.atomic():
            Draft.objects.bulk_create(
                [draft], update_conflicts=True, update_fields=["document", "bases", "at"]
            )
    except (ValueError, RecursionError, DatabaseError):
        return  # what no form posts (not-a-number, a tower of lists) is judged, but not kept


def _same(one: dict[str, Any], other: dict[str, Any]) -> bool:
    """Whether two documents mean the same: a form spells out what a file leaves to its default."""
    try:
        return write_setup(read_setup(one)) == write_setup(read_setup(other))
    except SetupError:
        return False


def of(owner: Any, saved: SavedSetup | None) -> Draft | None:
    """What was typed and not saved, if anything."""
    return Draft.objects.filter(owner=owner, item=saved.pk if saved else 0).first()


def drop(owner: Any, saved: SavedSetup | None) -> None:
    """Forget what was typed."""
    Draft.objects.filter(owner=owner, item=saved.pk if saved else 0).delete()
