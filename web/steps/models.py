"""Step lists in hand and done: who, when, and what was read."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from web.setups.models import SavedSetup

ENDS = [("", "going on"), ("done", "done"), ("stopped", "stopped")]


class Checklist(models.Model):
    """One list being worked through, or finished.

    ``steps`` is the list as it was filled in when it began; ``place`` the step in hand;
    ``readings`` what was read at each, by the step's id.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    setup = models.ForeignKey(SavedSetup, on_delete=models.CASCADE, related_name="checklists")
    purpose = models.CharField(max_length=20)
    steps = models.JSONField()
    place = models.PositiveSmallIntegerField(default=0)
    readings = models.JSONField(default=dict)
    ended = models.CharField(max_length=8, default="", blank=True, choices=ENDS)
    who = models.CharField(max_length=150, default="", blank=True)
    made_at = models.DateTimeField(default=timezone.now)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at", "-id"]

    def __str__(self) -> str:
        return f"{self.purpose} of {self.setup}"
