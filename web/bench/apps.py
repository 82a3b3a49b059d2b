"""The bench: a station of the workbench."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "web.bench"

    def ready(self) -> None:
        from web.bench.views import station
        from web.setups.stations import Station, register

        page, answer = "bench/_station.html", "bench/_answer.html"
        register(
            Station(
                "bench",
                "Bench",
                4,
                "bench",
                page,
                station,
                live=False,
                answer=answer,
                urls="web.bench.urls",
            )
        )
