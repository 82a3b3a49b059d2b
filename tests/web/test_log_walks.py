"""Surveys, walks with a sound meter, fuel, and starts before and after, on the log's pages."""

from __future__ import annotations

import re
from itertools import pairwise

from django.contrib.auth.models import User
from django.urls import reverse

from ironmargin.learning.learn import learn
from ironmargin.learning.log import read_log
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from tests.shared import document
from tests.web.screens import Screens
from web.logbook.models import LogEntry
from web.setups import judging, repository


class Walks(Screens):
    number = 4

    def go(self, status: int = 302, **fields: str) -> str:
        return self.post("log-survey-next", self.saved.pk, status, **fields)

    def test_a_survey_step_by_step_becomes_an_entry(self) -> None:
        self.assertIn("Everything off", self.text("log-survey"))
        self.assertIn("type the amps", self.go(422))
        self.assertIn("must be a number", self.go(422, amps="many"))
        self.assertIn("must be a number", self.go(422, amps="3", volts="1e9"))
        self.go(amps="0.5", volts="121")
        self.go(amps="9")
        self.go(back="1")
        modes = sum(3 for x in self.setup.rig.loads if isinstance(x, AirConditioner))
        self.assertGreater(modes, 0)
        requested = len(self.setup.rig.loads) + modes
        for number in range(requested):
            self.assertIn("Switch on only", self.text("log-survey"))
            self.go(skip="1") if number == requested - 1 else self.go(watts="400")
        self.assertIn("The survey is complete", self.text("log-survey"))
        self.go(amps="3")  # past the end nothing is taken
        self.go(keep="1")
        steps = LogEntry.objects.get(kind="survey").document["steps"]
        self.assertEqual(len(steps), requested)
        self.assertEqual(steps[0], {"on": [], "amps": 0.5, "volts": 121.0})
        self.assertEqual({s["mode"] for s in steps if "mode" in s}, set(COOLING_MODES))
        self.assertIn("Everything off", self.text("log-survey"))

    def test_the_power_sheet_is_printed(self) -> None:
        answer = self.client.get(reverse("log-power", args=[self.saved.pk]))
        self.assertTrue(answer.content.startswith(b"%PDF"))

    def test_five_learning_starts_are_kept_with_how_many_it_had(self) -> None:
        load = next(x for x in self.setup.rig.loads if getattr(x, "start", "") == "soft-start")
        for number, peak in enumerate(("24", "22", "20", "18", "17")):
            self.assertIn(f"Start {number + 1} of 5", self.text("log-learning"))
            self.post("log-learning-next", self.saved.pk, 302, load=load.id, peak_a=peak)
        counts = [x.document["changed"]["learned_starts"] for x in LogEntry.objects.order_by("id")]
        self.assertEqual(counts, [0, 1, 2, 3, 4])
        self.assertIn("It has had its 5 starts", self.text("log-learning"))
        self.assertIn(
            "type the highest", self.post("log-learning-next", self.saved.pk, 422, load=load.id)
        )
        self.post("log-learning-next", self.saved.pk, 404, load="nobody", peak_a="3")


class WalkAndFuel(Screens):
    """The noise walk as a plan, the fuel with what an hour costs."""

    number = 1

    def test_the_walk_is_drawn_where_it_was_read(self) -> None:
        for metres, dba in ((1, 74.0), (2, 68.0), (4, 62.0), (8, 56.0)):
            entry = {"kind": "noise", "at_m": metres, "dba": dba, "side": "exhaust"}
            LogEntry.objects.create(setup=self.saved, kind="noise", document=entry)
        text = self.text("log")
        self.assertIn("The noise walk from above", text)
        plan = text.split("The noise walk from above")[1].split("</svg>")[0]
        found = re.findall(r'r="([\d.]+)" class="ring"/>.*?>(\d+)<', plan)
        rings = {int(dba): float(radius) for radius, dba in found}
        apart = [b - a for a, b in pairwise(sorted(rings.values()))]
        self.assertGreaterEqual(min(apart), 13.9, "a figure's height")
        # Six decibels for each doubling (a free field): five more is 1.8 times as near.
        self.assertAlmostEqual(rings[60] / rings[65], 10**0.25, delta=0.1)
        dots = [float(x) for x in re.findall(r'cx="([-\d.]+)" cy="[-\d.]+" r="4"', plan)]
        self.assertEqual(len(dots), 4)
        self.assertAlmostEqual(max(dots) / sorted(dots)[0], 8.0, delta=1.5)

    def test_an_hour_of_each_fuel_says_what_it_costs(self) -> None:
        for hours, litres in ((5, 4.0), (6, 5.4), (4, 3.0)):
            entry = {"kind": "fuel", "fuel": "gasoline", "litres": litres, "hours": hours,
                     "mean_w": 250 * hours, "cost": 1.5 * litres}  # fmt: skip
            LogEntry.objects.create(setup=self.saved, kind="fuel", document=entry)
        found = learn(self.setup, read_log({"entries": [
            e.document for e in LogEntry.objects.all()]}, self.setup))  # fmt: skip
        cost = found.fuel[0].cost_per_h
        self.assertIn(f'it cost <span class="figure">{cost:.2f}</span> an hour', self.text("log"))


class PairsAndRig(Screens):
    """Before and after on one picture, and the log of a whole rig."""

    def setUp(self) -> None:
        super().setUp()
        loads = self.setup.rig.loads
        self.motor = next(x for x in loads if isinstance(x, AirConditioner))
        start = {"kind": "start", "load": self.motor.id, "outcome": "starts"}
        gear = {"start": "hard-start"}
        for n, more in enumerate(
            (
                {"peak_a": 61.0, "changed": gear, "notes": "as it came"},
                {"peak_a": 19.0, "instrument": "monitor"},
                {"peak_a": 40.5, "notes": "fitted"},
                {"peak_a": 0.3, "on": "whole-cord"},
            )
        ):
            entry = start | more | {"at": f"2026-07-0{n + 1}T10:00:00+00:00"}
            LogEntry.objects.create(setup=self.saved, kind="start", document=entry, at=entry["at"])

    def test_a_pair_is_the_changed_start_and_the_one_that_tells(self) -> None:
        text = self.text("log-pairs")
        said = f"{self.motor.name}: 61.0 A before, 40.5 A after, 34 % less."
        self.assertIn(said, text)
        self.assertIn("before, read 61.0 A", text)
        self.assertIn('class="amps over"', text)  # both starts, on one picture
        heights = [float(y) for y in re.findall(r'class="day-line" d="M44 ([\d.]+)H', text)]
        self.assertLess(heights[0], heights[1])  # more amps, higher up

    def test_without_a_pair_it_says_what_makes_one(self) -> None:
        LogEntry.objects.filter(document__peak_a=61.0).delete()
        self.assertIn("No pair yet", self.text("log-pairs"))

    def test_a_rigs_log_has_each_setups_entries(self) -> None:
        again = judging.judge(document(5) | {"rules": {"trials": 0}})
        second = repository.store(self.owner, again)
        self.assertEqual(second.rig, self.saved.rig)
        entry = {"kind": "run", "load": self.motor.id, "amps": 9.0}
        LogEntry.objects.create(setup=second, kind="run", document=entry)
        text = self.text("log-rig", self.saved.rig_id)
        self.assertIn("4 entries", text)
        self.assertIn("1 entry", text)
        other = User.objects.create_user("other")
        self.client.force_login(other)
        answer = self.client.get(reverse("log-rig", args=[self.saved.rig_id]))
        self.assertEqual(answer.status_code, 404)
