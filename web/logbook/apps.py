"""The log; its demo data is made with the demo's setups."""

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    name = "web.logbook"

    def ready(self) -> None:
        from web.logbook.carried import log_out, log_take
        from web.logbook.demo import load_logs
        from web.logbook.models import purge_entries
        from web.logbook.service import noted
        from web.logbook.views import station
        from web.setups.demo import MORE
        from web.setups.measured import KEEPERS
        from web.setups.stations import Station, register
        from web.storage.kinds import DependentRecord, register_dependent
        from web.storage.purging import ALSO

        MORE.append(load_logs)
        ALSO.append(purge_entries)
        register_dependent("setup", DependentRecord("log", log_out, log_take))
        KEEPERS.append(noted)
        page, answer = "logbook/_station.html", "verdicts/_answer.html"
        script = "design/listen.js"
        register(
            Station(
                "log",
                "Log",
                6,
                "log",
                page,
                station,
                live=False,
                answer=answer,
                script=script,
                urls="web.logbook.urls",
            )
        )
