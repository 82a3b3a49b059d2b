"""The check setups show what the trade says they must (common practice, no published source)."""

from __future__ import annotations

import unittest

from ironmargin.errors import SetupError
from ironmargin.setup.reading import load_setup
from tests.shared import checked, path_of


class CheckSetups(unittest.TestCase):
    def test_01_pair_starts_15k(self) -> None:
        result = checked(1).result
        for start in result.starts:
            self.assertEqual(start.outcome, "starts")
            self.assertGreaterEqual(start.chance, 0.9)
            self.assertTrue(62 <= start.lowest_v <= 80, start.lowest_v)
            self.assertTrue(0.4 <= start.seconds <= 1.6, start.seconds)
            self.assertTrue(14.5 <= start.settled_a <= 15.5, start.settled_a)
            self.assertGreaterEqual(start.settled_v, 117)
        self.assertIn(result.verdict, ("holds", "thin"))

    def test_02_one_set_does_not(self) -> None:
        result = checked(2).result
        (start,) = result.starts
        self.assertIn(start.outcome, ("stalls", "trips"))
        self.assertLess(start.chance, 0.05)
        self.assertLess(start.margin, -0.2)
        self.assertEqual((result.verdict, result.weakest.check), ("fails", "start"))

    def test_03_unaided_on_a_2000(self) -> None:
        result = checked(3).result
        self.assertNotEqual(result.starts[0].outcome, "starts")
        self.assertLess(result.starts[0].chance, 0.1)
        self.assertEqual(result.verdict, "fails")

    def test_04_same_with_soft_start(self) -> None:
        (start,) = checked(4).result.starts
        self.assertEqual(start.outcome, "starts")
        self.assertTrue(13 <= start.peak_a <= 19, start.peak_a)
        self.assertGreaterEqual(start.chance, 0.95)
        self.assertGreater(start.lowest_v, 105)

    def test_05_reducer_with_microwave(self) -> None:
        result = checked(5).result
        self.assertEqual(result.verdict, "fails")
        self.assertIn(result.weakest.check, ("sustain", "path"))
        self.assertGreater(max(row.amps for row in result.sustain if row.where == "breaker"), 30)
        self.assertIn("Microwave", result.weakest.sentence)

    def test_06_reducer_alone(self) -> None:
        result = checked(6).result
        self.assertIn(result.verdict, ("holds", "thin"))
        adapter = next(row for row in result.path if row.kind == "adapter")
        self.assertAlmostEqual(adapter.amps, result.legs["L1"].a + result.legs["L2"].a, delta=0.1)
        self.assertGreater(adapter.margin, 0)

    def test_07_opposite_legs(self) -> None:
        result = checked(7).result
        self.assertEqual(result.service, ())
        for leg in ("L1", "L2"):
            self.assertAlmostEqual(result.legs[leg].a, 21.3, delta=0.8)
        self.assertLess(result.legs["N"].a, 1.5)
        self.assertNotEqual(result.verdict, "fails")

    def test_08_same_leg(self) -> None:
        result = checked(8).result
        self.assertEqual([(s.load, s.problem) for s in result.service], [("hob", "no-240")])
        self.assertAlmostEqual(result.legs["N"].a, 28, delta=1.0)
        self.assertEqual(result.verdict, "fails")

    def test_09_central_units_unaided(self) -> None:
        result = checked(9).result
        self.assertNotEqual(result.verdict, "holds")
        self.assertAlmostEqual(result.coincidence.wanted_a, 127, delta=2)
        self.assertLess(result.coincidence.peak_a, 100)
        self.assertEqual(result.schools["peak"], "fails")

    def test_10_central_units_soft(self) -> None:
        result = checked(10).result
        self.assertIn(result.verdict, ("holds", "thin"))
        self.assertAlmostEqual(result.coincidence.peak_a, 43, delta=2)
        self.assertAlmostEqual(result.coincidence.settled_a, 14, delta=1)

    def test_11_assist(self) -> None:
        result = checked(11).result
        self.assertLessEqual(result.endurance.input_a, 4.0)
        self.assertLess(result.endurance.soc_after, 1.0)
        self.assertGreater(result.endurance.refill_h, 0)
        self.assertNotEqual(result.verdict, "fails")

    def test_12_bad_file_names_every_fault(self) -> None:
        with self.assertRaises(SetupError) as caught:
            load_setup(path_of(12))
        lines = str(caught.exception).splitlines()
        self.assertIn("supply.continuous_w: must be above 0 (got -5)", lines)
        self.assertIn("supply.continous_va: unknown field, remove it or put it under x (got 3)", lines)
        self.assertIn('rig.loads[0].lra_a: must be a number (got "sixty")', lines)
        self.assertIn('name: must not be empty (got "")', lines)
        self.assertTrue(any(line.startswith("wanted[0].load:") and "nosuch" in line for line in lines))


if __name__ == "__main__":
    unittest.main()
