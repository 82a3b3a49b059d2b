"""What was computed and may be needed again, work that takes a while, and links that show a setup
to others.
"""

from __future__ import annotations

import secrets

from django.conf import settings
from django.db import models
from django.utils import timezone

from ironmargin.document import Document
from web.setups.models import SavedSetup

TOKEN_BYTES = 32


class Judgement(models.Model):
    """Everything the verdict's page shows of one question as JSON, by the hash of its content;
    bounded, the longest unused falls away.
    """

    key = models.CharField(max_length=64, primary_key=True)
    data = models.TextField()
    used_at = models.DateTimeField(default=timezone.now, db_index=True)

    def __str__(self) -> str:
        return self.key[:12]


STATUSES = ("waiting", "running", "done", "failed", "cancelled")


class Job(models.Model):
    """A search that takes longer than a page may: remedies, or what decides. Found again by the
    hash of its question.

    ``turn`` counts its beginnings ever, ``tried`` those since it was last asked for; ``rank`` is
    its owner's number in line; ``beat_at`` when its worker was last heard of, ``seen_at`` its page.
    """

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="jobs"
    )
    kind = models.CharField(max_length=12)
    key = models.CharField(max_length=64)
    document = models.JSONField()
    tasks = models.JSONField(null=True)
    status = models.CharField(max_length=10, default="waiting")
    done = models.PositiveIntegerField(default=0)
    todo = models.PositiveIntegerField(default=0)
    answer = models.JSONField(null=True)
    beat_at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(default=timezone.now)
    turn = models.PositiveIntegerField(default=0)
    tried = models.PositiveSmallIntegerField(default=0)
    rank = models.PositiveSmallIntegerField(default=0)

    @property
    def found(self) -> Document:
        """What a search that is done has found; empty before."""
        return dict(self.answer or {})

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["owner", "kind", "key"], name="one_job_a_question"),
            models.CheckConstraint(
                condition=models.Q(status__in=STATUSES), name="a_job_s_known_status"
            ),
        ]
        indexes = [models.Index(fields=["status", "rank", "beat_at"])]

    def __str__(self) -> str:
        return f"{self.kind}: {self.status}"


def new_token() -> str:
    """A token nobody guesses: 256 random bits."""
    return secrets.token_urlsafe(TOKEN_BYTES)


class Share(models.Model):
    """A link that shows one setup, read-only, until it expires or is taken back."""

    setup = models.ForeignKey(SavedSetup, on_delete=models.CASCADE, related_name="shares")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    made_at = models.DateTimeField(default=timezone.now)
    expires_at = models.DateTimeField()
    revoked_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.setup} until {self.expires_at:%d %b}"

    @property
    def live(self) -> bool:
        """Whether the link still shows anything."""
        return self.revoked_at is None and self.expires_at > timezone.now()
