"""What every kept thing has in common, and the history of its changes."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

ACTIONS = [
    (a, a)
    for a in (
        "made",
        "changed",
        "took in",
        "archived",
        "brought back",
        "deleted",
        "restored",
        "went back",
    )
]


class StoredQuerySet(models.QuerySet[Any]):
    """Who may see what is decided here."""

    def of(self, user: object) -> StoredQuerySet:
        """An owner's things, deleted ones left out."""
        return self.filter(owner=user, deleted_at=None)

    def current(self, user: object) -> StoredQuerySet:
        """An owner's things that are neither deleted nor archived."""
        return self.of(user).filter(archived_at=None)


class Stored(models.Model):
    """Something an owner keeps: a document of the open format, with a version that every change
    raises.
    """

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="%(class)ss"
    )
    name = models.CharField(max_length=200)
    document = models.JSONField()
    version = models.PositiveIntegerField(default=1)
    created_at = models.DateTimeField(default=timezone.now, editable=False)
    updated_at = models.DateTimeField(default=timezone.now)
    archived_at = models.DateTimeField(null=True, blank=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = StoredQuerySet.as_manager()
    kind = ""
    maximum = 500
    """Things of this kind an owner may have."""

    class Meta:
        abstract = True
        ordering = ["-updated_at", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(version__gte=1), name="%(class)s_version_from_1"
            ),
            models.CheckConstraint(condition=~models.Q(name=""), name="%(class)s_has_a_name"),
        ]

    def __str__(self) -> str:
        return self.name


class Change(models.Model):
    """One change of a kept thing: who, when, what, and what it was afterwards.

    The newest change of a thing has its whole ``state``; an older one has ``back`` alone, the JSON
    patch (RFC 6902) that makes its state of the next newer one's.
    """

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="changes"
    )
    who = models.CharField(max_length=150)
    kind = models.CharField(max_length=10)
    item = models.PositiveBigIntegerField()
    version = models.PositiveIntegerField()
    action = models.CharField(max_length=20, choices=ACTIONS)
    what = models.CharField(max_length=300, default="")
    name = models.CharField(max_length=200)
    state = models.JSONField(null=True)
    back = models.JSONField(null=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["kind", "item", "-id"])]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(state__isnull=False) | models.Q(back__isnull=False),
                name="a_change_has_a_state",
            )
        ]

    def __str__(self) -> str:
        return f"{self.name}: {self.what or self.action}"


class TransferJob(models.Model):
    """An account's zip on its way, in or out, where it is too large for a page to wait for.

    ``turn`` counts its beginnings; ``beat_at`` is when its worker was last heard of. ``answer`` is
    how many things it held, or why it failed.
    """

    IN, OUT = "in", "out"
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="transfers"
    )
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    way = models.CharField(max_length=3)
    status = models.CharField(max_length=10, default="waiting")
    turn = models.PositiveSmallIntegerField(default=0)
    answer = models.JSONField(null=True)
    asked_at = models.DateTimeField(default=timezone.now)
    beat_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(status__in=("waiting", "running", "done", "failed")),
                name="a_transfer_s_known_status",
            ),
            models.CheckConstraint(
                condition=models.Q(way__in=("in", "out")), name="a_transfer_s_known_way"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.way}: {self.status}"


class TransferPart(models.Model):
    """A piece of a transfer's zip: databases bound what one row may hold."""

    transfer = models.ForeignKey(TransferJob, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveSmallIntegerField()
    raw = models.BinaryField()

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["transfer", "number"], name="one_part_a_number")
        ]

    def __str__(self) -> str:
        return f"{self.transfer}, {self.number}"


class Answered(models.Model):
    """What a request was answered with that says which one it is, so that the same one sent again
    makes nothing twice. Its key is a hash; a row without a status is still being answered.
    """

    key = models.CharField(max_length=64, primary_key=True)
    made_at = models.DateTimeField(default=timezone.now, db_index=True)
    status = models.PositiveSmallIntegerField(default=0)
    location = models.CharField(max_length=500, default="", blank=True)
    etag = models.CharField(max_length=100, default="", blank=True)
    content_type = models.CharField(max_length=100, default="", blank=True)
    body = models.BinaryField(default=b"")

    def __str__(self) -> str:
        return f"{self.status} {self.location}"
