"""A meter on the wire: who may be dialled, what is caught, and what is said when it does not go."""

from __future__ import annotations

import asyncio
import contextlib
import ipaddress
import socket
import threading
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.contrib.auth.models import User
from django.test import SimpleTestCase, override_settings
from django.utils import timezone

from ironmargin.setup.reading import load_setup
from ironmargin_meter.__main__ import serve
from ironmargin_meter.reel import Reel, usual_script
from ironmargin_meter.registers import Reading
from tests.shared import document
from tests.web.pages import PageCase
from web.meter import reading as reading_module
from web.meter import wires
from web.meter.catching import AFTER_S, Catcher
from web.meter.dial import Refused, address_of, forbidden, form_fault
from web.meter.models import SIMULATED, Meter
from web.meter.reading import Keeper, Reader, Tally
from web.setups import judging, repository

DEMO_SETUP = Path(__file__).resolve().parents[2] / "ironmargin_meter" / "demo.setup.json"


class WhoMayBeDialled(SimpleTestCase):
    def test_never_this_server_or_its_network(self) -> None:
        for said in (
            "127.0.0.1",
            "::1",
            "0.0.0.0",
            "169.254.169.254",
            "fe80::1",
            "10.1.2.3",
            "192.168.1.4",
            "::ffff:127.0.0.1",
            "::ffff:10.0.0.1",
            "224.0.0.1",
        ):
            self.assertTrue(forbidden(ipaddress.ip_address(said)), said)
        self.assertEqual(forbidden(ipaddress.ip_address("9.9.9.9")), "")

    def test_an_address_that_hides_another_is_judged_by_it(self) -> None:
        for said in (
            "64:ff9b::7f00:1",  # NAT64
            "64:ff9b::a01:203",
            "64:ff9b:1::7f00:1",
            "2002:7f00:1::",  # 6to4
            "2002:a01:203::1",
            "2001:0:1:2:0:0:80ff:fffe",  # Teredo, of 127.0.0.1
            "::127.0.0.1",
            "::ffff:0:127.0.0.1",
        ):
            self.assertTrue(forbidden(ipaddress.ip_address(said)), said)

    @override_settings(METER_NETS=(ipaddress.ip_network("192.168.0.0/16"),))
    def test_a_private_network_that_is_allowed(self) -> None:
        self.assertEqual(forbidden(ipaddress.ip_address("192.168.1.4")), "")
        self.assertTrue(forbidden(ipaddress.ip_address("10.1.2.3")))
        self.assertTrue(forbidden(ipaddress.ip_address("169.254.1.1")))

    @override_settings(METER_NETS=(ipaddress.ip_network("0.0.0.0/0"),))
    def test_an_address_of_this_machine_is_not_dialled_though_its_network_is(self) -> None:
        with mock.patch("web.meter.dial._own", return_value=True):
            self.assertIn("itself", forbidden(ipaddress.ip_address("192.0.2.7")))
        self.assertTrue(forbidden(ipaddress.ip_address("127.0.0.1")))

    def test_a_refusal_does_not_tell_what_a_name_resolves_to(self) -> None:
        found = [(0, 0, 0, "", ("10.20.30.40", 502))]
        with (
            mock.patch("socket.getaddrinfo", return_value=found),
            self.assertRaises(Refused) as caught,
        ):
            address_of("inside.example", 502)
        self.assertIn("inside.example", str(caught.exception))
        self.assertNotIn("10.20", str(caught.exception))

    def test_a_name_is_dialled_as_it_was_checked(self) -> None:
        found = [(0, 0, 0, "", ("9.9.9.9", 502))]
        with mock.patch("socket.getaddrinfo", return_value=found):
            self.assertEqual(address_of("meter.example", 502), ("9.9.9.9", 502))
        with_own = [*found, (0, 0, 0, "", ("127.0.0.1", 502))]
        with (
            mock.patch("socket.getaddrinfo", return_value=with_own),
            self.assertRaisesRegex(Refused, "meter.example is not read"),
        ):
            address_of("meter.example", 502)
        with (
            mock.patch("socket.getaddrinfo", side_effect=OSError),
            self.assertRaisesRegex(Refused, "no meter is known by the name"),
        ):
            address_of("nowhere.example", 502)

    def test_what_was_typed(self) -> None:
        for host, port in (
            ("", 502),
            ("a b", 502),
            ("http://x", 502),
            ("x" * 300, 502),
            ("1.2.3.4", 22),
            ("1.2.3.4", 70000),
            ("1.2.3.4", None),
        ):
            self.assertTrue(form_fault(host, port), (host, port))
        self.assertEqual(form_fault("192.168.1.40", 1502), "")


def reading(amps: float, held: float = 0.0, volts: float = 120.0) -> Reading:
    return {
        "volts_1": volts, "volts_2": 0.0, "amps_1": amps, "amps_2": 0.0, "hz": 60.0, "watts": 0.0,
        "wh": 0.0, "held_a_1": held or amps, "held_a_2": 0.0, "held_v": volts, "beat": 1.0,
    }  # fmt: skip


