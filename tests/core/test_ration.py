"""Rationing: the program against every day of a grid, and its books."""

from __future__ import annotations

import contextlib
import io
import itertools
import json
import math
import tempfile
import unittest
from pathlib import Path
from typing import Any

from ironmargin.__main__ import main
from ironmargin.enduring.fuel import WH_PER_L
from ironmargin.errors import SetupError
from ironmargin.planning.ration import RANKS, Requested, plan_day, ration
from ironmargin.planning.ration_words import ration_json, ration_words
from ironmargin.planning.stock import read_stock, stock_schema
from ironmargin.planning.stores import Day, Means
from ironmargin.setup.model import Setup
from tests.shared import changed, path_of


def stocked(setup: Setup, **stock: Any) -> dict[str, Any]:
    data = {"format": "iron-margin/stock", "version": 1, "days": 7} | stock
    return ration_json(ration(setup, read_stock(data, setup)))


def house(doc: dict[str, Any]) -> None:
    """A house of 2.7 kW on a 5 kW set."""
    doc["supply"] = {"kind": "generator", "continuous_w": 5000, "starting_w": 6500}
    doc["rig"]["loads"] = [
        {"id": "ac", "name": "Air conditioner", "kind": "resistive", "watts": 1500},
        {"id": "base", "name": "House", "kind": "electronic", "watts": 1200},
    ]
    doc["wanted"] = [{"load": "ac"}, {"load": "base"}]
    doc["hookup"] = []
    doc["rig"]["circuits"] = []


LOADS = (
    Day("a", "A", 1500.0, 8.0, 0.0, "must"),
    Day("b", "B", 600.0, 6.0, 0.0, "want"),
    Day("c", "C", 300.0, 4.0, 1.0, "wait"),
)
ASKED = Requested(LOADS)
MEANS = Means(fuel_wh=9_000.0 * 30, idle_w=2000.0, slope=3.3, set_w=2200.0, set_h=10.0)


class Promises(unittest.TestCase):
    """A ration promises nothing that the verdict forbids."""

    def on(self, supply: dict[str, Any], *loads: dict[str, Any], **stock: Any) -> dict[str, Any]:
        def put(doc: dict[str, Any]) -> None:
            doc.update(supply=supply, hookup=[], wanted=[{"load": x["id"]} for x in loads])
            doc["rig"].update(loads=list(loads), circuits=[])

        return stocked(changed(1, put), **({"litres": 40} | stock))

    def test_a_3000_w_load_on_a_2000_w_set_lasts_no_day(self) -> None:
        set_2000 = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}
        kiln = {"id": "kiln", "name": "Kiln", "kind": "resistive", "watts": 3000}
        lamp = {"id": "lamp", "name": "Lamp", "kind": "resistive", "watts": 100}
        found = self.on(set_2000, kiln, lamp)
        self.assertEqual(found["cannot"], ["Kiln"])
        self.assertEqual(found["full_days"], 0.0)
        self.assertIn("cannot run Kiln at all", found["sentence"])
        kiln_h, lamp_h = (x["hours"] for x in found["loads"])
        self.assertEqual(kiln_h, 0.0)
        self.assertGreater(lamp_h, 10.0)

    def test_what_never_runs_together_shares_the_hours(self) -> None:
        set_2000 = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}
        pair = [
            {"id": x, "name": x, "kind": "resistive", "watts": 1200, "priority": "want"}
            for x in ("a", "b")
        ]
        found = self.on(set_2000, *pair, days=1, generator_hours=10, litres=400)
        self.assertLessEqual(sum(x["hours"] for x in found["loads"]), 10.0 + 1e-6)

    def test_a_cylinder_in_the_frost_does_not_feed_the_set_for_days(self) -> None:
        """At −20 °C a cylinder freezes long before it is empty."""
        cold = {
            "kind": "generator",
            "continuous_w": 3000,
            "starting_w": 3500,
            "fuel": "propane",
            "cylinder": {"count": 1},
        }

        def put(doc: dict[str, Any]) -> None:
            heater = {"id": "h", "name": "Heater", "kind": "resistive", "watts": 2000}
            doc.update(supply=cold, hookup=[], wanted=[{"load": "h"}])
            doc["rig"].update(loads=[heater], circuits=[])
            doc["conditions"] = {"outdoor_c": -20}

        found = stocked(changed(1, put), kg=60.0, days=3)
        self.assertLess(found["starves_h"], 3.0)
        self.assertEqual(found["full_days"], 0.0)
        self.assertIn("too cold", found["sentence"])


