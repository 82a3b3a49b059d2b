"""Steps: a station of the workbench."""

from django.apps import AppConfig


class StepsConfig(AppConfig):
    name = "web.steps"

    def ready(self) -> None:
        from web.setups.stations import Station, register
        from web.steps.views import station

        page, answer, script = "steps/_station.html", "steps/_answer.html", "design/steps.js"
        register(
            Station(
                "steps",
                "Steps",
                7,
                "steps",
                page,
                station,
                live=False,
                answer=answer,
                script=script,
                urls="web.steps.urls",
            )
        )
