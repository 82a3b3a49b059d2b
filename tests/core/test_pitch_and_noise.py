"""How loud it is and where it stands, and how long ahead it lasts."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from typing import Any

from ironmargin.case import prepare
from ironmargin.enduring.battery import accepted_w
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.fuel import EXCHANGE_FILL, PROPANE_KG_PER_L, fuel_use, fuels_side_by_side
from ironmargin.enduring.left import level_of
from ironmargin.enduring.noise import (
    WALL_DB,
    Sound,
    fit,
    quiet_overlap_h,
    sound_of,
    sound_of_set,
    together,
)
from ironmargin.enduring.pitch import CARBON_MONOXIDE_M, USUAL_CORD_M, Pitch, propose
from ironmargin.errors import SetupError
from ironmargin.setup import engines
from ironmargin.setup.engines import Cylinder, Generator
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.model import Prices
from tests.core.test_engine import question
from tests.shared import changed


class Noise(unittest.TestCase):
    def test_quiet_hours_pass_midnight(self) -> None:
        self.assertAlmostEqual(quiet_overlap_h(20, 4, 22, 7), 2)
        self.assertAlmostEqual(quiet_overlap_h(23, 10, 22, 7), 8)
        self.assertAlmostEqual(quiet_overlap_h(1, 2, 22, 7), 2)
        self.assertAlmostEqual(quiet_overlap_h(10, 5, 22, 7), 0)
        self.assertAlmostEqual(quiet_overlap_h(0, 48, 22, 7), 18)

    def test_a_fit_tells_walls(self) -> None:
        free = fit([(r, 70 - 20 * math.log10(r)) for r in (2, 4, 8)])
        self.assertAlmostEqual(free.residual_db, 0, places=9)
        self.assertIn("free field", free.words)
        walls = fit([(2, 64), (4, 60), (8, 56)])
        self.assertAlmostEqual(walls.per_doubling_db, 4)
        self.assertIn("reflect", walls.words)
        self.assertIsNone(fit([(7, 58)]).per_doubling_db)
        for bad in ([], [(0, 50)]):
            with self.assertRaises(SetupError):
                fit(bad)

    def test_sets_add(self) -> None:
        self.assertAlmostEqual(sound_of(58, 7, sets=2).at(7), 61.01, places=2)
        self.assertAlmostEqual(
            together([sound_of(58, 7), sound_of(58, 7)]).at(7), sound_of(58, 7, sets=2).at(7)
        )
        self.assertGreater(
            sound_of(58, 7, exhaust_side=True).at(7), sound_of(58, 7, eco=True).at(7) + 5
        )


class APitchTests(unittest.TestCase):
    """A set among ears: the plan of the pitch."""

    sound = Sound(80.0)

    def test_aside_of_the_exhaust_it_is_the_inverse_square(self) -> None:
        for metres in (2.0, 7.0, 15.24):
            pitch = Pitch(self.sound, (metres, 0.0), exhaust_deg=90.0)
            self.assertAlmostEqual(pitch.at_ear(), self.sound.at(metres))

    def test_the_exhausts_side_is_three_to_four_louder_the_other_as_much_quieter(self) -> None:
        aside, at_it, away = (
            Pitch(self.sound, (10.0, 0.0), exhaust_deg=deg).at_ear() for deg in (90.0, 0.0, 180.0)
        )
        self.assertTrue(3.0 <= at_it - aside <= 4.0)
        self.assertAlmostEqual(at_it - aside, aside - away)

    def test_a_ring_is_where_its_level_is(self) -> None:
        pitch = Pitch(self.sound, (20.0, 0.0), (3.0, -2.0), 45.0)
        for spot in pitch.ring(55.0):
            self.assertAlmostEqual(pitch.heard_at(spot), 55.0)

    def test_the_own_ear_is_the_nearest_wall(self) -> None:
        pitch = Pitch(self.sound, (20.0, 0.0))
        self.assertGreaterEqual(pitch.from_rig_m(), CARBON_MONOXIDE_M)
        self.assertLess(pitch.from_rig_m(), CARBON_MONOXIDE_M + 0.3)
        inside = replace(pitch, place=pitch.rig.middle)
        self.assertEqual(inside.from_rig_m(), 0.0)
        self.assertLessEqual(inside.at_rig(), 80.0 + 3.5)  # never nearer than a metre

    def test_exhaust_keeps_twenty_feet(self) -> None:
        """The US Consumer Product Safety Commission's advice for portable generators."""
        self.assertAlmostEqual(CARBON_MONOXIDE_M, 20.0 * 0.3048, delta=0.01)

    def test_a_path_without_a_cord_reaches_as_far_as_one_of_25_feet(self) -> None:
        """Common practice, no source."""
        self.assertAlmostEqual(USUAL_CORD_M, 25.0 * 0.3048, delta=0.5)

    def test_a_trailer_s_wall_takes_less_with_the_windows_open(self) -> None:
        """12 dB open and 22 shut: common practice, no source."""
        self.assertEqual(WALL_DB, {"open": 12.0, "shut": 22.0})

    def test_the_place_proposed_keeps_what_it_says(self) -> None:
        here = Pitch(self.sound, (12.0, 0.0), exhaust_deg=0.0)
        there = propose(here, 60.0, 10.0)
        self.assertGreater(here.at_ear(), 60.0)
        self.assertLessEqual(there.at_ear(), 60.0)
        self.assertGreaterEqual(there.from_rig_m(), CARBON_MONOXIDE_M)
        self.assertLessEqual(there.from_rig_m(), 10.0)
        wall = there.rig.nearest(there.place)
        aim = math.radians(there.exhaust_deg)
        ahead = (there.place[0] + math.cos(aim), there.place[1] + math.sin(aim))
        self.assertGreater(math.dist(ahead, wall), math.dist(there.place, wall))

    def test_where_nothing_keeps_the_limit_it_is_the_quietest(self) -> None:
        here = Pitch(Sound(100.0), (12.0, 0.0), exhaust_deg=0.0)
        there = propose(here, 60.0, 8.0)
        self.assertGreater(there.at_ear(), 60.0)
        self.assertLess(there.at_ear(), here.at_ear() - 6.0)

    def test_a_short_cord_stands_as_far_off_as_it_lets(self) -> None:
        there = propose(Pitch(self.sound, (40.0, 0.0)), 60.0, 4.0)
        self.assertTrue(3.0 <= there.from_rig_m() <= 4.0, there.from_rig_m())


