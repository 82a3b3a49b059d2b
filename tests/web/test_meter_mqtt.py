"""A meter that publishes: a broker, who lies, what is caught."""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import socket
import socketserver
import subprocess
import threading
from collections.abc import Iterator
from unittest import mock

from django.contrib.auth.models import User
from django.utils import timezone
from paho.mqtt import publish

from ironmargin.setup.reading import load_setup
from ironmargin_meter.fields import Shown, figures_of, topics_of
from ironmargin_meter.publisher import FIELDS, message
from ironmargin_meter.reel import Reel, usual_script
from tests.shared import document
from tests.web.test_meter import DEMO_SETUP, Until, WithAMeter, free_port
from web.meter import reading as reading_module
from web.meter import wires
from web.meter.models import MQTT, SIMULATED, Meter
from web.meter.reading import Keeper, Reader
from web.setups import judging, repository


@contextlib.contextmanager
def broker() -> Iterator[int]:
    """A real broker on loopback, as long as it is wanted."""
    port = free_port()
    program = shutil.which("mosquitto", path=os.environ.get("PATH", "") + ":/usr/sbin")
    assert program is not None
    with subprocess.Popen([program, "-p", str(port)], stderr=subprocess.DEVNULL) as process:
        try:
            while True:
                with socket.socket() as probe:
                    if probe.connect_ex(("127.0.0.1", port)) == 0:
                        break
            yield port
        finally:
            process.terminate()


class Speaks(socketserver.BaseRequestHandler):
    """A broker that accepts and then says what its server was given."""

    def handle(self) -> None:
        self.request.recv(1000)
        with contextlib.suppress(OSError):
            self.request.sendall(b"\x20\x02\x00\x00")
            self.request.recv(1000)
            self.request.sendall(b"\x90\x03\x00\x01\x00")
            for _ in range(getattr(self.server, "times", 1)):
                self.request.sendall(getattr(self.server, "says", b""))
            self.request.recv(1000)


@contextlib.contextmanager
def lying(says: bytes, times: int = 1) -> Iterator[int]:
    """A broker of an attacker's."""
    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), Speaks) as server:
        server.daemon_threads = True
        server.says, server.times = says, times  # type: ignore[attr-defined]
        thread = threading.Thread(target=server.serve_forever, args=(0.01,))
        thread.start()
        try:
            yield server.server_address[1]
        finally:
            server.shutdown()
            thread.join()


