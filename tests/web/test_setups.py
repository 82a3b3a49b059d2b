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

from ironmargin.setup.hookup import HOOKUP_KINDS
from ironmargin.setup.records import specs
from tests.kinds import SUPPLIES
from tests.shared import document
from tests.web.pages import PageCase, press_save
from web.design.fields import put_all
from web.design.typed import (
    SHARE,
    fault_in_percent,
    typed_clock,
    typed_energy,
    typed_hour,
    typed_in,
    typed_span,
)
from web.rigs.models import Rig
from web.rigs.typical import loads
from web.setups import repository
from web.setups.demo import documents
from web.setups.form import Form, edited
from web.setups.models import SavedSetup
from web.setups.typical import first_setup
from web.storage import actions
from web.supplies.form import SupplyForm, edited_supply
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


class Typed(PageCase):
    """What stands on things, as people type it."""

    def test_each_generator_of_a_pair_has_its_cylinder_and_its_noise(self) -> None:
        for name, at in (
            ("parallel", "supply.units[0]"),
            ("assist on a generator", "supply.input"),
        ):
            document = SUPPLIES[name]
            paths = {
                f.path
                for g in SupplyForm({"supply": document}, "si").supply_groups(full=True)
                for f in g.fields
            }
            typed = {f"{at}.cylinder.count": "2", f"{at}.noise.dba": "58"}
            self.assertLessEqual(typed.keys(), paths)
            told = edited_supply(document, typed, "si")
            generator = told["units"][0] if "units" in told else told["input"]
            self.assertEqual(generator["cylinder"]["count"], 2)
            self.assertEqual(generator["noise"]["dba"], 58.0)
            empty = edited_supply(document, {f"{at}.cylinder.count": ""}, "si")
            generator = empty["units"][0] if "units" in empty else empty["input"]
            self.assertNotIn("cylinder", generator)
            self.assertNotIn("noise", generator)

    def test_a_figure_is_typed_in_the_unit_that_is_printed(self) -> None:
        for typed, unit, value in (
            ("2,500 kcal/h", "Btu/h", 9920.0),
            ("3.5 kW", "Btu/h", 11942.49),
            ("12000", "Btu/h", 12000.0),
            ("1.5 kW", "W", 1500.0),
            ("350 mA", "A", 0.35),
            ("12.5 A", "A", 12.5),
            ("0,75 kW", "hp", 1.005765),
            ("20 lb", "gal", 20 / 4.24),
            ("9 kg", "l", 9 / 0.45359237 / 4.24 * 3.785411784),
            ("10 l", "gal", 10 / 3.785411784),
            ("1,600 m", "ft", 1600 / 0.3048),
            ("50 ft", "m", 15.24),
            ("25'", "ft", 25.0),
            ("35 °C", "°F", 95.0),
            ("95 F", "°C", 35.0),
            ("35", "°F", 35.0),
            ("72°F", "°F", 72.0),
            ("10 AWG", "AWG", 10.0),
            ("#12 AWG", "AWG", 12.0),
            ("2.5 mm²", "mm2", 2.5),
            ("90 min", "h", 1.5),
            ("2 days", "h", 48.0),
            ("3 min", "s", 180.0),
            ("0.2 Ω", "ohm", 0.2),
            ("60 dB", "dBA", 60.0),
            ("300 ft²", "m2", 27.8709),
            ("20 lb", "kg", 9.0718),
            ("12 kg", "lb", 26.4555),
            ("hot F", "°C", "hot F"),
            ("5 V", "W", "5 V"),
            ("some", "W", "some"),
            ("kW", "W", "kW"),
        ):
            found = typed_in(typed, unit)
            if isinstance(value, float):
                self.assertAlmostEqual(found, value, delta=1e-4 * abs(value), msg=typed)
            else:
                self.assertEqual(found, value, typed)
        self.assertEqual(typed_in("2 x 100 Ah 12.8 V", "Wh"), 2560.0)

    def test_a_time_of_the_day_is_typed_as_it_is_said(self) -> None:
        for typed, clock in (
            ("10 pm", "22:00"), ("10PM", "22:00"), ("22", "22:00"), ("2200", "22:00"),
            ("830", "08:30"), ("8.30", "08:30"), ("8:30 a.m.", "08:30"), ("12 am", "00:00"),
            ("12pm", "12:00"), ("noon", "12:00"), ("midnight", "24:00"), ("24", "24:00"),
            ("25", "25"), ("24:01", "24:01"), ("13 pm", "13 pm"), ("0 am", "0 am"),
            ("soon", "soon"), ("", ""), ("9" * 30, "9" * 30),
        ):  # fmt: skip
            self.assertEqual(typed_clock(typed), clock, typed)
        for typed, ends in (
            ("8-12", ("08:00", "12:00")), ("10 pm to 7 am", ("22:00", "07:00")),
            ("8-10 pm", ("20:00", "22:00")), ("10-2pm", ("10:00", "14:00")),
            ("11-7am", ("23:00", "07:00")), ("20:00\u201308:00", ("20:00", "08:00")),
            ("8-", ("08:00", "")), ("8", ("08:00", "")), ("x until y", ("x", "y")),
        ):  # fmt: skip
            self.assertEqual(typed_span(typed), ends, typed)
        for hour, value in (("10 pm", 22.0), ("22", 22.0), ("6:30", 6.5), ("22.5", 22.5)):
            self.assertEqual(typed_hour(hour), value, hour)
        self.assertEqual(typed_hour("late"), "late")
        site = form_of(document(2)) | {"site.quiet_from_h": "10 pm", "site.quiet_to_h": "7 am"}
        told = edited(document(2), site, "us")["site"]
        self.assertEqual((told["quiet_from_h"], told["quiet_to_h"]), (22.0, 7.0))

    def test_what_is_percent_in_the_format_stays_percent(self) -> None:
        """Humidity is 60 in the file, shown as 60, and typed as 60: no share of one."""
        damp = document(2) | {"conditions": {"humidity_pct": 85}}
        fields = {f.path: f for g in Form(damp, "us").groups() for f in g.fields}
        field = fields["conditions.humidity_pct"]
        self.assertEqual((field.value, field.unit), ("85", "%"))
        for typed, value in (("40", 40.0), ("40 %", 40.0), ("0.5", 0.5)):
            told = edited(damp, {"conditions.humidity_pct": typed}, "us")
            self.assertEqual(told["conditions"]["humidity_pct"], value, typed)
        usual = {f.path: f for g in Form(document(2), "us").groups() for f in g.fields}
        self.assertEqual(usual["conditions.humidity_pct"].value, "60")
        wound = {"kind": "transformer", "type": "auto", "va": 2000, "from_v": 120, "to_v": 240}
        (group,) = Form(document(2) | {"hookup": [wound]}, "us").path_groups()
        percent = next(f for f in group.fields if f.path.endswith("impedance_pct"))
        self.assertEqual((percent.value, percent.unit), ("4", "%"))

    def test_a_share_is_percent_to_a_person(self) -> None:
        """Shown as 85 with % beside it; typed as 85, 85 % or 0.85; refused in percent, too."""
        for typed, share in (
            ("85", 0.85), ("85 %", 0.85), ("0.85", 0.85), ("0,85", 0.85), ("1", 1.0),
            ("100", 1.0), ("0.5 %", 0.005), ("0", 0.0), ("140", 1.4), ("most", "most"),
        ):  # fmt: skip
            self.assertEqual(typed_in(typed, SHARE), share, typed)
        for told, in_percent in (
            ("must be at most 1 (got 1.4)", "must be at most 100 % (got 140 %)"),
            ("must be at least 1e-06 (got 1e-09)", "must be at least 0.0001 % (got 1e-07 %)"),
            ("must be a number (got 'most')", "must be a number (got 'most')"),
        ):
            self.assertEqual(fault_in_percent(told), in_percent)
        battery = {"supply": SUPPLIES["battery-inverter"] | {"start_soc": 0.6}}
        (group,) = SupplyForm(battery, "us").supply_groups()
        field = next(f for f in group.fields if f.path == "supply.start_soc")
        self.assertEqual((field.value, field.unit), ("60", "%"))
        put_all(battery, [field], {"supply.start_soc": "45 %"}, "us")
        self.assertEqual(battery["supply"]["start_soc"], 0.45)
        faults = {"supply.start_soc": "must be at most 1 (got 1.4)"}
        (group,) = SupplyForm(battery, "us", faults).supply_groups()
        field = next(f for f in group.fields if f.path == "supply.start_soc")
        self.assertIn("at most 100 %", field.fault)

    def test_a_battery_is_typed_as_it_is_sold(self) -> None:
        for typed, wh in (
            ("2 x 100 Ah 12.8 V", 2560.0),
            ("100Ah 12V", 1200.0),
            ("4×230 Ah × 6 V", 5520.0),
            ("5,1 kWh", 5100.0),
            ("5100", 5100.0),
            ("0 Ah 12 V", 0.0),
            ("a big one", "a big one"),
        ):
            self.assertEqual(typed_energy(typed), wh, typed)
        station = dict(first_setup())
        station["supply"] = supply_document("inverter-2000")
        told = edited(station, form_of(station) | {"supply.battery_wh": "2 x 100 Ah 12.8 V"}, "us")
        self.assertEqual(told["supply"]["battery_wh"], 2560.0)
        nothing = edited(station, form_of(station) | {"supply.battery_wh": "0 Ah 12 V"}, "si")
        faults = repository.judge(nothing).faults
        self.assertEqual([f.path for f in faults], ["supply.battery_wh"])

    def test_every_figure_of_a_part_has_its_input_and_nothing_said_stays_unsaid(self) -> None:
        parts = [
            {"kind": "guard"},
            {"kind": "transformer", "va": 3000},
            {"kind": "outlet", "rating_a": 20},
            {"kind": "adapter", "from": "5-15", "to": "TT-30", "rating_a": 15},
            {"kind": "splitter", "from": ["TT-30", "TT-30"], "to": "14-50", "rating_a": 30},
        ]
        doc = dict(first_setup()) | {"hookup": parts}
        requested = {f.path for g in Form(doc, "si").path_groups() for f in g.fields}
        for at, part in enumerate(parts):
            known = set(specs(HOOKUP_KINDS[str(part["kind"])])) - {"name"}
            known -= {"from"} if part["kind"] == "splitter" else set()
            self.assertEqual({f"hookup[{at}].{key}" for key in known} - requested, set())
        self.assertEqual(edited(doc, form_of(doc), "si")["hookup"], parts)
        for typed, value in (("yes", True), ("no", False), ("", None)):
            told = edited(doc, form_of(doc) | {"hookup[0].open_ground": typed}, "si")
            self.assertIs(told["hookup"][0].get("open_ground"), value)

    def test_a_vehicle_feeds_one_leg_or_two(self) -> None:
        for key, output in (("vehicle-2400", None), ("vehicle-7200", "120/240")):
            doc = dict(first_setup()) | {"supply": supply_document(key)}
            self.assertEqual(repository.judge(doc).faults, ())
            self.assertEqual(doc["supply"].get("output"), output)


class Base(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner", password="a-long-enough-word")
        self.other = User.objects.create_user("other", password="a-long-enough-word")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, repository.judge(document(2)))


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
                    repository.judge(edited(doc, form_of(doc, units), units)).checked.case.setup,
                    repository.judge(doc).checked.case.setup,
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
        stored = repository.store(owner, repository.judge(document(6)))
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
        result = repository.judge(document(2)).checked.result
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
        self.assertEqual(repository.judge(alder).picture, "condenser")
        self.assertEqual(repository.judge(alder, "well").picture, "well")
        self.assertIsNone(repository.judge(document(11)).picture)

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
            "Thin" if repository.judge(document(6)).checked.result.verdict == "thin" else "Holds",
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
