"""How long: energy is conserved, more lasts longer, and what comes in bad is named."""

from __future__ import annotations

import csv
import json
import math
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from ironmargin.case import prepare
from ironmargin.enduring.battery import accepted_w, min_input_w, refill_hours, run_battery
from ironmargin.enduring.cells import Cells
from ironmargin.enduring.duty import load_series, statistics
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.fuel import PROPANE_KG_PER_L, WH_PER_L, eco_share, fuel_use, willans
from ironmargin.errors import SetupError
from ironmargin.planning.answer import check
from ironmargin.setup.engines import Cylinder, Generator
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.model import Prices
from ironmargin.setup.reading import read_setup
from tests.shared import changed, document, path_of, plain

ROOT = Path(__file__).resolve().parents[2]
QUICK = settings(max_examples=60, deadline=None, derandomize=True)
PLAIN = plain("enduring.cells")
BATTERY = BatteryInverter(continuous_w=3000, surge_w=6000, battery_wh=5000, efficiency=0.88)


class Battery(unittest.TestCase):
    @QUICK
    @given(
        st.lists(st.floats(0, 4000), min_size=2, max_size=60),
        st.floats(0, 2500),
        st.floats(0.5, 1),
        st.floats(0.1, 1),
        st.sampled_from([10.0, 60.0, 600.0]),
    )
    def test_energy_is_conserved_and_the_charge_stays_in_bounds(
        self, load: list[float], limit: float, charging: float, soc: float, step: float
    ) -> None:
        series = run_battery(
            BATTERY, np.array(load), step, input_limit_w=limit, charging=charging, soc=soc
        )
        self.assertLess(series.imbalance(), 1e-3)
        moved = (series.soc[0] - series.soc[-1]) * BATTERY.battery_wh
        self.assertAlmostEqual(
            moved, float(series.battery_w.sum()) * step / 3600, delta=1e-6 * 5000
        )
        self.assertTrue((series.loss_w > -1e-6).all())
        self.assertTrue(((series.soc <= 1 + 1e-9) & (series.soc >= min(soc, 0.1) - 1e-9)).all())
        self.assertLessEqual(series.input_w.max(), limit + 1e-6)
        self.assertTrue((series.served_w <= series.load_w + 1e-6).all())
        if series.empty_h is None:
            np.testing.assert_allclose(series.served_w, series.load_w)

    def test_constant_load_is_closed_form(self) -> None:
        series = run_battery(BATTERY, np.full(3600, 900.0), 10.0)
        self.assertAlmostEqual(series.empty_h, 5000 * 0.9 / (900 / 0.88), places=6)

    def test_constant_surplus_is_closed_form(self) -> None:
        """Below the taper the charge rises by (limit − load)·η a step."""
        series = run_battery(
            BATTERY, np.full(360, 200.0), 10.0, input_limit_w=800.0, charging=0.9, soc=0.3
        )
        self.assertAlmostEqual(series.soc[-1], 0.3 + (800 - 200) * 0.9 / 5000, places=9)

    def test_an_empty_series_is_refused(self) -> None:
        with self.assertRaises(SetupError) as caught:
            run_battery(BATTERY, np.zeros(0), 10.0)
        self.assertIn("at least one step", str(caught.exception))

    def test_the_taper(self) -> None:
        battery = BatteryInverter(continuous_w=2000, surge_w=4000, battery_wh=5000)
        self.assertEqual(accepted_w(battery, 0.5), 2500)
        self.assertAlmostEqual(accepted_w(battery, 1.0), 0.05 * 2500)
        self.assertGreater(
            refill_hours(BATTERY, 0.8, 1.0, 2000, 0.9), refill_hours(BATTERY, 0.6, 0.8, 2000, 0.9)
        )
        self.assertIsNone(refill_hours(BATTERY, 0.5, 1.0, 100, 0.9, base_w=150))
        self.assertEqual(refill_hours(BATTERY, 1.0, 1.0, 100, 0.9), 0.0)

    def test_the_taper_is_closed_form(self) -> None:
        """From where it begins, ``ṡ = C·(1 − k·(s − 0.8))``: an exponential."""
        k, rate, back_to = 0.95 / 0.2, 0.5, 0.98
        hours = -math.log(1.0 - k * (back_to - 0.8)) / (rate * k)
        found = refill_hours(BATTERY, 0.8, back_to, 1e6, 0.9)
        self.assertAlmostEqual(found, hours, delta=0.05)  # a step of the refill

    def test_what_takes_longer_than_a_month_is_never(self) -> None:
        watts = 0.2 * 5000 / (0.9 * 24)  # of surplus, for a fifth of it a day
        self.assertAlmostEqual(refill_hours(BATTERY, 0.3, 0.7, watts, 0.9), 48.0, places=6)
        self.assertAlmostEqual(refill_hours(BATTERY, 0.3, 0.7, watts / 14, 0.9), 48.0 * 14)
        self.assertIsNone(refill_hours(BATTERY, 0.3, 0.7, watts / 16, 0.9))

    def test_compiled_and_not_they_are_the_same_cells(self) -> None:
        draw = np.random.default_rng(4)
        load = draw.uniform(0, 3000, 400) * (draw.random(400) > 0.4)
        of = (4000.0, 0.88, 300.0, 2000.0, 700.0, (0.8, 0.05))
        for sun_first in (False, True):
            rows = []
            for cells in (Cells(*of, sun_first), PLAIN.Cells(*of, sun_first)):
                kept = np.empty((5, 400))
                empty = cells.run(load, 1 / 60, 0.5, 0.1, 20.0, 300.0, 0.9, kept)
                back = cells.refill(0.3, 0.9, 100.0, 500.0, 0.9)
                rows.append([*kept.ravel(), empty, back])
            self.assertNotIn(None, rows[0])
            np.testing.assert_allclose(rows[0], rows[1], rtol=1e-12)

    def test_what_rounding_asks_too_much_is_no_empty_battery(self) -> None:
        cells = Cells(1000.0, 1.0, 0.0, 500.0, 500.0, (0.8, 0.05))
        for over, empty in ((0.8e-9, False), (1.2e-9, True)):
            requested = np.array([1000.0 * (1.0 + over)])
            at = cells.run(requested, 1.0, 1.0, 0.0, 0.0, 0.0, 0.9, np.empty((5, 1)))
            self.assertEqual(at is not None, empty, over)

    def test_how_far_the_limit_can_go_down(self) -> None:
        load = np.full(600, 1500.0)
        minimum = min_input_w(BATTERY, load, 60.0, 0.9, 1500.0)
        self.assertAlmostEqual(minimum, 1500 - 5000 * 0.9 * 0.88 / 10, delta=2)
        self.assertIsNone(min_input_w(BATTERY, load, 60.0, 0.9, 100.0))
        self.assertEqual(min_input_w(BATTERY, load[:10], 60.0, 0.9, 100.0), 0.0)


