"""Deletes for good what was deleted thirty days ago, and sessions that have ended."""

from django.core.management import call_command
from django.core.management.base import BaseCommand

from web.storage.purging import purge


class Command(BaseCommand):
    help = "Delete for good what was deleted thirty days ago, and sessions that have ended."

    def handle(self, *args: object, **options: object) -> None:
        self.stdout.write(f"{purge()} gone for good")
        call_command("clearsessions")
        call_command("axes_reset_logs", age=30, verbosity=0)
