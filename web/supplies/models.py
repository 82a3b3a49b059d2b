"""Supplies: generators, posts, inverters, kept once and used by every setup."""

from __future__ import annotations

from django.db import models

from web.keeping.models import Kept


class Supply(Kept):
    """A supply; ``document`` is the supply of the setup format."""

    kind = "supply"

    class Meta(Kept.Meta):
        verbose_name_plural = "supplies"
        indexes = [models.Index(fields=["owner", "deleted_at", "-updated_at"])]