class WhatIsCaught(SimpleTestCase):
    """Readings ten a second: two seconds of what ran before, then what is said."""

    def caught(self, *after: Reading, before: float = 4.0) -> Any:
        catcher, now = Catcher(), timezone.now()
        steps = [reading(before)] * 21 + list(after)
        steps += [steps[-1]] * (round(10 * AFTER_S) + 2)
        found = [c for n, r in enumerate(steps) if (c := catcher.feed(n / 10.0, now, r))]
        return found[0] if found else None

    def test_a_start_has_its_held_peak_though_no_reading_shows_it(self) -> None:
        found = self.caught(reading(14.0, held=52.0, volts=108.0), reading(13.0, held=52.0))
        self.assertEqual((found.what, found.outcome), ("start", "starts"))
        self.assertEqual((found.before_a, found.peak_a, found.after_a), (4.0, 52.0, 13.0))
        self.assertEqual(found.lowest_v, 108.0)

    def test_a_heater_is_a_load_and_no_start(self) -> None:
        self.assertEqual(self.caught(reading(16.5)).what, "load")

    def test_one_that_does_not_stay_and_one_that_trips(self) -> None:
        self.assertEqual(self.caught(reading(50.0), reading(4.0, held=50.0)).outcome, "stalls")
        self.assertEqual(self.caught(reading(50.0), reading(0.0, 50.0, 0.0)).outcome, "trips")

    def test_a_peak_held_from_before_it_was_first_read_is_no_start(self) -> None:
        catcher, now = Catcher(), timezone.now()
        steps = [reading(9.5, held=52.0)] * 80 + [reading(20.0, held=52.0)] * 45
        found = [c for n, r in enumerate(steps) if (c := catcher.feed(n / 10.0, now, r))]
        self.assertEqual([(c.before_a, c.peak_a, c.after_a) for c in found], [(9.5, 20.0, 20.0)])

    def test_noise_and_less_than_a_quarter_is_nothing(self) -> None:
        self.assertIsNone(self.caught(reading(5.8)))
        self.assertIsNone(self.caught(reading(24.5), before=20.0))
        self.assertIsNotNone(self.caught(reading(25.5), before=20.0))
        self.assertIsNone(self.caught(reading(1.0)))


class Rounds:
    """An event that is set after some waits, none of which takes time."""

    def __init__(self, maximum: int) -> None:
        self.left = maximum

    def is_set(self) -> bool:
        return self.left <= 0

    def wait(self, seconds: float) -> bool:
        self.left -= 1
        return self.is_set()

    def set(self) -> None:
        self.left = 0


class Until(Rounds):
    """Set once the meter says one of some states; after a minute of listening at the latest."""

    def __init__(self, pk: int, *states: str) -> None:
        super().__init__(600)
        self.pk, self.states = pk, states

    def is_set(self) -> bool:
        return super().is_set() or Meter.objects.filter(pk=self.pk, state__in=self.states).exists()