class Ahead(unittest.TestCase):
    """How far it is looked, and how sure a level is."""

    def hours(self, supply: dict[str, Any], target: float | None) -> float:
        heater = {"id": "h", "name": "Heater", "kind": "resistive", "watts": 60}
        wanted = question(supply, [heater]).conditions
        setup = replace(question(supply, [heater]), conditions=replace(wanted, target_hours=target))
        series = lasting(prepare(setup), step_s=600.0, one_more=False).series["time_h"]
        return float(series[-1]) + 600.0 / 3600.0

    def test_a_battery_a_day_and_nothing_more_than_a_week(self) -> None:
        battery = {"kind": "battery-inverter", "continuous_w": 3000, "surge_w": 6000}
        battery |= {"battery_wh": 5000}
        self.assertAlmostEqual(self.hours(battery, None), 24.0, delta=0.2)
        self.assertAlmostEqual(self.hours(battery, 12.0), 12.0, delta=0.2)
        self.assertAlmostEqual(self.hours(battery, 300.0), 168.0, delta=0.2)

    def test_a_level_is_sure_to_a_tenth_of_what_was_used(self) -> None:
        battery = {"kind": "battery-inverter", "continuous_w": 3000, "surge_w": 6000}
        heater = {"id": "h", "name": "Heater", "kind": "resistive", "watts": 60}
        case = prepare(question(battery | {"battery_wh": 5000}, [heater]))
        found = lasting(case, step_s=600.0, one_more=False)
        level, low, high, of = level_of(case.setup.supply, found, 600.0)
        used = level[0] - level[-1]
        self.assertEqual(of, "charge")
        self.assertGreater(used, 0.1)
        self.assertAlmostEqual(level[-1] - low[-1], 0.1 * used)
        self.assertAlmostEqual(high[-1] - level[-1], 0.1 * used)

    def test_a_set_is_louder_the_more_it_carries(self) -> None:
        """A quarter of its rating as stated, 6 dB more at its rating, 2 at constant speed (common
        practice, no source).
        """
        unit = Generator(continuous_w=2000.0, starting_w=2200.0)
        noise = engines.Noise(dba=58.0, at_m=7.0)

        def at(load_w: float | None, unit: Generator = unit, noise: engines.Noise = noise) -> float:
            return sound_of_set(unit, noise, load_w).at(7.0)

        self.assertAlmostEqual(at(None), 58.0)
        self.assertAlmostEqual(at(500.0), 58.0)
        self.assertAlmostEqual(at(2000.0), 64.0)
        self.assertAlmostEqual(at(9000.0), 64.0)
        self.assertAlmostEqual(at(0.0), 56.0)
        steady = replace(unit, inverter=False)
        self.assertAlmostEqual(at(2000.0, steady), 60.0)
        eco = replace(unit, eco=True)
        self.assertAlmostEqual(at(0.0, eco), 53.0)
        self.assertAlmostEqual(at(2000.0, eco), 64.0)
        known = engines.Noise(dba=60.0, at_m=7.0, load_w=1000.0, full_dba=63.0)
        self.assertAlmostEqual(at(1000.0, noise=known), 60.0)
        self.assertAlmostEqual(at(2000.0, noise=known), 63.0)
        self.assertAlmostEqual(at(1500.0, noise=known), 61.5)

    def test_a_battery_takes_half_of_itself_an_hour_of_lithium_a_fifth_of_lead(self) -> None:
        """Makers' usual figures: 0.5 C and 0.2 C (from memory)."""
        for chemistry, watts in (("lithium", 2500.0), ("lead", 1000.0)):
            inverter = BatteryInverter(
                continuous_w=3000.0, surge_w=6000.0, battery_wh=5000.0, chemistry=chemistry
            )
            self.assertAlmostEqual(accepted_w(inverter, 0.5), watts)
            self.assertLess(accepted_w(inverter, 0.9), watts)

    def test_propane_costs_what_it_is_bought_for(self) -> None:
        """An exchanged cylinder of 20 lb holds 15 to 17 lb (common practice, no source)."""
        unit = Generator(
            continuous_w=2000.0, starting_w=2200.0, fuel="propane", cylinder=Cylinder()
        )
        kg_per_h = fuel_use(unit, "propane", 1000.0, Prices()).litres_per_h * PROPANE_KG_PER_L
        prices = Prices(propane_per_exchange=23.0, propane_per_fill=18.0)
        found = {f.bought: f for f in fuels_side_by_side((unit,), 1000.0, prices)}
        self.assertEqual(set(found), {"", "exchanged", "filled"})  # gasoline is bought one way
        for way, price, holds in (("exchanged", 23.0, 0.85 * 9.1), ("filled", 18.0, 9.1)):
            self.assertAlmostEqual(found[way].cost_per_h, price / holds * kg_per_h, places=6)
        self.assertTrue(15.0 <= EXCHANGE_FILL * 20.0 <= 17.5)
        alone = fuels_side_by_side((unit,), 1000.0, Prices(propane_per_fill=18.0))
        self.assertEqual({f.bought for f in alone}, {""})
        both = fuel_use(unit, "propane", 1000.0, prices)
        self.assertEqual(both.cost_per_h, found["filled"].cost_per_h)  # the cheaper one

    def test_idling_loaded_and_at_a_start_are_told_apart(self) -> None:
        def requested(doc: dict[str, Any]) -> None:
            doc["supply"] |= {"noise": {"dba": 58, "at_m": 7}, "tank_l": 3.6}

        loud = dict(lasting(prepare(changed(2, requested))).loud)
        idle, mean, full = (s.at(7.0) for s in loud.values())
        self.assertLess(idle, mean)
        self.assertLess(mean, full)
        self.assertAlmostEqual(full, 64.0)

    def test_eco_takes_three_decibels_and_the_exhaust_s_side_adds_three_and_a_half(self) -> None:
        self.assertAlmostEqual(sound_of(60.0, 1.0, eco=True).at(1.0), 57.0)
        self.assertAlmostEqual(sound_of(60.0, 1.0, exhaust_side=True).at(1.0), 63.5)


if __name__ == "__main__":
    unittest.main()
