"""Start gear in the engine: soft starters, kits, and what two windings show of them."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ironmargin.electrics import motor as m
from tests.core.test_engine import POST, UNIT, question, run, scenario


class SoftStarters(unittest.TestCase):
    def unit(self, lra: float, rla: float, **soft: Any) -> dict[str, Any]:
        return {
            "id": "s",
            "name": "s",
            "kind": "motor",
            "voltage_v": 240,
            "lra_a": lra,
            "running_a": rla,
            "start": "soft-start",
            "soft_start": soft,
        }

    def test_what_it_learns_lies_where_the_trade_finds_it(self) -> None:
        """Common practice, no source: 52 A with a 3 A fan to 12.7; 79 to 26.8; 48 to 16; 76 to
        36.6; 107 to 38.5 to 42.9. Within a quarter.
        """
        post = {"kind": "shore", "breaker_a": 50, "legs": "split"}
        for lra, rla, peak in (
            (79, 10.1, 26.8),
            (48, 4.2, 16.0),
            (76, 17.0, 36.6),
            (107, 24.0, 42.9),
        ):
            got = run(question(post, [self.unit(lra, rla)], service="120/240")).peak_a
            self.assertAlmostEqual(got / peak, 1.0, delta=0.25, msg=f"{lra} A: {got:.1f} A")
        rooftop = run(question(POST, [UNIT | {"start": "soft-start"}]))
        self.assertTrue(11 <= rooftop.peak_a <= 17, rooftop.peak_a)

    def test_torque_is_never_made_from_nothing(self) -> None:
        for fraction, stiff, outcome in (
            (0.25, 0.15, "starts"),
            (0.14, 0.3, "stalls"),
            (0.25, 0.8, "stalls"),
        ):
            got = run(
                question(
                    POST,
                    [
                        UNIT
                        | {
                            "start": "soft-start",
                            "breakaway": stiff,
                            "soft_start": {"fraction": fraction},
                        }
                    ],
                )
            )
            self.assertEqual(got.outcome, outcome, (fraction, stiff))
            if outcome == "stalls":
                self.assertLess(got.trace.speed.max(), 0.05)

    def test_a_supply_that_folds_back_feeds_it_less_and_does_not_collapse(self) -> None:
        wants = {"start": "soft-start", "soft_start": {"fraction": 0.5}}
        dips = []
        for watts in (3200, 3000, 2800, 2600):
            got = run(
                question(
                    {"kind": "generator", "continuous_w": watts * 0.8, "starting_w": watts},
                    [UNIT | wants],
                )
            )
            dips.append(got.lowest_v)
        steps = -np.diff(dips)
        self.assertTrue((steps >= -0.5).all() and steps.max() < 12, dips)
        self.assertGreater(min(dips), 60)

    def test_a_measured_peak_makes_the_gain_and_an_assumed_one_does_not(self) -> None:
        locked = m.locked_torque(120, 52, 9.5)
        k = m.learned_fraction(locked, "start-capacitor", 0.15)
        self.assertAlmostEqual(
            m.soft_torque_of(k, locked, "start-capacitor", 0.15), m.SOFT_TORQUE, delta=1e-9
        )
        self.assertGreater(
            m.soft_torque_of(0.9 * k, locked, "start-capacitor", 0.15), m.SOFT_TORQUE
        )
        self.assertEqual(m.soft_torque_of(0.05, locked, "start-capacitor", 0.15), m.MAX_SOFT_TORQUE)
        self.assertEqual(m.learned_fraction(locked, "start-capacitor", 2.0), m.MAX_LEARNED)

    def test_a_starter_without_volts_gives_up(self) -> None:
        weak = {"kind": "shore", "breaker_a": 30, "source_ohm": 5}
        got = run(
            question(
                weak,
                [UNIT | {"start": "soft-start", "breakaway": 1.0, "soft_start": {"fraction": 0.9}}],
            )
        )
        self.assertEqual(got.outcome, "stalls")


class Gear(unittest.TestCase):
    def needed(self, gear: str) -> float:
        supply = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}
        at = scenario(question(supply, [UNIT | {"start": gear}]))
        return at.reserve_of_supply(at.passes()).factor

    def test_better_gear_needs_less_supply(self) -> None:
        run_only, start, hard = (
            self.needed(g) for g in ("run-capacitor", "start-capacitor", "hard-start")
        )
        self.assertGreater(run_only, 1.3 * start)
        self.assertTrue(0.8 * start < hard < 0.97 * start, (start, hard))

    def test_a_start_capacitor_works_to_three_quarters_of_speed(self) -> None:
        """Torque at each speed on a stiff post, from the slope the rotor follows."""
        got = run(question(POST, [UNIT | {"start": "start-capacitor"}]))
        speed, t = got.trace.speed[0], got.trace.t_s
        before = np.flatnonzero(speed < 0.75)[-1]
        slopes = np.diff(speed) / np.diff(t)
        self.assertLess(slopes[before + 1], 0.8 * slopes[before - 1])


class TwoWindingsOfTheGear(unittest.TestCase):
    def test_a_run_capacitor_gives_all_it_gives_from_six_tenths_of_speed(self) -> None:
        """Slope of the speed over the plain circuit's torque, on a stiff post."""
        pump = {"id": "p", "name": "p", "kind": "motor", "lra_a": 60, "running_a": 8}
        stiff = POST | {"source_ohm": 0.0}
        got = run(question(stiff, [pump | {"breakaway": 0.01}]))
        speed, t = got.trace.speed[0], got.trace.t_s
        circuit = m.circuit_of(120.0, 60.0, 8.0)
        for at in np.flatnonzero((speed > 0.05) & (speed < 0.72))[:-1:4]:
            middle = 0.5 * (speed[at] + speed[at + 1])
            slope = (speed[at + 1] - speed[at]) / (t[at + 1] - t[at])
            requested = m.load_torque(middle, 0.01, m.LOAD_AFTER_START)
            gain = (slope * 2 * m.INERTIA_H_S + requested) / m.torque(circuit, 120.0, 1 - middle)
            expected = 0.35 + 0.65 * min(middle / 0.6, 1.0)
            self.assertAlmostEqual(gain / expected, 1.0, delta=0.06, msg=f"speed {middle:.2f}")


if __name__ == "__main__":
    unittest.main()
