"""The bench's and the hours' screens."""

from __future__ import annotations

import html
import re
from datetime import timedelta
from typing import Any
from unittest import mock

from django.http import QueryDict
from django.urls import reverse
from django.utils import timezone

from ironmargin.case import prepare
from ironmargin.enduring.endurance import lasting
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from tests.kinds import BATTERY, SUPPLIES, question
from tests.shared import document
from tests.web.pages import one_line
from tests.web.screens import Screens
from web.bench import service as bench_service
from web.bench.models import BenchRun
from web.hours import service as hours_service
from web.hours.models import AccountPrices
from web.setups import judging, repository
from web.setups.demo import documents
from web.setups.models import SavedSetup


class BenchScreen(Screens):
    number = 1

    def begin(self, how: str = "off") -> BenchRun:
        self.post("bench-begin", self.saved.pk, 302, how=how)
        return BenchRun.objects.first()

    def press(self, run: BenchRun, **fields: Any) -> str:
        answer = self.client.post(
            reverse("bench-press", args=[run.pk]), fields, headers={"HX-Request": "true"}
        )
        self.assertEqual(answer.status_code, 200)
        run.refresh_from_db()
        return answer.content.decode()

    def test_a_start_pressed_is_the_engines(self) -> None:
        run = self.begin()
        self.press(run, do="set//on")
        text = self.press(run, do="load/roof/high-cool", next="1")
        self.assertIn("started", [e["kind"] for e in run.events])
        event = next(e for e in run.events if e["kind"] == "started" and e["where"] == "roof")
        self.assertIn(event["why"], text)
        text = self.press(run, next="1")
        self.assertEqual(run.state["loads"]["roof"]["on"], True)

    def test_time_runs_by_the_wall_and_stands_when_held(self) -> None:
        run = self.begin("as-wanted")
        self.press(run, speed="600")
        BenchRun.objects.filter(pk=run.pk).update(ran_at=timezone.now() - timedelta(seconds=2))
        self.press(run)
        self.assertGreaterEqual(run.state["t_s"], 1200)
        self.press(run, speed="0")
        held = run.state["t_s"]
        answer = self.client.post(
            reverse("bench-press", args=[run.pk]),
            {"version": run.version},
            headers={"HX-Request": "true"},
        )
        self.assertEqual(answer.status_code, 204)
        run.refresh_from_db()
        self.assertEqual(run.state["t_s"], held)

    def test_rewinding_keeps_the_run_it_came_from(self) -> None:
        run = self.begin()
        self.press(run, do="set//on")
        self.press(run, do="load/roof/high-cool")
        self.press(run, next="1")
        at = next(n for n, e in enumerate(run.events) if e["kind"] == "started" and n)
        self.post("bench-rewind", run.pk, 302, event=at)
        branch = BenchRun.objects.exclude(pk=run.pk).get()
        self.assertEqual(branch.parent_id, run.pk)
        self.assertLess(branch.state["t_s"], run.events[at]["at_s"])
        self.assertEqual(BenchRun.objects.count(), 2)

    def test_the_run_as_files_is_the_run_replayed(self) -> None:
        run = self.begin("as-wanted")
        self.press(run, next="1")
        found = self.client.get(reverse("bench-export", args=[run.pk, "json"])).json()
        self.assertEqual(found["ended"]["at_s"], round(run.state["t_s"], 3))
        csv = self.client.get(reverse("bench-export", args=[run.pk, "csv"])).content.decode()
        self.assertTrue(csv.startswith("time_s,"))

    def test_it_begins_from_now_from_an_order_and_ends_on_paper(self) -> None:
        for room, inside in (("30", 30.0), ("900", None), ("warm", None), ("", None)):
            self.post("bench-begin", self.saved.pk, 302, how="off", room=room)
            self.assertEqual(BenchRun.objects.first().begin.get("room_c"), inside, room)
        self.post("bench-begin", self.saved.pk, 302, how="order", on=["base", "roof", "nobody"])
        run = BenchRun.objects.first()
        self.assertEqual([a.get("what") for a in run.acts], [None, "base", "roof"])
        self.assertEqual(run.acts[-1]["at_s"], 120.0)
        self.post("bench-begin", self.saved.pk, 302, how="now", on=["roof"])
        self.assertTrue(BenchRun.objects.first().state["loads"]["roof"]["on"])
        answer = self.client.get(reverse("bench-export", args=[run.pk, "pdf"]))
        self.assertTrue(answer.content.startswith(b"%PDF"))
        self.assertEqual(
            self.client.get(reverse("bench-export", args=[run.pk, "exe"])).status_code, 404
        )

    def test_nonsense_is_refused_in_words(self) -> None:
        run = self.begin()
        for fields in (
            {"do": "load/nobody/on"},
            {"do": "dance//on"},
            {"do": "outdoor//", "figure-outdoor": "hot"},
            {"do": "breaker/moon/on"},
            {"do": "load/roof/loud"},
        ):
            answer = self.client.post(reverse("bench-press", args=[run.pk]), fields)
            self.assertEqual(answer.status_code, 422, fields)
        run.refresh_from_db()
        self.assertEqual(run.acts, [])
        self.press(run, speed="7", next="")

    def test_a_bench_that_is_full_says_so_and_goes_on(self) -> None:
        run = self.begin()
        with mock.patch.object(bench_service, "MAX_ACTS", 2):
            for _ in range(2):
                self.press(run, do="set//on")
            answer = self.client.post(reverse("bench-press", args=[run.pk]), {"do": "set//off"})
            self.assertContains(answer, "go back to an earlier event", status_code=422)
            self.press(run, next="1")
        self.assertEqual(len(run.acts), 2)


