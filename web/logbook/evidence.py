"""Photographs and sounds kept with an entry of the log, where somebody asked for it: made small,
counted, in the account's zip and gone with their entry.
"""

from __future__ import annotations

import base64
import binascii
from typing import Any

from ironmargin.errors import Fault
from web.design.pictures import KEPT_BYTES, NotAPicture, as_jpeg
from web.logbook.hearing import KEPT_BYTES as KEPT_SOUND
from web.logbook.hearing import kept as kept_sound
from web.logbook.models import Evidence, LogEntry

MOST_OF_SETUP = 24
LONGEST = 2 * max(KEPT_BYTES, KEPT_SOUND)
MAKERS = {"photo": as_jpeg, "sound": kept_sound}
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


def keep(entry: LogEntry, text: str) -> str:
    """Keep what waited with its entry; why not, where it is not kept."""
    if Evidence.objects.filter(entry=entry).exists():
        return ""  # the same form pressed twice
    if Evidence.objects.filter(entry__setup=entry.setup_id).count() >= MOST_OF_SETUP:
        return f"a setup's log may have {MOST_OF_SETUP} photographs and sounds; delete one first"
    try:
        kind, raw = unpacked(text)
    except NotAPicture as why:
        return str(why)
    Evidence.objects.create(entry=entry, kind=kind, raw=raw)
    return ""


def out(entry: LogEntry) -> dict[str, str]:
    """What was kept with an entry, as it goes with its account; empty without."""
    held = getattr(entry, "evidence", None)
    if held is None:
        return {}
    return {"kind": held.kind, "data": base64.b64encode(bytes(held.raw)).decode("ascii")}


def fault_of(data: Any, path: str) -> Fault | None:
    """What keeps evidence of a zip from being taken in."""
    try:
        unpacked(f"{data['kind']}:{data['data']}")
    except (NotAPicture, TypeError, KeyError) as why:
        return Fault(path, "evidence", str(why) if isinstance(why, NotAPicture) else NEITHER)
    return None
