"""A meter's form, its screen, and the demo's."""

from __future__ import annotations

import json
from typing import Any
from unittest import mock

from django.contrib.auth.models import User
from django.test import SimpleTestCase
from django.urls import reverse

from ironmargin.setup.reading import read_setup
from tests.shared import document
from tests.web.test_meter import DEMO_SETUP, WithAMeter
from web.accounts.demo import DEMO_USER
from web.logbook.models import LogEntry
from web.meter import views
from web.meter.demo import METERED
from web.meter.models import SIMULATED, Meter
from web.setups import judging, repository
from web.setups.demo import documents


class TheForm(WithAMeter):
    def store(self, **typed: str) -> Any:
        usual = {"speaks": "mqtt", "host": "9.9.9.9", "port": "1883", "topic": "shed/meter"}
        places = {"place.volts_1": "voltage", "place.watts": "power", "times.watts": "1000"}
        url = reverse("meter-keep", args=[self.saved.pk])
        return self.client.post(
            url, usual | places | {k.replace("__", "."): v for k, v in typed.items()}
        )

    def test_an_mqtt_meter_is_kept_and_shown_again_but_for_its_password(self) -> None:
        self.assertEqual(self.store(user="me", password="s3cret").status_code, 302)
        self.meter.refresh_from_db()
        self.assertEqual(
            self.meter.places, {"volts_1": ["voltage", 1.0], "watts": ["power", 1000.0]}
        )
        answer = self.client.get(reverse("meter", args=[self.saved.pk]))
        self.assertContains(answer, 'value="shed/meter"')
        self.assertNotContains(answer, "s3cret")
        self.store(user="me", place__hz="frequency")
        self.meter.refresh_from_db()
        self.assertEqual(self.meter.password, "s3cret")
        self.store(user="me", host="9.9.9.8")  # it is not told to another broker
        self.meter.refresh_from_db()
        self.assertEqual(self.meter.password, "")

    def test_what_is_wrong_is_named_and_what_was_typed_stays(self) -> None:
        for typed, words in (
            ({"topic": "shed/#"}, "the topic must be like shed/meter"),
            ({"place__watts": ""}, "say where volts and amps stand"),
            ({"place__hz": "a b"}, "hz must be like power or /power"),
            ({"times__watts": "many"}, "Watts must be multiplied by a number"),
            ({"times__watts": "0"}, "watts must be multiplied by"),
            ({"speaks": "morse"}, "must speak Modbus TCP or MQTT"),
            ({"user": "x" * 61}, "at most 60 letters"),
            ({"port": "18.5"}, "the port must be"),
        ):
            answer = self.store(**typed)
            self.assertContains(answer, words, status_code=422, html=False)
            self.assertContains(answer, 'value="9.9.9.9"', status_code=422)


