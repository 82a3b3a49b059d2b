"""The workbench: one frame and one form on every station, a change recomputes what is open, and the
Board.
"""

from __future__ import annotations

import json
import re
import sys
from pathlib import Path
from types import FrameType
from typing import Any

from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse

from ironmargin.limits.sites import Site
from ironmargin.planning.first_fix import first_fix
from ironmargin.verdict.rows import of_leg
from tests.shared import document
from tests.web.pages import PageCase
from tests.web.test_setups import form_of
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.setups.stations import route
from web.verdicts import jobs
from web.verdicts.drawings.legs import draw_legs
from web.verdicts.models import Job
from web.verdicts.view_model import plain_document


def quick(number: int) -> dict[str, Any]:
    """A check setup that is computed without trials."""
    return document(number) | {"rules": {"trials": 0}}


class Bench(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(quick(7)))
        self.client.cookies["units"] = "si"

    def form(self, **typed: str) -> dict[str, str]:
        saved = SavedSetup.objects.get(pk=self.saved.pk)
        bases = {"saved": str(saved.pk), "version": str(saved.version), "units": "si"}
        bases |= {"rig_pk": str(saved.rig_id), "supply_pk": str(saved.supply_id)}
        return form_of(repository.compose(saved), **(bases | typed))

    def answer(self, **typed: str) -> Any:
        form = self.form(**typed)
        return self.client.post(reverse("setup-preview"), form, headers={"HX-Request": "true"})


ROOMS = (
    "verdicts/pages", "setups/question", "setups/posted", "setups/form", "setups/drafts",
    "setups/judging", "setups/repository", "setups/stations", "verdicts/workbench",
    "verdicts/view_model",
    "verdicts/sentence", "verdicts/drawings/path", "verdicts/drawings/page",
    "verdicts/drawings/breaker", "verdicts/drawings/legs", "verdicts/drawings/rail",
)  # fmt: skip
"""What one edit passes, from the posted form to the answered partial."""


class OneWay(Bench):
    def test_an_edit_passes_sixteen_modules_and_none_calls_back_up(self) -> None:
        """Posted, document, judged, drawn: what an edit does not ask for is not entered."""
        folders = str(Path(repository.__file__).parents[1]) + "/"
        passed: list[tuple[str, str]] = []

        def room(frame: FrameType | None) -> str:
            while frame is not None and not frame.f_code.co_filename.startswith(folders):
                frame = frame.f_back
            name = frame.f_code.co_filename.removeprefix(folders) if frame is not None else ""
            return name.removesuffix(".py")

        def note(frame: FrameType, event: str, _: object) -> None:
            if event == "call" and frame.f_code.co_filename.startswith(folders):
                passed.append((room(frame.f_back), room(frame)))

        form = self.form(station="verdict", **{"conditions.outdoor_c": "31"})
        sys.setprofile(note)
        try:
            self.client.post(reverse("setup-preview"), form, headers={"HX-Request": "true"})
        finally:
            sys.setprofile(None)
        own = ("verdicts/", "setups/")
        between = {to for _, to in passed if to.startswith(own) and to != "setups/context"}
        self.assertEqual(between, set(ROOMS))
        self.assertLessEqual(len(between), 16)
        floor = {"verdicts": 2, "setups": 1}
        climbs = {
            (one, to)
            for one, to in passed
            if one.startswith(own) and floor.get(to.split("/")[0], 0) > floor[one.split("/")[0]]
        }
        self.assertEqual(climbs, set())


class RuleForHours(Bench):
    def test_it_is_told_apart_in_word_and_colour_and_can_be_chosen(self) -> None:
        heater = {"id": "h", "name": "Heater", "kind": "resistive", "watts": 3060}
        rig = {"name": "r", "service": "120", "main_a": 30, "loads": [heater]}
        doc = {"format": "iron-margin/setup", "version": 1, "name": "golden", "rig": rig,
               "supply": {"kind": "shore", "breaker_a": 30}, "wanted": [{"load": "h"}],
               "conditions": {"target_hours": 8, "outdoor_c": 25}}  # fmt: skip
        self.saved = repository.store(self.owner, judging.judge(doc))
        page = self.client.get(reverse("setup", args=[self.saved.pk]))
        self.assertContains(page, "Over the rule")
        self.assertContains(page, "state-rule")
        told = self.answer(station="verdict", **{"rules.continuous_fraction": "1"})
        self.assertNotContains(told, "Over the rule")


