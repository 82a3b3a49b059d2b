"""How supplies go into an account's zip and come back."""

from __future__ import annotations

from django.contrib.auth.models import User

from ironmargin.document import Document
from ironmargin.setup.parts import read_supply
from ironmargin.setup.records import write_record
from web.storage import actions
from web.storage.kinds import Kind, Made, Number
from web.supplies.models import Supply


def _out(supply: Supply, number: Number) -> Document:
    return {"document": supply.document}


def _take(owner: User, data: Document, made: Made) -> Supply:
    document = write_record(read_supply(data["document"]))
    name = str(data.get("name") or "Supply")[:200]
    supply: Supply = actions.make(Supply, owner, name, document, action="took in")
    return supply


SUPPLIES = Kind(Supply, "supplies", "supplies", "supply", _out, _take)