class ByMqtt(WithAMeter):
    def setUp(self) -> None:
        super().setUp()
        Meter.objects.update(speaks=MQTT, topic="shed/meter", places=FIELDS)

    def listen(self, port: int, *states: str) -> Meter:
        Meter.objects.update(state="asked")
        reader = Reader(self.meter.pk)
        reader.over = Until(self.meter.pk, *states)  # type: ignore[assignment]
        with (
            self.settings(METER_BROKER=f"127.0.0.1:{port}"),
            mock.patch.object(reading_module, "WRITE_EVERY_S", 0.0),
        ):
            reader.run()
        self.meter.refresh_from_db()
        return self.meter

    def test_what_a_meter_publishes_is_read_and_written_down(self) -> None:
        setup = load_setup(DEMO_SETUP)
        reel = Reel(setup, usual_script(setup))
        with broker() as port:
            says = message(reel, 30.0)
            publish.single("shed/meter", says, hostname="127.0.0.1", port=port, retain=True, qos=1)
            found = self.listen(port, "live", "nonsense")
        told = json.loads(says)
        self.assertEqual(found.state, "live")
        _, volts, _, amps, _, hz, watts, wh = found.readings[-1]
        self.assertEqual((volts, amps), (told["voltage"], told["current"]))
        self.assertEqual((hz, watts), (told["frequency"], told["power"]))
        self.assertAlmostEqual(wh, told["energy"]["total"] * 1000.0)

    def test_nothing_published_is_said(self) -> None:
        with broker() as port:
            found = self.listen(port, "waiting")
        self.assertEqual(found.state, "waiting")
        self.assertIn("published nothing yet", found.words)

    def test_nobody_there_is_said(self) -> None:
        found = self.listen(free_port(), "silent")
        self.assertEqual(found.state, "silent")

    def test_a_broker_that_lies_about_a_length_is_hung_up_on(self) -> None:
        with lying(b"\x30\xff\xff\xff\x7f") as port:
            found = self.listen(port, "nonsense")
        self.assertEqual(found.state, "nonsense")
        self.assertIn("268,435,455 bytes", found.words)

    def test_a_broker_that_floods_is_hung_up_on(self) -> None:
        one = b"\x30" + bytes([0xFF, 0x1F]) + b"\x00\x0aother/here" + b"x" * (0xFFF - 12)
        with lying(one, 100) as port, mock.patch.object(wires, "monotonic", return_value=5.0):
            found = self.listen(port, "nonsense")
        self.assertEqual(found.state, "nonsense")
        self.assertIn("more than 256 kB a second", found.words)

    def test_what_is_no_reading_is_named(self) -> None:
        with broker() as port:
            for says, words in (
                ("on fire", "no JSON"),
                ('{"voltage": "high"}', "voltage is no number"),
                ('{"voltage": 1e999}', "voltage is no number"),
                ('{"voltage": 9000}', "volts 1: 9000 is more than 320"),
                ("[" * 5000, "no JSON"),
                ("x" * 9000, "8,192 are looked at"),
            ):
                publish.single(
                    "shed/meter", says, hostname="127.0.0.1", port=port, retain=True, qos=1
                )
                found = self.listen(port, "nonsense", "live")
                self.assertEqual(found.state, "nonsense", says[:20])
                self.assertIn(words, found.words)

    def test_figures_on_topics_of_their_own_and_amps_from_watts(self) -> None:
        shown = Shown()
        places = {"volts_1": ("/u", 1.0), "watts": ("/kw", 1000.0)}
        self.assertEqual(topics_of("a/b", places), {"a/b/u", "a/b/kw"})
        self.assertIsNone(shown.reading())
        shown.add(figures_of("a/b/u", b"120.0", "a/b", places))
        shown.add(figures_of("a/b/kw", b" 1,2 ", "a/b", places))
        self.assertEqual(figures_of("a/b/other", b"7", "a/b", places), {})
        read = shown.reading()
        assert read is not None
        self.assertEqual((read["watts"], read["amps_1"], read["beat"]), (1200.0, 10.0, 2.0))
        shown.add({"watts": 2400.0})
        shown.add({"watts": 600.0})
        held = shown.reading()
        assert held is not None
        self.assertEqual((held["amps_1"], held["held_a_1"], held["held_v"]), (5.0, 20.0, 120.0))
        shown.begin()
        self.assertEqual(shown.held["held_a_1"], 0.0)

    def test_nobody_takes_every_place(self) -> None:
        other = User.objects.create_user("other")
        for owner, many in ((self.owner, 6), (other, 1)):
            for _ in range(many):
                saved = repository.store(
                    owner, judging.judge(document(5) | {"rules": {"trials": 0}})
                )
                Meter.objects.create(setup=saved, host=SIMULATED, wanted_at=timezone.now())
        keeper, over = Keeper(), threading.Event()
        with (
            mock.patch.object(reading_module, "_thread", side_effect=lambda _: over.wait()),
            mock.patch.object(reading_module, "close_old_connections"),
        ):
            keeper.turn()
            keeper.turn()
        held = Meter.objects.filter(pk__in=keeper.threads).values_list("setup__owner", flat=True)
        over.set()
        keeper.stop()
        self.assertEqual(list(held).count(self.owner.pk), 4)
        self.assertEqual(list(held).count(other.pk), 1)
        waits = Meter.objects.filter(words__contains="4 meters of yours").count()
        self.assertEqual(waits, 3)