class Fuel(unittest.TestCase):
    def test_two_points_are_met(self) -> None:
        unit = Generator(
            continuous_w=1800,
            starting_w=2200,
            tank_l=3.6,
            fuel_points=((450.0, 8.1), (1800.0, 3.2)),
        )
        line = willans(unit)
        for load, hours in unit.fuel_points:
            self.assertAlmostEqual(fuel_use(unit, "gasoline", load, Prices()).hours, hours)
        self.assertFalse(line.typical)

    def test_one_point_scales_and_none_is_typical(self) -> None:
        one = Generator(continuous_w=1800, starting_w=2200, tank_l=3.6, fuel_points=((900.0, 5.0),))
        self.assertAlmostEqual(fuel_use(one, "gasoline", 900.0, Prices()).hours, 5.0)
        self.assertTrue(willans(Generator(continuous_w=1800, starting_w=2200)).typical)

    def test_points_that_would_burn_less_than_nothing(self) -> None:
        steep = willans(
            Generator(
                continuous_w=1800,
                starting_w=2200,
                tank_l=3.6,
                fuel_points=((400.0, 20.0), (1800.0, 2.0)),
            )
        )
        self.assertEqual(steep.idle_w, 0.0)
        falling = willans(
            Generator(
                continuous_w=1800,
                starting_w=2200,
                tank_l=3.6,
                fuel_points=((400.0, 2.0), (1800.0, 3.0)),
            )
        )
        self.assertEqual(falling.slope, 0.0)

    def test_more_tank_lasts_longer_and_more_load_shorter(self) -> None:
        def hours(tank: float, watts: float) -> float:
            return (
                fuel_use(
                    Generator(continuous_w=1800, starting_w=2200, tank_l=tank),
                    "gasoline",
                    watts,
                    Prices(),
                ).hours
                or 0.0
            )

        self.assertGreater(hours(5, 900), hours(4, 900))
        self.assertLess(hours(5, 1200), hours(5, 900))

    def test_eco_saves_most_at_little_load(self) -> None:
        plain, eco = (
            Generator(continuous_w=1800, starting_w=2200, tank_l=3.6, eco=e) for e in (False, True)
        )

        def saving(watts: float) -> float:
            return (
                1
                - fuel_use(eco, "gasoline", watts, Prices()).heat_w
                / fuel_use(plain, "gasoline", watts, Prices()).heat_w
            )

        self.assertGreater(saving(200), saving(1000))
        self.assertAlmostEqual(saving(1800), 0.0)

    def test_eco_saves_six_tenths_of_the_idle_part_at_no_load(self) -> None:
        eco = Generator(continuous_w=2000, starting_w=2400, eco=True)
        for load_w, share in ((0.0, 0.4), (1000.0, 0.7), (2000.0, 1.0)):
            self.assertAlmostEqual(eco_share(eco, load_w), share)

    def test_cost_and_refills(self) -> None:
        unit = Generator(
            continuous_w=1800,
            starting_w=2200,
            tank_l=3.6,
            cylinder=Cylinder(capacity_kg=9.1, fill=0.85),
        )
        gas = fuel_use(unit, "gasoline", 900, Prices(gasoline_per_l=1.0), wanted_h=24)
        self.assertAlmostEqual(gas.cost_per_h, gas.litres_per_h)
        self.assertEqual(gas.refills, math.ceil(24 / gas.hours) - 1)
        propane = fuel_use(unit, "propane", 900, Prices(propane_per_kg=2.0))
        self.assertAlmostEqual(propane.hours / propane.hours_nominal, 0.85)
        self.assertAlmostEqual(
            propane.litres_per_h / gas.litres_per_h, WH_PER_L["gasoline"] / WH_PER_L["propane"]
        )
        self.assertAlmostEqual(propane.cost_per_h, 2.0 * propane.litres_per_h * PROPANE_KG_PER_L)
        diesel = fuel_use(unit, "diesel", 900, Prices(diesel_per_l=1.5))
        self.assertAlmostEqual(diesel.cost_per_h, 1.5 * diesel.litres_per_h)
        for one in (gas, propane, diesel):
            self.assertAlmostEqual(one.cost_per_night, 10.0 * one.cost_per_h)
        free = fuel_use(unit, "natural_gas", 900, Prices(natural_gas_per_kwh=0.1))
        self.assertIsNone(free.hours)
        self.assertAlmostEqual(free.cost_per_h, free.heat_w / 10_000)

    def test_a_varying_load_burns_as_its_mean(self) -> None:
        """The line is straight: without eco only the mean counts."""

        def cycling(doc: dict[str, Any]) -> None:
            doc["supply"]["tank_l"] = 3.6
            doc["rig"]["loads"][1] = {
                "id": "base",
                "name": "heater",
                "kind": "resistive",
                "watts": 600,
                "duty": 0.5,
            }

        found = lasting(prepare(changed(2, cycling)))
        unit = found
        mean = unit.endurance.mean_w
        expected = fuel_use(
            Generator(continuous_w=1800, starting_w=2200, tank_l=3.6), "gasoline", mean, Prices()
        ).hours
        self.assertAlmostEqual(found.endurance.fuel_h, expected, delta=0.02 * expected)


