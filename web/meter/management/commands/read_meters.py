"""The process that reads the meters on the wire."""

import logging
import signal
import threading

from django.core.management.base import BaseCommand
from django.db import DatabaseError

from web.meter.reading import Keeper


class Command(BaseCommand):
    help = "Read the meters that pages look at, until stopped."

    def handle(self, *args: object, **options: object) -> None:
        logging.getLogger("pymodbus").setLevel(logging.CRITICAL)
        over = threading.Event()
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: over.set())
        keeper = Keeper()
        while not over.wait(0.5):
            try:
                keeper.turn()
            except DatabaseError:
                over.wait(2.0)
        keeper.stop()
