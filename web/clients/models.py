"""Clients: who rigs belong to, where they stand, and each visit."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import models

from web.storage.models import Stored


class Client(Stored):
    """A client; ``document`` is made by :mod:`web.clients.document`."""

    kind = "client"
    maximum = 2000

    class Meta(Stored.Meta):
        indexes = [models.Index(fields=["owner", "deleted_at", "-updated_at"])]


class Photo(models.Model):
    """A photograph of a client's site or rig, made small and without metadata."""

    client = models.ForeignKey(Client, on_delete=models.CASCADE, related_name="photos")
    taken_on = models.DateField()
    caption = models.CharField(max_length=200, blank=True, default="")
    raw = models.BinaryField()

    class Meta:
        ordering = ["-taken_on", "-pk"]

    def __str__(self) -> str:
        return f"{self.taken_on} {self.caption}".strip()


def client_of_rig(owner: User, rig: int | None) -> dict[str, str]:
    """Who a rig of an owner's belongs to, and where, as a report asks it; empty where nobody's."""
    if rig is None:
        return {}
    held = Client.objects.current(owner).filter(document__rigs__contains=rig).first()
    if held is None:
        return {}
    where = ", ".join(x for x in (held.document["site"], held.document["address"]) if x)
    return {"client": held.name, "place": where}
