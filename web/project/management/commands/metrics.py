"""Serves what every process has counted, in the Prometheus text format."""

import os
import signal
import threading

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import close_old_connections

from web.project.metrics import Queue


class Command(BaseCommand):
    help = "Serve the metrics on IRONMARGIN_METRICS_PORT until stopped."

    def handle(self, *args: object, **options: object) -> None:
        if not settings.METRICS_DIR:
            raise CommandError("nothing is counted: set IRONMARGIN_METRICS_DIR")
        os.environ.setdefault("PROMETHEUS_MULTIPROC_DIR", settings.METRICS_DIR)
        os.makedirs(settings.METRICS_DIR, exist_ok=True)
        from prometheus_client import CollectorRegistry, start_http_server
        from prometheus_client.multiprocess import MultiProcessCollector

        registry = CollectorRegistry()
        MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
        registry.register(Queue())
        start_http_server(settings.METRICS_PORT, addr=settings.METRICS_ADDRESS, registry=registry)
        over = threading.Event()
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: over.set())
        while not over.wait(30.0):
            close_old_connections()