class Program(unittest.TestCase):
    def test_no_day_of_a_grid_is_better(self) -> None:
        """Every combination of half hours, by ranks: none does more of what matters more."""
        for days in (3.0, 7.0, 12.0):
            plan = plan_day(ASKED, MEANS, days)
            found = [round(h / d.wanted_h, 4) for d, h in zip(LOADS, plan.hours, strict=True)]
            best: tuple[float, ...] = (0.0, 0.0, 0.0)
            halves = [[n / 2 for n in range(int(2 * d.wanted_h) + 1)] for d in LOADS]
            for hours in itertools.product(*halves):
                run = max(hours)
                energy = sum(d.watts * h for d, h in zip(LOADS, hours, strict=True))
                run = max(run, energy / MEANS.set_w)
                burnt = MEANS.idle_w * run + MEANS.slope * energy
                met = hours[2] >= 1.0
                if run <= MEANS.set_h and burnt <= MEANS.fuel_wh / days and met:
                    best = max(
                        best, tuple(h / d.wanted_h for d, h in zip(LOADS, hours, strict=True))
                    )
            self.assertGreaterEqual(tuple(x + 1e-3 for x in found), best, days)

    def test_the_books_balance(self) -> None:
        for days in (2.0, 5.0, 20.0):
            plan = plan_day(ASKED, MEANS, days)
            energy = sum(d.watts * h for d, h in zip(LOADS, plan.hours, strict=True))
            self.assertLessEqual(plan.fuel_wh, MEANS.fuel_wh / days + 1e-3)
            self.assertAlmostEqual(
                plan.fuel_wh, MEANS.idle_w * plan.set_h + MEANS.slope * energy, delta=1e-3
            )
            self.assertLessEqual(energy, MEANS.set_w * plan.set_h + 1e-6)
            for d, h in zip(LOADS, plan.hours, strict=True):
                self.assertLessEqual(h, min(d.wanted_h, plan.set_h) + 1e-6)

    def test_more_days_never_give_a_must_more_hours(self) -> None:
        before = math.inf
        for days in range(1, 30):
            hours = plan_day(ASKED, MEANS, days, RANKS).hours[0]
            self.assertLessEqual(hours, before + 1e-6)
            before = hours


