"""Photographs of a client: kept small, counted, and out and in with the account's zip."""

from __future__ import annotations

import base64
import binascii

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from ironmargin.errors import Fault, SetupError
from web.clients.document import day_of, words
from web.clients.models import Client, Photo
from web.design.pictures import LARGEST_BYTES, STORED_BYTES, NotAPicture, as_jpeg
from web.storage import actions
from web.storage.kinds import DependentRecord

MAX_OF_CLIENT, MAX_OF_ACCOUNT = 12, 120
"""So many fit into an entry of an account's zip, and into the zip."""
MAX_CAPTION = 200


def store(client: Client, file: UploadedFile[bytes] | None, on: str, caption: str) -> Photo:
    """Keep a photograph that was sent.

    Raises:
        NotAPicture: none was sent, it is none, or there are as many as may be.
    """
    if file is None or not file.size:
        raise NotAPicture("choose a photograph first")
    if file.size > LARGEST_BYTES:
        raise NotAPicture(
            f"it must be at most {LARGEST_BYTES // 1_000_000} MB (got {file.size:,} bytes)"
        )
    raw = as_jpeg(file.read())
    with transaction.atomic():
        actions.one_at_a_time(client.owner)
        if client.photos.count() >= MAX_OF_CLIENT:
            raise NotAPicture(f"a client may have {MAX_OF_CLIENT}; remove one first")
        if Photo.objects.filter(client__owner=client.owner).count() >= MAX_OF_ACCOUNT:
            raise NotAPicture(f"an account may have {MAX_OF_ACCOUNT}; remove one first")
        held: Photo = client.photos.create(
            taken_on=day_of(on), caption=words(caption, MAX_CAPTION), raw=raw
        )
    return held


def _out(client: Client) -> list[dict[str, str]] | None:
    found = [
        {
            "on": photo.taken_on.isoformat(),
            "caption": photo.caption,
            "jpeg": base64.b64encode(bytes(photo.raw)).decode("ascii"),
        }
        for photo in client.photos.all()
    ]
    return found or None


def _take(client: Client, data: object) -> None:
    faults = []
    rows = data if isinstance(data, list) else []
    for at, row in enumerate(rows[:MAX_OF_CLIENT]):
        try:
            raw = base64.b64decode(str(row["jpeg"])[: 2 * STORED_BYTES], validate=True)
            made = as_jpeg(raw)
        except (KeyError, TypeError, binascii.Error, NotAPicture):
            faults.append(Fault(f"photos[{at}]", "picture", "must be a JPEG photograph"))
            continue
        client.photos.create(
            taken_on=day_of(str(row.get("on", ""))),
            caption=words(row.get("caption"), MAX_CAPTION),
            raw=made,
        )
    if faults:
        raise SetupError(faults)


PHOTOS = DependentRecord("photos", _out, _take)
