"""Setups with bad input, the demo, and accounts."""

from __future__ import annotations

import json
import re

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from tests.shared import document, path_of
from tests.web.pages import PageCase
from tests.web.test_setups import Base, User, form_of
from web.setups import judging, repository
from web.setups.demo import DEMO_USER, documents, load_demo
from web.setups.models import SavedSetup


class BadInput(Base):
    def test_bad_figures_are_named_by_their_field_and_kept(self) -> None:
        cases = {
            "-5": "must be above 0",
            "0": "must be above 0",
            "sixty": "must be a number",
            "nan": "must be a finite number",
            "1e308": "must be at most",
            "900": "at least continuous_w 1800",
            "<script>alert(1)</script>": "must be a number",
        }
        for typed, words in cases.items():
            post = form_of(document(2)) | {"supply.starting_w": typed}
            for name in ("setup-preview", "setup-save"):
                answer = self.client.post(reverse(name), post)
                self.assertContains(answer, words, status_code=422)
                self.assertContains(answer, 'data-fault="supply.starting_w"', status_code=422)
                self.assertNotContains(answer, "<script>alert", status_code=422)
        self.assertEqual(SavedSetup.objects.of(self.owner).count(), 1)

    def test_what_was_typed_stays_when_the_form_is_drawn_anew(self) -> None:
        post = form_of(document(2)) | {"supply.starting_w": "sixty", "units_changed": "us"}
        self.assertContains(
            self.client.post(reverse("setup-preview"), post), 'value="sixty"', status_code=422
        )

    def test_documents_that_are_none(self) -> None:
        for raw in ("", "[]", "{", "null", "[" * 5000, "x" * 1_100_000):
            for name in ("setup-preview", "setup-save"):
                answer = self.client.post(reverse(name), {"document": raw})
                self.assertIn(answer.status_code, (400, 422), raw[:20])
        for raw in (
            "{}",
            '{"rig": 3, "supply": [], "hookup": "x", "wanted": 9}',
            '{"rig": {"loads": [1, null, {"kind": "motor"}]}, "hookup": [3]}',
            '{"supply": {"kind": "parallel", "units": 4}}',
            '{"supply": {"kind": "assist", "input": 5}}',
            '{"hookup": {"a": 1}, "wanted": [{"load": [1]}]}',
        ):
            answer = self.client.post(
                reverse("setup-preview"), {"document": raw, "add_load": "tv", "remove_load": "a"}
            )
            self.assertEqual(answer.status_code, 422, raw)

    def test_files_that_are_none(self) -> None:
        cases = [
            (b"{", "not JSON"),
            (b"x" * 1_000_001, "at most"),
            (path_of(12).read_bytes(), "unknown field"),
            (b"\xff", "UTF-8"),
            (b"", "not JSON"),
        ]
        for raw, words in cases:
            answer = self.client.post(
                reverse("setup-import"), {"file": SimpleUploadedFile("a.json", raw)}
            )
            self.assertEqual(answer.status_code, 422, words)
            self.assertIn(words, answer.content.decode() if raw else words)
        self.assertContains(self.client.post(reverse("setup-import")), "choose a", status_code=422)
        self.assertEqual(SavedSetup.objects.of(self.owner).count(), 1)

    def test_addresses_that_are_none(self) -> None:
        for url in (
            "/setups/999999/",
            "/nothing",
            "/setups/?page=x&q=" + "y" * 500,
            "/setups/%00/",
        ):
            self.assertIn(self.client.get(url).status_code, (200, 404), url)

    def test_a_name_with_markup_is_only_a_name(self) -> None:
        doc = document(2) | {"name": "<img src=x onerror=alert(1)>"}
        saved = repository.store(self.owner, judging.judge(doc))
        self.assertNotContains(self.client.get(reverse("setup", args=[saved.pk])), "<img")