class Duty(unittest.TestCase):
    def test_the_series_has_the_duty_and_the_distribution_its_mean(self) -> None:
        case = prepare(changed(11, lambda d: None))
        found = statistics(case)
        self.assertAlmostEqual(found.mean_w, 1300 * 0.6 + 1100 * 0.55, delta=0.1)
        self.assertEqual(found.p95_w, 2400)
        for step in (1.0, 10.0, 60.0, 700.0):
            series = load_series(case, 20.0, step)
            self.assertAlmostEqual(float(series.mean()), found.mean_w, delta=0.02 * found.mean_w)
            self.assertLessEqual(series.max(), 2400 + 1e-6)

    def test_two_fair_coins(self) -> None:
        def coins(doc: dict[str, Any]) -> None:
            doc["rig"]["loads"] = [
                {
                    "id": i,
                    "name": i,
                    "kind": "resistive",
                    "watts": 100,
                    "voltage_v": 230,
                    "duty": 0.2,
                }
                for i in "ab"
            ]
            doc["wanted"] = [{"load": "a"}, {"load": "b"}]

        found = statistics(prepare(changed(11, coins)))  # 0 W 64 %, 100 W 32 %, 200 W 4 %
        self.assertEqual((found.p95_w, found.max_w), (100.0, 200.0))


