"""What is left for after the answer: done once, in order, whatever becomes of one of them."""

from __future__ import annotations

from django.core.signals import request_finished, request_started
from django.test import SimpleTestCase

from web.design.afterwards import afterwards, made_already, store_afterwards, waiting


class Afterwards(SimpleTestCase):
    """A request's end, by its two signals."""

    def tearDown(self) -> None:
        waiting.work = None

    def test_within_a_request_it_waits_for_the_answer(self) -> None:
        done: list[str] = []
        request_started.send(self)
        afterwards(lambda: done.append("first"))
        afterwards(lambda: done.append("second"))
        self.assertEqual(done, [])
        request_finished.send(self)
        self.assertEqual(done, ["first", "second"])
        request_finished.send(self)
        self.assertEqual(done, ["first", "second"])

    def test_without_a_request_it_is_done_at_once(self) -> None:
        done: list[str] = []
        afterwards(lambda: done.append("now"))
        self.assertEqual(done, ["now"])

    def test_what_is_to_be_stored_is_there_already_in_this_request_and_only_there(self) -> None:
        stored: dict[str, str] = {}
        request_started.send(self)
        store_afterwards("key", "text", stored.__setitem__)
        self.assertEqual((made_already("key"), stored), ("text", {}))
        request_finished.send(self)
        self.assertEqual((made_already("key"), stored), (None, {"key": "text"}))
        store_afterwards("other", "text", stored.__setitem__)
        self.assertEqual((made_already("other"), stored["other"]), (None, "text"))
        request_started.send(self)
        store_afterwards("lost", "text", stored.__setitem__)
        request_started.send(self)
        self.assertIsNone(made_already("lost"))

    def test_one_that_fails_is_told_to_the_log_and_the_next_is_done(self) -> None:
        done: list[str] = []

        def fails() -> None:
            raise ValueError("disk full")

        request_started.send(self)
        afterwards(fails)
        afterwards(lambda: done.append("next"))
        with self.assertLogs("web.design.afterwards", "ERROR"):
            request_finished.send(self)
        self.assertEqual(done, ["next"])

    def test_what_a_request_left_undone_is_not_done_in_the_next(self) -> None:
        done: list[str] = []
        request_started.send(self)
        afterwards(lambda: done.append("lost"))
        request_started.send(self)
        request_finished.send(self)
        self.assertEqual(done, [])
