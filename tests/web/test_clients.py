"""Clients: kept, found, given rigs and visits, carried into a report and an account's zip."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.urls import reverse

from tests.shared import document
from tests.web.pages import PageCase
from web.clients.models import Client
from web.keeping import actions
from web.keeping.account import pack, unpack
from web.rigs.models import Rig
from web.setups import stored

User = get_user_model()


class Clients(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = stored.keep(self.owner, stored.judge(document(2) | {"name": "Evening"}))
        self.client.post(reverse("clients"), {"name": "  Orchard   House "})
        self.kept = Client.objects.get()

    def post(self, url_name: str, /, **values: Any) -> Any:
        version = Client.objects.get(pk=self.kept.pk).version
        answer = self.client.post(
            reverse(url_name, args=[self.kept.pk]), {"version": version} | values
        )
        self.kept = Client.objects.get(pk=self.kept.pk)
        return answer

    def test_who_where_and_what_was_done(self) -> None:
        self.assertEqual(self.kept.name, "Orchard House")
        self.post("client-save", name="Orchard House", site="Pitch 7", address="12 Mill Lane",
                  contact="555 0100", notes="dog\nbites\x00" + "x" * 9000)  # fmt: skip
        held = self.kept.document
        self.assertEqual((held["site"], held["address"]), ("Pitch 7", "12 Mill Lane"))
        self.assertTrue(held["notes"].startswith("dog\nbitesx"))
        self.assertEqual(len(held["notes"]), 5000)
        self.post("client-visit", on="2026-05-02", told="starter fitted")
        self.post("client-visit", on="2026-06-01", told="measured again")
        self.post("client-visit", on="2026-02-30", told="today")
        days = [v["on"] for v in self.kept.document["visits"]]
        self.assertEqual(days[1:], ["2026-06-01", "2026-05-02"])
        self.post("client-visit", remove="0")
        self.assertEqual(len(self.kept.document["visits"]), 2)

    def test_found_by_any_of_their_words(self) -> None:
        self.post("client-save", site="Pitch 7", notes="Well Pump")
        for query, found in (("orchard", True), ("pitch 7", True), ("well p", True), ("no", False)):
            page = self.client.get(reverse("clients"), {"q": query})
            (self.assertContains if found else self.assertNotContains)(page, "Orchard House")
        self.assertContains(self.client.get(reverse("clients")), "0 rigs")

    def test_a_rig_brings_its_setups_and_the_reports_words(self) -> None:
        self.post("client-save", site="Pitch 7", address="12 Mill Lane")
        self.post("client-rig", rig=self.saved.rig_id)
        page = self.client.get(reverse("client", args=[self.kept.pk]))
        self.assertContains(page, "Evening")
        ask = self.client.get(reverse("report-for", args=[self.saved.pk]))
        self.assertContains(ask, 'value="Orchard House"')
        self.assertContains(ask, 'value="Pitch 7, 12 Mill Lane"')
        self.post("client-rig", remove=self.saved.rig_id)
        self.assertEqual(self.kept.document["rigs"], [])

    def test_nothing_of_anothers(self) -> None:
        other = User.objects.create_user("other")
        doc = document(4) | {"name": "Theirs alone"}
        doc["rig"]["name"] = "Their own rig"
        theirs = stored.keep(other, stored.judge(doc))
        self.assertEqual(self.post("client-rig", rig=theirs.rig_id).status_code, 404)
        stolen = self.kept.document | {"rigs": [theirs.rig_id]}
        actions.change(self.kept, self.kept.version, document=stolen)
        page = self.client.get(reverse("client", args=[self.kept.pk]))
        self.assertNotContains(page, theirs.rig.name)
        self.assertNotContains(page, theirs.name)

    def test_two_who_write_at_once_lose_nothing_unseen(self) -> None:
        self.post("client-save", site="first")
        answer = self.client.post(
            reverse("client-save", args=[self.kept.pk]), {"version": "1", "site": "second"}
        )
        page = self.client.get(answer["Location"])
        self.assertContains(page, "changed this client from another page")
        self.assertContains(page, 'value="first"')

    def test_nonsense_is_words_or_refused(self) -> None:
        self.client.post(reverse("clients"), {"name": "  "})
        self.client.post(reverse("clients"), {"name": "<script>" + "y" * 2000})
        self.assertEqual(Client.objects.count(), 2)
        page = self.client.get(reverse("clients"))
        self.assertContains(page, "&lt;script&gt;")
        self.assertNotContains(page, "<script>y")
        self.assertEqual(self.post("client-rig", rig="9" * 30).status_code, 404)

    def test_it_goes_out_with_the_account_and_comes_back(self) -> None:
        self.post("client-save", site="Pitch 7", notes="a note")
        self.post("client-visit", on="2026-05-02", told="fitted")
        self.post("client-rig", rig=self.saved.rig_id)
        other = User.objects.create_user("other")
        unpack(other, pack(self.owner))
        theirs = Client.objects.get(owner=other)
        self.assertEqual(theirs.name, "Orchard House")
        own = Rig.objects.get(owner=other)
        self.assertEqual(theirs.document, self.kept.document | {"rigs": [own.pk]})
