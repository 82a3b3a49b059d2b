"""Endurance against published figures and CoolProp."""

from __future__ import annotations

import math
import unittest

from ironmargin.enduring.boiloff import (
    FULL_SHARE,
    REGULATOR_PA,
    STEEL_J_PER_KG_K,
    TARE_OVER_CAPACITY,
    boil_off,
    liquid_kg_per_m3,
    radius_m,
    saturation,
    wall_w_per_m2k,
    wetted_m2,
)
from ironmargin.enduring.fuel import PROPANE_KG_PER_L, WH_PER_L, willans
from ironmargin.enduring.noise import PARK_LIMIT_DBA, PARK_M, sound_of
from ironmargin.setup.engines import Generator
from ironmargin.verdict.lasting import lasting_words
from tests.shared import changed


class Energy(unittest.TestCase):
    def test_eia_contents(self) -> None:
        """US EIA: gasoline E10 120,200 Btu/gal, propane 91,400, diesel 137,400; 1 Btu = 1055.06 J
        (from memory).
        """
        for fuel, btu in (("gasoline", 120_200), ("propane", 91_400), ("diesel", 137_400)):
            self.assertAlmostEqual(WH_PER_L[fuel], btu * 1055.06 / 3600 / 3.785411784, delta=0.5)
        self.assertAlmostEqual(PROPANE_KG_PER_L, 0.508, delta=0.001)

    def test_a_small_set_by_hand(self) -> None:
        """Trade-like defaults: 0.035 gal/h per kW and 0.10 gal/kWh; 1.8 kW at 0.9 kW: 0.063 + 0.09
        gal/h (common practice).
        """
        line = willans(Generator(continuous_w=1800, starting_w=2200))
        gallons = float(line.heat_w(900.0)) / WH_PER_L["gasoline"] / 3.785411784
        self.assertAlmostEqual(gallons, 0.153, places=6)


