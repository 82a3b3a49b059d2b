"""What takes too long: the real web server before addresses that never end (``late_site``)."""

from __future__ import annotations

import http.client
import json
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any, ClassVar
from unittest.mock import MagicMock, Mock, patch

import MySQLdb
from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase, override_settings

from tests.deploy.units import ROOT
from tools.database import free_port
from web.accounts.models import Tally
from web.project import deadline
from web.project.deadline import Watch, ends_in_time

PATIENCE_S = 60.0


class TheRealServer(TransactionTestCase):
    """One process of gunicorn: the one that ends and the one that follows are told apart."""

    folder: ClassVar[Path]
    port: ClassVar[int]
    server: ClassVar[subprocess.Popen[bytes]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder, cls.port = Path(folder.name), free_port()
        os.mkfifo(cls.folder / "pipe")
        more = {
            "IRONMARGIN_DB_NAME": connection.settings_dict["NAME"],
            "IRONMARGIN_DEADLINE_S": "1",
            "LATE_SITE_FOLDER": folder.name,
        }
        cls.server = subprocess.Popen(
            [sys.executable, "-m", "gunicorn", "--workers=1", "--threads=4", "--log-level=warning",
             "--no-control-socket", f"--bind=127.0.0.1:{cls.port}", "tests.web.late_site"],
            cwd=ROOT, env=os.environ | more, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
        )  # fmt: skip
        cls.addClassCleanup(cls.stop)

    @classmethod
    def stop(cls) -> None:
        cls.server.terminate()
        cls.server.communicate(timeout=PATIENCE_S)

    def setUp(self) -> None:
        self.process = self.ask("/", again=True)[2]

    def ask(self, path: str, *, again: bool = False) -> tuple[int, Any, bytes]:
        """Status, headers and body; asked again while nobody listens or takes the question."""
        until = time.monotonic() + PATIENCE_S
        while True:
            link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=PATIENCE_S)
            try:
                link.request("GET", path)
                found = link.getresponse()
                return found.status, found.headers, found.read()
            except OSError:
                if not again or time.monotonic() > until:
                    raise
            finally:
                link.close()

    def another_process(self) -> bytes:
        """Who answers once the late one has ended."""
        until = time.monotonic() + PATIENCE_S
        while (found := self.ask("/", again=True)[2]) == self.process:
            self.assertLess(time.monotonic(), until)
        return found

    def test_it_is_answered_in_words_and_another_process_goes_on(self) -> None:
        status, headers, body = self.ask("/late/")
        self.assertEqual((status, headers["Retry-After"]), (503, "60"))
        self.assertIn("took longer than a page may", body.decode())
        self.assertTrue(self.another_process().isdigit())

    def test_what_it_had_begun_is_taken_back_before_it_is_answered(self) -> None:
        self.assertEqual(self.ask("/late/saving/")[0], 503)
        self.assertEqual(list(Tally.objects.values_list("key", flat=True)), ["before"])
        self.assertTrue(self.another_process())

    def test_a_client_that_sends_half_costs_no_process(self) -> None:
        with socket.create_connection(("127.0.0.1", self.port), PATIENCE_S) as wire:
            wire.sendall(b"POST /body/ HTTP/1.1\r\nHost: x\r\nContent-Length: 100\r\n\r\nhalf")
            said = b""
            while piece := wire.recv(4096):
                said += piece
        self.assertIn(b"503 Service Unavailable", said)
        for _ in range(20):
            self.assertEqual(self.ask("/")[2], self.process)

    def test_those_beside_it_are_answered(self) -> None:
        beside: list[tuple[int, Any, bytes]] = []
        asks = threading.Thread(target=lambda: beside.append(self.ask("/beside/")))
        asks.start()
        until = time.monotonic() + PATIENCE_S
        while not (self.folder / "begun").exists():
            self.assertLess(time.monotonic(), until)
        self.assertEqual(self.ask("/late/")[0], 503)
        self.assertEqual((self.folder / "pipe").read_text(), "on")
        asks.join(PATIENCE_S)
        self.assertEqual([(status, body) for status, _, body in beside], [(200, self.process)])
        self.assertNotEqual(self.another_process(), self.process)


