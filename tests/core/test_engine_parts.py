"""The parts of the start engine, each by itself and uncompiled: when a rotor stands or has pulled
out, what start gear and soft starters give, what a supply carries in time.
"""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics import motor as m
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.starting.model import model_of
from ironmargin.starting.plan import Plan
from ironmargin.starting.protection import GuardWatch
from ironmargin.starting.scenario import StartScenario
from ironmargin.supplies.source import NEVER
from ironmargin.verdict.check import examine
from tests.core.test_engine import POST, UNIT, question
from tests.shared import path_of, plain

H = 1 / 120
"""Half a cycle at 60 Hz [s]."""


PLAIN = plain("starting.engine")


def parts(supply: dict[str, Any], *loads: dict[str, Any], **plan: Any) -> Any:
    """A plain engine of a small question at the beginning of its first start."""
    case = prepare(question(supply, list(loads)))
    warm = np.zeros(len(case.breakers))
    engine = PLAIN.Engine(model_of(case, Plan((case.starters[0],), **plan), warm))
    ones = np.ones(engine.motors.count)
    engine.begin(plain("starting.engine").Factors(), ones, ones)
    return engine


def unit(name: str, **more: Any) -> dict[str, Any]:
    return UNIT | {"id": name, "name": name} | more


class Rotors(unittest.TestCase):
    def test_a_rotor_stands_below_two_hundredths_of_its_speed(self) -> None:
        motors = parts(POST, unit("a")).motors
        for speed, stands in ((0.0, True), (0.015, True), (0.025, False)):
            motors.speed[0] = speed
            self.assertEqual(motors.standing(), stands, speed)

    def test_a_running_motor_has_pulled_out_below_four_fifths(self) -> None:
        engine = parts(POST, unit("a"), unit("b"))
        for speed, out in ((0.97, 0), (0.81, 0), (0.79, 1), (0.3, 1)):
            engine.motors.speed[1] = speed
            self.assertEqual(engine.motors.pulled_out(), out, speed)
            self.assertEqual(engine.states()[2].tolist(), [False, bool(out)])

    def test_one_that_has_come_to_rest_stays_there(self) -> None:
        engine = parts(POST, unit("a"), unit("b", always_on=True))
        motors, network = engine.motors, engine.network
        concurrent = list(motors.starting).index(0)
        network.volts[0] = 30.0
        seen = []
        for _ in range(400):
            motors.admittance(network)
            motors.turn(network, H, H)
            seen.append(float(motors.speed[concurrent]))
        self.assertGreater(seen[0], 0.5)
        first = seen.index(0.0)
        self.assertEqual(set(seen[first:]), {0.0})

    def test_one_that_starts_has_not_pulled_out(self) -> None:
        engine = parts(POST, unit("a"), unit("b"))
        self.assertEqual(engine.motors.speed[0], 0.0)
        self.assertEqual(engine.motors.pulled_out(), 0)

    def test_up_is_within_twice_the_slip_at_full_load(self) -> None:
        motors = parts(POST, unit("a")).motors
        for slips, up in ((1.9, True), (2.1, False)):
            motors.speed[0] = 1.0 - slips * motors.slip_fl[0]
            self.assertEqual(motors.up(), up)

    def test_a_relay_drops_the_start_capacitor_at_three_quarters(self) -> None:
        motors = parts(POST, unit("a", start="hard-start")).motors
        for speed, gear in ((0.0, 1.7), (0.74, 1.7), (0.76, 1.0)):
            motors.speed[0] = speed
            self.assertAlmostEqual(motors.torque_gain(0), gear)
        self.assertEqual(m.GEAR_TORQUE["hard-start"], 1.7)

    def test_a_run_capacitor_gives_all_it_gives_from_six_tenths(self) -> None:
        motors = parts(POST, unit("a", start="run-capacitor")).motors
        still = motors.torque_gain(0)
        for speed, gain in ((0.3, 0.5 * (still + 1.0)), (0.6, 1.0), (0.9, 1.0)):
            motors.speed[0] = speed
            self.assertAlmostEqual(motors.torque_gain(0), gain)