class Propane(unittest.TestCase):
    def test_saturation_points(self) -> None:
        """CoolProp's propane against its normal boiling point (−42.1 °C at 101,325 Pa) and 8.36 bar
        at 20 °C (NIST, from memory).
        """
        t, pressure, latent, _, density = saturation()
        at = {round(float(c)): n for n, c in enumerate(t)}
        self.assertAlmostEqual(pressure[at[-42]] / 101_325, 1.0, delta=0.01)
        self.assertAlmostEqual(pressure[at[20]] / 8.36e5, 1.0, delta=0.01)
        self.assertAlmostEqual(latent[at[-42]] / 1e3, 425.6, delta=4)
        self.assertAlmostEqual(density[at[15]] / 508, 1.0, delta=0.01)

    def test_slow_boiling_stays_at_air_temperature(self) -> None:
        slow = boil_off(9.1, 0.8, 1, 20.0, 0.01)
        self.assertAlmostEqual(float(slow.liquid_c.min()), 20.0, delta=3.0)
        self.assertIsNone(slow.starves_h)

    def test_the_steady_depression_is_the_heat_balance(self) -> None:
        """ΔT = ṁ·h_fg/(U·A) while the level hardly changes."""
        run = boil_off(9.1, 1.0, 1, 20.0, 0.05)
        at = int(14.0 * 3600 / 30)
        t, _, latent, _, _ = saturation()
        h = latent[int(run.liquid_c[at] - t[0])]
        expected = (
            0.05 / 3600 * h / (wall_w_per_m2k(9.1) * wetted_m2(9.1, float(run.liquid_kg[at])))
        )
        self.assertAlmostEqual(20.0 - float(run.liquid_c[at]), expected, delta=0.1 * expected)

    def test_a_wall_lets_through_what_is_said_of_it(self) -> None:
        """21 W/m²K at a shell 0.30 m across (from memory), narrow ones more by the fourth root, as
        free convection does: a 20 lb cylinder is 0.289 m across, a one-pound bottle 0.087 (the
        real ones 0.31 and 0.10, from memory).
        """
        self.assertAlmostEqual(2.0 * radius_m(9.1), 0.289, delta=0.002)
        self.assertAlmostEqual(2.0 * radius_m(0.45), 0.087, delta=0.002)
        self.assertAlmostEqual(wall_w_per_m2k(9.1), 21.2, delta=0.1)
        self.assertAlmostEqual(
            wall_w_per_m2k(0.45) / wall_w_per_m2k(9.1),
            (radius_m(9.1) / radius_m(0.45)) ** 0.25,
            places=6,
        )

    def test_liquid_is_sold_at_sixty_degrees_fahrenheit(self) -> None:
        """4.24 lb/gal at 60 °F, 508 kg/m³ (NFPA 58, annex; from memory)."""
        self.assertAlmostEqual(liquid_kg_per_m3(), 508.0, delta=4.0)

    def test_a_hand_sized_bottle_is_slender_and_a_small_cylinder_is_not(self) -> None:
        """A 3 lb bottle stands over twice as high as it is wide, a 5 lb cylinder hardly higher
        (from memory).
        """
        for pounds, slender in ((3.0, 2.2), (5.0, 1.2)):
            kg = pounds * 0.4536
            volume = kg / liquid_kg_per_m3() / FULL_SHARE
            high = volume / (math.pi * radius_m(kg) ** 2)
            self.assertAlmostEqual(high / (2.0 * radius_m(kg)), slender, delta=0.05)

    def test_what_a_cylinder_and_its_regulator_are(self) -> None:
        """NFPA 58 fills to 80 % (liquid, by volume). A 20 lb cylinder's tare is 17 lb; carbon steel
        takes 0.117 Btu/lb°F; a first stage wants 10 psi (all from memory).
        """
        self.assertEqual(FULL_SHARE, 0.8)
        self.assertAlmostEqual(TARE_OVER_CAPACITY, 17.0 / 20.0)
        self.assertAlmostEqual(STEEL_J_PER_KG_K, 0.117 * 4186.8, delta=1.0)
        self.assertAlmostEqual(REGULATOR_PA, 10.0 * 6894.76, delta=100.0)

    def test_a_compressor_start_wants_half_as_much_again(self) -> None:
        """With starts it starves at the regulator's pressure, without at two thirds of it."""
        for starts, share in ((True, 1.0), (False, 1.0 / 1.5)):
            run = boil_off(9.1, 0.8, 1, -10.0, 1.2, starts=starts)
            self.assertLess(run.gauge_pa[-1], share * REGULATOR_PA)
            self.assertGreater(run.gauge_pa[-3], share * REGULATOR_PA * 0.98)

    def test_cold_low_and_single_cylinders_starve_first(self) -> None:
        """Common practice: a low, cold cylinder cannot feed a big set; two side by side can."""

        def left(fill: float, count: int, air: float) -> float:
            return boil_off(9.1, fill, count, air, 1.2).left_kg / count

        self.assertGreater(left(0.8, 1, -10.0), left(0.8, 1, 20.0))
        self.assertGreater(left(0.8, 1, 0.0), left(0.8, 2, 0.0))
        starved = boil_off(9.1, 0.8, 1, -10.0, 1.2)
        self.assertIsNotNone(starved.starves_h)
        self.assertLess(starved.gauge_pa[-1], REGULATOR_PA)
        self.assertGreater(
            boil_off(22.7, 0.8, 1, 0.0, 1.2).starves_h or math.inf,
            boil_off(9.1, 0.8, 1, 0.0, 1.2).starves_h or 0.0,
        )

    def test_a_dual_fuel_set_on_a_cold_cylinder_says_so(self) -> None:
        def cold(doc: dict) -> None:
            doc["supply"] |= {"fuel": "propane", "cylinder": {"capacity_kg": 9.1}}
            doc["conditions"] = {"outdoor_c": -5}

        from ironmargin.case import prepare
        from ironmargin.enduring.endurance import lasting

        setup = changed(2, cold)
        self.assertIn("cylinder:", lasting_words(lasting(prepare(setup)), setup))


class Sound(unittest.TestCase):
    def test_inverse_square(self) -> None:
        s = sound_of(58, 7)
        self.assertAlmostEqual(s.at(7) - s.at(14), 20 * math.log10(2))
        self.assertAlmostEqual(s.at(s.reaches(60)), 60)

    def test_the_park_line(self) -> None:
        """36 CFR 2.12: 60 dBA at 50 ft (15.24 m)."""
        self.assertEqual((PARK_LIMIT_DBA, PARK_M), (60.0, 50 * 0.3048))


if __name__ == "__main__":
    unittest.main()