@contextlib.contextmanager
def answering(port: int) -> Iterator[None]:
    """The simulated meter on a port, as long as it is wanted."""
    setup = load_setup(DEMO_SETUP)
    loop = asyncio.new_event_loop()
    task = loop.create_task(serve(Reel(setup, usual_script(setup)), port, 50.0, 1.0))

    def run() -> None:
        with contextlib.suppress(asyncio.CancelledError):
            loop.run_until_complete(task)

    thread = threading.Thread(target=run)
    thread.start()
    try:
        while True:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
        yield
    finally:
        loop.call_soon_threadsafe(task.cancel)
        thread.join()
        loop.close()


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class WithAMeter(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        doc = document(5) | {"rules": {"trials": 0}}
        self.saved = repository.store(self.owner, judging.judge(doc))
        self.meter = Meter.objects.create(
            setup=self.saved, host=SIMULATED, wanted_at=timezone.now()
        )

    def read(self, port: int, rounds: int) -> Meter:
        reader = Reader(self.meter.pk)
        reader.over = Rounds(rounds)  # type: ignore[assignment]
        with self.settings(METER_SIMULATED=f"127.0.0.1:{port}"):
            reader.run()
        self.meter.refresh_from_db()
        return self.meter


class ReadingIt(WithAMeter):
    def test_it_is_read_and_written_down(self) -> None:
        port = free_port()
        with answering(port), mock.patch.object(reading_module, "WRITE_EVERY_S", 0.0):
            found = self.read(port, 12)
        self.assertEqual((found.state, found.words), ("live", ""))
        self.assertEqual(len(found.readings), 12)
        self.assertAlmostEqual(found.readings[-1][1], 120.0, delta=6.0)

    def test_a_meter_nobody_looks_at_is_not_dialled(self) -> None:
        Meter.objects.update(wanted_at=timezone.now() - timedelta(minutes=1))
        with mock.patch.object(Reader, "_talk") as talk:
            self.read(1, 3)
        talk.assert_not_called()

    def test_nobody_there_is_said_and_what_was_read_stays(self) -> None:
        Meter.objects.update(readings=[[1.0] * 8])
        found = self.read(free_port(), 2)
        self.assertEqual(found.state, "silent")
        self.assertRegex(found.words, "no answer from simulated.*tried again in 2 s")
        self.assertEqual(found.readings, [[1.0] * 8])

    def test_one_that_is_silent_and_one_that_talks_nonsense(self) -> None:
        for says, state in ((b"", "silent"), (b"GET / HTTP/1.1\r\n\r\n", "silent")):
            with (
                socket.create_server(("127.0.0.1", 0)) as server,
                mock.patch.object(wires, "PATIENCE_S", 0.05),
            ):
                thread = threading.Thread(target=self._accept, args=(server, says))
                thread.start()
                found = self.read(server.getsockname()[1], 1)
                server.close()
                thread.join()
            self.assertEqual(found.state, state, says)
        port = free_port()
        with (
            answering(port),
            mock.patch("ironmargin_meter.__main__.encode", return_value=[65535] * 13),
        ):
            found = self.read(port, 1)
        self.assertEqual(found.state, "nonsense")
        self.assertIn("volts 1: 6553.5 is more than 320", found.words)

    @staticmethod
    def _accept(server: socket.socket, says: bytes) -> None:
        with contextlib.suppress(OSError):
            other, _ = server.accept()
            with other:
                other.sendall(says)
                other.recv(100)
                other.recv(100)

    def test_one_whose_figures_stand_still(self) -> None:
        reader = Reader(self.meter.pk)
        for at in (0.0, 1.0, 5.0):
            reader._note(at, reading(4.0))
        self.assertTrue(reader._write(5.0))
        self.meter.refresh_from_db()
        self.assertEqual(self.meter.state, "hangs")
        self.assertIn("stand still", self.meter.words)

    def test_an_hour_of_readings_grows_nothing(self) -> None:
        reader = Reader(self.meter.pk)
        for n in range(36_000):
            reader._note(n / 10.0, reading(4.0 if n % 600 < 300 else 14.0))
        self.assertLessEqual(len(reader.readings), 300)
        self.assertLessEqual(len(reader.caught), 8)
        self.assertLessEqual(len(reader.catcher.before), 30)
        self.assertEqual(len(reader.caught), 8)

    def busy(self, share: float) -> Meter:
        """A meter whose reading takes so much of a processor, read for a minute."""
        now = [0.0]

        def clock() -> float:
            now[0] += 0.05
            return now[0]

        reader = Reader(self.meter.pk, clock, lambda: share * now[0])
        reader.over = Until(self.meter.pk, "nonsense")  # type: ignore[assignment]
        wire = mock.Mock(hangs_s=1e9)
        wire.read.side_effect = lambda: reading(4.0)
        with (
            self.settings(METER_SIMULATED="127.0.0.1:1"),
            mock.patch.object(reading_module, "wire_to", return_value=wire),
        ):
            reader.run()
        self.meter.refresh_from_db()
        return self.meter

    def test_one_that_takes_more_than_a_fifth_of_a_processor_is_hung_up_on(self) -> None:
        self.assertEqual(self.busy(0.15).state, "live")
        found = self.busy(0.25)
        self.assertEqual(found.state, "nonsense")
        self.assertRegex(found.words, r"takes 25 % of a processor; tried again in 15 s")

    def test_what_goes_wrong_is_one_line_of_the_log_a_minute(self) -> None:
        now = [0.0]
        tally = Tally(lambda: now[0])
        for n in range(500):
            tally.add(n % 3, "silent" if n % 5 else "nonsense")
        now[0] = 59.0
        with self.assertNoLogs("web.meter.reading"):
            tally.tell()
        now[0] = 61.0
        with self.assertLogs("web.meter.reading", "WARNING") as told:
            tally.tell()
            tally.tell()
        self.assertEqual(
            [r.getMessage() for r in told.records],
            ["3 meters could not be read in the last minute: 100 x nonsense, 400 x silent"],
        )
        now[0] = 125.0
        with self.assertNoLogs("web.meter.reading"):
            tally.tell()

    def test_a_failure_is_counted_and_told_by_the_keeper(self) -> None:
        now = [0.0]
        with mock.patch.object(reading_module, "TALLY", Tally(lambda: now[0])) as tally:
            self.read(free_port(), 1)
            self.assertEqual(tally.counts["silent"], 1)
            now[0] = 61.0
            Meter.objects.update(wanted_at=None)
            with (
                mock.patch.object(reading_module, "close_old_connections"),
                self.assertLogs("web.meter.reading", "WARNING"),
            ):
                Keeper().turn()

    def test_another_address_than_the_owner_s_is_never_dialled(self) -> None:
        Meter.objects.update(host="169.254.169.254")
        with mock.patch.object(wires, "ModbusTcpClient") as client:
            found = self.read(1, 1)
        client.assert_not_called()
        self.assertEqual(found.state, "refused")
