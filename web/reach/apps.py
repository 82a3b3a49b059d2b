"""Reach: a station of the workbench."""

from django.apps import AppConfig


class ReachConfig(AppConfig):
    name = "web.reach"

    def ready(self) -> None:
        from web.reach.views import station
        from web.setups.stations import Station, register

        page = "reach/_station.html"
        register(
            Station(
                "reach",
                "Reach",
                2,
                "reach",
                page,
                station,
                script="design/reach.js",
                urls="web.reach.urls",
            )
        )
