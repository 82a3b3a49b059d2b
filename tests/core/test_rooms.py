"""Rooms and cycles on the bench: facts of the trade, and the room's law integrated by scipy."""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy.integrate import solve_ivp

from ironmargin.loads import rooms
from ironmargin.setup.loads import AirConditioner, Electronic


class Rooms(unittest.TestCase):
    def test_a_closed_trailer_in_the_sun_is_warmer_than_the_day(self) -> None:
        """By six degrees; one unit holds it twelve under a day of 35 °C, two thirty (common
        practice, no source).
        """
        self.assertEqual(
            [rooms.room_goal(rooms.USUAL, 35.0, n) for n in range(3)], [41.0, 23.0, 5.0]
        )

    def test_it_follows_with_three_quarters_of_an_hour(self) -> None:
        for begins, goal in ((41.0, 23.0), (23.0, 41.0)):
            law = solve_ivp(
                lambda t, c, g=goal: (g - c) / (45.0 * 60.0),
                (0.0, 9000.0),
                [begins],
                t_eval=np.linspace(0.0, 9000.0, 7),
                rtol=1e-10,
                atol=1e-12,
            )
            for t, room in zip(law.t, law.y[0], strict=True):
                self.assertAlmostEqual(rooms.room_after(begins, goal, t), room, places=6)
        self.assertAlmostEqual(
            rooms.crosses_s(41.0, 23.0, 30.0), 2700.0 * math.log(18.0 / 7.0), places=6
        )

    def test_a_thermostat_at_24_swings_a_degree_and_two_never_agree(self) -> None:
        np.testing.assert_allclose(rooms.calls_at(rooms.USUAL, 0), (24.6, 23.4))
        np.testing.assert_allclose(rooms.calls_at(rooms.USUAL, 2), (25.0, 23.8))

    def test_how_long_a_unit_runs_to_hold_a_room(self) -> None:
        """On a day of 27 °C half of the time, above 36 °C all of it, and never less than a
        twentieth.
        """
        self.assertAlmostEqual(rooms.duty_at(rooms.USUAL, 27.0), 0.5)
        self.assertEqual(rooms.duty_at(rooms.USUAL, 36.0), 1.0)
        self.assertEqual(rooms.duty_at(rooms.USUAL, 45.0), 1.0)
        self.assertEqual(rooms.duty_at(rooms.USUAL, 10.0), 0.05)

    def test_in_the_mean_over_a_cycle_it_runs_for_that_share(self) -> None:
        """The band is narrow beside the swing: a call and a rest, one after another."""
        warm, cool = rooms.room_goal(rooms.USUAL, 30.0, 0), rooms.room_goal(rooms.USUAL, 30.0, 1)
        calls, satisfied = rooms.calls_at(rooms.USUAL, 0)
        runs = rooms.crosses_s(calls, cool, satisfied)
        rests = rooms.crosses_s(satisfied, warm, calls)
        self.assertAlmostEqual(runs / (runs + rests), rooms.duty_at(rooms.USUAL, 30.0), delta=0.005)


class Turns(unittest.TestCase):
    FRIDGE = Electronic(id="f", name="Fridge", watts=120.0, on_s=600.0, off_s=1200.0)

    def test_each_turn_is_up_to_15_in_100_longer_or_shorter(self) -> None:
        shares = np.array([
            (rooms.turn_s(self.FRIDGE, cooling, 1, n) or 0.0) / (600.0 if cooling else 1200.0)
            for n in range(400)
            for cooling in (True, False)
        ])  # fmt: skip
        self.assertLess(float(shares.max()), 1.15)
        self.assertGreater(float(shares.min()), 0.85)
        self.assertGreater(float(shares.max()), 1.149)
        self.assertLess(float(shares.min()), 0.851)
        self.assertAlmostEqual(float(shares.mean()), 1.0, delta=0.01)

    def test_the_seed_alone_decides(self) -> None:
        again = [rooms.turn_s(self.FRIDGE, True, 1, n) for n in range(5)]
        self.assertEqual(again, [rooms.turn_s(self.FRIDGE, True, 1, n) for n in range(5)])
        self.assertNotEqual(again, [rooms.turn_s(self.FRIDGE, True, 2, n) for n in range(5)])

    def test_a_unit_without_a_duty_of_its_own_goes_by_the_room(self) -> None:
        unit = AirConditioner(id="a", name="a", running_a=10.0)
        self.assertTrue(rooms.by_room(unit))
        self.assertIsNone(rooms.turn_s(unit, True, 1, 0))


if __name__ == "__main__":
    unittest.main()
