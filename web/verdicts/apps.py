"""Verdicts: the first station of the workbench."""

from django.apps import AppConfig


class VerdictsConfig(AppConfig):
    name = "web.verdicts"

    def ready(self) -> None:
        from web.setups.stations import Station, register

        register(Station("verdict", "Verdict", 1, "setup", "verdicts/_verdict.html"))
