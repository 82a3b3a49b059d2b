"""What was just done is told on the page that is looked at next: nothing that is asked beside it,
by the service worker or by a page that asks every two seconds, takes the message away.
"""

from __future__ import annotations

from typing import Any
from unittest import mock

from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse

from tests.shared import document
from tests.web.pages import PageCase
from web.logbook import service
from web.now import views as now_views
from web.now.models import RigNow
from web.setups import judging, repository

READ = {"kind": "run", "at": "2026-07-04T14:05:00+00:00", "load": "heater", "running_a": 11.9}
TOLD = "Entry taken out."


class Messages(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("adalbert")
        self.client.force_login(self.owner)
        self.saved = repository.store(
            self.owner, judging.judge(document(1) | {"name": "The clay one"})
        )
        self.log = reverse("log", args=[self.saved.pk])
        self.client.get(self.log)  # it is at hand

    def take_out(self, client: Client) -> None:
        entry = service.store(self.saved, READ, "")
        assert entry is not None
        where = reverse("log-drop", args=[self.saved.pk, entry.pk])
        self.assertRedirects(client.post(where), self.log, fetch_redirect_response=False)

    def test_the_page_for_no_network_is_nobody_s(self) -> None:
        """A phone fetches and keeps it whoever is signed in, at any moment."""
        self.take_out(self.client)
        stored = self.client.get(reverse("offline"))
        for own in (TOLD, "adalbert", "The clay one", f"/{self.saved.pk}/"):
            self.assertNotContains(stored, own)
        self.assertContains(stored, reverse("now-home"))
        self.assertContains(self.client.get(self.log), TOLD)
        self.assertNotContains(self.client.get(self.log), TOLD)

    def test_a_part_that_is_refused_leaves_it_to_the_page(self) -> None:
        self.take_out(self.client)
        where = reverse("setup-chip", args=[self.saved.pk + 1000])
        refused = self.client.get(where, headers={"HX-Request": "true"})
        self.assertEqual(refused.status_code, 404)
        self.assertContains(self.client.get(self.log), TOLD)

    def test_one_asked_at_the_same_time_does_not_put_the_former_session_back(self) -> None:
        second = Client()
        second.cookies = self.client.cookies
        requested = reverse("now-look", args=[self.saved.pk])

        def meanwhile(*of: Any) -> RigNow:
            self.take_out(second)
            return real(*of)

        real = now_views.now_of
        with mock.patch.object(now_views, "now_of", meanwhile):
            self.assertEqual(self.client.get(requested).status_code, 200)
        self.assertContains(self.client.get(self.log), TOLD)
