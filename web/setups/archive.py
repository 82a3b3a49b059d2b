"""How setups go into an account's zip and come back, each on the rig and supply it stood on."""

from __future__ import annotations

from typing import TypeVar

from django.contrib.auth.models import User

from ironmargin.document import Document
from web.setups import repository
from web.setups.models import SavedSetup
from web.storage.kinds import Kind, Made, Number
from web.storage.models import Stored

K = TypeVar("K", bound=Stored)


def _out(setup: SavedSetup, number: Number) -> Document:
    links = {"rig": number("rig", setup.rig_id), "supply": number("supply", setup.supply_id)}
    stands_on = {kind: n for kind, n in links.items() if n is not None}
    return {"document": repository.compose(setup)} | stands_on


def _take(owner: User, data: Document, made: Made) -> SavedSetup:
    rig, supply = (_link(made[folder], data, kind) for folder, kind in FOLDERS)
    return repository.store_unjudged(owner, data["document"], rig, supply, action="took in")


FOLDERS = (("rigs", "rig"), ("supplies", "supply"))


def _link(things: dict[int, K], data: Document, kind: str) -> K | None:
    """The thing a setup stood on, where it came along and is the very same."""
    item = things.get(data[kind]) if isinstance(data.get(kind), int) else None
    return item if item is not None and item.document == data["document"].get(kind) else None


SETUPS = Kind(SavedSetup, "setups", "setups", "setup", _out, _take)
