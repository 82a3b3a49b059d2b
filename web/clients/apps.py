"""What this layer makes known to those below it when the site starts."""

from django.apps import AppConfig


class ClientsConfig(AppConfig):
    name = "web.clients"

    def ready(self) -> None:
        """Register what is kept here."""
        from web.clients.archive import CLIENTS
        from web.clients.photos import PHOTOS
        from web.storage.kinds import register, register_dependent

        register(CLIENTS)
        register_dependent("client", PHOTOS)
