"""Rigs, supplies, paths and the account: who may see what, how edits are kept, what bad input does,
open formats both ways.
"""

from __future__ import annotations

import json
import re
from typing import Any

from django.contrib.auth import get_user_model
from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver, reverse

from ironmargin.setup.parts import read_rig
from tests.shared import document
from tests.web.pages import PageCase, one_line, press_save
from tests.web.test_setups import form_of
from web.clients.document import empty
from web.clients.models import Client as KeptClient
from web.rigs import service, table
from web.rigs.models import Rig
from web.setups import judging, repository, typical
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage.models import Change
from web.supplies import typical as typical_supplies
from web.supplies.models import Supply

User = get_user_model()
OPEN = {
    "home",
    "sign-in",
    "sign-up",
    "sign-out",
    "enter-demo",
    "service-worker",
    "manifest",
    "who",
    "offline",
    "health",
    "ready",
    "password-reset",
    "password-reset-done",
    "password-reset-confirm",
    "shared",
    "shared-report",
}
"""Addresses that ask for no account."""


def every_view() -> list[tuple[str, list[str], Any]]:
    """(name, names of its arguments, view) of every address of the site."""
    found = []

    def walk(patterns: list[Any], before: list[str]) -> None:
        for p in patterns:
            inner = before + list(p.pattern.converters)
            if isinstance(p, URLResolver) and p.namespace:
                continue  # the programs' interface asks for tokens: tests/web/test_api.py
            if isinstance(p, URLResolver):
                walk(p.url_patterns, inner)
            elif isinstance(p, URLPattern) and p.name:
                found.append((p.name, inner, p.callback))

    walk(get_resolver().url_patterns, [])
    return found


def every_url() -> list[tuple[str, list[str]]]:
    """(name, names of its arguments) of every address of the site."""
    return [(name, args) for name, args, _ in every_view()]


KIND_OF = {"search": "remedies", "bench-export": "csv"}


def arguments(name: str, item: Any, entry: Any) -> dict[str, Any]:
    """What an address may be asked with, by the names of its arguments."""
    return {
        "pk": item.pk,
        "kind": KIND_OF.get(name, "setup"),
        "change": entry.pk,
        "token": "x",
        "number": 0,
        "job": 1,
        "size": "a5",
        "purpose": "tripped",
        "entry": 1,
        "exam": "x",
        "photo": 1,
    }