class InWords(SimpleTestCase):
    def test_a_program_is_told_as_programs_are(self) -> None:
        head, _, body = deadline.in_words("/api/v1/setups/").partition(b"\r\n\r\n")
        self.assertIn(b"Content-Type: application/problem+json", head)
        self.assertEqual(json.loads(body)["status"], 503)

    def test_the_log_names_an_address_and_none_of_its_numbers(self) -> None:
        self.assertEqual(deadline.route_of("/rigs/17/"), "rig")
        self.assertEqual(deadline.route_of("/rigs/17/nowhere/"), "an unknown address")


class Answer(list[bytes]):
    """An answer that can be closed, as Django's."""


@override_settings(DEADLINE_S=60.0)
class OneAnswer(SimpleTestCase):
    """Whoever is first answers, the page or the watch; the other says nothing."""

    def setUp(self) -> None:
        self.ended: list[Watch] = []
        self.watch = Watch(self.ended.append)
        self.here, self.there = socket.socketpair()
        self.addCleanup(self.here.close)
        self.addCleanup(self.there.close)
        self.environ = {
            "gunicorn.socket": self.here, "PATH_INFO": "/", "SERVER_PROTOCOL": "HTTP/1.1",
        }  # fmt: skip

    def ask(self, site: Any) -> Any:
        return ends_in_time(site, self.watch)(self.environ, Mock())

    def stopped(self) -> None:
        """One that asked the database nothing."""
        one = self.watch.begin(self.environ)
        one.database = Mock(connection=None)
        deadline._stop(one)

    def test_one_in_time_is_watched_until_its_last_word_is_read(self) -> None:
        answer = self.ask(lambda environ, start: Answer([b"in time"]))
        self.assertEqual(list(answer), [b"in time"])
        self.assertEqual(len(self.watch.requested), 1)
        self.assertFalse(self.watch.requested[0].claim(late=True))
        answer.close()
        self.assertEqual(self.watch.requested, [])

    def test_one_that_comes_too_late_says_nothing(self) -> None:
        closed = Mock()

        def site(environ: Any, start: Any) -> Any:
            self.assertTrue(self.watch.requested[0].claim(late=True))
            answer = Answer([b"after all"])
            answer.close = closed  # type: ignore[attr-defined]
            return answer

        self.assertEqual(list(self.ask(site)), [])
        closed.assert_called_once()
        self.assertEqual(self.watch.requested, [])

    def test_an_error_of_the_page_is_its_own(self) -> None:
        with self.assertRaises(ZeroDivisionError):
            self.ask(lambda environ, start: 1 / 0)
        self.assertEqual(self.watch.requested, [])

    def test_a_reader_who_has_gone_harms_nothing(self) -> None:
        self.there.close()
        self.here.close()
        self.stopped()
        self.assertEqual(self.ended, [])

    def test_a_connection_that_is_gone_already_keeps_no_answer_back(self) -> None:
        one = self.watch.begin(self.environ)
        gone = Mock(side_effect=MySQLdb.InterfaceError)
        one.database = Mock(connection=Mock(thread_id=gone))
        with patch.object(deadline, "connections", MagicMock()):
            deadline._stop(one)
        gone.assert_called_once()
        self.assertIn(b"503 Service Unavailable", self.there.recv(100))

    def test_a_wire_that_takes_no_plain_words_is_only_shut(self) -> None:
        self.environ["SERVER_PROTOCOL"] = "HTTP/2.0"
        self.stopped()
        self.assertEqual(self.there.recv(100), b"")

    def test_one_that_lets_go_is_waited_for_and_one_that_does_not_is_not(self) -> None:
        one = self.watch.begin(self.environ)
        self.assertFalse(self.watch.gone([one], 0.0))
        self.watch.forget(one)
        self.assertTrue(self.watch.gone([one], 0.0))

    def test_a_process_waits_for_those_beside_and_not_for_ever(self) -> None:
        one = self.watch.begin(self.environ)
        self.watch.others_end(0.0)
        one.claim(late=True)
        with patch.object(deadline, "LOOKS_EACH_S", 1e6):
            self.watch.others_end(1e6)  # it is late itself: nobody is left

    def test_a_server_that_lends_no_socket_has_none(self) -> None:
        site = Mock(return_value=[b"plain"])
        self.assertEqual(ends_in_time(site, self.watch)({"PATH_INFO": "/"}, Mock()), [b"plain"])
        self.assertEqual(self.watch.requested, [])
