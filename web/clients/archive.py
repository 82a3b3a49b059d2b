"""How clients go into an account's zip and come back."""

from __future__ import annotations

from django.contrib.auth.models import User

from ironmargin.document import Document
from web.clients.document import sound
from web.clients.models import Client
from web.storage import actions
from web.storage.kinds import Kind, Made, Number


def _out(client: Client, number: Number) -> Document:
    numbered = (number("rig", pk) for pk in client.document["rigs"])
    rigs = [n for n in numbered if n is not None]
    return {"document": client.document | {"rigs": rigs}}


def _take(owner: User, data: Document, made: Made) -> Client:
    held = data["document"]
    if not isinstance(held, dict):
        raise ValueError("the document of a client must be an object")
    numbers = held.get("rigs")
    known = made.get("rigs", {})
    rigs = [known[n].pk for n in (numbers if isinstance(numbers, list) else []) if n in known]
    name = str(data.get("name") or "Client")[:200]
    client: Client = actions.make(Client, owner, name, sound(held, rigs), action="took in")
    return client


CLIENTS = Kind(Client, "clients", "clients", "client", _out, _take)