class Base(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner", password="a-long-enough-word")
        self.other = User.objects.create_user("other", password="a-long-enough-word")
        self.client.force_login(self.owner)
        self.stored_client = actions.make(KeptClient, self.owner, "A client", empty())
        self.rig = service.make(self.owner, "Wagon", "120/240")
        self.rig = service.add_load(
            self.rig,
            1,
            {
                "name": "Roof",
                "kind": "air-conditioner",
                "running_a": 12.5,
                "lra_a": 60,
                "from": "plate",
            },
        )
        self.rig = service.add_load(
            self.rig,
            2,
            {"name": "Kettle", "kind": "resistive", "watts": 1500, "leg": "L2", "from": "plate"},
        )

    def post(self, address: str, rig: Rig | None = None, **values: Any) -> Any:
        rig = rig or self.rig
        answer = self.client.post(
            reverse(address, args=[rig.pk]),
            {"version": Rig.objects.get(pk=rig.pk).version} | values,
        )
        self.rig = Rig.objects.get(pk=self.rig.pk)
        return answer


class Ownership(Base):
    coarse_maps = True

    def test_what_is_open_to_strangers_is_named_here(self) -> None:
        """A view that says nothing is shut; one that opens is to be read by two people."""
        opened = {n for n, _, view in every_view() if not getattr(view, "login_required", True)}
        self.assertEqual(opened, OPEN)

    def test_who_was_signed_out_keeps_what_was_typed(self) -> None:
        url, stranger = reverse("rig-edit", args=[self.rig.pk]), Client()
        part = stranger.post(url, {"version": 1}, headers={"HX-Request": "true"})
        self.assertContains(part, "What you typed is still here", status_code=401)
        self.assertNotContains(part, "<html", status_code=401)
        page = stranger.post(url, {"version": 1})
        self.assertContains(page, "Back button", status_code=401)
        looked_at = stranger.get(reverse("rig", args=[self.rig.pk]) + "?units=si")
        self.assertRedirects(
            looked_at,
            f"{reverse('sign-in')}?next={reverse('rig', args=[self.rig.pk])}%3Funits%3Dsi",
        )

    def test_every_address_asks_who_owns_it(self) -> None:
        setup = repository.store(self.owner, judging.judge(document(2)))
        entry = Change.objects.filter(kind="setup", item=setup.pk).first()
        supply = setup.supply
        stranger, other = Client(), Client()
        other.force_login(self.other)
        seen = 0
        for name, args in every_url():
            if name in OPEN:
                continue
            item = {"rig": self.rig, "supply": supply, "client": self.stored_client}.get(
                name.split("-")[0].removesuffix("s"), setup
            )
            values = arguments(name, item, entry)
            url = reverse(name, args=[values[a] for a in args])
            for method in ("get", "post"):
                code = getattr(stranger, method)(url).status_code
                self.assertIn(code, (302, 401, 405), f"stranger {method} {name}")
                if "pk" in args:
                    code = getattr(other, method)(url).status_code
                    self.assertIn(code, (404, 405), f"other {method} {name}")
            if self.client.get(url).status_code == 200:
                seen += 1
        self.assertGreater(seen, 14)
        self.assertEqual(SavedSetup.objects.of(self.owner).count(), 1)

    def test_nothing_of_anothers_rig_can_be_put_into_a_setup(self) -> None:
        theirs = service.make(self.other, "Theirs", "120")
        answer = self.client.post(
            reverse("setup-preview"), form_of(document(2)) | {"kept_rig": str(theirs.pk)}
        )
        self.assertNotContains(answer, "Theirs")


class Linked(Base):
    def test_a_saved_setup_puts_its_rig_and_supply_into_the_inventory_once(self) -> None:
        one = repository.store(self.owner, judging.judge(document(2)))
        two = repository.store(self.owner, judging.judge(document(2) | {"name": "Again"}))
        self.assertEqual((one.rig, one.supply), (two.rig, two.supply))
        self.assertEqual(Supply.objects.of(self.owner).count(), 1)
        self.assertEqual(one.supply.name, "1.8 kW generator, gasoline")

    def test_figures_changed_in_a_setup_change_its_rig_unless_it_is_a_variant(self) -> None:
        one = repository.store(self.owner, judging.judge(document(2)))
        post = form_of(repository.compose(one)) | {
            "saved": one.pk,
            "version": 1,
            "rig_pk": one.rig_id,
            "rig_version": 1,
            "supply_pk": one.supply_id,
            "supply_version": 1,
            "rig.loads[0].lra_a": "48",
        }
        self.assertEqual(press_save(self.client, post).status_code, 204)
        self.assertEqual(Rig.objects.get(pk=one.rig_id).document["loads"][0]["lra_a"], 48)
        answer = press_save(
            self.client, post | {"rig.loads[0].lra_a": "44", "as_copy": "1", "version": 2}
        )
        self.assertEqual(answer.status_code, 204)
        self.assertEqual(Rig.objects.get(pk=one.rig_id).document["loads"][0]["lra_a"], 48)
        variant = SavedSetup.objects.of(self.owner).first()
        self.assertIsNone(variant.rig)
        self.assertEqual(variant.supply, one.supply)
        conflict = press_save(self.client, post | {"rig.loads[0].lra_a": "40", "version": 2})
        self.assertContains(conflict, "was saved from another page", status_code=409)
        self.assertEqual(Rig.objects.get(pk=one.rig_id).document["loads"][0]["lra_a"], 48)

    def test_choosing_another_rig_and_supply(self) -> None:
        post = form_of(document(2)) | {"kept_rig": self.rig.pk}
        answer = self.client.post(reverse("setup-preview"), post)
        self.assertContains(answer, "want:roof")
        page = self.client.get(reverse("setup-new"), {"rig": self.rig.pk})
        self.assertContains(page, "Wagon")

    def test_a_load_that_left_the_rig_is_no_longer_wished_for(self) -> None:
        setup = repository.store(self.owner, judging.judge(document(5)))
        rig = setup.rig
        self.post("rig-remove", rig, load="micro")
        setup = SavedSetup.objects.get(pk=setup.pk)
        self.assertNotIn("micro", [w["load"] for w in repository.compose(setup)["wanted"]])
        self.assertEqual(self.client.get(reverse("setup", args=[setup.pk])).status_code, 200)

    def test_side_by_side(self) -> None:
        stored = [repository.store(self.owner, judging.judge(document(n))) for n in (2, 4, 7)]
        page = self.client.get(reverse("setup-compare"), {"pk": [s.pk for s in stored]})
        self.assertContains(page, "Main breaker")
        self.assertContains(page, stored[2].name)
        self.assertContains(self.client.get(reverse("setup-compare")), "Choose some setups")


class Path(Base):
    def test_the_path_is_changed_on_the_drawing(self) -> None:
        doc = document(6)
        cases = [
            ("insert:0:guard-30", ["guard", "adapter", "cord"]),
            ("remove:0", ["cord"]),
            ("move:0:1", ["cord", "adapter"]),
            ("replace:1:cord-10-8m", ["adapter", "cord"]),
            ("nonsense", ["adapter", "cord"]),
            ("insert:0:nothing", ["adapter", "cord"]),
        ]
        for requested, kinds in cases:
            answer = self.client.post(
                reverse("setup-preview"), form_of(doc) | {"path_op": requested}
            )
            self.assertEqual(
                [x["kind"] for x in typical.path_changed(doc["hookup"], requested)], kinds
            )
            self.assertEqual(answer.content.count(b'class="part-row"'), len(kinds), requested)

    def test_every_typical_part_reads(self) -> None:
        for key, _ in typical.parts():
            part = typical.part_document(key)
            self.assertIsNotNone(part)
            judged = judging.judge(document(6) | {"hookup": [part]})
            self.assertTrue(
                judged.checked is not None
                or all(f.code in ("adapter-feeds", "transformer") for f in judged.faults),
                (key, judged.faults),
            )

    def test_the_drawing_agrees_with_the_core(self) -> None:
        judged = judging.judge(document(8))
        answer = self.client.post(
            reverse("setup-preview"), form_of(document(8)) | {"path_op": "nonsense"}
        )
        page = one_line(answer.content.decode())
        for row in judged.checked.result.path:
            found = re.search(
                rf'data-part="{row.item}" data-state="(\w+)" data-margin="([-\d.]+)"', page
            )
            self.assertAlmostEqual(float(found[2]), row.margin, places=3)


class Supplies(Base):
    def test_make_change_and_keep(self) -> None:
        for key, _ in typical_supplies.supplies():
            answer = self.client.post(reverse("supplies"), {"typical": key})
            self.assertEqual(answer.status_code, 302, key)
            self.assertEqual(self.client.get(answer["Location"]).status_code, 200, key)
        own = Supply.objects.of(self.owner)
        for item in own:  # whether the sun is first matters where there is an input beside it
            page = self.client.get(reverse("supply", args=[item.pk])).content.decode()
            requested = item.document["kind"] == "assist"
            self.assertEqual('name="supply.inverter.sun_first"' in page, requested, item.name)
        item = own.filter(document__kind="generator").first()
        url = reverse("supply-preview", args=[item.pk])
        post = {
            "document": json.dumps(item.document),
            "units": "us",
            "version": 1,
            "name": "Mine",
            "supply.fuel": "propane",
            "outdoor_c": "104",
            "altitude_m": "5000",
        }
        self.assertContains(self.client.post(url, post), "on propane")
        self.assertContains(
            self.client.post(url, post | {"supply.starting_w": "5"}),
            "must be at least",
            status_code=422,
        )
        self.assertEqual(
            self.client.post(reverse("supply-save", args=[item.pk]), post).status_code, 204
        )
        item.refresh_from_db()
        self.assertEqual((item.name, item.document["fuel"], item.version), ("Mine", "propane", 2))
        self.assertContains(
            self.client.post(reverse("supply-save", args=[item.pk]), post),
            "another page",
            status_code=409,
        )
        self.assertContains(
            self.client.post(
                reverse("supply-save", args=[item.pk]), post | {"name": "", "version": 2}
            ),
            "must not be empty",
            status_code=422,
        )
        self.assertContains(
            self.client.post(reverse("supplies"), {"typical": "nothing"}),
            "choose what kind",
            status_code=422,
        )

    def test_known_points_and_two_readings(self) -> None:
        self.client.post(reverse("supplies"), {"typical": "inv-3400"})
        item = Supply.objects.of(self.owner).get(document__kind="generator")
        post = {
            "document": json.dumps(item.document),
            "units": "si",
            "version": 1,
            "name": "Set",
            "supply.fuel_points": "775 12; 3100 4.5",
            "supply.noise.dba": "59",
        }
        self.assertEqual(
            self.client.post(reverse("supply-save", args=[item.pk]), post).status_code, 204
        )
        item.refresh_from_db()
        self.assertEqual(
            (item.document["fuel_points"], item.document["noise"]),
            ([[775, 12], [3100, 4.5]], {"dba": 59}),
        )
        self.assertNotIn("cylinder", item.document)
        self.assertContains(self.client.get(reverse("supply", args=[item.pk])), "775 12; 3100 4.5")
        self.assertContains(
            self.client.post(
                reverse("supply-preview", args=[item.pk]), post | {"supply.fuel_points": "a lot"}
            ),
            "must be a",
            status_code=422,
        )
        self.client.post(reverse("supplies"), {"typical": "post-30"})
        post_30 = Supply.objects.of(self.owner).get(document__kind="shore")
        post = {
            "document": json.dumps(post_30.document),
            "units": "si",
            "version": 1,
            "name": "Post",
            "supply.readings": "121.4 0; 125 22",
        }
        self.assertContains(
            self.client.post(reverse("supply-preview", args=[post_30.pk]), post),
            "must sag",
            status_code=422,
        )

    def test_sets_in_parallel_grow_and_shrink(self) -> None:
        self.client.post(reverse("supplies"), {"typical": "pair-2200"})
        item = Supply.objects.of(self.owner).get(document__kind="parallel")
        post = {"document": json.dumps(item.document), "units": "si", "version": 1, "name": "Pair"}
        grown = self.client.post(
            reverse("supply-preview", args=[item.pk]), post | {"add_unit": "1"}
        )
        self.assertContains(grown, "Generator 3")


class Plates(Base):
    def test_reading_and_taking(self) -> None:
        url = reverse("rig-plate", args=[self.rig.pk])
        self.assertContains(self.client.get(url), "Not enough yet")
        answer = self.client.post(
            url, {"kind": "motor", "hp": "1", "code_letter": "J", "rated_v": "230"}
        )
        self.assertContains(answer, "NEC Table 430.7(B)")
        answer = self.client.post(
            url,
            {
                "kind": "motor",
                "hp": "1",
                "code_letter": "J",
                "rated_v": "230",
                "name": "Well",
                "take": "1",
            },
        )
        self.assertEqual(answer.status_code, 204)
        load = Rig.objects.get(pk=self.rig.pk).document["loads"][-1]
        self.assertEqual((load["name"], load["voltage_v"], load["running_a"]), ("Well", 240, 8))
        read_rig(Rig.objects.get(pk=self.rig.pk).document)
        printed = {"kind": "motor", "rated_v": "208/230 V", "rla_a": "9", "lra_a": "50"}
        self.assertEqual(self.client.post(url, printed | {"take": "1"}).status_code, 204)
        load = Rig.objects.get(pk=self.rig.pk).document["loads"][-1]
        self.assertEqual((load["voltage_v"], load["voltage_min_v"]), (240.0, 208.0))
        wrong = self.client.post(url, {"kind": "motor", "rla_a": "x"})
        self.assertContains(wrong, "RLA: compressor running amps: must be a number")

    def test_what_was_read_is_said_in_a_person_s_words_and_each_unit_once(self) -> None:
        url = reverse("rig-plate", args=[self.rig.pk])
        answer = self.client.post(url, {"kind": "air-conditioner", "rated_w": "1370"})
        rows = dict(answer.context["load_rows"])
        self.assertEqual(rows["Running amps"], "10.18 A")
        self.assertEqual(rows["Known from"], "typical")
        self.assertNotContains(answer, "running_a")
        labels = {f["label"]: f["unit"] for f in self.client.get(url).context["fields"]}
        self.assertEqual((labels["Volts"], labels["Watts"], labels["Hz"]), ("", "", ""))
        self.assertEqual(labels["Cooling"], "Btu/h")

    def test_the_table_groups_by_breaker_and_leg(self) -> None:
        groups = table.groups(self.rig.document, service.totals_of(self.rig.document))
        self.assertEqual(
            [(g.leg, [r.ident for r in g.rows]) for g in groups],
            [("L1", ["roof"]), ("L2", ["kettle"])],
        )
