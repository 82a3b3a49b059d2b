"""What is typed and not saved: kept, offered back, and nobody else's."""

from __future__ import annotations

import json
import re
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from tests.shared import document
from tests.web.pages import PageCase
from tests.web.test_setups import form_of
from web.accounts.demo import DEMO_USER
from web.setups import judging, repository
from web.setups.models import Draft, SavedSetup
from web.setups.stations import route
from web.storage import actions
from web.storage.purging import purge


class Drafts(PageCase):
    coarse_maps = True

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(document(2)))
        self.url = reverse("setup", args=[self.saved.pk])

    def form(self, **typed: str) -> dict[str, str]:
        saved = SavedSetup.objects.get(pk=self.saved.pk)
        bases = {
            "saved": str(saved.pk),
            "version": str(saved.version),
            "rig_pk": str(saved.rig_id),
            "rig_version": str(saved.rig.version),
            "supply_pk": str(saved.supply_id),
            "supply_version": str(saved.supply.version),
        }
        return form_of(repository.compose(saved), **(bases | typed))

    def type(self, **typed: str) -> None:
        self.client.post(reverse("setup-preview"), self.form(**typed))

    def test_what_was_typed_is_there_on_every_station_until_it_is_saved(self) -> None:
        self.assertContains(self.client.get(self.url), "> saved <")
        self.type(**{"conditions.outdoor_c": "31.25"})
        self.client.cookies["units"] = "si"
        self.assertEqual(Draft.objects.get().document["conditions"]["outdoor_c"], 31.25)
        for station in route():
            page = self.client.get(reverse(station.address, args=[self.saved.pk]))
            self.assertContains(page, "not saved")
            self.assertContains(page, "Back to saved")
            self.assertContains(page, 'value="31.25"')

    def test_a_bad_figure_is_kept_as_it_was_typed(self) -> None:
        self.type(**{"conditions.outdoor_c": "warm"})
        self.assertContains(self.client.get(self.url), "warm")

    def test_nothing_typed_or_typed_back_leaves_none(self) -> None:
        self.type()
        self.assertEqual(Draft.objects.count(), 0)
        self.type(**{"conditions.outdoor_c": "31.25"})
        self.type()
        self.assertEqual(Draft.objects.count(), 0)

    def test_saving_or_forgetting_ends_it(self) -> None:
        self.type(**{"conditions.outdoor_c": "31.25"})
        self.client.post(reverse("draft-drop"), {"saved": self.saved.pk})
        self.assertEqual(Draft.objects.count(), 0)
        self.type(**{"conditions.outdoor_c": "31.25"})
        self.client.post(reverse("setup-save"), self.form(**{"conditions.outdoor_c": "31.25"}))
        self.assertEqual(Draft.objects.count(), 0)

    def test_one_of_a_new_setup(self) -> None:
        new = form_of(document(4) | {"name": "Not kept yet"})
        self.client.post(reverse("setup-preview"), new)
        self.assertContains(self.client.get(reverse("setup-new")), "Not kept yet")
        self.client.post(reverse("draft-drop"))
        self.assertEqual(Draft.objects.count(), 0)

    def test_what_others_saved_meanwhile_is_not_overwritten(self) -> None:
        self.type(**{"conditions.outdoor_c": "31.25"})
        actions.change(self.saved, self.saved.version, name="Renamed elsewhere")
        page = self.client.get(self.url)
        form = self.form(
            version=re.search(r'name="version" value="(\d+)"', page.content.decode())[1]
        )
        self.assertEqual(self.client.post(reverse("setup-save"), form).status_code, 409)

    def test_it_is_nobody_elses(self) -> None:
        self.type(**{"conditions.outdoor_c": "31.25"})
        self.client.force_login(User.objects.create_user("other"))
        self.assertEqual(self.client.get(self.url).status_code, 404)
        dropped = self.client.post(reverse("draft-drop"), {"saved": self.saved.pk})
        self.assertEqual((dropped.status_code, Draft.objects.count()), (404, 1))
        self.client.post(reverse("setup-preview"), self.form(**{"conditions.outdoor_c": "9"}))
        self.assertEqual(Draft.objects.get(item=self.saved.pk).owner, self.owner)

    def test_back_shows_what_is_true_now(self) -> None:
        self.assertIn("no-store", self.client.get(self.url)["Cache-Control"])
        self.client.logout()
        self.assertFalse(self.client.get("/").has_header("Cache-Control"))

    def test_in_the_demo_it_belongs_to_one_browser(self) -> None:
        everybody = User.objects.create_user(DEMO_USER)
        saved = repository.store(everybody, judging.judge(document(2)))
        one, other = Client(), Client()
        for visitor in (one, other):
            visitor.force_login(everybody)
        typed = form_of(repository.compose(saved), saved=str(saved.pk))
        typed |= {"conditions.outdoor_c": "31.25", "units": "si"}
        one.post(reverse("setup-preview"), typed)
        url = reverse("setup", args=[saved.pk])
        self.assertContains(one.get(url), "not saved")
        self.assertNotContains(other.get(url), "not saved")
        other.post(reverse("draft-drop"), {"saved": saved.pk})
        self.assertEqual(Draft.objects.count(), 1)
        Draft.objects.update(at=timezone.now() - timedelta(days=2))
        purge()
        self.assertEqual(Draft.objects.count(), 0)

    def test_what_no_form_posts_is_no_draft_and_no_fault_of_ours(self) -> None:
        tower: Any = []
        for _ in range(60):
            tower = [tower]
        for odd in (float("nan"), tower):
            post = self.form() | {"document": json.dumps(document(2) | {"odd": odd})}
            self.assertLess(self.client.post(reverse("setup-preview"), post).status_code, 500)
        self.assertEqual(Draft.objects.count(), 0)
