"""The parts of the core one by one: breakers, sources, derates, path, loads, statistics."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

from ironmargin.case import prepare
from ironmargin.electrics import motor as m
from ironmargin.loads.demand import heat_factor, locked_rotor_amps
from ironmargin.loads.reader import demand_of
from ironmargin.path.rating import conductor_ampacity_a
from ironmargin.path.trace import trace
from ironmargin.planning.answer import check
from ironmargin.protection.breaker import EARLY, LATE, NOMINAL, curve
from ironmargin.setup.engines import FuelRating, Generator, Parallel
from ironmargin.setup.hookup import Cord
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.loads import Motor
from ironmargin.setup.model import Conditions
from ironmargin.setup.post import Shore
from ironmargin.supplies.derate import derating_chain
from ironmargin.supplies.kinds.post import thevenin
from ironmargin.supplies.source import source_of
from ironmargin.sustaining.steady import Steady, averaged, lost_neutral, settled
from tests.shared import changed, checked

HERE = Conditions(outdoor_c=20)


class Breakers(unittest.TestCase):
    def test_heat_closed_form_agrees_with_small_steps(self) -> None:
        c = curve("UL489", 30)
        heat, step = 0.3, 0.001
        for _ in range(20_000):
            heat += step / c.tau_s * (1.6**2 - heat)
        self.assertAlmostEqual(c.heat_after(1.6, 20.0, 0.3), heat, delta=1e-3)

    def test_a_warm_breaker_trips_sooner_and_none_at_its_handle(self) -> None:
        c = curve("UL489", 30)
        self.assertLess(c.trip_s(1.5, 0.8), c.trip_s(1.5, 0.0))
        for edge in (EARLY, NOMINAL, LATE):
            self.assertEqual(curve("UL489", 30, edge).trip_s(1.0), math.inf)

    def test_the_edges_are_in_order(self) -> None:
        for standard in ("UL489", "IEC60898-B", "IEC60898-C", "IEC60898-D"):
            for x in (1.6, 2.0, 2.9):
                times = [curve(standard, 16, edge).trip_s(x) for edge in (EARLY, NOMINAL, LATE)]
                self.assertEqual(times, sorted(times), (standard, x))


class Supplies(unittest.TestCase):
    def test_a_stated_rating_wins_over_the_derate(self) -> None:
        stated = Generator(
            continuous_w=3000,
            starting_w=4000,
            fuel="propane",
            by_fuel={"propane": FuelRating(continuous_w=2500, starting_w=3500)},
        )
        derated = Generator(continuous_w=3000, starting_w=4000, fuel="propane")
        self.assertEqual(derating_chain(stated, HERE)[-1].starting_w, 3500)
        self.assertAlmostEqual(derating_chain(derated, HERE)[-1].starting_w, 3600)

    def test_no_credit_for_cool_dense_air(self) -> None:
        self.assertEqual(
            derating_chain(
                Generator(continuous_w=1000, starting_w=1000),
                Conditions(outdoor_c=-10, altitude_m=-200),
            )[-1].starting_w,
            1000,
        )

    def test_limits_of_paralleled_sets_add_equal_or_not(self) -> None:
        one = Generator(continuous_w=1800, starting_w=2200)
        single, pair = source_of(one, HERE), source_of(Parallel(units=(one, one)), HERE)
        self.assertAlmostEqual(pair.limit_a, 2 * single.limit_a)
        self.assertAlmostEqual(pair.continuous_a, 2 * 0.95 * single.continuous_a)
        small = Generator(continuous_w=900, starting_w=900)
        unequal = source_of(Parallel(units=(one, small), imbalance=0.0), HERE)
        self.assertAlmostEqual(
            unequal.limit_a, (one.starting_w + small.starting_w) / 120 * 1.08, places=6
        )

    def test_two_readings_give_volts_and_ohms(self) -> None:
        volts, ohm = thevenin(Shore(breaker_a=30, readings=((119.0, 2.0), (115.0, 22.0))))
        self.assertAlmostEqual(ohm, 0.2)
        self.assertAlmostEqual(volts, 119.4)

    def test_a_surge_holds_for_its_time(self) -> None:
        source = source_of(BatteryInverter(continuous_w=2000, surge_w=4000, surge_s=5), HERE)
        self.assertAlmostEqual(
            source.lockout_k_s / ((source.limit_a / source.continuous_a) ** 2 - 1), 5.0
        )

    def test_a_split_output_halves_for_each_leg(self) -> None:
        source = source_of(
            Generator(continuous_w=9000, starting_w=11000, output="120/240", voltage_v=240), HERE
        )
        self.assertEqual((source.conductors, source.leg_v, source.continuous_a), (2, 120.0, 37.5))

    def test_eco_starts_lower(self) -> None:
        def eco(doc: dict) -> None:
            for unit in doc["supply"]["units"]:
                unit["eco"] = True

        self.assertLess(check(changed(1, eco)).starts[0].margin, checked(1).result.starts[0].margin)

    def test_a_conventional_set_dips_and_is_not_cut_off_at_its_amps(self) -> None:
        def conventional(doc: dict) -> None:
            doc["supply"] = {
                "kind": "generator",
                "continuous_w": 3500,
                "starting_w": 4000,
                "inverter": False,
            }

        (start,) = check(changed(2, conventional)).starts
        self.assertGreater(start.peak_a, 4000 / 120)
        self.assertLess(start.lowest_v, 112)

    def test_a_vehicle_outlet_of_30_a_brings_one_leg(self) -> None:
        def vehicle(doc: dict) -> None:
            doc["supply"] = {
                "kind": "generator",
                "continuous_w": 7200,
                "starting_w": 7200,
                "output": "120/240",
                "voltage_v": 240,
                "leg_limit_a": 30,
            }
            doc["hookup"].insert(0, {"kind": "outlet", "type": "TT-30", "rating_a": 30})

        case = prepare(changed(6, vehicle))
        self.assertTrue(case.feed.upstream.tied)
        self.assertEqual([b.rating_a for b, _ in case.breakers if b.where == "supply"], [30])


class Path(unittest.TestCase):
    def test_ampacity_stands_in_for_a_rating(self) -> None:
        self.assertEqual(conductor_ampacity_a(Cord(awg=12, length_m=5)), 25)
        self.assertEqual(conductor_ampacity_a(Cord(mm2=2.5, length_m=5)), 20)
        self.assertEqual(conductor_ampacity_a(Cord(mm2=0.5, length_m=5)), 6)

    def test_a_weak_adapter_behind_a_large_breaker_is_unprotected(self) -> None:
        def weak(doc: dict) -> None:
            doc["hookup"].insert(
                0, {"kind": "adapter", "name": "dog bone", "rating_a": 15, "condition": "hot"}
            )

        result = check(changed(6, weak))
        row = next(r for r in result.path if r.name == "dog bone")
        self.assertTrue(row.unprotected)
        self.assertLess(row.margin, 0)
        self.assertEqual(result.weakest.check, "path")
        self.assertAlmostEqual(row.contact_w, row.amps**2 * 0.045)
        self.assertTrue(any("out of service" in c for c in result.cautions))

    def test_a_longer_cord_lowers_the_volts(self) -> None:
        def longer(doc: dict) -> None:
            doc["hookup"][0]["length_m"] = 60

        self.assertLess(check(changed(2, longer)).volts[0].v, checked(2).result.volts[0].v - 3)

    def test_legs(self) -> None:
        for number, legs, tied, across in (
            (6, 2, True, 0.0),
            (7, 2, False, 240.0),
            (8, 2, False, 0.0),
        ):
            up = prepare(changed(number, lambda doc: None)).feed.upstream
            self.assertEqual((up.legs, up.tied), (legs, tied))
            self.assertAlmostEqual(abs(up.e1_v - up.e2_v), across)
        network = prepare(changed(7, lambda doc: doc["supply"].update(legs="network-208")))
        self.assertAlmostEqual(
            abs(network.feed.upstream.e1_v - network.feed.upstream.e2_v), 207.8, delta=0.1
        )

    def test_without_an_adapter_l2_is_dead(self) -> None:
        def bare(doc: dict) -> None:
            doc["hookup"] = []
            doc["rig"]["loads"][0]["leg"] = "L2"

        result = check(changed(6, bare))
        self.assertEqual(result.service[0].problem, "no-leg")
        self.assertEqual(result.verdict, "fails")

    def test_lost_neutral_puts_the_legs_in_series(self) -> None:
        def lopsided(doc: dict) -> None:
            doc["rig"]["loads"] = [
                {"id": "a", "name": "a", "kind": "resistive", "watts": 1200, "leg": "L1"},
                {"id": "b", "name": "b", "kind": "resistive", "watts": 400, "leg": "L2"},
            ]
            doc["wanted"] = [{"load": "a"}, {"load": "b"}]

        l1, l2 = lost_neutral(prepare(changed(7, lopsided)))
        self.assertAlmostEqual(l1, 60, delta=1.0)  # three times the load: a quarter of 240 V
        self.assertAlmostEqual(l2, 180, delta=1.0)

    def test_a_step_up_transformer_doubles_the_current(self) -> None:
        def stepped(doc: dict) -> None:
            doc["supply"] = {"kind": "shore", "breaker_a": 30}
            doc["hookup"] = [
                {
                    "kind": "transformer",
                    "va": 3000,
                    "from_v": 120,
                    "to_v": 240,
                    "no_load_w": 60,
                    "no_load_va": 240,
                }
            ]
            doc["rig"]["loads"] = [
                {"id": "k", "name": "kiln", "kind": "resistive", "watts": 1800, "voltage_v": 240}
            ]
            doc["wanted"] = [{"load": "k"}]

        case = prepare(changed(2, stepped))
        state = settled(case)
        self.assertEqual(case.unserved, ())
        self.assertAlmostEqual(
            abs(state.i1), abs(complex(15 + 0.5, -240 / 120)), delta=0.8
        )  # twice 7.5 A, and the magnetising current
        result = check(case.setup)
        self.assertEqual(next(r for r in result.path if r.kind == "transformer").rating_a, 25)

    def test_an_inline_soft_starter_serves_every_motor(self) -> None:
        def inline(doc: dict) -> None:
            doc["hookup"].append({"kind": "inline-soft-start", "fraction": 0.3})

        self.assertEqual(prepare(changed(2, inline)).demands[0].plate.start, "soft-start")

    def test_the_path_before_an_assist_carries_the_input_limit(self) -> None:
        result = check(
            changed(
                11,
                lambda doc: doc.update(
                    hookup=[
                        {"kind": "cord", "mm2": 0.75, "length_m": 40},
                        {"kind": "adapter", "rating_a": 5},
                    ]
                ),
            )
        )
        self.assertEqual([p.amps for p in result.path], [4.0, 4.0])
        self.assertEqual([p.unprotected for p in result.path], [False, True])
        self.assertAlmostEqual(result.volts[0].v, checked(11).result.volts[0].v)

    def test_a_guard_opens_when_volts_stay_low(self) -> None:
        def guarded(doc: dict) -> None:
            doc["hookup"].append({"kind": "guard", "low_v": 104, "overload_a": 32})
            doc["rig"]["loads"][0]["breakaway"] = 1.2

        self.assertNotEqual(check(changed(1, guarded)).starts[0].outcome, "starts")

    def test_a_guard_judges_settled_and_unloaded_volts(self) -> None:
        def guard(volts: float) -> object:
            def change(doc: dict) -> None:
                doc["supply"]["voltage_v"] = volts
                doc["hookup"].append({"kind": "guard", "low_v": 108, "high_v": 130})

            return check(changed(6, change))

        low, fine, high = guard(111), guard(120), guard(131)
        self.assertEqual((low.verdict, low.weakest.where), ("fails", "guard"))
        self.assertNotEqual(fine.verdict, "fails")
        self.assertIn("Do not plug in", high.weakest.sentence)
        self.assertTrue(any("Never bypass the guard" in c for c in fine.cautions))

    def test_a_bad_contact_adds_ohms(self) -> None:
        sound, worn = (
            changed(6, lambda doc, c=c: doc["hookup"][0].update(condition=c))
            for c in ("good", "worn")
        )
        sources = [trace(s, source_of(s.supply, HERE)).upstream.z11.real for s in (sound, worn)]
        self.assertAlmostEqual(sources[1] - sources[0], 2 * 0.02)


class Loads(unittest.TestCase):
    def test_lra_from_code_letter_and_horsepower(self) -> None:
        load = Motor(id="p", name="p", voltage_v=230, running_a=8, code_letter="G", hp=1)
        self.assertAlmostEqual(locked_rotor_amps(load, 8)[0], 5.945 * 1000 / 230)
        self.assertEqual(locked_rotor_amps(Motor(id="p", name="p", running_a=8), 8), (40.0, True))

    def test_hot_days_cost_and_measured_figures_get_no_cool_credit(self) -> None:
        self.assertAlmostEqual(heat_factor(40, True), 1.09)
        self.assertAlmostEqual(heat_factor(25, False), 0.82)
        self.assertEqual(heat_factor(25, True), 1.0)

    def test_a_soft_starter_learns_over_five_starts(self) -> None:
        learned = [m.soft_fraction_after(0.3, n) for n in range(7)]
        self.assertEqual(learned[0], 0.5)
        self.assertAlmostEqual(learned[5], 0.3)
        self.assertEqual(learned[5], learned[6])
        self.assertEqual(sorted(learned, reverse=True), learned)

    def test_pressures_equalise_in_three_minutes(self) -> None:
        self.assertEqual(m.breakaway_after(0), m.BREAKAWAY_AT_ONCE)
        self.assertAlmostEqual(m.breakaway_after(400), m.BREAKAWAY_EQUALISED)

    def test_modes_draw_what_was_measured(self) -> None:
        setup = changed(
            2, lambda doc: doc["rig"]["loads"][0].update(low_cool_a=11.9, fan_low_a=1.7)
        )
        for mode, amps in (
            ("fan-low", 1.7),
            ("fan-high", 2.4),
            ("low-cool", 11.9),
            ("high-cool", 13.3),
        ):
            demand = demand_of(setup, 0, mode)
            self.assertAlmostEqual(sum(d.amps for d in demand.steady), amps, places=6)
            self.assertEqual(demand.plate is None, mode.startswith("fan"))

    def test_counts_multiply(self) -> None:
        result = check(changed(7, lambda doc: doc["rig"]["loads"][0].update(count=2)))
        self.assertAlmostEqual(
            result.legs["L1"].a - checked(7).result.legs["L1"].a, 14.1, delta=0.5
        )

    def test_rounding_up_counts_15_a(self) -> None:
        result = check(changed(6, lambda doc: doc.setdefault("rules", {}).update(round_up=True)))
        self.assertAlmostEqual(
            max(r.amps for r in result.sustain), checked(6).result.legs["L1"].a, delta=2
        )
        with_oven = check(changed(5, lambda doc: doc.setdefault("rules", {}).update(round_up=True)))
        self.assertGreater(
            max(r.amps for r in with_oven.sustain),
            max(r.amps for r in checked(5).result.sustain) + 1.5,
        )

    def test_constant_power_draws_more_at_low_volts_and_lets_go(self) -> None:
        def weak(ohm: float) -> Steady:
            def change(doc: dict) -> None:
                doc["supply"]["source_ohm"] = ohm
                doc["rig"]["loads"] = [
                    {"id": "tv", "name": "tv", "kind": "electronic", "watts": 1000}
                ]
                doc["wanted"] = [{"load": "tv"}]

            state = settled(prepare(changed(6, change)))
            return replace(state, i1=abs(state.i1))

        self.assertGreater(weak(1.5).i1, weak(0.1).i1 * 1.05)
        self.assertEqual((weak(1.5).dropped_out, weak(5.0).dropped_out), ((), (0,)))

    def test_duty_counts_for_the_hours_only(self) -> None:
        case = prepare(changed(11, lambda doc: None))
        self.assertLess(abs(averaged(case).i1), 0.65 * abs(settled(case).i1))

    def test_filaments_and_universal_motors_rush(self) -> None:
        def bulbs(doc: dict) -> None:
            doc["rig"]["loads"] += [
                {"id": "lamps", "name": "lamps", "kind": "incandescent", "watts": 300},
                {"id": "saw", "name": "saw", "kind": "motor", "running_a": 6, "start": "universal"},
            ]
            doc["wanted"] = [{"load": "lamps"}, {"load": "saw"}]

        starts = {s.load: s for s in check(changed(1, bulbs)).starts}
        self.assertEqual({s.outcome for s in starts.values()}, {"starts"})
        self.assertGreater(starts["lamps"].wanted_a, 25)
        self.assertGreater(starts["saw"].peak_a, 15)


if __name__ == "__main__":
    unittest.main()
