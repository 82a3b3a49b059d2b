"""Rigs: the loads people have, kept once and used by every setup."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from web.storage.models import Stored


class Rig(Stored):
    """A trailer, van or house; ``document`` is the rig of the setup format, ``twelve_volt`` what
    costs nothing on 120 V.
    """

    twelve_volt = models.JSONField(default=list)
    kind = "rig"
    remembered = ("twelve_volt",)

    class Meta(Stored.Meta):
        indexes = [models.Index(fields=["owner", "deleted_at", "-updated_at"])]


class Pooling(models.Model):
    """An account that lets its measured figures count among the typical ones: nothing does unless
    its owner says so.
    """

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    since = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"{self.owner_id} since {self.since:%d %b %Y}"


class PooledFigure(models.Model):
    """A typical figure that measured units stand behind; ``taken_in`` where it came from a file."""

    key = models.CharField(max_length=60)
    figure = models.CharField(max_length=20)
    median = models.FloatField()
    sd = models.FloatField()
    units = models.PositiveIntegerField()
    accounts = models.PositiveIntegerField()
    taken_in = models.BooleanField(default=False)
    made_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["key"]
        constraints = [
            models.UniqueConstraint(fields=["key", "figure", "taken_in"], name="a_figure_once")
        ]

    def __str__(self) -> str:
        return f"{self.key} {self.figure}"