class SoftStarter(unittest.TestCase):
    """A starter of 20 A that ramps for a second."""

    def motors(self) -> Any:
        soft = unit("a", start="soft-start", soft_start={"peak_a": 20, "ramp_s": 1.0})
        engine = parts(POST, soft)
        self.engine = engine
        return engine.motors

    def see(self, volts: float) -> None:
        """Let the motors see these volts, and set the starter."""
        motors, network = self.engine.motors, self.engine.network
        network.volts[:] = volts, volts, 2 * volts
        motors.admittance(network)
        motors.ramp(H)

    def amps(self, volts: float) -> float:
        motors = self.engine.motors
        return float(motors.conducts[0] * volts / math.sqrt(motors.square[0]))

    def test_its_ramp_begins_at_half_its_current_and_ends_at_all_of_it(self) -> None:
        motors = self.motors()
        self.see(120.0)
        self.assertAlmostEqual(self.amps(120.0), 0.5 * motors.soft_a[0], delta=0.1)
        for _ in range(200):
            self.see(120.0)
        self.assertAlmostEqual(self.amps(120.0), motors.soft_a[0], delta=1e-6)

    def test_it_makes_up_for_volts_down_to_85_of_100_and_no_further(self) -> None:
        for share, full in ((0.9, True), (0.86, True), (0.7, False)):
            motors = self.motors()
            motors.ramped_s[0] = 10.0 * motors.soft_ramp_s[0]
            self.see(share * 120.0)
            wanted = motors.soft_a[0] * min(share / 0.85, 1.0)
            self.assertAlmostEqual(self.amps(share * 120.0), wanted, delta=1e-6, msg=f"{full}")

    def test_its_ramp_stretches_with_the_square_of_lacking_volts(self) -> None:
        for share, ramped in ((1.0, H), (0.86, H), (0.7, 0.49 * H)):
            motors = self.motors()
            self.see(share * 120.0)
            self.assertAlmostEqual(motors.ramped_s[0], ramped)

    def test_it_opens_fully_at_a_tenth_of_a_second_from_nine_tenths_of_speed(self) -> None:
        for speed, faster in ((0.89, False), (0.91, True)):
            motors = self.motors()
            motors.speed[0] = speed
            self.see(120.0)
            before = motors.conducts[0]
            self.see(120.0)
            opened = motors.conducts[0] - before
            self.assertEqual(math.isclose(opened, H / 0.1), faster, opened)

    def test_it_gives_up_after_a_second_under_half_its_volts(self) -> None:
        for share, seconds, gives_up in ((0.49, 1.1, True), (0.49, 0.9, False), (0.51, 2.0, False)):
            motors = self.motors()
            for _ in range(round(seconds / H)):
                self.see(share * 120.0)
            self.assertEqual(motors.gave_up, gives_up, (share, seconds))

    def test_it_gives_up_three_seconds_after_its_ramp(self) -> None:
        for seconds, gives_up in ((3.9, False), (4.1, True)):
            motors = self.motors()
            for _ in range(round(seconds / H)):
                self.see(120.0)
            self.assertEqual(motors.gave_up, gives_up, seconds)