class Stocks(unittest.TestCase):
    def test_a_house_of_2_7_kw_rationed_burns_two_to_five_gallons_a_day(self) -> None:
        """Common practice, no source."""
        setup = changed(1, house)
        found = stocked(
            setup,
            days=7,
            litres=90,
            loads=[
                {"load": "base", "hours": 10, "priority": "must"},
                {"load": "ac", "hours": 10, "priority": "want"},
            ],
        )
        gallons = found["litres_per_day"] / 3.785
        self.assertTrue(2.0 <= gallons <= 5.0, gallons)

    def test_two_kw_on_a_20_lb_cylinder_is_about_ten_hours(self) -> None:
        """Common practice, no source: one day's stock of 4.7 gallons."""

        def propane(doc: dict[str, Any]) -> None:
            house(doc)
            doc["supply"] |= {"continuous_w": 2500, "starting_w": 3000, "fuel": "propane"}
            doc["rig"]["loads"][0]["watts"] = 2000

        setup = changed(1, propane)
        found = stocked(
            setup, days=1, fuel="propane", litres=4.7 * 3.785, loads=[{"load": "ac", "hours": 24}]
        )
        self.assertTrue(8.0 <= found["loads"][0]["hours"] <= 13.0, found["loads"])

    def test_the_sentence_says_what_rationing_buys(self) -> None:
        setup = changed(1, lambda doc: None)
        found = stocked(
            setup, days=9, litres=40, loads=[{"load": "roof", "hours": 8, "priority": "want"}]
        )
        self.assertIn("9 days with Rooftop unit", found["sentence"])
        self.assertIn("days without rationing", found["sentence"])
        self.assertEqual(found["ration_first"], "roof")
        hours = [x["hours"]["roof"] for x in found["curve"]]
        self.assertEqual(hours, sorted(hours, reverse=True))

    def test_full_days_are_where_rationing_begins(self) -> None:
        setup = changed(1, house)
        loads = [{"load": "base", "hours": 10}, {"load": "ac", "hours": 6}]
        full = stocked(setup, litres=60, loads=loads)["full_days"]
        for days, short in ((math.floor(full), False), (math.ceil(full + 0.1), True)):
            found = stocked(setup, litres=60, loads=loads, days=days)
            less = any(x["hours"] < x["wanted_h"] - 0.1 for x in found["loads"])
            self.assertEqual(less, short, days)

    def test_zero_stock_and_no_generator_hour_say_what_to_relax(self) -> None:
        setup = changed(1, house)
        loads = [{"load": "base", "hours": 10, "min_hours": 4, "priority": "must"}]
        empty = stocked(setup, litres=0, loads=loads)
        self.assertFalse(empty["feasible"])
        self.assertIn("l more fuel", " ".join(empty["relax"]))
        quiet = stocked(setup, litres=500, loads=loads, generator_hours=0)
        self.assertFalse(quiet["feasible"])
        self.assertIn("Allow the generator 4 h a day", " ".join(quiet["relax"]))

    def test_two_hours_of_charging_keep_a_battery_up(self) -> None:
        def van(doc: dict[str, Any]) -> None:
            house(doc)
            doc["supply"] = {
                "kind": "assist",
                "input": {"kind": "generator", "continuous_w": 1800, "starting_w": 2200},
                "input_limit_a": 14,
                "inverter": {
                    "kind": "battery-inverter",
                    "continuous_w": 2000,
                    "surge_w": 4000,
                    "battery_wh": 5000,
                    "idle_w": 15,
                },
            }
            doc["rig"]["loads"][1]["watts"] = 100

        setup = changed(1, van)
        found = stocked(
            setup,
            days=5,
            litres=20,
            charge_w=1500,
            generator_hours=3,
            loads=[{"load": "base", "hours": 20, "priority": "must"}],
        )
        need = 100 * 20 / 0.88 + 24 * 15
        self.assertAlmostEqual(found["bulk_h"], need / (1500 * 0.9), delta=0.03)
        self.assertLess(found["generator_h"], 2.1)
        sunny = stocked(
            setup,
            days=5,
            litres=20,
            charge_w=1500,
            solar={"peak_w": 600, "sun_h": 5},
            loads=[{"load": "base", "hours": 20, "priority": "must"}],
        )
        self.assertNotIn("full_days", sunny)

    def test_bad_stock_is_named(self) -> None:
        setup = changed(1, house)
        for stock, path in (
            ({"litres": -1}, "litres"),
            ({"litres": 3, "loads": [{"load": "x", "hours": 3}]}, "loads[0].load"),
            (
                {"litres": 3, "loads": [{"load": "ac", "hours": 2, "min_hours": 4}]},
                "loads[0].min_hours",
            ),
            ({}, "litres"),
            ({"litres": 3, "fuel": "diesel"}, "fuel"),
            ({"litres": 3, "days": 0}, "days"),
        ):
            with self.assertRaises(SetupError) as caught:
                stocked(setup, **stock)
            self.assertEqual(caught.exception.faults[0].path, path)
        with self.assertRaises(SetupError) as caught:
            stocked(changed(6, lambda doc: None), litres=4)
        self.assertEqual(caught.exception.faults[0].path, "supply")

    def test_the_command_and_the_schema(self) -> None:
        self.assertIn("days", stock_schema()["properties"])
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "s.json"
            file.write_text(
                json.dumps({"format": "iron-margin/stock", "version": 1, "days": 3, "litres": 20})
            )
            args = ["ration", str(path_of(1)), "--stock", str(file)]
            with contextlib.redirect_stdout(io.StringIO()) as out:
                self.assertEqual(main([*args, "--json"]), 0)
            self.assertEqual(json.loads(out.getvalue())["format"], "iron-margin/ration")
            with contextlib.redirect_stdout(io.StringIO()) as words:
                main(args)
            self.assertIn("The generator runs", words.getvalue())

    def test_litres_are_litres(self) -> None:
        setup = changed(1, house)
        found = ration(
            setup, read_stock({"format": "iron-margin/stock", "days": 2, "litres": 10}, setup)
        )
        self.assertAlmostEqual(found.means.fuel_wh, 10 * WH_PER_L["gasoline"])
        self.assertIn("h of", ration_words(found))

    def test_the_curve_goes_on_to_three_times_the_days(self) -> None:
        setup = changed(1, house)
        ten = list(range(1, 11))
        for days, curve in ((1, ten), (4, [*ten, 12]), (20, [*ten, 12, 14, 17, 21, 28, 42, 60])):
            stock = {"format": "iron-margin/stock", "days": days, "litres": 100}
            found = ration(setup, read_stock(stock, setup))
            self.assertEqual([n for n, _ in found.curve], curve)
