"""What this layer makes known to those below it when the site starts."""

from django.apps import AppConfig


class RigsConfig(AppConfig):
    name = "web.rigs"

    def ready(self) -> None:
        """Register what is kept here."""
        from web.rigs.archive import RIGS
        from web.storage.kinds import register

        register(RIGS)
