"""The sentence and the first fix: what gives first and what to do, for every kind of
failure.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

from ironmargin.case import prepare
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.fuel import unknown_store
from ironmargin.limits.coincidence import how_often
from ironmargin.limits.start_reserve import stronger
from ironmargin.listed import clock
from ironmargin.per_cent import percent, signed_percent
from ironmargin.planning.answer import check, check_fully
from ironmargin.planning.changes import changes_of
from ironmargin.planning.first_fix import first_fix
from ironmargin.practice.proving import proof_of
from ironmargin.setup.engines import Generator
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import load_setup
from ironmargin.verdict.check import Checked, examine
from ironmargin.verdict.lasting import lasting_words
from ironmargin.verdict.report import report
from tests.shared import changed, checked, path_of


def sentence(setup: Setup) -> str:
    return check(setup).weakest.sentence


def eco(doc: dict[str, Any]) -> None:
    doc["supply"] = {"kind": "generator", "continuous_w": 2600, "starting_w": 2750, "eco": True}


class Sentences(unittest.TestCase):
    def test_a_stall_says_what_it_wants_what_it_gets_and_how_far_off(self) -> None:
        words = checked(2).result.weakest.sentence
        for part in (
            "Rooftop unit, 15,000 Btu/h trips the overload lockout when it starts",
            "needs 63 A",
            "can hold 20 A here",
            "sags to 38 V",
            "15 % stronger",
        ):
            self.assertIn(part, words)

    def test_what_runs_beside_is_named(self) -> None:
        def pair(doc: dict[str, Any]) -> None:
            doc["rig"]["loads"].append(
                doc["rig"]["loads"][0] | {"id": "second", "name": "Second unit"}
            )
            doc["wanted"].append({"load": "second"})

        words = sentence(changed(1, pair))
        self.assertIn("with Second unit running", words)
        self.assertIn("the generators can hold 40 A here and sag to", words)
        self.assertIn("in turns, never both and it holds", words)

    def test_no_240_names_the_load(self) -> None:
        self.assertIn(
            "Cooktop needs 240 V between two opposite legs", checked(8).result.weakest.sentence
        )
        self.assertIn("Find an outlet on the opposite leg", checked(8).result.weakest.remedy)

    def test_low_volts(self) -> None:
        def low(doc: dict[str, Any]) -> None:
            doc["supply"] |= {"voltage_v": 107, "source_ohm": 0.3}

        result = check(changed(6, low))
        self.assertEqual(result.weakest.check, "voltage")
        self.assertIn("its nameplate of 120 V needs at least 108 V", result.weakest.sentence)
        self.assertEqual(result.verdict, "fails")

    def test_high_volts(self) -> None:
        result = check(changed(6, lambda doc: doc["supply"].update(voltage_v=140)))
        self.assertEqual((result.verdict, result.weakest.check), ("fails", "voltage"))
        self.assertTrue(any("127 V" in c for c in result.cautions))
        usual = check(changed(6, lambda doc: doc["supply"].update(voltage_v=126)))
        self.assertFalse(any("127 V" in c for c in usual.cautions))

    def test_the_peak_school_names_the_handle(self) -> None:
        result = check(changed(1, lambda doc: doc.update(rules={"trip_criterion": "peak"})))
        self.assertIn("goes over the 30 A breaker rating", result.weakest.sentence)
        self.assertEqual(result.schools, {"peak": "fails", "time-current": "holds"})

    def test_a_thin_coincidence_is_said_apart(self) -> None:
        result = checked(9).result
        self.assertIn("same moment", result.weakest.sentence)
        self.assertGreaterEqual(result.iron_margin, 0)
        self.assertLess(result.coincidence.margin, 0)

    def test_what_is_far_too_small_is_told_no_figure(self) -> None:
        self.assertEqual(stronger(-3.0, False), "It would have to be 300 % stronger.")
        self.assertIn("Nothing near this size", stronger(-5.0, False))

    def test_a_bare_start_on_a_small_breaker_is_warned_of(self) -> None:
        """Up to 20 A, and from two and a half times that (common practice, no source)."""
        for amps, lra_a, said in ((20, 62, True), (30, 90, False), (20, 40, False)):

            def on_a_post(doc: dict[str, Any], a: float = amps, lra: float = lra_a) -> None:
                doc["supply"] = {"kind": "shore", "breaker_a": a}
                doc["rig"]["loads"][0] |= {"lra_a": lra, "start": "start-capacitor"}
                doc["wanted"] = doc["wanted"][:1]

            cautions = " ".join(examine(changed(2, on_a_post), quick=True).result.cautions)
            self.assertIs("starts bare through" in cautions, said, (amps, lra_a))

    def test_how_often(self) -> None:
        self.assertEqual(how_often(3.2), "about 3 times a night")
        self.assertEqual(how_often(0.05), "about once in 20 nights")
        self.assertEqual(how_often(1e-6), "hardly ever in ten years")

    def test_margins_are_signed(self) -> None:
        self.assertEqual(
            [signed_percent(x) for x in (0.144, -0.32, 0.0)], ["+14 %", "−32 %", "+0 %"]
        )
        self.assertEqual([signed_percent(x) for x in (-9.99, -110.0)], ["−999 %", "< −999 %"])
        self.assertEqual(
            [percent(x) for x in (-0.004, 9.99, -263.0)], ["0 %", "999 %", "over 999 %"]
        )

    def test_the_report_has_a_line_for_everything(self) -> None:
        words = report(checked(7))
        for part in (
            "start Salon unit",
            "start Galley unit",
            "post breaker, L2",
            "splitter to 14-50",
            "volts on L1-L2",
            "estimate, not an approval",
        ):
            self.assertIn(part, words)


class Tonight(unittest.TestCase):
    """The night in one sentence, by example."""

    def told(self, number: int, *, hours: float | None = None, **supply: Any) -> str:
        def change(doc: dict[str, Any]) -> None:
            doc["supply"] |= supply
            doc.setdefault("conditions", {})["target_hours"] = hours

        return check_fully(changed(number, change)).result.tonight

    def test_it_lasts_or_says_when_it_does_not(self) -> None:
        self.assertEqual(self.told(6), "Tonight until 06:00: yes.")
        self.assertEqual(self.told(6, hours=3), "Tonight until 21:00: yes.")
        short = self.told(16, hours=10, tank_l=6)
        lasts = check_fully(changed(16, lambda d: d["supply"].update(tank_l=6))).result.endurance
        assert lasts.fuel_h is not None
        gone = clock(18.0 + lasts.fuel_h)
        self.assertIn(f"Tonight until 04:00: no; the fuel is gone at {gone}: refill", short)
        self.assertRegex(short, r"refill before then, \d times in all")

    def test_a_tank_nobody_has_said_promises_no_night(self) -> None:
        self.assertIn(": yes, if the fuel lasts (tank not known)", self.told(16))
        self.assertNotIn("fuel lasts", self.told(16, tank_l=60))
        self.assertNotIn("fuel lasts", self.told(16, fuel="natural_gas"))
        pipe, tank, bottle = (
            Generator(continuous_w=1800, starting_w=2200, fuel=fuel)
            for fuel in ("natural_gas", "diesel", "propane")
        )
        self.assertEqual(unknown_store((pipe,)), "")
        self.assertEqual(unknown_store((replace(tank, tank_l=4), tank)), "tank")
        self.assertEqual(unknown_store((pipe, bottle)), "cylinder")

    def test_the_terminal_says_so_too(self) -> None:
        for more, said in (({}, True), ({"tank_l": 60}, False), ({"fuel": "natural_gas"}, False)):
            setup = changed(16, lambda d, more=more: d["supply"].update(more))
            words = lasting_words(lasting(prepare(setup)), setup)
            self.assertEqual("fuel on board: tank not known" in words, said, more)

    def test_a_battery_and_a_cold_cylinder(self) -> None:
        def on_a_battery(doc: dict[str, Any]) -> None:
            doc["supply"] = {"kind": "battery-inverter", "continuous_w": 4000, "surge_w": 8000,
                             "battery_wh": 4000}  # fmt: skip

        self.assertRegex(
            check_fully(changed(6, on_a_battery)).result.tonight,
            r"^Tonight until 06:00: no; the battery is down at (18|19|20|21):\d\d",
        )
        cold = check_fully(changed(19, lambda d: d["conditions"].update(outdoor_c=-15))).result
        self.assertIn("Tonight", cold.tonight)

    def test_a_failing_start_is_said_with_how_often(self) -> None:
        told = self.told(13)
        self.assertRegex(told, r"starts about \d+ times and fails about \d times a night")

    def test_who_hears_it(self) -> None:
        told = self.told(16, noise={"dba": 58})
        self.assertRegex(told, r"\d\d dBA next door, 60 allowed")

    def test_what_fails_is_not_promised_a_night(self) -> None:
        told = check_fully(load_setup(path_of(5))).result.tonight
        self.assertTrue(told.startswith("Tonight: not as it is set up. Leave Microwave oven off"))

    def test_the_clock_wraps_at_midnight(self) -> None:
        self.assertEqual([clock(x) for x in (18.0, 25.5, 23.999)], ["18:00", "01:30", "00:00"])


class ProveIt(unittest.TestCase):
    """The short try that says most, by what gives first."""

    def test_a_start_that_fails_is_expected_to_hum(self) -> None:
        proof = proof_of(checked(2))
        assert proof is not None
        self.assertEqual((proof.kind, proof.load), ("start", "roof"))
        self.assertIn("Leave Rooftop unit, 15,000 Btu/h off", proof.settles[0])
        self.assertIn("longer than 2 s", proof.safe)

    def test_a_start_that_holds_is_told_its_peak_and_dip(self) -> None:
        full = checked(13)
        proof, start = proof_of(full), full.starts[0]
        assert proof is not None
        self.assertIn(
            f"a tenth of {start.peak_a:.0f} A and {start.lowest_v:.0f} V", proof.settles[0]
        )
        self.assertIn(f"over {1.1 * start.peak_a:.0f} A", proof.settles[1])

    def test_amps_are_those_that_a_clamp_reads_at_once(self) -> None:
        for number, word in ((5, "It may carry"), (6, "while every compressor runs")):
            full = checked(number)
            proof = proof_of(full)
            assert proof is not None
            self.assertEqual(proof.kind, "run")
            now = max(float(a) for a in full.now.amps)
            self.assertIn(f"About {now:.0f} A", proof.settles[0])
            self.assertIn(word, proof.settles[0])
            self.assertIn("one conductor, not the whole cord", proof.safe)

    def test_volts_where_volts_give_first(self) -> None:
        proof = proof_of(checked(22))
        assert proof is not None
        self.assertEqual(proof.kind, "supply")
        self.assertIn("87", proof.settles[0])

    def test_what_cannot_be_fed_at_all_needs_no_try(self) -> None:
        self.assertIsNone(proof_of(checked(8)))


class Remedies(unittest.TestCase):
    def remedy(self, full: Checked) -> str:
        found, _ = first_fix(full)
        return found.what if found else ""

    def test_eco_off_comes_before_anything_bought(self) -> None:
        full = check_fully(changed(2, eco))
        self.assertEqual(full.result.verdict, "fails")
        self.assertEqual(
            full.result.weakest.remedy.split(" and it")[0], "Switch eco (idle) mode off"
        )

    def test_gasoline_instead_of_propane(self) -> None:
        def propane(doc: dict[str, Any]) -> None:
            doc["supply"] = {
                "kind": "generator",
                "continuous_w": 2400,
                "starting_w": 2600,
                "fuel": "propane",
            }

        full = check_fully(changed(2, propane))
        self.assertEqual(full.result.verdict, "fails")
        self.assertEqual(self.remedy(full), "Run it on gasoline instead of propane")

    def test_a_soft_starter_where_it_is_enough(self) -> None:
        def bigger(doc: dict[str, Any]) -> None:
            doc["supply"] = {
                "kind": "battery-inverter",
                "continuous_w": 2200,
                "surge_w": 3300,
                "surge_s": 2,
            }

        self.assertEqual(
            self.remedy(check_fully(changed(2, bigger))),
            "Fit a soft starter to Rooftop unit, 15,000 Btu/h",
        )

    def test_the_remedy_really_is_one(self) -> None:
        for number in (2, 3, 5):
            found, _ = first_fix(checked(number))
            self.assertIsNotNone(found)
            after = examine(found.setup, trials=0).result
            self.assertNotEqual(after.verdict, "fails")
            self.assertAlmostEqual(after.iron_margin, found.iron_margin)

    def test_what_can_wait_goes_first(self) -> None:
        def waits(doc: dict[str, Any]) -> None:
            doc["rig"]["loads"][1]["priority"] = "wait"

        self.assertEqual(
            self.remedy(check_fully(changed(5, waits))), "Leave Microwave oven off until later"
        )

    def test_what_belongs_together_is_left_off_together(self) -> None:
        def blown(doc: dict[str, Any]) -> None:
            doc["rig"]["loads"].append(
                {"id": "blower", "name": "Blower", "kind": "motor", "running_a": 5, "lra_a": 20}
            )
            doc["rig"]["loads"][1]["goes_with"] = "blower"
            doc["wanted"].append({"load": "blower"})

        setup = changed(5, blown)
        off = [
            c
            for c in changes_of(setup, prepare(setup))
            if c.kind == "leave-off" and "Blower" in c.what
        ]
        self.assertEqual([c.what for c in off], ["Leave Blower and Microwave oven off"])
        self.assertEqual({w.load for w in off[0].apply(setup).wanted}, {"roof", "fridge"})

    def test_sometimes_nothing_single_helps(self) -> None:
        def hopeless(doc: dict[str, Any]) -> None:
            doc["supply"] = {"kind": "shore", "breaker_a": 6, "source_ohm": 2.0, "legs": "split"}
            doc["rig"]["service"] = "120/240"
            doc["rig"]["loads"][1]["amps"] = 9

        result = check(changed(2, hopeless))
        self.assertEqual(result.verdict, "fails")
        self.assertIn("No single change here makes it hold", result.weakest.sentence)


if __name__ == "__main__":
    unittest.main()
