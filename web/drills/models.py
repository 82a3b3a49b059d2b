"""Drills answered, and when each theme comes back."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class DrillAnswer(models.Model):
    """One drill answered: what was said, and what the engine says."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    theme = models.CharField(max_length=12)
    difficulty = models.CharField(max_length=8)
    seed = models.PositiveIntegerField()
    exam = models.CharField(max_length=16, default="", blank=True)
    call = models.CharField(max_length=6)
    sure = models.FloatField()
    right = models.BooleanField()
    brier = models.FloatField()
    first_right = models.BooleanField(null=True)
    off_right = models.BooleanField(null=True)
    step_right = models.BooleanField(null=True)
    estimate = models.FloatField(null=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-id"]
        constraints = [
            models.UniqueConstraint(
                fields=["owner", "theme", "difficulty", "seed"], name="one_answer_a_drill"
            )
        ]

    def __str__(self) -> str:
        return f"{self.theme}: {'right' if self.right else 'wrong'}"


class DrillCard(models.Model):
    """When a theme comes back: a card of the spaced-repetition scheduler."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    theme = models.CharField(max_length=12)
    card = models.JSONField()
    due_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["owner", "theme"], name="one_card_a_theme")]

    def __str__(self) -> str:
        return f"{self.theme} due {self.due_at:%d %b}"
