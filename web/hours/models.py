"""What energy costs where an account buys it."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class AccountPrices(models.Model):
    """Prices in the owner's money, per litre, kilogram or kilowatt-hour, by the core's names."""

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    prices = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"prices of {self.owner}"
