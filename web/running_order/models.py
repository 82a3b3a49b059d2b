"""The tasks of a setup's day, and what was read at the steps of a start."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

from web.setups.models import SavedSetup


class DayTasks(models.Model):
    """The tasks file of a setup's day, and the plan made of it last."""

    setup = models.OneToOneField(SavedSetup, on_delete=models.CASCADE, related_name="day")
    tasks = models.JSONField()
    plan = models.JSONField(null=True)
    version = models.PositiveIntegerField(default=1)

    def __str__(self) -> str:
        return f"day of {self.setup}"


class StepReading(models.Model):
    """What somebody read at one step of the start sequence, or that it tripped there."""

    setup = models.ForeignKey(SavedSetup, on_delete=models.CASCADE, related_name="readings")
    load = models.CharField(max_length=60)
    mode = models.CharField(max_length=20, default="")
    expect_a = models.FloatField()
    read_a = models.FloatField(null=True)
    read_v = models.FloatField(null=True)
    tripped = models.BooleanField(default=False)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-id"]

    def __str__(self) -> str:
        return f"{self.load} {self.mode}: {self.read_a}"
