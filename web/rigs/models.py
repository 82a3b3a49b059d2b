"""Rigs: the loads people have, kept once and used by every setup."""

from __future__ import annotations

from django.db import models

from web.keeping.models import Kept


class Rig(Kept):
    """A trailer, van or house; ``document`` is the rig of the setup format, ``twelve_volt`` what
    costs nothing on 120 V.
    """

    twelve_volt = models.JSONField(default=list)
    kind = "rig"
    remembered = ("twelve_volt",)

    class Meta(Kept.Meta):
        indexes = [models.Index(fields=["owner", "deleted_at", "-updated_at"])]
