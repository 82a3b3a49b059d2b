"""The demo's meter: a simulated one at the clay wagon's post."""

from __future__ import annotations

from django.contrib.auth.models import User

from web.meter.models import SIMULATED, Meter
from web.setups.models import SavedSetup

METERED = "Clay wagon, school yard 30 A post"


def load_meter(owner: User) -> None:
    """Give the demo's first setup its meter."""
    saved = SavedSetup.objects.filter(owner=owner, name=METERED).first()
    if saved is None:
        return
    Meter.objects.get_or_create(setup=saved, defaults={"host": SIMULATED})
