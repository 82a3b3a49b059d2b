"""Who works in whose account."""

from __future__ import annotations

import hashlib

from django.conf import settings
from django.db import models
from django.utils import timezone

OWNER, EDITOR, READER = "owner", "editor", "reader"
ROLES = [(OWNER, "Owner"), (EDITOR, "Editor"), (READER, "Reader")]
GIVEN = [EDITOR, READER]
"""What a member may be made; the account's founder stays its owner."""


def hash_of(secret: str) -> str:
    """What is kept of a secret that was handed out: who reads the database cannot use it."""
    return hashlib.sha256(secret.encode()).hexdigest()


class Membership(models.Model):
    """A person who works in somebody else's account.

    An account is known by its founder: everything kept in it is the founder's.
    """

    account = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="members"
    )
    member = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships"
    )
    role = models.CharField(max_length=6, choices=ROLES)
    since = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["account", "member"], name="one_membership_each"),
            models.CheckConstraint(
                condition=~models.Q(account=models.F("member")), name="no_member_of_oneself"
            ),
            models.CheckConstraint(
                condition=models.Q(role__in=(EDITOR, READER)), name="a_member_s_role"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.member} in {self.account}'s account, {self.role}"


class SignIn(models.Model):
    """A browser somebody is signed in with, so that it can be seen and ended from another."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="sign_ins"
    )
    session_key = models.CharField(max_length=40, unique=True)
    browser = models.CharField(max_length=120)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.user} on {self.browser}"


WAITS, SENT, UNSENT = "waits", "sent", "unsent"
LETTERS = ((WAITS, "on its way"), (SENT, "sent"), (UNSENT, "could not be sent"))
"""What became of an invitation's letter."""


class Invitation(models.Model):
    """A link sent by mail that makes whoever has that address a member, once and within a week.

    Only a hash of its token is kept, so that who reads the database cannot use it.
    """

    account = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="invitations"
    )
    mail = models.EmailField()
    role = models.CharField(max_length=6, choices=ROLES)
    token_hash = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True, blank=True)
    letter = models.CharField(max_length=8, choices=LETTERS, default=SENT)

    class Meta:
        ordering = ["-made_at"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(role__in=(EDITOR, READER)), name="an_invited_role"
            )
        ]

    def __str__(self) -> str:
        return f"{self.mail} as {self.role}"


class Tally(models.Model):
    """How often something was tried by somebody in the stretch of time that began then."""

    key = models.CharField(max_length=120, unique=True)
    began = models.DateTimeField()
    tries = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.key}: {self.tries}"