class Draws(Bench):
    def test_amps_and_watts_stand_beside_each_other_and_one_is_shown(self) -> None:
        page = self.client.get(reverse("setup", args=[self.saved.pk]))
        self.assertContains(page, 'class="in-watts"')
        self.assertNotContains(page, 'data-draws="watts"')
        self.client.cookies["draws"] = "watts"
        page = self.client.get(reverse("setup", args=[self.saved.pk]))
        self.assertContains(page, '<html lang="en" data-draws="watts">')
        self.client.cookies["draws"] = "horses"
        page = self.client.get(reverse("setup", args=[self.saved.pk]))
        self.assertNotContains(page, "data-draws=")

    def test_a_leg_of_a_set_is_held_against_its_own_amps(self) -> None:
        loads = [
            {"id": f"h{n}", "name": f"Heater {n}", "kind": "resistive", "watts": w, "leg": leg}
            for n, (w, leg) in enumerate(((1500, "L1"), (600, "L2")))
        ]
        supply = {"kind": "generator", "continuous_w": 5500, "starting_w": 7000,
                  "output": "120/240", "voltage_v": 240}  # fmt: skip
        rig = {"name": "r", "service": "120/240", "main_a": 50, "loads": loads}
        doc = {"format": "iron-margin/setup", "version": 1, "name": "two", "rig": rig,
               "supply": supply, "wanted": [{"load": x["id"]} for x in loads]}  # fmt: skip
        checked = judging.judge(doc).checked
        assert checked is not None
        first, second = draw_legs(checked).columns
        self.assertEqual((first.hours_a, second.hours_a), (first.amps, second.amps))
        self.assertGreater(first.hours_a, 2.0 * second.hours_a)

    def test_the_watts_of_the_legs_are_those_of_the_loads(self) -> None:
        for number in (5, 7, 9):
            checked = judging.judge(quick(number)).checked
            assert checked is not None
            whole = sum(d.va.real for demand in checked.case.demands for d in demand.steady)
            legs = draw_legs(checked).columns
            self.assertAlmostEqual(sum(c.watts for c in legs), whole, delta=0.01 * whole)
            for leg in legs:
                if leg.limit_a:
                    volts = checked.case.source.nominal_v
                    self.assertAlmostEqual(leg.limit_w or 0.0, leg.limit_a * volts)