class SupplyInTime(unittest.TestCase):
    SET = {"kind": "generator", "continuous_w": 2000, "starting_w": 2400}

    def supply(self, **more: Any) -> Any:
        return parts(self.SET | more, unit("a")).supply

    def test_flywheel_and_bus_carry_three_tenths_of_a_second_of_its_power(self) -> None:
        supply = self.supply()
        twice = 2.0 * supply.limit_w  # its power and as much again out of the flywheel
        held = 0.0
        while supply.max_w() > supply.limit_w:
            supply.update(1e-3, 0.0, 0.0, 120.0, twice)
            held += 1e-3
        self.assertAlmostEqual(held, 0.3, delta=0.002)
        self.assertEqual(supply.max_w(), supply.limit_w)

    def test_it_gets_back_what_it_does_not_give_and_no_more(self) -> None:
        supply = self.supply()
        full = supply.carried_j
        supply.update(0.1, 0.0, 0.0, 120.0, 2.0 * supply.limit_w)
        self.assertLess(supply.carried_j, full)
        supply.update(10.0, 0.0, 0.0, 120.0, 0.0)
        self.assertEqual(supply.carried_j, full)

    def test_electronics_hold_their_short_time_current_for_a_second_at_the_limit(self) -> None:
        supply = self.supply()
        supply.begin(1.0, 1.0, 1.3)
        lasting = supply.limit_a
        held = 0.0
        while supply.max_a(0.0) > 1.01 * lasting:
            self.assertAlmostEqual(supply.max_a(0.0), 1.3 * lasting)
            supply.update(0.01, 1.3 * lasting, 0.0, 100.0, 0.0)
            held += 0.01
        self.assertAlmostEqual(held, 1.0, delta=0.02)

    def test_below_the_limit_none_of_it_is_used(self) -> None:
        supply = self.supply()
        supply.begin(1.0, 1.0, 1.3)
        supply.update(5.0, 0.9 * supply.limit_a, 0.0, 120.0, 0.0)
        self.assertEqual(supply.short_left_s, 1.0)

    def test_an_eco_set_begins_at_half_and_is_there_after_a_few_times_1_5_s(self) -> None:
        supply = self.supply(eco=True)
        supply.begin(1.0, 1.0, 1.0)
        whole = supply.limit_a
        self.assertAlmostEqual(supply.max_a(0.0), 0.5 * whole)
        self.assertAlmostEqual(supply.max_a(1.5), (1.0 - 0.5 / math.e) * whole)
        self.assertGreater(supply.max_a(9.0), 0.99 * whole)

    def test_a_regulator_forces_the_field_to_1_6_in_about_0_3_s(self) -> None:
        supply = self.supply(inverter=False)
        self.assertTrue(supply.forced)
        for _ in range(300):
            supply.update(1e-3, 0.0, 0.0, 0.9 * supply.leg_v, 0.0)
        self.assertAlmostEqual(supply.field, 1.6 - 0.6 / math.e, delta=0.005)
        for _ in range(5000):
            supply.update(1e-3, 0.0, 0.0, 0.9 * supply.leg_v, 0.0)
        self.assertAlmostEqual(supply.field, 1.6, delta=0.001)
        for _ in range(5000):
            supply.update(1e-3, 0.0, 0.0, supply.leg_v, 0.0)
        self.assertAlmostEqual(supply.field, 1.0, delta=0.001)

    def test_it_opens_under_six_tenths_of_its_volts_for_its_time(self) -> None:
        for share, opens in ((0.61, False), (0.59, True)):
            supply = self.supply()
            opened, seconds = False, 0.0
            while not opened and seconds < 2.0 * supply.undervolt_s:
                opened = supply.update(0.05, 0.0, 0.0, share * supply.leg_v, 0.0)
                seconds += 0.05
            self.assertEqual(opened, opens)
            if opens:
                self.assertAlmostEqual(seconds, supply.undervolt_s, delta=0.11)

    def test_a_guard_looks_at_low_volts_for_a_second(self) -> None:
        guard, network = self.guard(low_v=104.0, over_a=32.0)
        for volts, steps, opens in ((103.0, 19, False), (103.0, 22, True), (105.0, 99, False)):
            guard.begin(1.0)
            network.v1 = complex(volts)
            opened = [guard.update(0.05, network) for _ in range(steps)]
            self.assertEqual(any(opened), opens, (volts, steps))

    def test_a_guard_lets_a_start_s_amps_pass_for_five_seconds(self) -> None:
        """From memory: a guard's overload waits some seconds, so that no start opens it."""
        guard, network = self.guard(low_v=0.0, over_a=32.0)
        for amps, steps, opens in ((60.0, 99, False), (60.0, 102, True), (31.0, 400, False)):
            guard.begin(1.0)
            network.v1, network.a1 = 120 + 0j, amps
            opened = [guard.update(0.05, network) for _ in range(steps)]
            self.assertEqual(any(opened), opens, (amps, steps))

    def test_a_guard_sees_the_volts_where_it_is(self) -> None:
        """What the cord behind it drops is still there at the guard: 1 ohm and 10 A are 10 V."""
        guard, network = self.guard(low_v=105.0, over_a=99.0, after=1.0)
        network.v1, network.i1 = 98 + 0j, 10 + 0j
        guard.begin(1.0)
        self.assertFalse(any(guard.update(0.05, network) for _ in range(60)))
        network.i1 = 5 + 0j
        self.assertTrue(any(guard.update(0.05, network) for _ in range(60)))

    def guard(self, low_v: float, over_a: float, after: float = 0.0) -> Any:
        """A plain guard on one leg, and the network it looks at."""
        engine = parts(POST, unit("a"))
        engine.network.two_legs, engine.network.a1, engine.network.a2 = False, 0.0, 0.0
        ohm = np.array([after, 0.0, after], dtype=complex)
        return PLAIN.Guard(GuardWatch(True, low_v, over_a, ohm, 1.0)), engine.network

    def test_a_breaker_s_heat_goes_its_way_whatever_the_steps(self) -> None:
        """First order: after one time constant 1 − 1/e of the way, in steps of any length."""
        supply = parts(POST, unit("a")).supply
        amps, tau_s = 20.0, supply.tau_s[0]
        for steps in ([tau_s], [tau_s / 2] * 2, [tau_s / 4, tau_s / 2, tau_s / 4]):
            supply.begin(1.0, 1.0, 1.0)
            for h in steps:
                supply.update(h, amps, 0.0, 120.0, 0.0)
            whole = (amps / supply.rating_a[0]) ** 2
            self.assertAlmostEqual(supply.heat[0], (1.0 - 1.0 / math.e) * whole, places=9)

    def test_a_post_has_no_limit_of_its_own(self) -> None:
        supply = parts(POST, unit("a")).supply
        self.assertEqual(supply.limit_w, NEVER)
        self.assertGreater(supply.max_a(0.0), 1e6)
        self.assertFalse(supply.update(60.0, 25.0, 0.0, 120.0, 3000.0))