class TheScreen(WithAMeter):
    def test_it_says_how_it_stands_and_notes_that_one_looks(self) -> None:
        Meter.objects.update(words="no answer; tried again in 2 s", wanted_at=None)
        answer = self.client.get(reverse("meter", args=[self.saved.pk]))
        self.assertContains(answer, "no answer; tried again in 2 s")
        found = self.client.get(reverse("meter-readings", args=[self.saved.pk])).json()
        self.assertEqual(found["words"], "no answer; tried again in 2 s")
        self.meter.refresh_from_db()
        self.assertIsNotNone(self.meter.wanted_at)

    def test_the_stream_sends_what_is_new_and_gives_its_place_back(self) -> None:
        Meter.objects.update(readings=[[1.0] * 8, [2.0] * 8], beat=7)
        url = reverse("meter-stream", args=[self.saved.pk])
        for _ in range(4):  # more often than there are places
            with mock.patch.object(views, "STREAM_S", 0.01), mock.patch("time.sleep"):
                answer = self.client.get(url)
                self.assertEqual(answer["Content-Type"], "text/event-stream")
                events = b"".join(answer.streaming_content).decode()
            self.assertEqual(events.count("data: "), 1)
            news = json.loads(events.removeprefix("data: "))
            self.assertEqual([r[0] for r in news["readings"]], [1.0, 2.0])

    def test_without_a_free_place_it_says_so(self) -> None:
        url = reverse("meter-stream", args=[self.saved.pk])
        held = [views.STREAMS.acquire(blocking=False) for _ in range(2)]
        try:
            self.assertEqual(held, [True, True])
            self.assertEqual(self.client.get(url).status_code, 204)
        finally:
            for _ in held:
                views.STREAMS.release()

    def test_an_address_is_kept_or_refused_in_words(self) -> None:
        url = reverse("meter-keep", args=[self.saved.pk])
        for typed, words in (
            ({"host": "http://x/", "port": "502", "unit": "1"}, "must be a name or an address"),
            ({"host": "9.9.9.9", "port": "22", "unit": "1"}, "the port must be 502"),
            ({"host": "9.9.9.9", "port": "nan", "unit": "1"}, "the port must be 502"),
            ({"host": "9.9.9.9", "port": "502", "unit": "900"}, "the unit must be 0 to 247"),
        ):
            answer = self.client.post(url, typed)
            self.assertContains(answer, words, status_code=422)
            self.assertContains(answer, typed["host"], status_code=422)  # what was typed stays
        self.assertEqual(
            self.client.post(url, {"host": "9.9.9.9", "port": "1502", "unit": "3"}).status_code, 302
        )
        self.meter.refresh_from_db()
        self.assertEqual((self.meter.host, self.meter.port, self.meter.unit), ("9.9.9.9", 1502, 3))

    def test_the_demo_dials_only_the_simulated_one(self) -> None:
        demo = User.objects.create_user(DEMO_USER)
        saved = repository.store(demo, judging.judge(document(5) | {"rules": {"trials": 0}}))
        self.client.force_login(demo)
        url = reverse("meter-keep", args=[saved.pk])
        answer = self.client.post(url, {"host": "9.9.9.9", "port": "502", "unit": "1"})
        self.assertContains(answer, "only the simulated meter", status_code=422)
        self.assertEqual(self.client.post(url, {"simulated": "1"}).status_code, 302)
        self.assertEqual(Meter.objects.get(setup=saved).host, SIMULATED)

    def test_a_caught_start_becomes_an_entry(self) -> None:
        motor = next(
            x.id
            for x in read_setup(repository.compose(self.saved)).rig.loads
            if hasattr(x, "lra_a")
        )
        fields = {
            "kind": "start", "once": "meter-1", "units": "si", "entry.load": motor,
            "entry.peak_a": "41.2", "entry.lowest_v": "109", "entry.outcome": "starts",
            "entry.instrument": "inrush-clamp", "entry.notes": "caught by the meter on the wire",
        }  # fmt: skip
        for _ in range(2):
            self.assertEqual(
                self.client.post(reverse("log-add", args=[self.saved.pk]), fields).status_code, 302
            )
        entry = LogEntry.objects.get().document
        self.assertEqual((entry["peak_a"], entry["outcome"]), (41.2, "starts"))

    def test_nobody_else_sees_it(self) -> None:
        self.client.force_login(User.objects.create_user("other"))
        for name in ("meter", "meter-readings", "meter-stream"):
            self.assertEqual(self.client.get(reverse(name, args=[self.saved.pk])).status_code, 404)
        for name in ("meter-keep", "meter-drop"):
            self.assertEqual(self.client.post(reverse(name, args=[self.saved.pk])).status_code, 404)


class TheDemosMeter(SimpleTestCase):
    def test_it_ships_with_the_demos_setup(self) -> None:
        demo = next(d for d in documents() if d["name"] == METERED)
        self.assertEqual(json.loads(DEMO_SETUP.read_text(encoding="utf-8")), demo)
