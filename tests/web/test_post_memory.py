"""A plug that is felt, a post that is remembered, and what a device tells."""

from __future__ import annotations

import json
from typing import Any
from unittest import mock

from django.conf import settings
from django.contrib.auth.models import User
from django.urls import reverse

from ironmargin.learning.post import Hours
from ironmargin.per_cent import signed_percent
from tests.shared import document
from tests.web.test_senses import Base, start_wav
from tests.web.test_setups import form_of
from web.accounts.demo import DEMO_USER
from web.design.middleware import of_the_device
from web.logbook import evidence
from web.logbook.models import Evidence, LogEntry
from web.logbook.plugs import MINUTES
from web.running_order import card
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.supplies.models import Supply
from web.supplies.post import memory_of, with_hours
from web.verdicts import report
from web.verdicts.by_hour import soft_words


class APlugFelt(Base):
    def post(self, temperatures: tuple[str, ...], button: str = "look", **more: str) -> Any:
        form = {"item": "0", "entry.amps": "24", "entry.air_c": "86", "entry.by": "infrared",
                "units": "us", button: "1"} | more  # fmt: skip
        for n, typed in enumerate(temperatures):
            form[f"entry.readings[{n}].surface_c"] = typed
        return self.client.post(reverse("log-plug", args=[self.saved.pk]), form)

    def test_it_says_what_the_plug_is_before_anything_is_kept(self) -> None:
        answer = self.post(("86", "95", "100", "102"))
        self.assertContains(answer, "Good")
        self.assertContains(answer, "never touch pins")
        self.assertContains(answer, "UL 498")
        self.assertContains(answer, 'value="102"')
        self.assertFalse(LogEntry.objects.exists())

    def test_it_is_kept_and_its_condition_offered(self) -> None:
        answer = self.post(("86", "115", "133", "139"), "keep", once="p1")
        self.assertEqual(answer.status_code, 302)
        self.post(("86", "115", "133", "139"), "keep", once="p1")
        (entry,) = LogEntry.objects.all()
        self.assertEqual([r["minute"] for r in entry.document["readings"]], list(MINUTES))
        self.assertAlmostEqual(entry.document["readings"][1]["surface_c"], 46.1, delta=0.1)
        page = self.client.get(reverse("log", args=[self.saved.pk]))
        self.assertContains(page, 'value="hookup[0].condition"')
        url = reverse("log-correct", args=[self.saved.pk])
        self.client.post(url, {"field": "hookup[0].condition"})
        stored = SavedSetup.objects.get(pk=self.saved.pk)
        self.assertEqual(repository.compose(stored)["hookup"][0]["condition"], "worn")

    def test_what_is_wrong_is_said_where_it_stands_and_stays(self) -> None:
        answer = self.post(("86", "a lot", "100"))
        self.assertContains(answer, 'value="a lot"', status_code=422)
        self.assertContains(
            answer, 'data-fault-for="entry.readings[1].surface_c">must be', status_code=422
        )
        answer = self.post(("86",))
        self.assertContains(answer, "Two temperatures", status_code=422)
        answer = self.post((), item="7e9")
        self.assertEqual(answer.status_code, 422)

    def test_the_back_of_a_hand_will_do(self) -> None:
        felt = {"entry.by": "hand", "entry.readings[0].felt": "as-the-air",
                "entry.readings[3].felt": "cannot-hold"}  # fmt: skip
        self.assertContains(self.post((), **felt), "Stop: above 60 °C")


