"""What is done once a night: what was deleted long ago goes for good, typical figures are found
anew from what was measured, the demo is made anew.
"""

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

from web.rigs import pool
from web.setups.demo import reset_demo


class Command(BaseCommand):
    help = "Purge what was deleted long ago; make the demo anew where it is open."

    def handle(self, *args: object, **options: object) -> None:
        call_command("purge", stdout=self.stdout)
        self.stdout.write(f"typical figures: {pool.compute()} from measured units")
        if settings.DEMO:
            self.stdout.write(f"demo: {reset_demo()} setups")
