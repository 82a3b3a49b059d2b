"""The first five minutes and what two people do to one setup: six answers, saving without scripts,
variants with names, both changes put together, a report for a client.
"""

from __future__ import annotations

import re
from typing import Any

from django.contrib.auth.models import User
from django.test import SimpleTestCase
from django.urls import reverse
from hypothesis import given
from hypothesis import strategies as st

from ironmargin.errors import SetupError
from ironmargin.setup.reading import read_setup
from tests.shared import document
from tests.web.pages import PageCase, one_line
from tests.web.test_setups import form_of
from web.accounts.demo import DEMO_USER
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import Draft, SavedSetup
from web.storage.merging import merged
from web.verdicts.first import BRANCHES, CORDS, STARTS, document_of, lists_of


class SixAnswers(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)

    def test_whatever_is_answered_is_a_sound_question(self) -> None:
        """In every branch every supply with every cooler, alone and as two."""
        refused = set()
        for branch in BRANCHES.values():
            lists = lists_of(branch)
            feeds = lists.get("feed", ("", (("none", ""),)))[1]
            for supply, _ in lists["supply"][1]:
                for cooler, _ in lists["cooler"][1]:
                    for second, feed in (("no", feeds[0][0]), ("yes", feeds[-1][0])):
                        answers = {
                            "supply": supply, "cord": CORDS[1][0], "cooler": cooler,
                            "start": STARTS[1][0], "second": second, "feed": feed,
                        }  # fmt: skip
                        made = document_of(answers, list(branch.beside), "x", branch)
                        try:
                            read_setup(made)
                        except SetupError as error:
                            refused |= {(supply, cooler, str(f)) for f in error.faults}
        self.assertEqual(refused, set())

    def test_every_branch_leads_to_a_verdict(self) -> None:
        for key, branch in BRANCHES.items():
            page = self.client.get(reverse("first-rig"), {"what": key})
            self.assertContains(page, branch.words)
            for name, (words, _) in lists_of(branch).items():
                self.assertContains(page, words)
                self.assertContains(page, f'name="{name}"')
            ticked = re.findall(r'value="([\w-]+)" checked', one_line(page.content.decode()))
            posted = {"what": key, "beside": ticked, "name": f"My {key}", "once": key}
            answer = self.client.post(reverse("first-rig"), posted)
            self.assertEqual(answer.status_code, 302, key)
            self.assertContains(self.client.get(answer["Location"]), 'id="verdict-word"')

    def test_a_house_says_how_it_is_connected_and_what_its_plate_says(self) -> None:
        posted = {
            "what": "house", "supply": "inv-7000", "cooler": "condenser-25", "feed": "switch",
            "running_a": "11,9", "lra_a": "61", "beside": ["well-pump-half"], "name": "Home",
        }  # fmt: skip
        self.client.post(reverse("first-rig"), posted)
        setup = read_setup(repository.compose(SavedSetup.objects.get()))
        self.assertEqual(setup.rig.what, "building")
        self.assertEqual([x.kind for x in setup.hookup], ["cord", "inlet", "transfer"])
        unit = setup.rig.loads[0]
        self.assertEqual((unit.running_a, unit.lra_a, unit.provenance), (11.9, 61.0, "plate"))
        self.assertEqual(len(setup.rig.loads), 2)

    def test_what_was_chosen_on_the_front_page_comes_along(self) -> None:
        self.client.logout()
        requested = {"supply": "post-30", "load": "ac-15k", "start": "soft-start"}
        self.client.get("/", requested)
        posted = {"username": "new", "password1": "wet-clay-iron", "password2": "wet-clay-iron"}
        self.client.post(reverse("sign-up"), posted)
        page = one_line(self.client.get(reverse("first-rig")).content.decode())
        for value in requested.values():
            self.assertIn(f'<option value="{value}" selected>', page)

    def test_password_rules_stand_before_the_first_try(self) -> None:
        self.client.logout()
        self.assertContains(self.client.get(reverse("sign-up")), "at least 8 characters")

    def test_the_answers_become_a_rig_with_its_verdict(self) -> None:
        posted = {
            "supply": "post-30", "cord": "15.24", "cooler": "ac-15k", "start": "soft-start",
            "second": "yes", "beside": ["fridge-rv", "microwave-rv"], "name": "Wagon",
        }  # fmt: skip
        answer = self.client.post(reverse("first-rig"), posted | {"once": "a1"})
        saved = SavedSetup.objects.get()
        self.assertEqual(answer["Location"], reverse("setup", args=[saved.pk]))
        setup = read_setup(repository.compose(saved))
        self.assertEqual([w.load for w in setup.wanted][:2], ["ac-15k", "ac-15k-2"])
        self.assertEqual({x.start for x in setup.rig.loads[:2]}, {"soft-start"})
        self.assertEqual(setup.hookup[0].length_m, 15.24)
        self.assertEqual((saved.name, Rig.objects.get().name), ("Wagon", "Wagon"))
        self.client.post(reverse("first-rig"), posted | {"once": "a1"})  # pressed twice
        self.assertEqual(SavedSetup.objects.count(), 1)

    def test_nonsense_is_the_usual(self) -> None:
        self.client.post(reverse("first-rig"), {"supply": "x", "cord": "9e9", "beside": ["x"]})
        made = read_setup(repository.compose(SavedSetup.objects.get()))
        self.assertEqual(made.hookup[0].length_m, 7.62)

    def test_who_signs_up_is_asked_them(self) -> None:
        self.client.logout()
        posted = {"username": "new", "password1": "wet-clay-iron", "password2": "wet-clay-iron"}
        answer = self.client.post(reverse("sign-up"), posted)
        self.assertRedirects(answer, reverse("first-rig"))


