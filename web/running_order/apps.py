"""The running order; a setup's day goes with its account."""

from django.apps import AppConfig


class RunningOrderConfig(AppConfig):
    name = "web.running_order"

    def ready(self) -> None:
        from web.running_order.service import day_out, day_take
        from web.running_order.views import station
        from web.setups.stations import Station, register
        from web.storage.kinds import DependentRecord, register_dependent

        register_dependent("setup", DependentRecord("day", day_out, day_take))
        page, answer = "running_order/_station.html", "running_order/_answer.html"
        script = "design/order.js"
        register(
            Station(
                "order",
                "Order",
                3,
                "order",
                page,
                station,
                live=False,
                answer=answer,
                script=script,
                urls="web.running_order.urls",
            )
        )