class BatteriesByTheHour(Screens):
    """What charges a battery, and what an inverter/charger really takes."""

    def hours(self, supply: Any, **query: str) -> str:
        saved = repository.store(self.owner, judging.judge(question("shore") | {"supply": supply}))
        return self.text("hours", saved.pk, **query)

    @staticmethod
    def lasting(text: str) -> float:
        found = re.search(r"<strong>([\d.]+) h</strong> on the\s+battery", text)
        assert found is not None
        return float(found[1])

    def test_a_battery_s_slider_is_what_charges_it_and_no_input_limit(self) -> None:
        battery = BATTERY | {"battery_wh": 4000}
        dark = self.hours(battery)
        self.assertIn("Charging input", dark)
        self.assertNotIn("Input limit", dark)
        sunny = self.hours(battery, charged="500")
        self.assertGreater(self.lasting(sunny), 1.2 * self.lasting(dark))
        as_stored = self.hours(battery | {"input_w": 500})
        self.assertEqual(self.lasting(as_stored), self.lasting(sunny))

    def test_a_generator_behind_an_inverter_has_its_tank_and_one_fuel(self) -> None:
        behind = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200, "tank_l": 4}
        assist = SUPPLIES["assist on a generator"] | {"input": behind}
        text = self.hours(assist)
        self.assertNotIn("turn the selector", text)

        def on_board(text: str) -> float:
            found = re.search(r"<strong>([\d.]+) h</strong> on what is on", text)
            assert found is not None
            return float(found[1])

        self.assertAlmostEqual(
            on_board(self.hours(assist, tank="8")), 2 * on_board(text), delta=0.2
        )
        self.assertIn("Charging input", text)

    def test_a_battery_alone_is_rationed(self) -> None:
        battery = BATTERY | {"battery_wh": 4000}
        requested = self.hours(battery)
        self.assertIn("How long does it last?", requested)
        self.assertIn('name="solar"', requested)
        self.assertNotIn('name="litres"', requested)
        hours = {"days": "2", "h-roof": "2", "h-charger": "0"}
        dark, sunny = (
            re.findall(r"[\d.]+ days? without", self.hours(battery, **hours, **sun))
            for sun in ({}, {"solar": "300", "sun": "5"})
        )
        self.assertTrue(dark)
        self.assertNotEqual(dark, sunny)

    def test_a_limit_that_is_moved_has_not_been_read(self) -> None:
        read = SUPPLIES["assist"] | {"input_read_w": 300}
        found = self.hours(read)
        self.assertIn('value="8', found.split("Input limit")[1][:400])
        text = requested_hours(read_setup(question("shore") | {"supply": read}), limit="6")
        self.assertAlmostEqual(text.supply.input_a, 6.0)


def requested_hours(setup: Setup, **query: str) -> Setup:
    """A setup with what the sliders of Hours say."""
    said = QueryDict(mutable=True)
    said.update(query)
    return hours_service.requested(setup, said, "si")


