"""Bring database, demo data and static files up to date: what ``./start`` runs before the server."""

from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

from web.setups.demo import load_demo


class Command(BaseCommand):
    help = "Migrate, load the demo where it is open, collect static files."

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0, interactive=False)
        if settings.DEMO:
            made = load_demo()
            if made:
                self.stdout.write(f"demo: {made} setups")
        call_command("collectstatic", verbosity=0, interactive=False)