class WithoutScripts(PageCase):
    """A browser that runs no script posts the form itself and gets whole pages back."""

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = repository.store(
            self.owner, judging.judge(document(2) | {"rules": {"trials": 0}})
        )

    def post(self, **more: Any) -> Any:
        saved = SavedSetup.objects.get(pk=self.saved.pk)
        form = form_of(repository.compose(saved), saved=str(saved.pk), version=str(saved.version))
        form |= {
            "rig_pk": saved.rig_id, "rig_version": saved.rig.version,
            "supply_pk": saved.supply_id, "supply_version": saved.supply.version,
        }  # fmt: skip
        return self.client.post(reverse("setup-save"), form | more)

    def test_the_page_offers_it(self) -> None:
        page = self.client.get(reverse("setup", args=[self.saved.pk])).content.decode()
        hidden = "".join(re.findall(r"<noscript>(.*?)</noscript>", page, re.DOTALL))
        self.assertIn("Save and compute</button>", hidden)
        self.assertIn("Without scripts the verdict is computed when you save", one_line(hidden))

    def test_saving_leads_back_to_the_page(self) -> None:
        answer = self.post(name="Renamed")
        self.assertRedirects(answer, reverse("setup", args=[self.saved.pk]))
        self.assertEqual(SavedSetup.objects.get().name, "Renamed")

    def test_a_fault_comes_back_on_a_whole_page_with_what_was_typed(self) -> None:
        answer = self.post(**{"rig.loads[0].lra_a": "many"})
        self.assertContains(answer, "<!doctype html>", status_code=422)
        self.assertContains(answer, 'value="many"', status_code=422)

    def test_a_conflict_comes_on_a_whole_page(self) -> None:
        answer = self.post(version="0")
        self.assertContains(answer, "was saved from another page", status_code=409)
        self.assertContains(answer, "<!doctype html>", status_code=409)


class Variants(WithoutScripts):
    def test_a_variant_s_name_says_what_differs(self) -> None:
        self.post(as_copy="1", **{"rig.loads[0].lra_a": "41"})
        variant = SavedSetup.objects.exclude(pk=self.saved.pk).get()
        self.assertRegex(variant.name, rf"^{re.escape(self.saved.name)}: .*lra.a .*41")
        self.assertEqual(variant.supply, self.saved.supply)

    def test_a_name_of_its_own_stays(self) -> None:
        self.post(as_copy="1", name="Mine")
        self.assertEqual(SavedSetup.objects.exclude(pk=self.saved.pk).get().name, "Mine")

    def test_side_by_side_says_first_what_differs(self) -> None:
        self.post(as_copy="1", **{"rig.loads[0].lra_a": "41"})
        variant = SavedSetup.objects.exclude(pk=self.saved.pk).get()
        url = reverse("setup-compare")
        page = self.client.get(url, {"pk": [self.saved.pk, variant.pk]})
        text = one_line(page.content.decode())
        self.assertRegex(
            text, r"Differs from the first</h3> <ul[^>]*><li>[^<]*lra a from \d+ to 41"
        )
        self.assertLess(text.index("Differs from the first"), text.index("Every check"))


