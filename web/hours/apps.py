"""Hours; an account's prices go with it."""

from django.apps import AppConfig


class HoursConfig(AppConfig):
    name = "web.hours"

    def ready(self) -> None:
        from web.hours.service import prices_out, prices_take
        from web.keeping.kinds import Part, register_part

        register_part("account", Part("prices", prices_out, prices_take))
