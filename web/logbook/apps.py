"""The log; its demo data is made with the demo's setups."""

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    name = "web.logbook"

    def ready(self) -> None:
        from web.logbook.demo import load_logs
        from web.logbook.service import noted
        from web.setups.demo import MORE
        from web.setups.measured import KEEPERS

        MORE.append(load_logs)
        KEEPERS.append(noted)