class Alike(unittest.TestCase):
    """Loads that behave alike are one row of the engine, whatever their number."""

    def loads(self, *watts: float, **more: Any) -> list[dict[str, Any]]:
        return [
            {"id": f"e{n}", "name": f"e{n}", "kind": "electronic", "watts": w} | more
            for n, w in enumerate(watts)
        ]

    def test_two_are_as_one_of_both(self) -> None:
        for several, one in (((200.0, 300.0), (500.0,)), ((100.0,) * 5, (500.0,))):
            many = parts(POST, unit("a"), *self.loads(*several))
            single = parts(POST, unit("a"), *self.loads(*one))
            self.assertEqual(len(many.loads.place), 1)
            np.testing.assert_allclose(many.loads.rated, single.loads.rated, rtol=1e-12)

    def test_what_lets_go_elsewhere_or_otherwise_is_apart(self) -> None:
        oven = {"id": "c", "name": "c", "kind": "microwave", "watts": 900}
        loads = parts(POST, unit("a"), *self.loads(200.0, 100.0), oven).loads
        shares = {*zip(loads.dropout.tolist(), loads.pickup.tolist(), strict=True)}
        self.assertEqual((len(loads.place), len(shares)), (2, 2))

    def test_all_that_let_go_are_named(self) -> None:
        from ironmargin.starting.scenario import StartScenario

        weak = {"kind": "generator", "continuous_w": 1200, "starting_w": 1300}
        case = prepare(question(weak, [unit("a"), *self.loads(200.0, 150.0)]))
        found = StartScenario(case, Plan((case.starters[0],)), np.zeros(len(case.breakers))).run()
        named = {case.demands[at].load.id for at in (*found.off, *found.blinked)}
        self.assertLessEqual({"e0", "e1"}, named)


