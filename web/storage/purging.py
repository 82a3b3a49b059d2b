"""What was deleted goes for good after thirty days; what is only of a moment goes sooner.

Floors above add what is theirs.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Any

from django.contrib.sessions.models import Session
from django.db import transaction
from django.utils import timezone

from web.accounts.models import Invitation, SignIn, Tally
from web.storage.kinds import KINDS
from web.storage.models import Change, Stored, TransferJob
from web.storage.once import forget_old

STORED_DAYS = 30
INVITED_DAYS, SIGNED_IN_DAYS, COUNTED_DAYS, TRANSFER_DAYS = 30, 60, 2, 1
BEFORE: dict[str, list[Callable[[Any], None]]] = {}
"""What is done with a thing of a kind before it goes."""
ALSO: list[Callable[[datetime], int]] = []
"""What else goes, given since when it has been deleted; each returns how much went."""


def purge(now: datetime | None = None) -> int:
    """Delete for good what has been deleted long enough; returns how many things went."""
    now = now or timezone.now()
    since = now - timedelta(days=STORED_DAYS)
    gone = 0
    for kind in KINDS.values():
        for item in kind.model.objects.filter(deleted_at__lt=since).iterator():
            gone += _purge_one(item, since)
    gone += sum(also(since) for also in ALSO)
    forget_old()
    Invitation.objects.filter(made_at__lt=now - timedelta(days=INVITED_DAYS)).delete()
    TransferJob.objects.filter(asked_at__lt=now - timedelta(days=TRANSFER_DAYS)).delete()
    Tally.objects.filter(began__lt=now - timedelta(days=COUNTED_DAYS)).delete()
    Session.objects.filter(expire_date__lt=now).delete()
    SignIn.objects.filter(at__lt=now - timedelta(days=SIGNED_IN_DAYS)).delete()
    return gone


def _purge_one(item: Stored, since: datetime) -> int:
    with transaction.atomic():
        mine = type(item).objects.select_for_update().filter(pk=item.pk, deleted_at__lt=since)
        held = mine.first()  # unless it was taken back meanwhile
        if held is None:
            return 0
        for act in BEFORE.get(held.kind, []):
            act(held)
        Change.objects.filter(kind=held.kind, item=held.pk).delete()
        held.delete()
        return 1
