"""The meter; the demo's is made with the demo's setups."""

from django.apps import AppConfig


class MeterConfig(AppConfig):
    name = "web.meter"

    def ready(self) -> None:
        from web.meter.demo import load_meter
        from web.setups.demo import MORE

        MORE.append(load_meter)
