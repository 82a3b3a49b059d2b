"""Figures of learning that decide what somebody is told: halved, or made half as large again, each
is noticed here.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from types import SimpleNamespace
from typing import Any

import numpy as np

from ironmargin.learning import instruments, judging
from ironmargin.learning.entries import EnergyEntry, FuelEntry, RunEntry, StartEntry
from ironmargin.learning.figures import noise_figures
from ironmargin.learning.fits import NoiseLearned, energy_words, learn_fuel
from ironmargin.learning.learn import Odds
from ironmargin.learning.pool import class_of
from ironmargin.learning.running import shown_of
from ironmargin.setup.model import Setup
from tests.core.test_engine import POST as A_POST
from tests.core.test_engine import UNIT, question
from tests.core.test_learning import on_a_post, told

GENERATOR: dict[str, Any] = {"kind": "generator", "continuous_w": 2000, "starting_w": 2500}
READINGS: list[dict[str, Any]] = [
    {"kind": "supply", "volts": 120.0, "amps": 0.0},
    {"kind": "supply", "volts": 117.0, "amps": 15.0},
]


def judged(setup: Setup, entry: StartEntry, **before: Any) -> judging.Judged:
    """A start entry as it is judged by what was predicted before it and is now."""
    prior = {(0, name): np.asarray(values, float) for name, values in before.items()}
    weights = np.full(len(next(iter(prior.values()))), 1.0)
    posterior: Any = SimpleNamespace(prior=prior, after=prior, weights=weights / weights.sum())
    (found,) = judging.starts(setup, {0: entry}, set(), posterior)
    return found


class AsExpected(unittest.TestCase):
    def test_an_outcome_seen_once_in_ten_is_expected(self) -> None:
        setup = on_a_post()
        entry = StartEntry(load="roof", outcome="stalls")
        for share, says in ((0.13, judging.AGREES), (0.07, judging.UNLIKELY)):
            found = judged(setup, entry, outcome=[share, share])
            self.assertEqual(found.judged, says, share)

    def test_volts_are_held_against_the_rig_s_own_nominal(self) -> None:
        """An inrush clamp's volts are off by 2 % of 230 V on a rig of Europe, not of 120 V."""
        post = {"kind": "shore", "breaker_a": 16, "voltage_v": 230}
        unit = UNIT | {"voltage_v": 230, "running_a": 4.5, "lra_a": 24, "fan_high_a": 0.6}
        setup = question(post, [unit], service="230")
        entry = StartEntry(load="u", instrument="inrush-clamp", lowest_v=218.5)
        found = judged(setup, entry, lowest_v=[210.0, 215.0])
        self.assertEqual(found.judged, judging.AGREES)

    def test_a_frequency_a_twentieth_off_is_not_fine(self) -> None:
        for hz, says in ((62.5, judging.AGREES), (63.6, judging.CORRECTS)):
            found = told(on_a_post(), {"kind": "supply", "hz": hz})
            (one,) = (j for j in found.entries if j.figure == "hz")
            self.assertEqual(one.judged, says, hz)

    def test_a_start_is_no_shorter_to_a_thumb_than_a_tenth(self) -> None:
        """Below a tenth of a second the hand on the button is all there is to its error."""
        read = instruments.seconds_error("by-ear", np.array([0.06, 0.1, 0.14, 1.0]))
        self.assertEqual(read[0], read[1])
        self.assertGreater(read[2], read[1])
        self.assertTrue(0.03 < 2.0 * read[1] - (read[3] - read[1]) / 9.0 - read[1] < 0.07)


class Meters(unittest.TestCase):
    def test_two_energy_meters_agree_within_eight_in_a_hundred(self) -> None:
        for park_kwh, agrees in ((10.6, True), (11.0, False)):
            words = energy_words(EnergyEntry(hours=24.0, kwh=10.0, park_kwh=park_kwh))
            self.assertEqual("agrees" in words, agrees, words)

    def test_consumption_is_told_at_each_quarter_of_the_rating(self) -> None:
        fills = [FuelEntry(fuel="gasoline", litres=4.0, hours=8.0, mean_w=1000.0)]
        (found,) = learn_fuel(list(enumerate(fills)), 2000.0)
        self.assertEqual(list(found.litres_per_h_at), ["500", "1000", "1500", "2000"])

    def test_a_post_s_volts_are_known_to_one_in_a_hundred(self) -> None:
        found = told(on_a_post(), *READINGS)
        volts = next(f for f in found.figures if f.field == "supply.voltage_v")
        for edge, side in ((volts.low, -1.0), (volts.high, 1.0)):
            self.assertAlmostEqual(edge, volts.after * (1.0 + side * 0.01))
        self.assertAlmostEqual(volts.sd, 0.006, delta=0.001)

    def test_a_noise_is_never_louder_than_what_hurts_and_its_load_is_about_so_much(self) -> None:
        setup = question(GENERATOR, [UNIT])
        loud = NoiseLearned(200.0, 6.0, 3.5, -3.0, 1.0, "", (0,), True, 1000.0)
        rows = {f.field.rsplit(".", 1)[-1]: f for f in noise_figures(setup, loud)}
        self.assertEqual(rows["dba"].after, 140.0)
        self.assertEqual(rows["load_w"].high - rows["load_w"].after, 50.0)

    def test_odds_that_hardly_move_are_not_told(self) -> None:
        found = told(on_a_post())
        for moves, tells in ((0.007, False), (0.013, True)):
            one = replace(
                found, figures=(), choices=(), odds=(Odds("u", "unit", 0.5, 0.5 + moves),)
            )
            self.assertEqual(one.tells, tells, moves)

    def test_a_unit_is_of_the_class_of_its_volts_within_a_tenth(self) -> None:
        for volts, known in ((127.0, True), (137.0, False)):
            setup = question(A_POST | {"voltage_v": volts}, [UNIT | {"voltage_v": volts}])
            (unit,) = setup.rig.loads
            self.assertEqual(class_of(unit) is not None, known, volts)

    def test_volt_amperes_without_volts_are_known_to_three_in_a_hundred(self) -> None:
        """ANSI C84.1 range A is five either way of nominal: a standard deviation of about three."""
        setup = on_a_post()
        for volts, doubt in ((None, 0.03), (118.0, 0.0)):
            shown = shown_of(setup, RunEntry(load="tv", va=240.0, volts=volts))
            self.assertAlmostEqual(shown[2], doubt, delta=0.005)
