"""How rigs go into an account's zip and come back."""

from __future__ import annotations

from django.contrib.auth.models import User

from ironmargin.document import Document
from web.rigs import csv_format
from web.rigs.models import Rig
from web.rigs.service import MAX_TWELVE_VOLT, canonical
from web.storage import actions
from web.storage.kinds import Kind, Made, Number


def _out(rig: Rig, number: Number) -> Document:
    return {"document": rig.document, "twelve_volt": rig.twelve_volt}


def _beside(rig: Rig) -> list[tuple[str, str]]:
    return [("csv", csv_format.write(rig.document))]


def _take(owner: User, data: Document, made: Made) -> Rig:
    told = data.get("twelve_volt")
    lines = [str(x)[:80] for x in told if isinstance(x, str)] if isinstance(told, list) else []
    document = canonical(data["document"])
    rig: Rig = actions.make(
        Rig,
        owner,
        document["name"],
        document,
        action="took in",
        twelve_volt=lines[:MAX_TWELVE_VOLT],
    )
    return rig


RIGS = Kind(Rig, "rigs", "rigs", "rig", _out, _take, _beside)
