"""The tables and models against published figures, each named. Where the document could not be
opened: from memory.
"""

from __future__ import annotations

import itertools
import math
import unittest

from ironmargin.electrics.motor import circuit_of, torque
from ironmargin.limits.breakers import CONTINUOUS_FROM_H
from ironmargin.limits.service_volts import volt_limits
from ironmargin.path.trace import COPPER_OHM_MM2_PER_M
from ironmargin.protection.breaker import EARLY, EDGES, LATE, NOMINAL, curve
from ironmargin.supplies.derate import isa_pressure_hpa, sae_j1349_cf
from ironmargin.tables import (
    code_letter_kva_per_hp,
    conductor_ohm_per_m,
    cord_ampacity_a,
    number_of,
    rows,
)

FOOT_M = 0.3048


class Conductors(unittest.TestCase):
    def test_nec_chapter_9_table_8(self) -> None:
        """NFPA 70, Chapter 9 Table 8, stranded uncoated copper, ohm/kft at 75 °C (from memory)."""
        for awg, ohm in ((14, 3.14), (12, 1.98), (10, 1.24), (8, 0.778), (6, 0.491), (4, 0.308)):
            self.assertAlmostEqual(conductor_ohm_per_m(awg) * 1000 * FOOT_M, ohm)

    def test_it_is_the_resistivity_of_copper(self) -> None:
        """IEC 60028 annealed copper: 1/58 ohm·mm²/m at 20 °C, +0.393 %/K; at 75 °C and stranded
        about 2 % more.
        """
        at_75 = 1 / 58 * (1 + 0.00393 * 55) * 1.02
        self.assertAlmostEqual(COPPER_OHM_MM2_PER_M / at_75, 1.0, delta=0.01)
        for row in rows("conductors"):
            self.assertAlmostEqual(
                conductor_ohm_per_m(int(row["awg"])) * float(row["area_mm2"]) / at_75,
                1.0,
                delta=0.02,
            )

    def test_awg_steps_double_in_three(self) -> None:
        """ASTM B258: areas follow 92^(1/39) a step, so three sizes double the area."""
        self.assertAlmostEqual(
            conductor_ohm_per_m(12) / conductor_ohm_per_m(6), 92 ** (12 / 39), delta=0.07
        )

    def test_nec_400_5(self) -> None:
        """NFPA 70, Table 400.5(A)(1), two current-carrying conductors (from memory)."""
        for awg, amps in ((16, 13), (14, 18), (12, 25), (10, 30), (8, 40), (6, 55)):
            self.assertEqual(cord_ampacity_a(awg), amps)


class Motors(unittest.TestCase):
    def test_nec_430_7b_bands_join(self) -> None:
        """NFPA 70, Table 430.7(B): the bands join, A below 3.15, V from 22.4 (from memory)."""
        bands = [(float(r["kva_per_hp_low"]), r["kva_per_hp_high"]) for r in rows("code_letters")]
        for (_, high), (low, _) in itertools.pairwise(bands):
            self.assertAlmostEqual(low - float(high), 0.01, places=6)
        self.assertEqual("".join(r["letter"] for r in rows("code_letters")), "ABCDEFGHJKLMNPRSTUV")
        self.assertAlmostEqual(code_letter_kva_per_hp("G"), 5.945)
        self.assertEqual(code_letter_kva_per_hp("V"), 22.4)

    def test_nec_430_248_and_251a(self) -> None:
        """NFPA 70, Table 430.248 (1 hp: 16 A at 115 V, 8 A at 230 V) and 430.251(A), six times
        those (from memory).
        """
        self.assertEqual(number_of("motor_full_load", "hp", "1", "amps_115v"), 16)
        for row in rows("motor_full_load"):
            self.assertAlmostEqual(float(row["amps_115v"]), 2 * float(row["amps_230v"]), delta=0.11)
        for row in rows("motor_locked_rotor"):
            full = number_of("motor_full_load", "hp", row["hp"], "amps_115v")
            self.assertAlmostEqual(float(row["lra_115v"]), 6 * full, delta=0.6)

    def test_torque_is_one_at_full_load_and_falls_with_the_square(self) -> None:
        c = circuit_of(120.0, 60.0, 12.5)
        self.assertAlmostEqual(torque(c, 120.0, c.slip_fl), 1.0)
        self.assertAlmostEqual(torque(c, 60.0, 1.0) / torque(c, 120.0, 1.0), 0.25)
        self.assertAlmostEqual(120 / math.hypot(c.r1 + c.r2, c.x), 60.0)


class Air(unittest.TestCase):
    def test_iso_2533_pressures(self) -> None:
        """ISO 2533, table of the standard atmosphere: 898.75 hPa at 1,000 m, 794.95 at 2,000,
        701.09 at 3,000.
        """
        for metres, hpa in ((0, 1013.25), (1000, 898.75), (2000, 794.95), (3000, 701.09)):
            self.assertAlmostEqual(isa_pressure_hpa(metres), hpa, delta=0.1)

    def test_sae_j1349_is_one_at_its_reference(self) -> None:
        """SAE J1349: cf is 1 at 99 kPa dry and 25 °C; hand value at 900 hPa, 35 °C."""
        self.assertAlmostEqual(sae_j1349_cf(990.0, 25.0), 1.0)
        self.assertAlmostEqual(sae_j1349_cf(900.0, 35.0), 1.18 * 1.1 * math.sqrt(308 / 298) - 0.18)

    def test_three_to_four_per_cent_a_thousand_feet(self) -> None:
        """Common practice, no source."""
        loss = 1 - sae_j1349_cf(isa_pressure_hpa(0), 25) / sae_j1349_cf(
            isa_pressure_hpa(5000 * FOOT_M), 25
        )
        self.assertTrue(0.03 <= loss / 5 <= 0.04, loss / 5)


