"""A bench kept in the server: two tabs show the same, and a restart loses nothing."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from web.setups.models import SavedSetup

MAX_RUNS = 40
"""Benches one owner may have; the oldest fall away."""


class BenchRun(models.Model):
    """One bench: the setup it was begun with, what was done, and how it stands.

    ``acts`` is everything done, with its second; ``state``, ``events`` and ``tail`` are how it
    stands, what happened and the last of the series; ``speed`` times the clock on the wall since
    ``ran_at``; ``parent`` the run it was rewound from.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    setup = models.ForeignKey(SavedSetup, on_delete=models.CASCADE, related_name="benches")
    parent = models.ForeignKey("self", null=True, blank=True, on_delete=models.SET_NULL)
    document = models.JSONField()
    begin = models.JSONField()
    seed = models.PositiveIntegerField(default=1)
    acts = models.JSONField(default=list)
    state = models.JSONField()
    events = models.JSONField(default=list)
    tail = models.JSONField(default=list)
    speed = models.PositiveSmallIntegerField(default=0)
    ran_at = models.DateTimeField(default=timezone.now)
    made_at = models.DateTimeField(default=timezone.now)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["-made_at", "-id"]

    def __str__(self) -> str:
        return f"bench of {self.setup}"
