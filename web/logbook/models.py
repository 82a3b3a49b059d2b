"""What was measured on a setup's rig."""

from __future__ import annotations

from datetime import datetime

from django.db import models
from django.db.models import Q, QuerySet
from django.utils import timezone

from web.setups.models import SavedSetup

MAX_ENTRIES = 400
SHARED = ("run", "survey")
"""Readings of loads by themselves: true of the rig on any supply."""


class LogEntry(models.Model):
    """One entry of the log, as the open format has it."""

    setup = models.ForeignKey(SavedSetup, on_delete=models.CASCADE, related_name="log")
    kind = models.CharField(max_length=20)
    document = models.JSONField()
    at = models.DateTimeField(default=timezone.now)
    once = models.CharField(max_length=32, default="", blank=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["at", "id"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(kind=""), name="an_entry_has_a_kind")
        ]

    def __str__(self) -> str:
        return f"{self.kind} at {self.at:%d %b %Y %H:%M}"


class Evidence(models.Model):
    """A photograph or a sound kept with an entry: small, of its pixels or samples only."""

    entry = models.OneToOneField(LogEntry, on_delete=models.CASCADE, related_name="evidence")
    kind = models.CharField(max_length=5)
    raw = models.BinaryField()

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(kind__in=["photo", "sound"]), name="evidence_is_seen_or_heard"
            )
        ]

    def __str__(self) -> str:
        return f"{self.kind} of {self.entry}"


def entries_of(saved: SavedSetup) -> QuerySet[LogEntry]:
    """A setup's entries, with what was read of its rig's loads under its other setups."""
    own = Q(setup=saved)
    if saved.rig_id:
        own |= Q(setup__rig=saved.rig_id, setup__deleted_at=None, kind__in=SHARED)
    return (
        LogEntry.objects.filter(own, deleted_at=None)
        .select_related("setup", "evidence")
        .defer("evidence__raw")[:MAX_ENTRIES]
    )


def purge_entries(since: datetime) -> int:
    """Delete for good what was taken out long ago; returns how many went."""
    gone, _ = LogEntry.objects.filter(deleted_at__lt=since).delete()
    return gone
