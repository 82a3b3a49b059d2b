"""Bring database, demo data and static files up to date: what ``./start`` runs before the
server.
"""

import hashlib
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles.finders import get_finders
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection

from web.setups.demo import load_demo


def fingerprint() -> str:
    """What the static files are made from: every source file's path, size and time."""
    found = [
        (path, (stat := Path(storage.path(path)).stat()).st_size, stat.st_mtime_ns)
        for finder in get_finders()
        for path, storage in finder.list([])
    ]
    return hashlib.sha256(repr(sorted(found)).encode()).hexdigest()


class Command(BaseCommand):
    help = "Migrate, load the demo where it is open, collect static files where they changed."

    def handle(self, *args: object, **options: object) -> None:
        # A migration of much data takes longer than a page may wait.
        connection.close()
        connection.settings_dict["OPTIONS"] |= {"read_timeout": 3600, "write_timeout": 3600}
        call_command("migrate", verbosity=0, interactive=False)
        if settings.DEMO:
            made = load_demo()
            if made:
                self.stdout.write(f"demo: {made} setups")
        stamp = settings.VAR / "static-made-from"
        made_from = fingerprint()
        whole = (settings.STATIC_ROOT / "staticfiles.json").exists()
        if not whole or not stamp.exists() or stamp.read_text(encoding="utf-8") != made_from:
            call_command("collectstatic", verbosity=0, interactive=False)
            stamp.write_text(made_from, encoding="utf-8")
