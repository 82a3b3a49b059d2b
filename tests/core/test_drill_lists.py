"""Gates of a step list, and drills."""

from __future__ import annotations

import json
import unittest

from ironmargin.errors import SetupError
from ironmargin.practice.drills import BANDS, THEMES, drill
from ironmargin.practice.facts import facts_of
from ironmargin.practice.scoring import brier, calibration, estimate_score, score_of_chance
from ironmargin.practice.steps import PURPOSES, Gate, pass_gate, steps_of
from ironmargin.setup.changed import leave_off
from ironmargin.setup.reading import load_setup
from ironmargin.verdict.check import examine
from tests.core.test_practice import SETUP_FILES
from tests.shared import path_of
from tests.walking import walk


class Gates(unittest.TestCase):
    @walk
    def test_every_gate_refuses_one_unit_out_of_range(self) -> None:
        looked = 0
        for file in SETUP_FILES:
            setup = load_setup(file)
            facts = facts_of(setup)
            for purpose in PURPOSES:
                for step in steps_of(setup, purpose, facts):
                    gate = step.gate
                    if gate is None or gate.words:
                        continue
                    if gate.low is not None:
                        self.assertTrue(pass_gate(gate, gate.low).passes)
                        self.assertFalse(pass_gate(gate, gate.low - 1).passes)
                    if gate.high is not None:
                        self.assertTrue(pass_gate(gate, gate.high).passes)
                        self.assertFalse(pass_gate(gate, gate.high + 1).passes)
                    looked += 1
        self.assertGreater(looked, 60)

    def test_a_capacitor_is_touched_at_a_volt_and_not_above(self) -> None:
        """Common practice, no source: it is dead when a meter across it reads under a volt."""
        setup = load_setup(path_of(4))
        gates = {
            step.gate.high
            for purpose in ("fit-soft-starter", "fit-hard-start")
            for step in steps_of(setup, purpose)
            if step.gate is not None and "apacitor" in step.gate.reading
        }
        self.assertEqual(gates, {1.0})

    def test_volts_at_the_post_are_ansi_c84_1_range_b(self) -> None:
        """Service 110 to 127 V on a 120 V base (ANSI C84.1, from memory); EN 50160: ±10 %."""
        for number, low, high in ((6, 110.0, 127.0), (11, 207.0, 253.0)):
            steps = steps_of(load_setup(path_of(number)), "hook-up")
            gate = next(s.gate for s in steps if s.id == "volts-open")
            assert gate is not None
            self.assertEqual((gate.low, gate.high), (low, high))

    def test_a_tester_that_does_not_say_correct_ends_the_list(self) -> None:
        steps = steps_of(load_setup(path_of(6)), "hook-up")
        gate = next(s.gate for s in steps if s.id == "tester")
        assert gate is not None
        self.assertTrue(pass_gate(gate, "Correct").passes)
        for word in ("open-ground", "reversed", "", 120):
            passed = pass_gate(gate, word)
            self.assertTrue(passed.ends and not passed.passes, word)
            self.assertIn("licensed help", passed.sentence)

    def test_text_for_a_number_is_a_fault_in_words(self) -> None:
        gate = Gate("Volts", "V", 110, 127, if_not="no")
        self.assertTrue(pass_gate(gate, " 118,5 ").passes)
        for bad in ("a lot", "", None, float("nan"), True, 1e30):
            with self.assertRaises(SetupError):
                pass_gate(gate, bad)


class Drills(unittest.TestCase):
    @walk
    def test_each_has_one_defensible_answer_as_asked(self) -> None:
        seen = set()
        for theme in THEMES:
            for difficulty, (low, high) in BANDS.items():
                for seed in range(1):
                    one = drill(seed, theme, difficulty)
                    self.assertTrue(low <= abs(one.margin) < high, f"{theme} {difficulty}")
                    self.assertEqual(one.setup.rules.trials, 4000)
                    if one.asks == "call":
                        self.assertFalse(0.3 <= one.chance <= 0.7)
                    if one.first is not None:
                        self.assertEqual(sum(c.key == one.first for c in one.first_of), 1)
                    for ident in one.off:
                        left = examine(leave_off(one.setup, ident), quick=True)
                        self.assertNotEqual(left.result.verdict, "fails")
                    self.assertGreater(one.estimate[2], 0.0)
                    seen.add(json.dumps([theme, difficulty, seed, one.margin]))
        self.assertEqual(len(seen), len(THEMES) * len(BANDS))
        one, again = (drill(3, "path", "easy") for _ in range(2))
        self.assertEqual((one.call, one.chance, one.setup), (again.call, again.chance, again.setup))

    def test_difficulties_follow_on_each_other(self) -> None:
        """Hard lies within a tenth of its edge, easy a quarter and more from it; what is nearer
        than two in a hundred nobody could tell, what is further than three quarters everybody."""
        (hard, medium, easy) = (BANDS[name] for name in ("hard", "medium", "easy"))
        self.assertEqual((*hard, *medium, *easy), (0.02, 0.10, 0.10, 0.25, 0.25, 0.75))

    def test_a_proper_score_is_best_at_ones_true_belief(self) -> None:
        for belief in (0.1, 0.35, 0.8):
            expected = {
                said / 100: belief * brier(said / 100, True)
                + (1 - belief) * brier(said / 100, False)
                for said in range(0, 101, 5)
            }
            self.assertAlmostEqual(min(expected, key=lambda s: expected[s]), belief)
        self.assertEqual(score_of_chance(0.4, 0.4), 0.0)

    def test_calibration_counts_what_was_said(self) -> None:
        bins = calibration([(0.9, True)] * 9 + [(0.9, False)] + [(0.1, False)] * 5)
        self.assertEqual(
            [(round(b.said, 2), round(b.right, 2), b.count) for b in bins],
            [(0.1, 0.0, 5), (0.9, 0.9, 10)],
        )

    def test_an_estimate_within_a_tenth_is_full_marks(self) -> None:
        self.assertEqual(estimate_score(109, 100), 1.0)
        self.assertEqual(estimate_score(160, 100), 0.0)
        self.assertAlmostEqual(estimate_score(130, 100), 0.5)
        self.assertAlmostEqual(estimate_score(112, 100), 0.95)