class HoursScreen(Screens):
    number = 18

    def test_what_it_shows_is_the_cores(self) -> None:
        found = lasting(prepare(self.setup), step_s=60.0).endurance
        text = self.text("hours")
        if found.fuel_h is not None:
            self.assertIn(f"<strong>{found.fuel_h:.1f} h</strong>", text)
        if found.starves_h is not None:
            self.assertIn(f"after {found.starves_h:.1f} h", text)

    def test_what_is_no_finite_number_is_no_figure(self) -> None:
        loud = self.loud()

        def pitch(**requested: str) -> str:
            return (
                self.text("hours", loud.pk, **requested)
                .split('id="noise-title"')[1]
                .split("</section>")[0]
            )

        as_usual = pitch()
        self.assertIn("at the neighbor’s ear", as_usual)
        for typed in ("nan", "inf", "-inf", "1e999"):
            self.assertEqual(pitch(ear=typed, hours=typed), as_usual, typed)

    def test_where_nothing_runs_out_it_says_why(self) -> None:
        set_ = {"kind": "generator", "continuous_w": 5500, "starting_w": 7000}
        sunny = SUPPLIES["assist"]["inverter"] | {"input_w": 900}
        for supply, word, said in (
            (SUPPLIES["shore"], "No limit", "A post does not run out"),
            (set_, "Tank not known", "The generator’s tank is not known"),
            (set_ | {"fuel": "propane"}, "Cylinder not known", "Type it at the supply"),
            (set_ | {"fuel": "natural_gas"}, "No limit", "Natural gas by pipe"),
            ({"kind": "parallel", "units": [set_, set_]}, "Tank not known", "The generators’ tank"),
            (SUPPLIES["assist"] | {"inverter": sunny}, "No limit", "the post carries the load"),
            (SUPPLIES["assist"] | {"input": set_, "inverter": sunny}, "Tank not known", "its"),
        ):
            requested = question("shore") | {"supply": supply, "wanted": [{"load": "charger"}]}
            saved = repository.store(self.owner, judging.judge(requested))
            text = self.text("hours", saved.pk)
            self.assertIn(f">{word}<", text.replace("> ", ">").replace(" <", "<"), supply)
            if said != "its":
                self.assertIn(said, text)
            link = f'href="{reverse("supply", args=[saved.supply_id])}">supply</a>'
            self.assertEqual(link in text, word != "No limit", word)
            alone = SavedSetup.objects.filter(pk=saved.pk)  # a variant has its figures to itself
            alone.update(supply=None, document=requested)
            self.assertNotIn(link, self.text("hours", saved.pk))

    def test_a_battery_by_mode_is_the_cores_for_each(self) -> None:
        requested = next(d for d in documents() if "supper with the cooler" in d["name"])
        saved = repository.store(self.owner, judging.judge(requested))
        text = self.client.get(reverse("hours", args=[saved.pk])).content.decode()
        setup = read_setup(requested)
        cool = next(x.id for x in setup.rig.loads if isinstance(x, AirConditioner))
        hours = set()
        for mode in ("fan-low", "high-cool"):
            wanted = [
                w | ({"mode": mode} if w["load"] == cool else {}) for w in requested["wanted"]
            ]
            case = prepare(read_setup(requested | {"wanted": wanted}))
            battery_h = lasting(case, step_s=60.0).endurance.battery_h
            self.assertIn(f"{battery_h:.1f} h", text)
            hours.add(round(battery_h, 1))
        self.assertEqual(len(hours), 2)
        self.assertIn("as asked", one_line(text))
        self.assertNotIn("by mode of the air", self.text("hours"))  # a set has no battery

    def test_a_slider_asks_the_core_anew_and_nonsense_does_not(self) -> None:
        cold, warm = (self.text("hours", outdoor=x, hours=10) for x in ("5", "35"))
        self.assertNotEqual(cold, warm)
        self.assertEqual(
            re.sub('hours=[^&"]*|outdoor=[^&"]*', "", self.text("hours")).count("figure"),
            re.sub('hours=[^&"]*|outdoor=[^&"]*', "", self.text("hours", outdoor="hot")).count(
                "figure"
            ),
        )

    def test_thermostat_and_cylinders_change_the_night(self) -> None:
        words = [
            re.findall(r"<strong>([\d.]+) h</strong>", self.text("hours", **more))
            for more in ({}, {"cylinders": "2"}, {"thermostat": "28", "outdoor": "30"})
        ]
        self.assertGreater(float(words[1][0]), 1.5 * float(words[0][0]))

    def test_prices_are_the_accounts_in_its_own_units(self) -> None:
        self.client.cookies["units"] = "us"
        self.post("hours-prices", self.saved.pk, 302, propane_per_kg="1.00", gasoline_per_l="x")
        held = AccountPrices.objects.get().prices
        self.assertEqual(list(held), ["propane_per_kg"])
        self.assertAlmostEqual(held["propane_per_kg"], 1.0 / 0.45359237, places=4)
        text = self.text("hours")
        self.assertIn('value="1.00"', text)
        self.assertIn("A night", text)
        self.client.cookies["units"] = "si"
        self.assertIn('value="2.20"', self.text("hours"))

    def test_when_to_look_and_what_the_other_fuel_adds(self) -> None:
        text = one_line(self.text("hours"))
        self.assertRegex(text, r"Look at it at .*\(half left\).* and .*\(a quarter left\)")
        self.assertIn("The frost line on", text)
        doc = document(18) | {"rules": {"trials": 0}}
        self.assertIn("tank_l", doc["supply"])
        del doc["supply"]["tank_l"]
        one = repository.store(self.owner, judging.judge(doc))
        self.assertNotIn("turn the selector", self.text("hours", one.pk))
        self.assertRegex(text, r"The gasoline on board adds [\d.]+ h: turn the selector before")

    def test_a_cylinder_exchanged_and_filled_stand_side_by_side(self) -> None:
        self.post("hours-prices", self.saved.pk, 302,
                  propane_per_exchange="23", propane_per_fill="18")  # fmt: skip
        text = one_line(self.text("hours"))
        self.assertIn("propane, exchanged", text)
        self.assertIn("propane, filled", text)

    def loud(self) -> SavedSetup:
        """Two sets of 60 dBA at 7 m each."""
        doc = document(1) | {"rules": {"trials": 0}}
        for unit in doc["supply"]["units"]:
            unit["noise"] = {"dba": 60, "full_dba": 60, "at_m": 7}
        return repository.store(self.owner, judging.judge(doc))

    def test_the_pitch_says_the_inverse_square(self) -> None:
        loud, found = self.loud(), {}
        for ear, exhaust in ((7, 90), (14, 90), (7, 0), (7, 180)):
            text = self.text("hours", loud.pk, ear=ear, exhaust=exhaust)
            found[ear, exhaust] = float(re.findall(r"> ([\d.]+) dBA</strong>", text)[0])
        self.assertAlmostEqual(found[7, 90], 63, delta=1)  # two equal sets, 3 dB more
        self.assertAlmostEqual(found[7, 90] - found[14, 90], 6, delta=1)
        self.assertGreater(found[7, 0], found[7, 180])

    def test_the_place_proposed_keeps_the_limit_when_the_set_is_put_there(self) -> None:
        loud = self.loud()
        doc = repository.compose(loud) | {"site": {"neighbour_m": 14, "limit_dba": 58}}
        loud = repository.store(self.owner, judging.judge(doc))
        self.assertNotIn("Carbon monoxide kills", self.text("hours", loud.pk))
        text = self.text("hours", loud.pk, across=-3, exhaust=0)
        self.assertIn("Keeps the limit with the generator", text)
        self.assertIn("Carbon monoxide kills", text)  # it stands nearer than 20 ft
        link = html.unescape(re.findall(r'href="(\?ear=[^"]+)#noise-title"', text)[0])
        answer = self.client.get(reverse("hours", args=[loud.pk]) + link)
        there = one_line(answer.content.decode())
        self.assertIn('<strong class="state-holds">', there.split('id="noise-title"')[1])
        self.assertNotIn("Put it there", there)
        self.assertNotIn("Carbon monoxide kills", there)

    def test_an_assisted_battery_says_when_it_is_back(self) -> None:
        requested = next(d for d in documents() if d["supply"]["kind"] == "assist")
        requested["supply"]["input_limit_a"] = 1
        saved = repository.store(self.owner, judging.judge(requested))
        found = lasting(prepare(read_setup(requested)), step_s=60.0).endurance
        text = " ".join(self.text("hours", saved.pk).split())
        self.assertGreater(found.refill_h, 0.5)
        self.assertRegex(
            text, r"back by <strong>\d\d:\d\d[^<]*</strong>, " + f"{found.refill_h:.1f} h"
        )

    def test_in_other_units_the_same(self) -> None:
        self.client.cookies["units"] = "us"
        self.assertIn("°F", self.text("hours"))
        self.assertIn("gal", self.text("hours"))

    def test_the_series_and_the_ration(self) -> None:
        csv = self.client.get(reverse("hours-series", args=[self.saved.pk])).content.decode()
        self.assertIn("load_w", csv.splitlines()[0])
        text = self.text("hours", days="4", litres="20", allowed="12")
        self.assertIn("without rationing", text)
        self.assertIn("must be a number", self.text("hours", days="4", litres="lots"))
        self.assertIn("Days: must be at least 1", self.text("hours", days="0", litres="3"))
        self.assertIn("Fuel: must be a number", self.text("hours", days="4", litres="lots"))
        wanted = {"h-l": "4", "days": "2", "litres": "20", "allowed": "12"}
        text = self.text("hours", **wanted, **{"l-l": "5"})
        self.assertIn("load, at least: must be at most the 4 h wanted", text)
        self.assertIn('value="5"', text)  # what was typed stays
        text = self.text("hours", **wanted, **{"l-l": "x", "p-l": "wait"})
        self.assertIn("load, at least: must be a number", text)
        self.assertRegex(text, r'name="p-l">(?s:.)*?<option\s+selected>wait')
