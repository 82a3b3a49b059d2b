"""The same request sent twice, or four times at once, makes one thing."""

from __future__ import annotations

import json
import threading
from datetime import timedelta
from typing import Any
from unittest import mock
from unittest.mock import patch

from django.contrib.auth.models import User
from django.db import connection
from django.test import Client, TransactionTestCase
from django.urls import reverse
from django.utils import timezone

from tests.shared import document
from tests.web.pages import PageCase
from web.api.models import READ, WRITE, make
from web.clients.models import Client as KeptClient
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import once
from web.storage.models import Answered


class Forms(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)

    def key_in(self, name: str) -> str:
        said = self.client.get(reverse(name)).content.decode()
        return said.split('name="idempotency" value="')[1].split('"')[0]

    def test_a_form_pressed_twice_makes_one_and_leads_to_it_both_times(self) -> None:
        key = self.key_in("clients")
        first, second = (
            self.client.post(reverse("clients"), {"name": "Orchard", "idempotency": key})
            for _ in range(2)
        )
        self.assertEqual(KeptClient.objects.count(), 1)
        self.assertEqual(first["Location"], second["Location"])
        self.assertNotEqual(self.key_in("clients"), key)

    def test_the_same_form_with_other_words_is_another(self) -> None:
        for name in ("Orchard", "Mill"):
            self.client.post(reverse("clients"), {"name": name, "idempotency": "k"})
        other = Client()
        other.force_login(User.objects.create_user("other"))
        other.post(reverse("clients"), {"name": "Mill", "idempotency": "k"})
        self.assertEqual(KeptClient.objects.count(), 3)

    def test_what_failed_may_be_sent_again(self) -> None:
        posted = {"name": "Wagon", "service": "no", "idempotency": "k"}
        self.assertEqual(self.client.post(reverse("rigs"), posted).status_code, 422)
        self.assertFalse(Answered.objects.exists())
        with mock.patch("web.rigs.service.make", side_effect=RuntimeError):
            Client(raise_request_exception=False).post(reverse("rigs"), posted)
        self.client.raise_request_exception = False
        with mock.patch("web.rigs.service.make", side_effect=RuntimeError):
            answer = self.client.post(reverse("rigs"), posted | {"service": "120"})
        self.assertEqual(answer.status_code, 500)
        self.assertFalse(Answered.objects.exists())
        self.client.post(reverse("rigs"), posted | {"service": "120"})
        self.assertEqual(Rig.objects.count(), 1)

    def test_every_form_that_makes_something_has_a_key(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(2)))
        for name, args in (
            ("rigs", []), ("supplies", []), ("clients", []), ("setups", []), ("members", []),
            ("account", []), ("bench", [saved.pk]), ("steps", [saved.pk]),
        ):  # fmt: skip
            page = self.client.get(reverse(name, args=args), {"all": "1", "new": "1"})
            self.assertContains(page, 'name="idempotency"', msg_prefix=name)
        url = reverse("duplicate", args=["setup", saved.pk])
        for _ in range(2):
            self.client.post(url, {"idempotency": "d"})
        self.assertEqual(SavedSetup.objects.of(self.owner).count(), 2)

    def test_no_page_is_kept_that_shows_a_secret_once(self) -> None:
        posted = {"name": "office", "scope": READ, "days": "30"}
        for _ in range(2):
            self.client.post(reverse("token-make"), posted, headers={"Idempotency-Key": "k"})
        self.assertFalse(Answered.objects.exists())

    def test_one_whose_server_went_down_is_taken_on_again(self) -> None:
        url, posted = reverse("clients"), {"name": "Orchard", "idempotency": "k"}
        self.client.post(url, posted)
        old = timezone.now() - timedelta(minutes=2)
        Answered.objects.update(status=0, made_at=old)
        self.client.post(url, posted)
        self.assertEqual(KeptClient.objects.count(), 2)

    def test_one_that_is_still_at_work_is_said_and_makes_nothing(self) -> None:
        url, posted = reverse("clients"), {"name": "Orchard", "idempotency": "k"}
        self.client.post(url, posted)
        Answered.objects.update(status=0, made_at=timezone.now())
        with mock.patch.object(once, "WAITS_S", 0.0):
            self.assertContains(self.client.post(url, posted), "Still at work", status_code=409)
        self.assertEqual(KeptClient.objects.count(), 1)

    def test_answers_go_after_a_day(self) -> None:
        self.client.post(reverse("clients"), {"name": "Orchard", "idempotency": "k"})
        self.assertEqual(once.forget_old(), 0)
        Answered.objects.update(made_at=timezone.now() - timedelta(hours=25))
        self.assertEqual(once.forget_old(), 1)


class Programs(PageCase):
    def test_a_program_that_repeats_its_request_gets_the_first_answer(self) -> None:
        owner = User.objects.create_user("owner")
        _, secret = make(owner, "script", WRITE, 7)
        body = json.dumps(document(2) | {"rules": {"trials": 0}})

        def post(key: str, secret: str = secret) -> Any:
            headers = {"Authorization": f"Bearer {secret}", "Idempotency-Key": key}
            return Client().post(
                "/api/v1/setups/", body, content_type="application/json", headers=headers
            )

        first, second, third = post("a"), post("a"), post("b")
        self.assertEqual((first.status_code, second.status_code), (201, 201))
        self.assertEqual(first.json(), second.json())
        self.assertEqual(first["ETag"], second["ETag"])
        self.assertNotEqual(third.json()["id"], first.json()["id"])
        self.assertEqual(SavedSetup.objects.count(), 2)
        self.assertIn(post("a", "wrong").status_code, (401, 403))

    def test_a_program_that_was_refused_may_ask_again(self) -> None:
        _, secret = make(User.objects.create_user("owner"), "script", WRITE, 7)
        body = json.dumps(document(2) | {"rules": {"trials": 0}})
        headers = {"Authorization": f"Bearer {secret}", "Idempotency-Key": "a"}

        def post() -> int:
            return (
                Client()
                .post("/api/v1/setups/", body, content_type="application/json", headers=headers)
                .status_code
            )

        with patch.object(SavedSetup, "maximum", 0):
            self.assertEqual(post(), 409)
        self.assertEqual(post(), 201)


class AtOnce(TransactionTestCase):
    def test_four_at_once_make_one(self) -> None:
        owner = User.objects.create_user("owner")
        ready, answers = threading.Barrier(4), []

        def press() -> None:
            client = Client()
            client.force_login(owner)
            ready.wait()
            posted = {"name": "Orchard", "idempotency": "k"}
            answers.append(client.post(reverse("clients"), posted)["Location"])
            connection.close()

        threads = [threading.Thread(target=press) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(KeptClient.objects.count(), 1)
        self.assertEqual(len(set(answers)), 1)
        self.assertEqual(len(answers), 4)
