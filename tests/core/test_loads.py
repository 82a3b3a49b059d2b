"""What a load of each kind is taken to do where its plate does not say: common practice and figures
from memory, each by its number.
"""

from __future__ import annotations

import math
import unittest
from typing import Any

from ironmargin.case import prepare
from ironmargin.electrics import motor as m
from ironmargin.loads.demand import (
    Demand,
    cycles_per_hour,
    duty_of,
    heat_factor,
    transformer_demand,
)
from ironmargin.loads.reader import demand_of
from ironmargin.setup.engines import FuelRating, Generator
from ironmargin.setup.hookup import Transformer
from ironmargin.setup.model import Conditions
from ironmargin.supplies.derate import derating_chain
from tests.core.test_engine import POST, UNIT, question
from tests.core.test_engine_parts import parts, unit


def of(load: dict[str, Any], mode: str | None = None) -> Demand:
    """What the network sees of a load on a 30 A post."""
    named = {"id": "x", "name": "x"} | load
    setup = question(POST, [named])
    return demand_of(setup, 0, mode or setup.wanted[0].mode)


class Rotors(unittest.TestCase):
    def test_pressure_equalizes_within_minutes_by_what_meters_the_refrigerant(self) -> None:
        """Common practice, no source: a capillary lets most of it through in two to three minutes,
        an expansion valve still holds half of it then.
        """
        for wait_s, torque in ((0, 0.8), (300, 0.15), (3600, 0.15), (-5, 0.8)):
            self.assertAlmostEqual(m.breakaway_after(wait_s), torque)
        for wait_s in (120.0, 150.0, 180.0):
            self.assertLess(m.breakaway_after(wait_s), 0.24)
            self.assertTrue(0.3 < m.pressure_left(wait_s, "valve") < 0.52)
        self.assertAlmostEqual(m.pressure_left(60.0), math.exp(-1.0), delta=0.005)
        self.assertAlmostEqual(m.pressure_left(180.0, "valve"), math.exp(-1.0), delta=0.005)
        self.assertEqual(m.breakaway_after(m.rested_s("valve"), "valve"), 0.15)
        self.assertEqual([m.load_after_start(t) for t in (0.0, 300.0)], [1.0, 0.6])

    def test_a_running_compressor_falls_out_by_its_own_small_inertia(self) -> None:
        """Without volts, ``2H·dω/dt = −T``: from full load to four fifths of speed in 2·0.05·Δω."""
        engine = parts(POST, unit("a"), unit("b"))
        motors, network = engine.motors, engine.network
        network.volts[:] = 0.0
        motors.admittance(network)
        begun, seconds, step = float(motors.speed[1]), 0.0, 1e-4
        while motors.speed[1] > 0.8:
            motors.turn(network, step, step if seconds else 0.0)
            seconds += step
        self.assertAlmostEqual(seconds, 2.0 * 0.05 * (begun - 0.8) / motors.at_speed[1], delta=3e-4)

    def test_one_that_starts_has_compressor_and_load_to_turn(self) -> None:
        """At once, with three times its load's torque to spare, ``2·0.19·dω/dt`` is that torque."""
        engine = parts(POST, unit("a"))
        motors, network = engine.motors, engine.network
        network.volts[:] = 120.0, 120.0, 240.0
        motors.admittance(network)
        motors.turn(network, 1e-4, 0.0)
        drive = (
            (120.0**2) * motors.rotor[0] / (motors.square[0] * motors.torque_fl[0])
        ) * motors.torque_gain(0)
        stiff_enough = (drive - motors.breakaway[0]) / (2.0 * 0.19)
        self.assertAlmostEqual(motors.speed[0] / 1e-4, stiff_enough, delta=0.02 * stiff_enough)

    def test_locked_rotor_amps_nobody_knows_are_five_times_running(self) -> None:
        found = of({"kind": "motor", "running_a": 8.0})
        assert found.plate is not None
        self.assertAlmostEqual(found.plate.lra_a, 40.0)
        self.assertTrue(found.plate.lra_typical)


class Draws(unittest.TestCase):
    def test_electronics_let_go_at_45_of_100_and_return_five_above(self) -> None:
        (draw,) = of({"kind": "electronic", "watts": 200}).steady
        self.assertTrue(draw.constant_power)
        self.assertAlmostEqual(draw.dropout, 0.45)
        self.assertAlmostEqual(draw.pickup, 0.50)

    def test_a_microwave_s_relay_lets_go_at_55_and_pulls_in_at_75(self) -> None:
        (draw,) = of({"kind": "microwave", "watts": 1450}).steady
        self.assertAlmostEqual(draw.dropout, 0.55)
        self.assertAlmostEqual(draw.pickup, 0.75)

    def test_a_running_compressor_pulls_out_at_55(self) -> None:
        fan, compressor = of(UNIT).steady
        self.assertAlmostEqual(compressor.dropout, 0.55)
        self.assertEqual(fan.dropout, 0.0)

    def test_resistive_loads_follow_their_volts(self) -> None:
        (draw,) = of({"kind": "resistive", "watts": 1500}).steady
        self.assertFalse(draw.constant_power)
        self.assertAlmostEqual(draw.va, 1500.0)

    def test_a_fan_nobody_measured_is_18_of_100_of_its_compressor(self) -> None:
        known = {"kind": "air-conditioner", "lra_a": 52, "running_a": 11.8}
        fan, compressor = of(known).steady
        self.assertAlmostEqual(fan.amps / compressor.amps, 0.18, places=6)
        self.assertAlmostEqual(fan.va.real / abs(fan.va), 0.9)

    def test_a_cold_filament_draws_ten_times_for_some_hundredths_of_a_second(self) -> None:
        found = of({"kind": "incandescent", "watts": 300})
        assert found.inrush is not None
        self.assertEqual((found.inrush.times, found.inrush.tau_s), (10.0, 0.04))

    def test_a_transformer_draws_ten_or_five_times_when_energised(self) -> None:
        for kind, times in (("isolation", 10.0), ("auto", 5.0)):
            item = Transformer(type=kind, va=3000.0, to_v=240.0)
            found = transformer_demand(item, 120.0)
            assert found.inrush is not None
            self.assertEqual((found.inrush.times, found.inrush.tau_s), (times, 0.05))

    def test_uncorrected_electronics_have_peaks(self) -> None:
        """√2/pf times their amps, where their power factor is under 0.9; else none."""
        for power_factor, peaks in ((0.6, True), (0.89, True), (0.9, False), (1.0, False)):
            found = of({"kind": "electronic", "watts": 300, "power_factor": power_factor})
            self.assertEqual(found.crest_a > 0.0, peaks, power_factor)


