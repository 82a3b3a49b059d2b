"""Accounts; signing in and out is noted."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "web.accounts"

    def ready(self) -> None:
        from web.accounts import sessions  # noqa: F401  (its receivers)
