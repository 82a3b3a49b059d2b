"""How the app is named in the database."""

from django.apps import AppConfig


class StorageConfig(AppConfig):
    """Its label is that of its tables and migrations since the first release."""

    name = "web.storage"
    label = "keeping"
