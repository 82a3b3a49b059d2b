"""Hours; an account's prices go with it."""

from django.apps import AppConfig


class HoursConfig(AppConfig):
    name = "web.hours"

    def ready(self) -> None:
        from web.hours.prices import prices_out, prices_take
        from web.hours.views import station
        from web.setups.stations import Station, register
        from web.storage.kinds import DependentRecord, register_dependent

        register_dependent("account", DependentRecord("prices", prices_out, prices_take))
        page, script = "hours/_station.html", "design/hours.js"
        register(
            Station(
                "hours", "Hours", 5, "hours", page, station, script=script, urls="web.hours.urls"
            )
        )
