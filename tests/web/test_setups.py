"""The pages of a setup: who may see what, what is kept, what bad input does."""

from __future__ import annotations

import json
import re
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import Client
from django.urls import reverse

from tests.shared import document
from tests.web.pages import PageCase, press_save
from web.rigs.models import Rig
from web.rigs.typical import loads
from web.setups import judging, repository
from web.setups.demo import documents
from web.setups.form import Form, edited
from web.setups.models import SavedSetup
from web.setups.typical import first_setup
from web.storage import actions
from web.supplies.typical import supplies, supply_document

User = get_user_model()


def form_of(doc: dict[str, Any], units: str = "si", **more: str) -> dict[str, str]:
    """What a browser would post for a document nobody touched."""
    form = Form(doc, units)
    post = {
        "document": json.dumps(doc),
        "units": units,
        "name": doc.get("name", ""),
        "saved": "",
        "version": "0",
    }
    groups = [*form.supply_groups(), form.condition_group(), *form.path_groups()]
    rows = list(form.load_rows())
    for field in [f for g in groups for f in g.fields] + [
        f for r in rows for f in (*r.fields, r.provenance)
    ]:
        if field.kind == "flag":
            post[f"on:{field.path}"] = "1"
            if not field.value:
                continue
        post[field.path] = field.value
    for row in rows:
        post[f"row:{row.ident}"] = "1"
        if row.wanted:
            post[f"want:{row.ident}"] = "on"
        if row.modes:
            post[f"mode:{row.ident}"] = row.mode
    return post | more


class Base(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner", password="a-long-enough-word")
        self.other = User.objects.create_user("other", password="a-long-enough-word")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(document(2)))


class Twice(Base):
    def save(self, **more: str) -> str:
        form = form_of(document(4) | {"name": "Once"}, **more)
        return press_save(self.client, form)["HX-Redirect"]

    def test_the_same_figures_from_the_same_page_are_kept_once(self) -> None:
        first = self.save(once="page")
        self.assertEqual(self.save(once="page"), first)
        self.assertEqual(SavedSetup.objects.filter(name="Once").count(), 1)

    def test_another_page_or_other_figures_are_another_setup(self) -> None:
        self.save(once="page")
        self.save(once="other page")
        self.save(once="page", **{"conditions.outdoor_c": "31"})
        self.save()
        self.save()
        self.assertEqual(SavedSetup.objects.filter(name="Once").count(), 5)

    def test_every_new_page_is_a_page_of_its_own(self) -> None:
        marks = {
            re.search(r'name="once" value="(\w{16})"', page.content.decode()).group(1)
            for page in (self.client.get(reverse("setup-new")) for _ in range(2))
        }
        self.assertEqual(len(marks), 2)


class Held(Base):
    def test_a_verdict_whose_rows_are_held_is_shown_and_noted_later(self) -> None:
        repository.stale_setups(pk=self.saved.pk)
        chip = reverse("setup-chip", args=[self.saved.pk])
        lock = "django.db.models.query.QuerySet.select_for_update"
        for code in repository.HELD_ELSEWHERE:
            with mock.patch(lock, side_effect=OperationalError(code, "held")):
                self.assertEqual(self.client.get(chip).status_code, 200)
            self.assertTrue(SavedSetup.objects.get(pk=self.saved.pk).stale)
        with mock.patch(lock, side_effect=OperationalError(2006, "gone away")):
            self.assertRaises(OperationalError, self.client.get, chip)
        self.client.get(chip)
        self.assertFalse(SavedSetup.objects.get(pk=self.saved.pk).stale)


class Ownership(Base):
    def test_every_page_asks_who_owns_it(self) -> None:
        pk = self.saved.pk
        gets = {
            "setups": [],
            "setup-new": [],
            "setup": [pk],
            "setup-export": [pk],
            "setup-result": [pk],
            "setup-start-csv": [pk],
        }
        posts = {
            "delete": ["setup", pk],
            "restore": ["setup", pk],
            "archive": ["setup", pk],
            "duplicate": ["setup", pk],
        }
        stranger, other = Client(), Client()
        other.force_login(self.other)
        for name, args in gets.items():
            url = reverse(name, args=args)
            self.assertEqual(self.client.get(url).status_code, 200, name)
            self.assertEqual(stranger.get(url).status_code, 302, name)
            self.assertEqual(other.get(url).status_code, 404 if args else 200, name)
        for name, args in posts.items():
            url = reverse(name, args=args)
            self.assertEqual(stranger.post(url).status_code, 401, name)
            self.assertEqual(other.post(url).status_code, 404, name)
            self.assertEqual(self.client.get(url).status_code, 405, name)
        self.assertIsNone(SavedSetup.objects.get(pk=pk).deleted_at)

    def test_a_stranger_computes_nothing_and_keeps_what_was_typed(self) -> None:
        for name in ("setup-preview", "setup-save", "setup-remedy"):
            answer = Client().post(reverse(name), form_of(document(2)))
            self.assertContains(answer, "signed out", status_code=401)

    def test_nobody_saves_over_anothers_setup(self) -> None:
        other = Client()
        other.force_login(self.other)
        answer = other.post(
            reverse("setup-save"), form_of(document(2), saved=str(self.saved.pk), version="1")
        )
        self.assertEqual(answer.status_code, 404)
        self.assertEqual(SavedSetup.objects.get(pk=self.saved.pk).version, 1)

    def test_forms_need_their_token(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.owner)
        self.assertEqual(strict.post(reverse("setup-save"), form_of(document(2))).status_code, 403)


