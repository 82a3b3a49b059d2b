"""Saved setups: each an owner's question, standing on a rig and a supply of the inventory, with the
verdict it had last.
"""

from __future__ import annotations

from django.conf import settings
from django.db import models

from web.rigs.models import Rig
from web.storage.models import Stored
from web.supplies.models import Supply

VERDICTS = [("holds", "Holds"), ("thin", "Thin"), ("fails", "Fails")]


class SavedSetup(Stored):
    """One question an owner keeps.

    ``document`` is a whole setup of the open format. Where the setup stands on a rig or supply of
    the inventory, that one's own document takes the place of the part here, so that nothing is
    typed twice; what-if variants have figures of their own.
    """

    rig = models.ForeignKey(
        Rig, null=True, blank=True, on_delete=models.SET_NULL, related_name="setups"
    )
    supply = models.ForeignKey(
        Supply, null=True, blank=True, on_delete=models.SET_NULL, related_name="setups"
    )
    verdict = models.CharField(max_length=5, choices=VERDICTS)
    iron_margin = models.FloatField()
    sentence = models.TextField(default="")
    stale = models.BooleanField(default=False)
    once = models.CharField(max_length=32, default="", blank=True)
    """Which page it was saved from, so that pressing twice makes one."""
    kind = "setup"
    links = ("rig", "supply", "verdict", "iron_margin", "sentence")

    class Meta(Stored.Meta):
        indexes = [models.Index(fields=["owner", "deleted_at", "-updated_at"])]
        constraints = [
            *Stored.Meta.constraints,
            models.CheckConstraint(
                condition=models.Q(verdict__in=[v for v, _ in VERDICTS]), name="a_known_verdict"
            ),
            models.CheckConstraint(
                condition=models.Q(iron_margin__gte=-1e6, iron_margin__lte=1e6),
                name="a_margin_one_can_draw",
            ),
        ]


class Draft(models.Model):
    """What an owner typed into a setup's form and has not saved yet.

    ``item`` is the setup, 0 for one not saved yet; ``bases`` the rig and supply it stands on and
    the versions it was begun from, so that a save still sees what others changed meanwhile.
    ``holder`` is the browser session it belongs to where everybody shares the account (the demo).
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    item = models.PositiveBigIntegerField(default=0)
    holder = models.CharField(max_length=40, default="")
    document = models.JSONField()
    bases = models.JSONField()
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["owner", "item", "holder"], name="one_draft_of_a_setup_and_holder"
            )
        ]