class BreakerBands(unittest.TestCase):
    def test_ul_489(self) -> None:
        """UL 489 calibration: carries 100 %; trips within 1 h at 135 %; within 2 min at 200 % to 30
        A, 4 min at 31 to 50 A (from memory).
        """
        for amps, late_s in ((15, 120), (20, 120), (30, 120), (40, 240), (50, 240)):
            for edge in EDGES:
                c = curve("UL489", amps, edge)
                self.assertEqual(c.trip_s(1.0), math.inf)
                self.assertLessEqual(c.trip_s(1.3501), 3600)
                self.assertLessEqual(c.trip_s(2.0), late_s + 1e-6)
            self.assertAlmostEqual(curve("UL489", amps, LATE).trip_s(2.0), late_s)
            self.assertEqual(curve("UL489", amps, LATE).trip_s(1.34), math.inf)
            self.assertLess(curve("UL489", amps, EARLY).trip_s(1.05), 3600)

    def test_35_a_on_a_30_a_handle_may_hold_an_hour(self) -> None:
        """Common practice, no source: within its standard a breaker may hold 35 A on 30 for an
        hour.
        """
        self.assertEqual(curve("UL489", 30, LATE).trip_s(35 / 30), math.inf)
        self.assertLess(curve("UL489", 30, EARLY).trip_s(35 / 30), 600)

    def test_iec_60898_1(self) -> None:
        """IEC 60898-1, Table 7: no trip at 1.13 In in 1 h, trip at 1.45 In within 1 h, 1 to 60 s at
        2.55 In to 32 A, to 120 s above (from memory).
        """
        for amps, late_s in ((6, 60), (10, 60), (16, 60), (32, 60), (40, 120), (63, 120)):
            for edge in EDGES:
                c = curve("IEC60898-C", amps, edge)
                self.assertEqual(c.trip_s(1.13), math.inf)
                self.assertLess(c.trip_s(1.4501), 3600)
                self.assertTrue(1 - 1e-6 <= c.trip_s(2.55) <= late_s + 1e-6)
            early, late = (curve("IEC60898-C", amps, edge) for edge in (EARLY, LATE))
            self.assertAlmostEqual(early.trip_s(2.55), 1.0)
            self.assertLess(early.trip_s(1.2), 60)
            self.assertAlmostEqual(late.trip_s(2.55), late_s)
            self.assertEqual(late.trip_s(1.44), math.inf)

    def test_iec_magnetic_limbs(self) -> None:
        """IEC 60898-1: B 3 to 5, C 5 to 10, D 10 to 20 times In (from memory)."""
        for letter, low, high in (("B", 3, 5), ("C", 5, 10), ("D", 10, 20)):
            self.assertEqual(curve(f"IEC60898-{letter}", 16, EARLY).trip_s(low), 0.0)
            self.assertGreater(curve(f"IEC60898-{letter}", 16, LATE).trip_s(high - 0.01), 0.0)
            self.assertTrue(low < curve(f"IEC60898-{letter}", 16, NOMINAL).magnetic < high)


class Volts(unittest.TestCase):
    def test_ansi_c84_1(self) -> None:
        """ANSI C84.1: utilisation range B from 104 V on 120; EN 50160: 230 V − 10 % (from
        memory).
        """
        self.assertEqual(
            number_of("voltage_ranges", "range", "B utilisation", "low_v"), volt_limits(120.0)[0]
        )
        self.assertEqual(number_of("voltage_ranges", "range", "A utilisation", "low_v"), 108)
        self.assertAlmostEqual(volt_limits(230.0)[0], 230 * 0.9)

    def test_continuous_loads(self) -> None:
        """NFPA 70, Article 100 and 210.20(A): three hours or more, at most 80 % (from memory)."""
        self.assertEqual(CONTINUOUS_FROM_H, 3.0)


class Tables(unittest.TestCase):
    def test_every_row_has_a_known_source(self) -> None:
        for name in (
            "conductors",
            "cord_ampacity",
            "cord_ampacity_mm2",
            "code_letters",
            "plugs",
            "typical_loads",
            "typical_supplies",
            "typical_parts",
            "motor_full_load",
            "motor_locked_rotor",
            "park_demand",
            "park_sites",
            "breaker_sizes",
            "voltage_ranges",
        ):
            self.assertTrue(rows(name), name)

    def test_enough_typical_loads_and_each_in_its_range(self) -> None:
        loads = rows("typical_loads")
        self.assertGreaterEqual(len(loads), 60)
        self.assertEqual(len({r["key"] for r in loads}), len(loads))
        for row in loads:
            self.assertLess(float(row["watts_low_w"]), float(row["watts_high_w"]) + 1, row["key"])
            if row["watts"]:
                self.assertTrue(
                    float(row["watts_low_w"]) <= float(row["watts"]) <= float(row["watts_high_w"]),
                    row["key"],
                )
            if row["lra_a"]:
                self.assertTrue(
                    3.5 <= float(row["lra_a"]) / float(row["running_a"]) <= 7.0, row["key"]
                )

    def test_park_demand(self) -> None:
        """NFPA 70, Table 551.73(A): one site 100 %, 36 and more 41 %; 551.73: 12,000, 3,600, 2,400
        VA a site (from memory).
        """
        self.assertEqual(number_of("park_demand", "sites_from", "1", "factor"), 1.0)
        self.assertEqual(float(rows("park_demand")[-1]["factor"]), 0.41)
        self.assertEqual([float(r["va"]) for r in rows("park_sites")], [12000, 3600, 2400])


if __name__ == "__main__":
    unittest.main()