class Saving(Base):
    def test_saved_as_shown_and_back_again(self) -> None:
        post = form_of(
            repository.compose(self.saved), name="Renamed", saved=str(self.saved.pk), version="1"
        )
        answer = press_save(self.client, post)
        self.assertEqual(answer.status_code, 204)
        self.assertEqual(answer["HX-Redirect"], reverse("setup", args=[self.saved.pk]))
        fresh = SavedSetup.objects.get(pk=self.saved.pk)
        self.assertEqual((fresh.name, fresh.version, fresh.verdict), ("Renamed", 2, "fails"))
        before = repository.compose(self.saved) | {"name": ""}
        self.assertEqual(repository.compose(fresh) | {"name": ""}, before)

    def test_an_untouched_form_changes_nothing_in_either_units(self) -> None:
        for units in ("si", "us"):
            for doc in documents():
                self.assertEqual(
                    judging.judge(edited(doc, form_of(doc, units), units)).checked.case.setup,
                    judging.judge(doc).checked.case.setup,
                    doc["name"],
                )

    def test_the_second_of_two_pages_is_told(self) -> None:
        post = form_of(repository.compose(self.saved), saved=str(self.saved.pk), version="1")
        self.assertEqual(press_save(self.client, post | {"name": "First"}).status_code, 204)
        answer = press_save(self.client, post | {"name": "Second"})
        self.assertContains(answer, "saved from another page", status_code=409)
        self.assertEqual(SavedSetup.objects.get(pk=self.saved.pk).name, "First")
        self.assertEqual(
            press_save(self.client, post | {"name": "Second", "as_copy": "1"}).status_code, 204
        )
        self.assertEqual(SavedSetup.objects.of(self.owner).count(), 2)

    def test_a_deletion_can_be_taken_back(self) -> None:
        page = self.client.post(reverse("delete", args=["setup", self.saved.pk]), follow=True)
        self.assertContains(page, "Undo</button>")
        self.assertEqual(self.client.get(reverse("setup", args=[self.saved.pk])).status_code, 404)
        self.client.post(reverse("restore", args=["setup", self.saved.pk]))
        self.assertEqual(self.client.get(reverse("setup", args=[self.saved.pk])).status_code, 200)

    def test_there_is_a_most(self) -> None:
        with mock.patch.object(SavedSetup, "maximum", 1):
            answer = press_save(self.client, form_of(document(2)))
        self.assertContains(answer, "the most there may be", status_code=422)

    def test_export_imports_to_the_same(self) -> None:
        raw = self.client.get(reverse("setup-export", args=[self.saved.pk]))
        self.assertIn(".setup.json", raw["Content-Disposition"])
        answer = self.client.post(
            reverse("setup-import"), {"file": SimpleUploadedFile("a.json", raw.content)}
        )
        again = SavedSetup.objects.get(pk=int(re.search(r"/(\d+)/$", answer["Location"])[1]))
        self.assertEqual(again, self.saved)
        page = self.client.get(answer["Location"])
        self.assertContains(page, "is already here since")
        changed = json.loads(raw.content) | {"notes": "another one"}
        for content in (json.dumps(changed).encode(), raw.content):
            self.client.post(
                reverse("setup-import"), {"file": SimpleUploadedFile("a.json", content)}
            )
        self.assertEqual(SavedSetup.objects.of(self.owner).count(), 2)
        other = User.objects.create_user("another")
        self.client.force_login(other)
        self.client.post(
            reverse("setup-import"), {"file": SimpleUploadedFile("a.json", raw.content)}
        )
        self.assertEqual(SavedSetup.objects.of(other).count(), 1)

    def test_a_file_of_before_is_imported_and_its_former_names_are_said(self) -> None:
        old = json.dumps(document(2) | {"name": "Old", "rules": {"breaker_school": "peak"}})
        file = SimpleUploadedFile("a.json", old.encode())
        page = self.client.post(reverse("setup-import"), {"file": file}, follow=True)
        self.assertContains(page, "breaker_school is now called trip_criterion")
        stored = SavedSetup.objects.get(name="Old")
        self.assertEqual(stored.document["rules"], {"trip_criterion": "peak"})