class Demo(PageCase):
    def test_the_demo_is_made_once_and_shows_all_three_verdicts(self) -> None:
        self.assertEqual(load_demo(), len(documents()))
        self.assertEqual(load_demo(), 0)
        mine = SavedSetup.objects.filter(owner__username=DEMO_USER)
        for rig in ("Clay wagon", "Alder Creek", "Comet van"):
            self.assertIn("fails", {s.verdict for s in mine if s.name.startswith(rig)}, rig)
        self.assertEqual({s.verdict for s in mine}, {"holds", "thin", "fails"})

    def test_the_first_thing_seen_is_the_clay_wagon_failing(self) -> None:
        load_demo()
        page = self.client.post(reverse("enter-demo"), follow=True)
        page = self.client.get(page.redirect_chain[-1][0])
        self.assertContains(page, "Clay wagon")
        self.assertContains(page, "Fails")
        self.assertContains(
            page,
            "Rear unit&#x27;s start goes over the 30 A breaker rating with Water heater and "
            "Front unit running",
        )
        remedy = self.client.post(
            reverse("setup-remedy"), {"document": json.dumps(documents()[-1]), "units": "si"}
        )
        self.assertContains(remedy, "Leave Water heater off")
        self.assertContains(remedy, "+14 %")

    def test_no_demo_where_it_is_closed(self) -> None:
        with self.settings(DEMO=False):
            self.assertEqual(self.client.post(reverse("enter-demo")).status_code, 404)
            self.assertNotContains(self.client.get(reverse("home")), "Open the demo")


class Accounts(PageCase):
    def test_sign_up_sign_in_and_out(self) -> None:
        answer = self.client.post(
            reverse("sign-up"),
            {
                "username": "new",
                "email": "",
                "password1": "a-long-enough-word",
                "password2": "a-long-enough-word",
            },
        )
        self.assertRedirects(answer, reverse("first-rig"))
        self.client.post(reverse("sign-out"))
        self.assertEqual(self.client.get(reverse("setups")).status_code, 302)
        answer = self.client.post(
            reverse("sign-in"), {"username": "new", "password": "a-long-enough-word"}
        )
        self.assertRedirects(answer, reverse("setups"))

    def test_a_forgotten_password(self) -> None:
        from django.core import mail

        User.objects.create_user("owner", email="owner@example.org", password="a-long-enough-word")
        self.assertRedirects(
            self.client.post(reverse("password-reset"), {"email": "owner@example.org"}),
            reverse("password-reset-done"),
        )
        way = re.search(r"/account/reset/\S+", mail.outbox[0].body)[0]
        page = self.client.get(way, follow=True)
        answer = self.client.post(
            page.redirect_chain[-1][0],
            {"new_password1": "another-long-word", "new_password2": "another-long-word"},
        )
        self.assertRedirects(answer, reverse("sign-in"))
        self.assertTrue(User.objects.get().check_password("another-long-word"))
        self.assertContains(self.client.get(way), "no longer works")
        self.client.post(reverse("password-reset"), {"email": "nobody@example.org"})
        self.assertEqual(len(mail.outbox), 1)

    def test_weak_passwords_are_refused_with_a_reason(self) -> None:
        answer = self.client.post(
            reverse("sign-up"),
            {"username": "new", "password1": "12345678", "password2": "12345678"},
        )
        self.assertContains(answer, "too common", status_code=422)

    def test_five_wrong_passwords_lock(self) -> None:
        User.objects.create_user("owner", password="a-long-enough-word")
        codes = [
            self.client.post(
                reverse("sign-in"), {"username": "owner", "password": "wrong"}
            ).status_code
            for _ in range(6)
        ]
        self.assertEqual(codes[0], 200)
        self.assertEqual(codes[-1], 429)

    def test_headers_keep_scripts_out(self) -> None:
        policy = self.client.get(reverse("home"))["Content-Security-Policy"]
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)

    def test_no_template_carries_script_or_style(self) -> None:
        from web.project.settings import BASE_DIR

        for file in (BASE_DIR / "web").rglob("*.html"):
            text = file.read_text(encoding="utf-8")
            self.assertIsNone(
                re.search(r"<style|\sstyle=|\son\w+=|<script(?![^>]*\ssrc=)", text), file
            )