class APostRemembered(Base):
    def setUp(self) -> None:
        super().setUp()
        self.post_ = Supply.objects.create(
            owner=self.owner, name="Yard", document=document(5)["supply"]
        )
        self.saved.supply = self.post_
        self.saved.save()

    def visit(self, at: str, open_v: float, volts: float) -> None:
        for clock, read, amps in ((":00", open_v, 0.3), (":05", volts, 12.0)):
            doc = {"kind": "supply", "at": f"{at}{clock}:00-06:00", "volts": read, "amps": amps}
            LogEntry.objects.create(setup=self.saved, kind="supply", document=doc)

    def visits(self) -> None:
        for day in (9, 10):
            self.visit(f"2026-08-{day:02d}T08", 121.0, 119.2)
            self.visit(f"2026-08-{day:02d}T18", 119.0, 115.3)

    def test_its_page_says_when_it_is_soft_and_puts_it_into_the_supply(self) -> None:
        self.visits()
        page = self.client.get(reverse("supply", args=[self.post_.pk]))
        self.assertContains(page, "Soft after 17:00")
        self.assertContains(self.client.get(reverse("supplies")), "soft after 17:00")
        url = reverse("supply-hours", args=[self.post_.pk])
        version = self.post_.version
        answer = self.client.post(url, {"hours": "17", "version": version}, follow=True)
        self.assertContains(answer, "checked with 0.31 Ω")
        stored = Supply.objects.get(pk=self.post_.pk)
        self.assertAlmostEqual(stored.document["source_ohm"], 0.31, delta=0.005)
        self.assertEqual(stored.document["voltage_v"], 119.0)
        late = self.client.post(url, {"hours": "6", "version": version}, follow=True)
        self.assertContains(late, "Look again")
        self.assertAlmostEqual(
            Supply.objects.get(pk=self.post_.pk).document["source_ohm"], 0.31, delta=0.005
        )

    def test_a_setup_there_says_what_the_soft_hours_make_of_it(self) -> None:
        asks = reverse("setup-by-hour")
        form = form_of(document(5), supply_pk=str(self.post_.pk))
        page = reverse("setup", args=[self.saved.pk])
        self.assertNotContains(self.client.get(page), asks)
        self.assertEqual(self.client.post(asks, form).content, b"")
        self.visits()
        self.assertContains(self.client.get(page), asks)
        late = self.client.post(asks, form)
        self.assertContains(late, "After 17:00 this post was read at")
        memory = memory_of(self.post_)
        assert memory is not None
        assert memory.soft is not None
        softer = with_hours(document(5)["supply"], memory.soft)
        checked = judging.judge(document(5) | {"supply": softer}).checked
        assert checked is not None
        self.assertContains(late, signed_percent(checked.result.iron_margin))
        self.assertNotContains(late, checked.result.weakest.sentence[:40])
        soft = Hours(17, 22, "evenings", 4, 108.0, 0.8, 0.9, 1.0)
        with mock.patch.object(Supply, "soft_hours", soft):
            worse = self.client.post(asks, form_of(document(6), supply_pk=str(self.post_.pk)))
        self.assertContains(worse, "Fails")
        self.assertContains(worse, "needs at least 108 V")
        # One that knows it says nothing more; nobody asks with another's post.
        known = form_of(document(5) | {"supply": softer}, supply_pk=str(self.post_.pk))
        self.assertEqual(self.client.post(asks, known).content, b"")
        self.client.force_login(User.objects.create_user("other"))
        self.assertEqual(self.client.post(asks, form).content, b"")
        self.client.logout()
        self.assertEqual(self.client.post(asks, form).status_code, 401)

    def test_paper_says_it_too(self) -> None:
        self.assertEqual(soft_words(document(5), self.post_), "")
        self.visits()
        self.post_ = Supply.objects.get(pk=self.post_.pk)
        words = soft_words(document(5), self.post_)
        self.assertRegex(
            words, r"^After 17:00 this post was read at 0\.3\d Ω, 119 V without load\. Then: "
        )
        drawn: list[str] = []

        def to_paper(html: str, *_: object) -> bytes:
            drawn.append(html)
            return b"%PDF"

        order = {"sets": [], "trades": [], "sequence": {"steps": []}, "interlocks": []}
        with (
            mock.patch.object(report, "to_pdf", to_paper),
            mock.patch.object(card, "to_pdf", to_paper),
            mock.patch.object(card, "order_context", return_value={"sets": (), "trade_rows": (),
                                                                  "steps": ()}),
        ):  # fmt: skip
            for post, times in ((self.post_, 1), (None, 0)):
                drawn.clear()
                report.report_pdf(document(5), post=post)
                card.card_pdf("Card", document(5), order, "a5", post)
                self.assertEqual([html.count(words) for html in drawn], [times, times])

    def test_without_visits_it_says_nothing(self) -> None:
        page = self.client.get(reverse("supply", args=[self.post_.pk]))
        self.assertNotContains(page, "As it was read here")
        url = reverse("supply-hours", args=[self.post_.pk])
        for hours in ("17", "all", "", "x"):
            answer = self.client.post(url, {"hours": hours, "version": 1}, follow=True)
            self.assertContains(answer, "Nothing was read")
        self.client.force_login(User.objects.create_user("other"))
        self.assertEqual(self.client.post(url, {"hours": "17"}).status_code, 404)

    def test_readings_remember_the_hour_of_the_place(self) -> None:
        form = {"kind": "supply", "entry.volts": "120", "offset": "360"}
        url = reverse("log-add", args=[self.saved.pk])
        self.client.post(url, form)
        self.assertTrue(LogEntry.objects.get().document["at"].endswith("-06:00"))
        for bad in ("x", "99999", "", "-", "1e3"):
            LogEntry.objects.all().delete()
            self.client.post(url, form | {"offset": bad})
            self.assertTrue(LogEntry.objects.get().document["at"].endswith("+00:00"), bad)


class TheDevice(Base):
    def test_in_the_demo_nobody_takes_another_s_photographs(self) -> None:
        demo = User.objects.create_user(DEMO_USER)
        self.client.force_login(demo)
        saved = repository.store(demo, judging.judge(document(5)))
        url = reverse("log-display", args=[saved.pk])

        def send(address: str) -> int:
            return self.client.post(url, {"kind": "start"}, REMOTE_ADDR=address).status_code

        with self.settings(LIMITS=settings.LIMITS | {"photo": (1, 86_400)}):
            answers = [send("10.0.0.1"), send("10.0.0.1"), send("10.0.0.2")]
            self.assertEqual(answers, [422, 429, 422])
            self.client.force_login(self.owner)
            url = reverse("log-display", args=[self.saved.pk])
            self.assertEqual([send("10.0.0.1"), send("10.0.0.2")], [422, 429])

    def test_only_the_log_may_ask_for_the_microphone(self) -> None:
        log = self.client.get(reverse("log", args=[self.saved.pk]))
        self.assertIn("microphone=(self)", log["Permissions-Policy"])
        self.assertIn("camera=()", log["Permissions-Policy"])
        other = self.client.get(reverse("setups"))
        self.assertIn("microphone=()", other["Permissions-Policy"])
        self.assertIn("microphone=()", of_the_device(""))

    def test_the_file_of_the_log_carries_no_sounds(self) -> None:
        self.client.post(
            reverse("log-add", args=[self.saved.pk]),
            {"kind": "start", "entry.load": self.load, "entry.outcome": "starts", "keep": "1",
             "kept": evidence.packed("sound", start_wav())},
        )  # fmt: skip
        self.assertEqual(Evidence.objects.count(), 1)
        answer = self.client.get(reverse("log-export", args=[self.saved.pk]))
        self.assertNotIn("evidence", json.loads(answer.content)["entries"][0])