class Days(unittest.TestCase):
    def test_running_amps_rise_a_hundredth_a_degree_fahrenheit_above_95(self) -> None:
        for celsius, rated, measured in (
            (35.0, 1.0, 1.0), (45.0, 1.18, 1.18), (25.0, 0.82, 1.0), (-20.0, 0.7, 1.0),
        ):  # fmt: skip
            self.assertAlmostEqual(heat_factor(celsius, measured=False), rated)
            self.assertAlmostEqual(heat_factor(celsius, measured=True), measured)

    def test_how_long_and_how_often(self) -> None:
        def load(**more: Any) -> Any:
            return question(POST, [{"id": "x", "name": "x"} | more]).rig.loads[0]

        microwave = load(kind="microwave", watts=1400)
        self.assertEqual((duty_of(microwave), cycles_per_hour(microwave)), (0.15, 0.0))
        kettle = load(kind="resistive", watts=1500)
        self.assertEqual((duty_of(kettle), cycles_per_hour(kettle)), (1.0, 0.0))
        self.assertEqual(cycles_per_hour(load(**{k: v for k, v in UNIT.items() if k != "id"})), 0.0)
        pump = load(kind="motor", running_a=6, on_s=30, off_s=90)
        self.assertEqual((duty_of(pump), cycles_per_hour(pump)), (0.25, 30.0))
        half = load(kind="resistive", watts=900, duty=0.5)
        self.assertEqual((duty_of(half), cycles_per_hour(half)), (0.5, 3.0))

    def test_all_of_a_rig_is_read_in_its_order(self) -> None:
        case = prepare(
            question(POST, [UNIT, {"id": "k", "name": "k", "kind": "resistive", "watts": 900}])
        )
        self.assertEqual([d.load.id for d in case.demands], ["u", "k"])


class Fuels(unittest.TestCase):
    def left(self, fuel: str, rated_for: str = "gasoline", **more: Any) -> float:
        """Share of a set's plate that is left on a fuel, on a cool dry day at the sea."""
        supply = Generator(
            continuous_w=2000.0, starting_w=2400.0, fuel=fuel, ratings_for=rated_for, **more
        )
        steps = {
            step.key: step.factor for step in derating_chain(supply, Conditions(outdoor_c=20.0))
        }
        return steps.get("fuel", 1.0)

    def test_power_on_a_fuel_over_power_on_gasoline(self) -> None:
        shares = {"gasoline": 1.0, "propane": 0.9, "natural_gas": 0.82, "diesel": 1.0}
        for fuel, share in shares.items():
            self.assertAlmostEqual(self.left(fuel), share)
        self.assertAlmostEqual(self.left("propane", "diesel"), 0.9)

    def test_from_one_gas_to_the_other(self) -> None:
        self.assertAlmostEqual(self.left("natural_gas", "propane"), 0.82 / 0.9)
        self.assertEqual(self.left("propane", "natural_gas"), 1.0)  # a plate is no promise of more

    def test_a_plate_that_says_it_is_believed(self) -> None:
        stated = {"propane": FuelRating(continuous_w=1700.0, starting_w=2000.0)}
        self.assertAlmostEqual(self.left("propane", by_fuel=stated), 0.85)

    def test_altitude_and_heat_are_told_apart_at_25_degrees(self) -> None:
        """SAE J1349 refers to 25 °C and 990 hPa: on such a day all that is lost is altitude's."""
        supply = Generator(continuous_w=2000.0, starting_w=2400.0)
        for outdoor_c, heat in ((25.0, 1.0), (15.0, 1.0), (40.0, 0.97)):
            day = Conditions(outdoor_c=outdoor_c, altitude_m=1500.0, humidity_pct=0.0)
            steps = {step.key: step.factor for step in derating_chain(supply, day)}
            # 845.6 hPa: 1.18·(990/845.6) − 0.18 = 1.2016
            self.assertAlmostEqual(steps["altitude"], 1.0 / 1.2016, places=3)
            if heat == 1.0:
                self.assertGreaterEqual(steps["heat"], 1.0 - 1e-12)
            else:
                self.assertAlmostEqual(steps["heat"], heat, places=2)
