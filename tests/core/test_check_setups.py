"""The check setups show what the trade says they must (common practice, no published source)."""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.enduring.endurance import lasting
from ironmargin.errors import SetupError
from ironmargin.planning.answer import check
from ironmargin.planning.remedies import find_remedies
from ironmargin.setup.reading import load_setup
from ironmargin.verdict.check import examine, with_chance
from tests.shared import changed, checked, path_of


class CheckSetups(unittest.TestCase):
    def test_a_quick_check_made_whole_is_the_whole_check_figure_for_figure(self) -> None:
        for number in (1, 4, 6, 8, 13, 18):
            whole = checked(number)
            setup = whole.case.setup
            quick = examine(setup, quick=True)
            self.assertTrue(all(start.chance is None for start in quick.result.starts), number)
            self.assertEqual(repr(with_chance(quick).result), repr(examine(setup).result), number)
        without = changed(1, lambda doc: doc.update(rules={"trials": 0}))
        quick = examine(without, quick=True)
        self.assertIs(with_chance(quick), quick)

    def test_01_pair_starts_15k(self) -> None:
        result = checked(1).result
        for start in result.starts:
            self.assertEqual(start.outcome, "starts")
            self.assertGreaterEqual(start.chance, 0.85)
            self.assertTrue(62 <= start.lowest_v <= 80, start.lowest_v)
            self.assertTrue(0.4 <= start.seconds <= 1.6, start.seconds)
            self.assertTrue(14.5 <= start.settled_a <= 15.5, start.settled_a)
            self.assertGreaterEqual(start.settled_v, 117)
        self.assertIn(result.verdict, ("holds", "thin"))

    def test_02_one_set_does_not(self) -> None:
        result = checked(2).result
        (start,) = result.starts
        self.assertIn(start.outcome, ("stalls", "trips"))
        self.assertLess(start.chance, 0.25)
        self.assertLess(start.margin, -0.06)
        self.assertEqual((result.verdict, result.weakest.check), ("fails", "start"))

    def test_03_unaided_on_a_2000(self) -> None:
        result = checked(3).result
        self.assertNotEqual(result.starts[0].outcome, "starts")
        self.assertLess(result.starts[0].chance, 0.35)
        self.assertEqual(result.verdict, "fails")

    def test_04_same_with_soft_start(self) -> None:
        (start,) = checked(4).result.starts
        self.assertEqual(start.outcome, "starts")
        self.assertTrue(13 <= start.peak_a <= 19, start.peak_a)
        self.assertGreaterEqual(start.chance, 0.9)
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
        self.assertIn(
            "supply.continous_va: unknown field, remove it or put it under x (got 3)", lines
        )
        self.assertIn('rig.loads[0].lra_a: must be a number (got "sixty")', lines)
        self.assertIn('name: must not be empty (got "")', lines)
        self.assertTrue(
            any(line.startswith("wanted[0].load:") and "nosuch" in line for line in lines)
        )

    def test_13_and_14_the_charger_decides(self) -> None:
        alone, concurrent = checked(13).result, checked(14).result
        self.assertTrue(0.4 <= alone.starts[0].chance <= 0.97, alone.starts[0].chance)
        self.assertLessEqual(concurrent.starts[0].chance, alone.starts[0].chance - 0.25)
        self.assertEqual(concurrent.verdict, "fails")
        self.assertIn("harger", concurrent.weakest.sentence)

    def test_15_learned_soft_start(self) -> None:
        result = checked(15).result
        self.assertNotEqual(result.verdict, "fails")
        self.assertTrue(12 <= result.starts[0].peak_a <= 17, result.starts[0].peak_a)
        at_once = check(changed(15, lambda doc: doc["rig"]["loads"][0].update(wait_s=0)))
        self.assertNotEqual(at_once.starts[0].outcome, "starts")
        self.assertTrue(any("wait three to five minutes" in c for c in result.cautions))

    def test_16_five_tons_on_7_kw(self) -> None:
        (start,) = checked(16).result.starts
        self.assertEqual(start.outcome, "starts")
        self.assertGreaterEqual(start.chance, 0.55)
        self.assertGreater(start.lockout_share, 0.4)
        self.assertEqual(check(changed(16, unaided)).verdict, "fails")

    def test_17_two_tons_through_a_transformer(self) -> None:
        result = checked(17).result
        self.assertEqual({s.outcome for s in result.starts}, {"starts"})
        unit = next(s for s in result.starts if s.load == "hp")
        self.assertTrue(60 <= unit.lowest_v <= 95, unit.lowest_v)
        self.assertEqual(check(changed(17, unaided)).verdict, "fails")

    def test_18_propane_evening(self) -> None:
        result = checked(18).result
        self.assertTrue(8 <= result.endurance.fuel_h <= 12, result.endurance.fuel_h)
        self.assertAlmostEqual(
            result.endurance.fuel_h, lasting(checked(18).case).endurance.fuel_h, delta=0.05
        )

        def cycling(doc: dict[str, Any]) -> None:
            doc["rig"]["loads"] = [
                {
                    "id": "ac",
                    "name": "ac",
                    "kind": "air-conditioner",
                    "lra_a": 50,
                    "running_a": 13,
                    "high_cool_a": 17,
                    "duty": 0.9,
                }
            ]
            doc["wanted"] = [{"load": "ac"}]

        end = check(changed(18, cycling)).endurance
        self.assertTrue(end.starves_at_start)
        self.assertGreater(end.starves_h, 8)

    def test_19_one_pound_cylinder(self) -> None:
        self.assertTrue(0.75 <= checked(19).result.endurance.fuel_h <= 1.4)

    def test_20_50_hz_at_low_volts(self) -> None:
        self.assertIn(
            checked(20).result.starts[0].outcome, ("starts", "stalls", "volts-stay-low", "trips")
        )

    def test_21_loads_let_go(self) -> None:
        result = checked(21).result
        self.assertEqual(result.verdict, "fails")
        self.assertIn("Charger", result.weakest.sentence)
        self.assertIn("Microwave", result.weakest.sentence)
        smaller = check(changed(21, lambda doc: doc["rig"]["loads"][0].update(watts=300)))
        self.assertLessEqual(result.iron_margin, smaller.iron_margin)
        far = check(changed(21, lambda doc: doc["hookup"][0].update(length_m=120)))
        self.assertEqual({row.load for row in far.dropped_out}, {"c", "m"})
        self.assertIn("drop out", far.weakest.sentence)

    def test_22_long_cord(self) -> None:
        full = checked(22)
        result = full.result
        self.assertTrue(
            result.weakest.check in ("path", "voltage")
            or result.starts[0].outcome == "volts-stay-low"
        )
        self.assertIn("cord", result.weakest.sentence)
        self.assertEqual(result.starts[0].gives_first, "path")
        kinds = {c for r in find_remedies(full.case.setup).found for c in r.change.split("+")}
        self.assertTrue(kinds & {"thicker-cord", "shorter-cord"}, kinds)
        self.assertFalse(kinds & {"next-size", "second-set"}, kinds)


def unaided(doc: dict[str, Any]) -> None:
    """The same compressor without its soft starter."""
    doc["rig"]["loads"][0].pop("soft_start")
    doc["rig"]["loads"][0]["start"] = "run-capacitor"


if __name__ == "__main__":
    unittest.main()
