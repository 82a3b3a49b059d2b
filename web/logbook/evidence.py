"""Photographs and sounds kept with an entry of the log, where somebody asked for it: made small,
counted, in the account's zip and gone with their entry.
"""

from __future__ import annotations

import base64
import binascii

from django.db import transaction
from django.db.models import Sum
from django.db.models.functions import Length

from web.design.pictures import STORED_BYTES, NotAPicture, as_jpeg
from web.logbook.hearing import STORED_BYTES as STORED_SOUND
from web.logbook.hearing import stored as stored_sound
from web.logbook.models import Evidence, LogEntry
from web.storage import actions

MAX_OF_SETUP, MAX_OF_ACCOUNT = 750_000, 4_000_000
"""So many bytes of it fit into an entry of an account's zip beside the log, and into the zip."""
LONGEST = 2 * max(STORED_BYTES, STORED_SOUND)
MAKERS = {"photo": as_jpeg, "sound": stored_sound}
TYPES = {"photo": "image/jpeg", "sound": "audio/wav"}
NEITHER = "must be a photograph or a sound that was kept here"


def packed(kind: str, raw: bytes) -> str:
    """What was sent, made small, as it waits in the form until the entry is saved.

    Raises:
        NotAPicture: it is none.
    """
    return f"{kind}:{base64.b64encode(MAKERS[kind](raw)).decode('ascii')}"


def unpacked(text: str) -> tuple[str, bytes]:
    """The kind and the bytes of what waited; made anew, for it comes from outside.

    Raises:
        NotAPicture: it is none.
    """
    kind, _, data = text[:LONGEST].partition(":")
    if kind not in MAKERS:
        raise NotAPicture(NEITHER)
    try:
        raw = base64.b64decode(data, validate=True)
    except (binascii.Error, ValueError):
        raise NotAPicture(NEITHER) from None
    return kind, MAKERS[kind](raw)


def store_waiting(entry: LogEntry, text: str) -> str:
    """Keep what waited with its entry; why not, where it is not kept."""
    if Evidence.objects.filter(entry=entry).exists():
        return ""  # the same form pressed twice
    try:
        return store(entry, *unpacked(text))
    except NotAPicture as why:
        return str(why)


def store(entry: LogEntry, kind: str, raw: bytes) -> str:
    """Store what was made small with its entry; why not, where there is no room for it."""
    with transaction.atomic():
        actions.one_at_a_time(entry.setup.owner)
        for whose, maximum, words in (
            ({"entry__setup": entry.setup_id}, MAX_OF_SETUP, "this log"),
            ({"entry__setup__owner": entry.setup.owner_id}, MAX_OF_ACCOUNT, "the account"),
        ):
            held = Evidence.objects.filter(**whose).aggregate(sum=Sum(Length("raw")))["sum"] or 0
            if held + len(raw) > maximum:
                return f"{words} holds as many photographs and sounds as it may; delete one first"
        Evidence.objects.create(entry=entry, kind=kind, raw=raw)
    return ""


def out(entry: LogEntry) -> dict[str, str]:
    """What was kept with an entry, as it goes with its account; empty without."""
    held = getattr(entry, "evidence", None)
    if held is None:
        return {}
    return {"kind": held.kind, "data": base64.b64encode(bytes(held.raw)).decode("ascii")}


def taken(data: object) -> tuple[str, bytes]:
    """The kind and the bytes of what stands beside an entry of a zip.

    Raises:
        NotAPicture: it is none.
    """
    if not isinstance(data, dict) or not {"kind", "data"} <= data.keys():
        raise NotAPicture(NEITHER)
    return unpacked(f"{data['kind']}:{data['data']}")