class Whole(unittest.TestCase):
    def test_setup_11(self) -> None:
        found = lasting(prepare(changed(11, lambda d: None)))
        e = found.endurance
        self.assertLessEqual(e.input_a, 4.0 + 1e-9)
        self.assertLess(e.soc_after, 1.0)
        self.assertGreater(e.refill_h, 0)
        self.assertLess(found.battery.imbalance(), 1e-3)

    def test_a_target_too_long_fails_the_check(self) -> None:
        def long(doc: dict[str, Any]) -> None:
            doc["conditions"] = {"target_hours": 40}

        result = check(changed(11, long))
        self.assertEqual((result.verdict, result.weakest.check), ("fails", "endurance"))
        self.assertIn("of the 40 h wanted", result.weakest.sentence)

    def test_a_generator_charges_beside_the_loads(self) -> None:
        def bulk(doc: dict[str, Any]) -> None:
            doc["supply"] = {
                "kind": "assist",
                "input": {
                    "kind": "generator",
                    "continuous_w": 1800,
                    "starting_w": 2200,
                    "voltage_v": 230,
                    "output": "230",
                    "tank_l": 4,
                },
                "input_limit_a": 7,
                "inverter": doc["supply"]["inverter"] | {"start_soc": 0.4},
            }

        e = lasting(prepare(changed(11, bulk))).endurance
        self.assertGreater(e.soc_after, 0.4)
        self.assertGreater(e.litres_per_h, 0)

    def test_noise_and_cost_are_there_when_asked(self) -> None:
        def requested(doc: dict[str, Any]) -> None:
            doc["supply"] |= {"noise": {"dba": 58, "at_m": 7}, "tank_l": 3.6}
            doc["prices"] = {"gasoline_per_l": 1.1}
            doc["site"] = {"quiet_from_h": 22, "quiet_to_h": 7}
            doc["conditions"] = {"target_hours": 6}

        found = lasting(prepare(changed(2, requested)))
        e, share = found.endurance, float(found.series["load_w"].mean()) / 1800.0
        louder = 8.0 * (share - 0.25)  # 6 dB from a quarter of the rating to all of it
        self.assertAlmostEqual(e.neighbour_dba, 58 + louder - 20 * math.log10(15.24 / 7), places=6)
        self.assertAlmostEqual(e.quiet_h, 2.0)
        self.assertGreater(e.cost_per_night, 0)
        self.assertGreaterEqual(e.refills, 1)

    def test_bad_figures_are_named(self) -> None:
        cases = [
            ({"supply": {"tank_l": 0}}, "supply.tank_l", "above 0"),
            ({"prices": {"gasoline_per_l": -1}}, "prices.gasoline_per_l", "at least 0"),
            ({"supply": {"fuel_points": [[100]]}}, "supply.fuel_points[0]", "row of 2 numbers"),
            ({"site": {"quiet_from_h": 25}}, "site.quiet_from_h", "at most 24"),
            ({"supply": {"fuel_points": [[-1, 2]]}}, "supply.fuel_points[0][0]", "at least 0"),
            ({"supply": {"cylinder": {"fill": 1.2}}}, "supply.cylinder.fill", "at most 1"),
        ]
        for change, path, words in cases:
            doc = document(2)
            for key, value in change.items():
                doc[key] = doc.get(key, {}) | value
            with self.assertRaises(SetupError) as caught:
                read_setup(doc)
            self.assertIn(words, {f.path: f.message for f in caught.exception.faults}[path])

    def test_the_command(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "series.csv"
            done = subprocess.run(
                [
                    sys.executable,
                    "-m",
                    "ironmargin",
                    "endure",
                    str(path_of(11)),
                    "--json",
                    "--csv",
                    str(file),
                ],
                cwd=ROOT,
                capture_output=True,
                text=True,
                check=True,
            )
            rows = list(csv.DictReader(file.read_text().splitlines()))
        body = json.loads(done.stdout)
        self.assertEqual(body["format"], "iron-margin/endurance")
        self.assertEqual(len(rows), 60)
        self.assertLess(float(rows[-1]["soc"]), 1.0)
        bad = subprocess.run(
            [sys.executable, "-m", "ironmargin", "endure", str(path_of(12))],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(bad.returncode, 2)


if __name__ == "__main__":
    unittest.main()
