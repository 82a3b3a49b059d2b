"""Saved setups: each an owner's document in the open format, with the verdict it had when saved."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

VERDICTS = [("holds", "Holds"), ("thin", "Thin"), ("fails", "Fails")]


class SetupQuerySet(models.QuerySet["SavedSetup"]):
    """Who may see what is decided here."""

    def of(self, user: object) -> SetupQuerySet:
        """The setups of one owner, deleted ones left out."""
        return self.filter(owner=user, deleted_at=None)


class SavedSetup(models.Model):
    """One question an owner keeps."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="setups")
    name = models.CharField(max_length=200)
    document = models.JSONField()
    verdict = models.CharField(max_length=5, choices=VERDICTS)
    iron_margin = models.FloatField()
    sentence = models.TextField(default="")
    version = models.PositiveIntegerField(default=1)
    created_at = models.DateTimeField(default=timezone.now, editable=False)
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = SetupQuerySet.as_manager()

    class Meta:
        ordering = ["-updated_at", "-id"]
        indexes = [models.Index(fields=["owner", "deleted_at", "-updated_at"])]

    def __str__(self) -> str:
        return self.name
