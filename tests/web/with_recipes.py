"""What ``test_recipes`` runs in a copy of the tree that has every recipe of CONTRIBUTING.md."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.urls import reverse

from tests.kinds import question
from tests.web.pages import PageCase
from tests.web.test_every_kind import PAGES
from tests.web.test_recipes import requested
from web.logbook.models import LogEntry
from web.setups import judging, repository
from web.setups.stations import route
from web.supplies.models import Supply


class WithRecipes(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(requested()))

    def test_every_page_of_a_setup_opens(self) -> None:
        for page in (*PAGES, "tally"):
            with self.subTest(page):
                answer = self.client.get(reverse(page, args=[self.saved.pk]))
                self.assertIn(answer.status_code, (200, 204), page)

    def test_a_kind_of_supply_is_offered_shown_and_edited(self) -> None:
        self.assertContains(self.client.get(reverse("supplies")), "fuel cell")
        self.client.post(reverse("supplies"), {"typical": "fuel-cell", "name": "Cell"})
        made = Supply.objects.get(name="Cell")
        page = self.client.get(reverse("supply", args=[made.pk]))
        self.assertContains(page, "What it gives for hours")
        posted = {"supply.power_w": "3000", "version": made.version, "name": "Cell"}
        self.client.post(reverse("supply-save", args=[made.pk]), posted)
        made.refresh_from_db()
        self.assertEqual(made.document["power_w"], 3000)

    def test_a_kind_of_load_stands_in_the_table(self) -> None:
        self.assertContains(self.client.get(reverse("rig", args=[self.saved.rig.pk])), "induction")

    def test_a_field_is_asked_for_where_all_are(self) -> None:
        document = question("generator")
        document["supply"] = document["supply"] | {"noise": {"dba": 60, "wind_km_h": 12}}
        stored = repository.store(self.owner, judging.judge(document))
        self.assertEqual(repository.compose(stored)["supply"]["noise"]["wind_km_h"], 12)

    def test_a_step_list_is_among_the_lists(self) -> None:
        page = self.client.get(reverse("steps", args=[self.saved.pk]), {"all": "1"})
        self.assertContains(page, "Before the winter")
        self.client.post(reverse("steps-begin", args=[self.saved.pk]), {"for": "winter"})

    def test_an_entry_is_typed_kept_and_judged(self) -> None:
        url = reverse("log", args=[self.saved.pk])
        self.assertContains(self.client.get(url, {"kind": "oil"}), "From the low mark")
        posted = {"kind": "oil", "units": "us", "entry.full": "0.1", "once": "a"}
        self.client.post(reverse("log-add", args=[self.saved.pk]), posted)
        self.assertEqual(LogEntry.objects.get().kind, "oil")
        self.assertContains(self.client.get(url), "Low: fill it before it runs.")

    def test_a_station_has_its_tab_and_its_page(self) -> None:
        self.assertEqual([s.key for s in route()][-1], "tally")
        page = self.client.get(reverse("tally", args=[self.saved.pk]))
        self.assertContains(page, "2 loads")
        self.assertContains(page, "Tally")
