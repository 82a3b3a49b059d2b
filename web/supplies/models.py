"""Supplies: generators, posts, inverters, kept once and used by every setup."""

from __future__ import annotations

from django.db import models
from django.utils.functional import cached_property

from ironmargin.learning.post import Hours
from web.storage.models import Stored


class Supply(Stored):
    """A supply; ``document`` is the supply of the setup format."""

    kind = "supply"

    class Meta(Stored.Meta):
        verbose_name_plural = "supplies"
        indexes = [models.Index(fields=["owner", "deleted_at", "-updated_at"])]

    @cached_property
    def soft_hours(self) -> Hours | None:
        """When it was read to be soft; None if never, or if it is no post."""
        from web.supplies.post import memory_of  # it reads rows of this model

        memory = memory_of(self)
        return None if memory is None else memory.soft