class Races(PageCase):
    def test_a_verdict_of_a_rig_before_its_change_is_never_kept_as_fresh(self) -> None:
        owner = User.objects.create_user("owner")
        stored = repository.store(owner, judging.judge(document(6)))
        repository.stale_setups(pk=stored.pk)
        read = SavedSetup.objects.select_related("rig", "supply").get(pk=stored.pk)
        rig = read.rig.document | {"main_a": 5}
        actions.change(Rig.objects.get(pk=read.rig_id), 1, document=rig)  # while it computes
        repository.judge_saved(read)
        now = SavedSetup.objects.get(pk=stored.pk)
        self.assertTrue(now.stale)
        repository.judge_saved(now)
        now.refresh_from_db()
        self.assertEqual((now.stale, now.verdict), (False, "fails"))


class Judging(Base):
    def test_the_page_says_what_the_core_says(self) -> None:
        page = self.client.get(reverse("setup", args=[self.saved.pk])).content.decode()
        result = judging.judge(document(2)).checked.result
        self.assertIn(result.weakest.sentence, page)
        self.assertIn("−15 %", page)
        answer = self.client.get(reverse("setup-result", args=[self.saved.pk])).json()
        self.assertEqual((answer["verdict"], answer["format"]), ("fails", "iron-margin/result"))

    def test_a_change_changes_the_verdict_and_stores_nothing(self) -> None:
        post = form_of(document(2)) | {"supply.continuous_w": "3600", "supply.starting_w": "4,400"}
        answer = self.client.post(reverse("setup-preview"), post)
        self.assertContains(answer, '<span id="verdict-word">Holds</span>')
        self.assertEqual(SavedSetup.objects.get(pk=self.saved.pk).document, self.saved.document)

    def test_the_largest_motor_is_drawn_unless_one_is_chosen(self) -> None:
        alder = next(d for d in documents() if d["name"].endswith("unaided"))
        self.assertEqual(judging.judge(alder).picture, "condenser")
        self.assertEqual(judging.judge(alder, "well").picture, "well")
        self.assertIsNone(judging.judge(document(11)).picture)

    def test_the_remedy_comes_after(self) -> None:
        self.assertContains(
            self.client.post(reverse("setup-remedy"), form_of(document(2))), "Fit a soft starter"
        )
        self.assertEqual(
            self.client.post(reverse("setup-remedy"), {"document": "{}"}).status_code, 204
        )

    def test_typical_ones_are_offered_and_marked(self) -> None:
        self.client.force_login(self.other)  # who has no rig yet
        page = self.client.get(reverse("setup-new"))
        self.assertContains(page, "2.2 kW class")
        self.assertContains(page, '<span class="chip">typical</span>')
        for key, _ in supplies()[::3] + supplies()[-5:]:
            answer = self.client.post(
                reverse("setup-preview"), form_of(first_setup()) | {"use_supply": key}
            )
            self.assertEqual(answer.status_code, 422 if "230" in key else 200, key)
        self.assertIsNone(supply_document("nothing"))
        doc = first_setup()
        for key, _ in loads()[::9]:
            answer = self.client.post(reverse("setup-preview"), form_of(doc) | {"add_load": key})
            self.assertIn(answer.status_code, (200, 422), key)
            self.assertContains(answer, 'id="group-loads"', status_code=answer.status_code)

    def test_a_load_is_taken_out(self) -> None:
        answer = self.client.post(
            reverse("setup-preview"), form_of(document(5)) | {"remove_load": "micro"}
        )
        self.assertNotContains(answer, "want:micro")
        self.assertContains(
            answer,
            "Thin" if judging.judge(document(6)).checked.result.verdict == "thin" else "Holds",
        )

    def test_units_change_what_is_shown_not_what_is_meant(self) -> None:
        post = form_of(document(2), "us", units_changed="si")
        answer = self.client.post(reverse("setup-preview"), post)
        self.assertContains(answer, 'value="27"')
        typed = edited(
            document(2),
            form_of(document(2), "us")
            | {"conditions.outdoor_c": "104", "conditions.altitude_m": "5000"},
            "us",
        )
        self.assertAlmostEqual(typed["conditions"]["outdoor_c"], 40.0)
        self.assertAlmostEqual(typed["conditions"]["altitude_m"], 1524.0)