class ComeAndGo(unittest.TestCase):
    """A load that comes and goes is away until it has stayed on for a quarter of a second."""

    TELE = {"id": "e", "name": "e", "kind": "electronic", "watts": 300}

    def test_one_blink_counts_for_a_quarter_of_a_second(self) -> None:
        engine = parts(POST, unit("a"), self.TELE)
        loads, network = engine.loads, engine.network
        for t, volts, away in (
            (0.0, 120.0, 0), (1.0, 40.0, 1), (1.1, 120.0, 1), (1.24, 120.0, 1), (1.26, 120.0, 0),
        ):  # fmt: skip
            network.volts[0] = network.volts[1] = network.volts[2] = volts
            loads.admittance(network, t)
            self.assertEqual((loads.off, int(loads.away[0])), (away, away), t)
        self.assertEqual(int(loads.blinked[0]), 1)

    def test_coming_and_going_at_each_step_is_not_staying_on(self) -> None:
        engine = parts(POST, unit("a"), self.TELE)
        for n in range(100):
            engine.network.volts[0] = 120.0 if n % 2 else 40.0
            engine.loads.admittance(engine.network, n * H)
            self.assertEqual(engine.loads.off, 1)

    def test_the_word_does_not_hang_on_the_step_it_is_looked_at(self) -> None:
        """An inverter's compressor on one leg of a set at its limit: whichever leg it is, the start
        beside it fails because it lets go, not because volts stay low.
        """
        supply = {"kind": "generator", "continuous_w": 3590, "starting_w": 3590,
                  "fuel": "propane", "output": "120/240", "voltage_v": 240}  # fmt: skip
        unit_240 = {"kind": "air-conditioner", "voltage_v": 240, "running_a": 1.0, "lra_a": 3.0,
                    "start": "run-capacitor", "duty": 0.3}  # fmt: skip
        for leg in ("L1", "L2"):
            loads: list[dict[str, Any]] = [
                unit_240 | {"id": "a", "name": "a"},
                {"id": "b", "name": "b", "kind": "air-conditioner", "leg": leg, "running_a": 10.0,
                 "lra_a": 20.0, "start": "inverter-drive", "duty": 0.3},
                {"id": "c", "name": "c", "kind": "incandescent", "voltage_v": 240, "amps": 1.0},
                unit_240 | {"id": "d", "name": "d"},
            ]  # fmt: skip
            doc = {
                "format": "iron-margin/setup", "version": 1, "name": "q", "supply": supply,
                "conditions": {"outdoor_c": 24.0},
                "rig": {"name": "q", "service": "120/240", "main_a": 50, "loads": loads},
                "wanted": [{"load": x["id"]} for x in loads], "rules": {"trials": 0},
            }  # fmt: skip
            starts = {s.load: s for s in examine(read_setup(doc)).result.starts}
            self.assertEqual(starts["c"].outcome, "lets-go", leg)


class Gear(unittest.TestCase):
    """Torque at standstill over that of the plain rotor, direct on line and under a starter."""

    def gear(self, load: dict[str, Any], **more: Any) -> float:
        case = prepare(question(POST, [load], **more))
        model = model_of(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
        return float(model.motors.gear[0])

    def test_direct_on_line(self) -> None:
        for start, torque in (
            ("run-capacitor", 0.35),
            ("start-capacitor", 1.5),
            ("hard-start", 1.7),
        ):
            self.assertEqual(self.gear(unit("a", start=start)), torque)

    def test_under_a_soft_starter_of_its_own(self) -> None:
        for gear, torque in (("run-capacitor", 0.6), ("start-capacitor", 1.5)):
            soft = unit("a", start="soft-start", soft_start={"peak_a": 20, "gear": gear})
            self.assertEqual(self.gear(soft), torque)

    def test_under_one_in_the_cord(self) -> None:
        cord = [{"kind": "inline-soft-start"}]
        for start, torque in (
            ("run-capacitor", 0.6),
            ("start-capacitor", 1.5),
            ("hard-start", 1.7),
        ):
            self.assertEqual(self.gear(unit("a", start=start), hookup=cord), torque, start)

    def test_one_that_runs_has_its_run_capacitor(self) -> None:
        case = prepare(
            question(POST, [unit("a", start="hard-start"), unit("b", start="hard-start")])
        )
        model = model_of(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
        self.assertEqual(model.motors.gear.tolist(), [1.7, 0.35])

    def test_a_hard_start_kit_takes_eight_in_a_hundred_off_the_amps(self) -> None:
        for start, share in (("start-capacitor", 1.0), ("hard-start", 0.92)):
            case = prepare(question(POST, [unit("a", start=start)]))
            model = model_of(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
            self.assertEqual(model.motors.gear_current.tolist(), [share])


class RoughEdge(unittest.TestCase):
    def test_a_rough_edge_lies_by_the_fine_one_and_looks_at_no_island(self) -> None:
        for number in (1, 2, 4, 13, 16):
            case = prepare(load_setup(path_of(number)))
            scenario = StartScenario(case, Plan(case.starters[:1]), np.zeros(len(case.breakers)))
            passes = scenario.passes()
            fine = scenario.reserve_of_supply(passes)
            rough = scenario.reserve_of_supply(passes, rough=True)
            self.assertAlmostEqual(rough.factor / fine.factor, 1.0, delta=0.0041)
            self.assertEqual(rough.islands, ())
            self.assertEqual(scenario.reserve_of_supply(passes), fine)
