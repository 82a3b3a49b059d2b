"""What is on in a rig at this moment, shared by everybody on its account."""

from __future__ import annotations

from django.conf import settings
from django.db import models, transaction

from ironmargin.document import Document
from web.setups.models import SavedSetup


class RigNow(models.Model):
    """The loads that are on, by id, each with its mode; every press raises the version."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    what = models.CharField(max_length=24)
    on = models.JSONField(default=dict)
    version = models.PositiveIntegerField(default=1)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["owner", "what"], name="one_now_of_a_rig")]

    def __str__(self) -> str:
        return f"{self.what}: {', '.join(self.on) or 'nothing on'}"


def key_of(saved: SavedSetup) -> str:
    """What a setup's present is known by: its rig's, so that all its setups share it."""
    return f"rig:{saved.rig_id}" if saved.rig_id else f"setup:{saved.pk}"


def now_of(saved: SavedSetup) -> RigNow:
    """What is on in a setup's rig; nothing where it was never said."""
    found, _ = RigNow.objects.get_or_create(owner_id=saved.owner_id, what=key_of(saved))
    return found


OFF = "off"
"""Stands for the mode of a load that is always on by preference and was switched off."""


def press(
    saved: SavedSetup, ident: str, mode: str | None, on: bool, *, keeps_off: bool = False
) -> RigNow:
    """Put one load on or off; presses of two people at once both count. ``keeps_off`` for one that
    is on unless it says otherwise.
    """
    now_of(saved)
    with transaction.atomic():
        held = RigNow.objects.select_for_update().get(owner_id=saved.owner_id, what=key_of(saved))
        state: Document = dict(held.on)
        if on:
            state[ident] = mode
        elif keeps_off:
            state[ident] = OFF
        else:
            state.pop(ident, None)
        if state != held.on:
            held.on, held.version = state, held.version + 1
            held.save()
        return held
