"""What this layer makes known to those below it when the site starts."""

from django.apps import AppConfig


class SuppliesConfig(AppConfig):
    name = "web.supplies"

    def ready(self) -> None:
        """Register what is kept here."""
        from web.storage.kinds import register
        from web.supplies.archive import SUPPLIES

        register(SUPPLIES)
