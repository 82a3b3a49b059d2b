"""A meter on the wire, and what it showed last."""

from __future__ import annotations

from django.db import models

from web.setups.models import SavedSetup

SIMULATED = "simulated"
"""The host of the meter that ships with this; settings say where it answers."""
MODBUS, MQTT = "modbus", "mqtt"
LANGUAGES = ((MODBUS, "Modbus TCP"), (MQTT, "MQTT"))


class Meter(models.Model):
    """Where a setup's meter answers; what came of asking is written by the process that reads it.

    ``wanted_at`` is when a page last looked: a meter nobody looks at is not dialled. ``readings``
    are the last half minute, each with its moment; ``caught`` the last starts. ``topic`` and
    ``places`` are an MQTT meter's: each figure's place in what it publishes, and its factor.
    """

    setup = models.OneToOneField(SavedSetup, on_delete=models.CASCADE, related_name="meter")
    host = models.CharField(max_length=253)
    port = models.PositiveIntegerField(default=502)
    unit = models.PositiveSmallIntegerField(default=1)
    speaks = models.CharField(max_length=8, choices=LANGUAGES, default=MODBUS)
    topic = models.CharField(max_length=120, default="", blank=True)
    places = models.JSONField(default=dict, blank=True)
    user = models.CharField(max_length=60, default="", blank=True)
    password = models.CharField(max_length=60, default="", blank=True)
    wanted_at = models.DateTimeField(null=True, blank=True)
    state = models.CharField(max_length=12, default="waiting")
    words = models.CharField(max_length=300, default="", blank=True)
    readings = models.JSONField(default=list)
    caught = models.JSONField(default=list)
    beat = models.PositiveBigIntegerField(default=0)
    read_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(port__gte=1, port__lte=65535, unit__lte=247),
                name="a_meter_s_address",
            )
        ]

    def __str__(self) -> str:
        return f"{self.host}:{self.port} ({self.state})"