class BothChanges(WithoutScripts):
    def theirs(self) -> None:
        """Somebody else raises the locked-rotor amps and renames the setup."""
        self.post(name="Theirs", **{"rig.loads[0].lra_a": "44"})

    def test_each_figure_is_shown_and_both_are_put_together(self) -> None:
        before = SavedSetup.objects.select_related("rig", "supply").get()
        read = {
            "version": before.version, "rig_version": before.rig.version,
            "supply_version": before.supply.version,
        }  # fmt: skip
        mine = form_of(repository.compose(before), saved=str(before.pk)) | read
        mine |= {"rig_pk": before.rig_id, "supply_pk": before.supply_id}
        mine |= {"rig.loads[0].running_a": "13.25", "name": "Mine"}
        self.theirs()
        answer = self.client.post(reverse("setup-save"), mine)
        text = one_line(answer.content.decode())
        self.assertEqual(answer.status_code, 409)
        self.assertIn("lra a", text)
        self.assertIn("44", text)
        self.assertIn("13.25", text)
        self.assertIn("(both changed it)", text)  # the name
        self.assertIn("Merge both", text)
        both = Draft.objects.get(owner=self.owner).document
        load = both["rig"]["loads"][0]
        self.assertEqual((load["lra_a"], load["running_a"]), (44, 13.25))
        self.assertEqual(both["name"], "Mine")
        page = self.client.get(reverse("setup", args=[before.pk]), {"draft": "1"}).content.decode()
        versions = dict(re.findall(r'name="(version|rig_version)"\s+value="(\d+)"', page))
        again = mine | {"rig.loads[0].lra_a": "44"} | versions
        self.assertEqual(self.client.post(reverse("setup-save"), again).status_code, 302)
        load = Rig.objects.get().document["loads"][0]
        self.assertEqual((load["lra_a"], load["running_a"]), (44, 13.25))

    def test_in_the_demo_nothing_is_kept_for_the_next_visitor(self) -> None:
        self.owner.username = DEMO_USER
        self.owner.save()
        answer = self.post(version="0")
        self.assertNotContains(answer, "Merge both", status_code=409)
        self.assertFalse(Draft.objects.exists())


VALUES = st.one_of(st.integers(0, 3), st.booleans(), st.text("ab", max_size=2))
DOCS = st.recursive(
    VALUES, lambda inner: st.dictionaries(st.sampled_from("abc"), inner, max_size=3), max_leaves=8
)


class Merging(SimpleTestCase):
    @given(DOCS, DOCS)
    def test_what_one_alone_changed_is_theirs_alone(self, base: Any, one: Any) -> None:
        self.assertEqual(merged(base, one, base)[0], one)
        self.assertEqual(merged(base, base, one)[0], one)
        self.assertEqual(merged(base, one, one), (one, []))

    @given(DOCS, DOCS, DOCS)
    def test_where_both_changed_a_figure_the_later_decides(self, a: Any, b: Any, c: Any) -> None:
        base, theirs, yours = ({"x": v, "y": v} for v in (a, b, c))
        yours["y"] = base["y"]
        both, rows = merged(base, theirs, yours)
        self.assertEqual(both["y"], theirs["y"])
        if not isinstance(b, dict) and a != c != b != a:
            self.assertEqual(both["x"], c)
            self.assertTrue(any(r.both for r in rows))

    def test_items_are_known_by_their_id(self) -> None:
        base = [{"id": "a", "v": 1}, {"id": "b", "v": 1}]
        theirs = [{"id": "b", "v": 2}, {"id": "a", "v": 1}]
        yours = [{"id": "a", "v": 3}, {"id": "b", "v": 1}, {"id": "c", "v": 1}]
        both, rows = merged(base, theirs, yours)
        self.assertEqual({x["id"]: x["v"] for x in both}, {"a": 3, "b": 2, "c": 1})
        self.assertEqual(sorted(r.where for r in rows), ["a v", "b v", "c"])