class Frame(Bench):
    coarse_maps = True

    def test_every_station_stands_in_the_frame_with_its_answer_first(self) -> None:
        for station in route():
            page = self.client.get(reverse(station.address, args=[self.saved.pk]))
            text = page.content.decode()
            self.assertEqual(page.status_code, 200, station.key)
            self.assertEqual(text.count('id="setup"'), 1, station.key)
            self.assertEqual(text.count("<h1"), 1, station.key)
            current = re.search(r'class="tab"[^>]*aria-current="page">(\w+)<', text)
            self.assertEqual(current[1], station.title)
            inside = text[text.index('id="station"') :]
            self.assertLess(inside.index("<h1"), 1200, f"{station.key}: the answer is not first")

    def test_a_change_recomputes_the_open_station_and_the_rail(self) -> None:
        before = self.answer(station="hours")
        for station in route():
            told = self.answer(station=station.key, **{"conditions.outdoor_c": "18"})
            self.assertEqual(told.status_code, 200, station.key)
            self.assertContains(told, 'id="rail-total" hx-swap-oob="true"')
            self.assertContains(told, "not saved")
            retargeted = told.headers.get("HX-Retarget", "")
            self.assertEqual(retargeted, "" if station.live else "#answer", station.key)
            self.assertContains(told, 'id="answer"')
        self.assertContains(before, "> saved <")

    def test_what_is_typed_into_the_log_is_not_taken_away(self) -> None:
        told = self.answer(station="log", **{"conditions.outdoor_c": "18"})
        self.assertNotContains(told, "entry.load")

    def test_a_new_setup_has_its_verdict_first(self) -> None:
        form = form_of(quick(4)) | {"station": "log"}
        told = self.client.post(reverse("setup-preview"), form)
        self.assertContains(told, 'id="verdict-word"')
        page = self.client.get(reverse("setup-new"))
        self.assertContains(page, "Save the setup first")

    def test_faults_stand_on_every_station(self) -> None:
        for station in route():
            told = self.answer(station=station.key, **{"conditions.outdoor_c": "warm"})
            self.assertContains(told, "must be corrected first", status_code=422)
            self.assertContains(told, 'data-fault="conditions.outdoor_c"', status_code=422)

    def test_the_rail_says_what_the_core_says(self) -> None:
        page = self.client.get(reverse("setup", args=[self.saved.pk])).content.decode()
        checked = judging.judge(repository.compose(self.saved)).checked
        for name, row in checked.result.legs.items():
            if row.limit_a and name != "N":
                limit = f"{float(f'{row.limit_a:.3g}'):g}"
                plain = re.sub(
                    r"\s+", " ", re.sub(r'<span\s+class="in-watts">[^<]*</span>|<[^>]+>', "", page)
                )
                minimum = of_leg(checked.now, checked.rows, {"L1": 0, "L2": 1}[name])[0]
                hours = f"{float(minimum.value) / checked.case.turns:.1f} of {limit} A for hours"
                self.assertIs(minimum.place.site, Site.SUPPLY_BREAKER)
                self.assertIn(f"{hours}, {row.a:.1f} A at once", plain)
        for demand in checked.case.demands:
            amps = sum(d.amps for d in demand.steady)
            self.assertRegex(page, rf'id="draw-\d+"[^>]*>\s*<span[^>]+title="[^"]+">{amps:.1f}<')

    def test_undo_puts_back_what_was_before(self) -> None:
        before = json.dumps(repository.compose(self.saved))
        self.answer(**{"conditions.outdoor_c": "18"})
        told = self.answer(undo="1", document=before, **{"conditions.outdoor_c": "18"})
        self.assertContains(told, 'id="inputs" tabindex="-1" hx-swap-oob="true"')
        self.assertContains(told, "> saved <")

    def test_the_chooser_finds_by_name_and_nobody_elses(self) -> None:
        url = reverse("setup-chooser")
        self.assertContains(self.client.get(url), self.saved.name)
        self.assertContains(self.client.get(url, {"q": "no such"}), "No setup has")
        stranger = Client()
        self.assertEqual(stranger.get(url).status_code, 302)
        stranger.force_login(User.objects.create_user("other"))
        self.assertNotContains(stranger.get(url), self.saved.name)


class Applying(Bench):
    """A remedy is tried in the setup at hand, as a change like any other."""

    def setUp(self) -> None:
        super().setUp()
        self.saved = repository.store(self.owner, judging.judge(quick(5)))

    def test_the_first_fix_is_put_in(self) -> None:
        remedy, _ = first_fix(judging.judge(repository.compose(self.saved)).checked)
        told = self.answer(apply="first")
        self.assertContains(told, f'class="tally">{percent_of(remedy.iron_margin)}')
        self.assertContains(told, "not saved")
        self.assertEqual(SavedSetup.objects.count(), 2, "nothing new is saved")

    def test_one_of_the_list_is_put_in_and_nobody_elses(self) -> None:
        plain, _ = plain_document(repository.compose(self.saved))
        job = jobs.ask(self.owner, "remedies", plain)
        row = job.found["remedies"][0]
        told = self.answer(apply=f"{job.pk}:0")
        self.assertContains(told, f'class="tally">{percent_of(row["iron_margin"])}')
        Job.objects.update(owner=User.objects.create_user("other"))
        for wanted in (f"{job.pk}:0", "0:0", "x", f"{job.pk}:999", ":"):
            self.assertContains(self.answer(apply=wanted), 'state-fails"><span')


def percent_of(margin: float) -> str:
    return f"{margin * 100:+.0f} %".replace("-", "−")
