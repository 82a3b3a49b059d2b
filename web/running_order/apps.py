"""The running order; a setup's day goes with its account."""

from django.apps import AppConfig


class RunningOrderConfig(AppConfig):
    name = "web.running_order"

    def ready(self) -> None:
        from web.keeping.kinds import Part, register_part
        from web.running_order.service import day_out, day_take

        register_part("setup", Part("day", day_out, day_take))
