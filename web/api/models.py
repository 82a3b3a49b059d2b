"""Tokens of programs."""

from __future__ import annotations

import secrets
from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.db import models
from django.utils import timezone

from web.accounts.models import hash_of

READ, WRITE = "read", "write"
SCOPES = [(READ, "Read"), (WRITE, "Read and change")]
LASTS_DAYS = (7, 30, 90, 365)
MAX_TOKENS = 20
PREFIX = "im_"


class Token(models.Model):
    """A secret by which a program acts for an account. Only its hash is kept."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="tokens"
    )
    name = models.CharField(max_length=80)
    scope = models.CharField(max_length=5, choices=SCOPES)
    hash = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(default=timezone.now)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(scope__in=(READ, WRITE)), name="a_token_s_scope"
            )
        ]

    def __str__(self) -> str:
        return self.name


def make(owner: User, name: str, scope: str, days: int) -> tuple[Token, str]:
    """A new token and its secret, which is shown this once."""
    secret = PREFIX + secrets.token_urlsafe(32)
    expires = timezone.now() + timedelta(days=days)
    held = Token.objects.create(
        owner=owner, name=name, scope=scope, hash=hash_of(secret), expires_at=expires
    )
    return held, secret


def token_of(secret: str) -> Token | None:
    """The token of a secret, where it still holds."""
    return (
        Token.objects.select_related("owner")
        .filter(hash=hash_of(secret), expires_at__gt=timezone.now(), owner__is_active=True)
        .first()
    )
