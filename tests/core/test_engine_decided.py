"""The energy of a start balances, and when its outcome is decided."""

from __future__ import annotations

import math
import unittest

import numpy as np

from ironmargin.case import prepare
from ironmargin.starting.model import model_of
from ironmargin.starting.plan import Plan
from tests.core.test_engine import POST, UNIT, question, run
from tests.shared import plain


class EnergyBalance(unittest.TestCase):
    """A soft starter is no source of watts: at every moment of a ramp the line gives what the motor
    takes, whatever its own amps are.
    """

    def test_the_line_gives_the_watts_the_motor_takes(self) -> None:
        setup = question(POST, [UNIT | {"start": "soft-start", "fan_high_a": 0.1}])
        case = prepare(setup)
        model = model_of(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
        engine = plain("starting.engine").Engine(model)
        ones = np.ones(1)
        engine.begin(plain("starting.engine").Factors(), ones, ones)
        motors, network = engine.motors, engine.network
        seen = 0
        for conducts in (0.1, 0.2, 0.4, 0.7, 0.95, 1.0):
            for speed in (0.0, 0.3, 0.7, 0.95):
                motors.conducts[0], motors.speed[0] = conducts, speed
                network.volts[0] = 120.0
                network.y[:] = 0.0
                motors.admittance(network)
                line_w = 120.0**2 * network.y[0].real
                resistance = motors.r1[0] + motors.rotor[0]
                motor_a = 120.0 * conducts / np.hypot(resistance, motors.x[0])
                self.assertAlmostEqual(line_w, motor_a**2 * resistance, delta=1e-6 * line_w)
                self.assertAlmostEqual(motors.drawn[0], motor_a, delta=1e-6 * motor_a)
                seen += 1
        self.assertEqual(seen, 24)

    def test_over_a_whole_start_the_source_gives_what_is_taken_and_lost(self) -> None:
        """Source watts are load watts and losses of the path, step by step of the plain engine."""
        setup = question(POST, [UNIT | {"start": "soft-start"}])
        case = prepare(setup)
        engine = plain("starting.engine").Engine(
            model_of(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
        )
        given = []
        watch, network = engine.supply.update, engine.network

        def update(h: float, a1: float, a2: float, weakest: float, watts: float) -> bool:
            taken = abs(network.v1) ** 2 * network.y[0].real
            lost = abs(network.i1) ** 2 * network.z11.real
            given.append((watts, taken + lost))
            return bool(watch(h, a1, a2, weakest, watts))

        engine.supply.update = update
        ones = np.ones(1)
        self.assertEqual(engine.one_start(plain("starting.engine").Factors(), ones, ones), 1)
        self.assertGreater(len(given), 20)
        for watts, used in given:
            self.assertAlmostEqual(watts, used, delta=1e-6 * watts)


class WhenItIsDecided(unittest.TestCase):
    """Common practice, no source: how long a person would wait at each outcome."""

    def test_a_rotor_that_stands_is_called_after_four_tenths(self) -> None:
        got = run(question(POST, [UNIT | {"breakaway": 2.0}]))
        self.assertEqual(got.outcome, "stalls")
        self.assertAlmostEqual(got.decided_s, 0.4, delta=0.05)
        self.assertAlmostEqual(got.trace.t_s[-1], 8.0, delta=0.1)  # nothing opens: its own overload
        self.assertTrue(math.isinf(got.opened_s))

    def test_volts_get_two_seconds_to_come_back(self) -> None:
        cord = [{"kind": "cord", "awg": 12, "length_m": 100}]
        heater = {"id": "h", "name": "h", "kind": "resistive", "watts": 1500}
        supply = {"kind": "generator", "continuous_w": 8000, "starting_w": 10000}
        got = run(question(supply, [UNIT, heater], hookup=cord))
        reached = got.trace.t_s[np.flatnonzero(got.trace.speed[0] > 0.9)[0]]
        self.assertEqual(got.outcome, "volts-stay-low")
        self.assertAlmostEqual(got.decided_s - reached, 2.0, delta=0.2)

    def test_a_start_is_followed_a_quarter_second_more_for_its_picture(self) -> None:
        got = run(question(POST, [UNIT]))
        self.assertAlmostEqual(got.trace.t_s[-1] - got.decided_s, 0.25, delta=0.05)

    def test_eco_gives_the_engine_time_to_recover(self) -> None:
        supply = {"kind": "generator", "continuous_w": 3000, "starting_w": 3600, "eco": True}
        got = run(question(supply, [UNIT | {"breakaway": 0.25}]))
        self.assertEqual(got.outcome, "starts")
        self.assertGreater(got.seconds, 0.6)
        amps = got.trace.a[0]
        early = np.searchsorted(got.trace.t_s, 1.0)
        if early < len(amps):
            self.assertLess(amps[: early // 2].max(), 0.85 * 3600 / 120 * 1.08)

    def test_a_soft_starter_waits_three_seconds_after_its_ramp(self) -> None:
        stiff = UNIT | {"start": "soft-start", "breakaway": 1.5, "soft_start": {"fraction": 0.3}}
        got = run(question(POST, [stiff]))
        self.assertEqual(got.outcome, "stalls")
        self.assertAlmostEqual(got.decided_s, 3.6, delta=0.15)

    def test_its_ramp_begins_at_half_its_current(self) -> None:
        soft = {"fraction": 0.4, "ramp_s": 2.0}
        stiff = UNIT | {"start": "soft-start", "breakaway": 1.5, "soft_start": soft}
        got = run(question(POST, [stiff], hookup=[]))
        held = [got.trace.a[0][np.searchsorted(got.trace.t_s, t)] for t in (0.05, 1.0, 2.5)]
        fan = 3.0
        self.assertAlmostEqual((held[0] - fan) / (held[2] - fan), 0.5, delta=0.06)
        self.assertAlmostEqual((held[1] - fan) / (held[2] - fan), 0.75, delta=0.06)

    def test_once_up_it_opens_fully_though_it_runs_on_more_than_it_held(self) -> None:
        soft = {"start": "soft-start", "soft_start": {"fraction": 0.17}, "running_a": 15}
        got = run(question(POST, [UNIT | soft | {"breakaway": 0.08}]))
        self.assertEqual(got.outcome, "starts")
        self.assertLess(got.peak_a, 20)

    def test_a_guard_looks_for_a_second(self) -> None:
        guard = [{"kind": "guard", "low_v": 110}]
        got = run(question(POST | {"source_ohm": 0.5}, [UNIT | {"breakaway": 2.0}], hookup=guard))
        self.assertAlmostEqual(got.opened_s, 1.0, delta=0.1)

    def test_low_volts_open_the_output_after_two_and_a_half_seconds(self) -> None:
        """Under 60 % of nominal; the overload lockout is kept out of it by a set that is large."""
        supply = {"kind": "generator", "continuous_w": 2190, "starting_w": 2200}
        got = run(question(supply | {"limit_over_surge": 1.0}, [UNIT | {"breakaway": 2.0}]))
        self.assertLess(got.lowest_v, 72)
        self.assertAlmostEqual(got.opened_s, 2.5, delta=0.1)
