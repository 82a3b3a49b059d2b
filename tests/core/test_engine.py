"""The start engine: compiled and plain alike, soft starters, limits in time, loads that let go, and
bad figures bounded.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics import columns
from ironmargin.errors import SetupError
from ironmargin.listed import listed
from ironmargin.planning.answer import check
from ironmargin.setup.engines import Generator
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.model import Conditions, Setup
from ironmargin.setup.reading import read_setup
from ironmargin.starting import engine as compiled
from ironmargin.starting.plan import Plan
from ironmargin.starting.samples import Unknown
from ironmargin.starting.scenario import Run, StartScenario
from ironmargin.supplies.kinds.inverters import battery_sag, idle_w
from ironmargin.supplies.source import source_of
from ironmargin.verdict.check import examine
from tests.shared import changed, checked, document, plain

POST: dict[str, Any] = {"kind": "shore", "breaker_a": 30}
UNIT: dict[str, Any] = {
    "id": "u",
    "name": "unit",
    "kind": "air-conditioner",
    "lra_a": 52,
    "running_a": 9.5,
    "fan_high_a": 3.0,
}


def question(supply: dict[str, Any], loads: list[dict[str, Any]], **more: Any) -> Setup:
    """A small question: everything in the rig is wanted."""
    service = more.pop("service", "120")
    return read_setup(
        {
            "format": "iron-margin/setup",
            "version": 1,
            "name": "q",
            "supply": supply,
            "rig": {"name": "r", "service": service, "main_a": 50, "loads": loads},
            "wanted": [{"load": x["id"]} for x in loads],
        }
        | more
    )


def scenario(setup: Setup, at: int = 0) -> StartScenario:
    case = prepare(setup)
    return StartScenario(case, Plan((case.starters[at],)), np.zeros(len(case.breakers)))


def run(setup: Setup, **more: Any) -> Run:
    return scenario(setup).run(**more)


class CompiledAndPlain(unittest.TestCase):
    def test_the_compiled_engine_does_what_the_file_says(self) -> None:
        self.assertTrue(compiled.__file__.endswith(".so"), "compile it: python tools/compile.py")
        engine = plain("starting.engine")
        for number in (1, 2, 4, 9, 14, 17):
            case = prepare(changed(number, lambda doc: None))
            for starter in case.starters:
                ours = StartScenario(case, Plan((starter,)), np.zeros(len(case.breakers)))
                theirs = StartScenario(case, Plan((starter,)), np.zeros(len(case.breakers)))
                theirs.engine = engine.Engine(theirs.model)
                a, b = ours.run(0.97, short=1.1), theirs.run(0.97, short=1.1)
                self.assertEqual(
                    (a.outcome, a.off, a.blinked, len(a.trace.t_s)),
                    (b.outcome, b.off, b.blinked, len(b.trace.t_s)),
                    number,
                )
                np.testing.assert_allclose(a.trace.speed, b.trace.speed, atol=1e-9)
                np.testing.assert_allclose(a.trace.v, b.trace.v, atol=1e-6)


class TheCompiledNetwork(unittest.TestCase):
    """The settled network of many sets: compiled, it gives what the file says."""

    def test_random_loads_settle_the_same(self) -> None:
        self.assertTrue(columns.__file__.endswith(".so"), "compile it: python tools/compile.py")
        draw = np.random.default_rng(1)
        sets = 40
        feed = np.array([120.0, 120.0, 0.2 + 0.05j, 0.05, 0.25 + 0.04j], dtype=complex)
        fixed = draw.uniform(0.0, 0.1, (3, sets)).astype(complex)
        pooled = draw.uniform(0.0, 1500.0, (2, sets)) * (draw.random((2, sets)) < 0.7) + 0j
        kinds = np.array([[0.0, 120.0, 0.7, 0.6], [1.0, 120.0, 0.95, 0.9]])
        bounds = np.array([400.0, 40.0, 1e-9])
        found = []
        for module in (columns, plain("electrics.columns")):
            volts, amps = (np.zeros((2, sets), dtype=complex) for _ in range(2))
            moved, gone = np.zeros(sets), np.zeros(sets)
            passes = module.settle_columns(
                feed, fixed, pooled, kinds, bounds, volts, amps, moved, gone
            )
            found.append((passes, volts, amps, gone))
        (ours, *of_ours), (theirs, *of_theirs) = found
        self.assertEqual(ours, theirs)
        self.assertTrue(0 < of_ours[2].sum() < sets)  # some loads let go, some do not
        for a, b in zip(of_ours, of_theirs, strict=True):
            np.testing.assert_allclose(a, b, atol=1e-9)


class LimitsInTime(unittest.TestCase):
    def test_height_takes_the_engine_not_the_electronics(self) -> None:
        low, high = (
            source_of(
                Generator(continuous_w=3000, starting_w=3600),
                Conditions(outdoor_c=20, altitude_m=h),
            )
            for h in (0, 2500)
        )
        self.assertEqual(low.limit_a, high.limit_a)
        self.assertEqual(low.lockout_a, high.lockout_a)
        self.assertLess(high.limit_w, 0.8 * low.limit_w)
        self.assertLess(high.continuous_a, 0.8 * low.continuous_a)

    def test_the_flywheel_carries_a_few_tenths_of_a_second(self) -> None:
        """Heaters beyond the engine's power: volts are full at first, and fold back to P/V once it
        is spent (closed form).
        """
        lamps = [
            {"id": "h", "name": "h", "kind": "resistive", "watts": 2000},
            {"id": "l", "name": "l", "kind": "incandescent", "watts": 20},
        ]
        supply = {
            "kind": "generator",
            "continuous_w": 1500,
            "starting_w": 1600,
            "limit_over_surge": 1.5,
        }
        got = run(question(supply, lamps, conditions={"outdoor_c": 10}))
        after = got.trace.v[0][got.trace.t_s > 1.5]
        max_w = prepare(question(supply, lamps, conditions={"outdoor_c": 10})).source.limit_w
        self.assertLess(max_w, 2400.01)
        if len(after):
            self.assertLessEqual(after[-1] ** 2 / 120**2 * 2020, max_w * 1.02)
        self.assertGreater(got.trace.v[0][0], 90)

    def test_the_short_time_current_lasts_a_second(self) -> None:
        stiff = UNIT | {"breakaway": 2.0}
        setup = question({"kind": "generator", "continuous_w": 1800, "starting_w": 2200}, [stiff])
        plain, short = run(setup), run(setup, short=1.15)
        self.assertAlmostEqual(short.peak_a / plain.peak_a, 1.15, delta=0.001)
        self.assertAlmostEqual(
            short.trace.a[0][short.trace.t_s > 1.1][0] / plain.peak_a, 1.0, delta=0.001
        )

    def test_a_forced_field_decides_the_start_of_a_conventional_set(self) -> None:
        at = scenario(
            question(
                {"kind": "generator", "continuous_w": 1500, "starting_w": 6000, "inverter": False},
                [UNIT],
            )
        )
        forced = at.reserve_of_supply(at.passes()).factor
        unforced = StartScenario(at.case, at.plan, np.zeros(len(at.case.breakers)))
        source = replace(at.case.source, forced=False)
        unforced = StartScenario(
            replace(at.case, source=source), at.plan, np.zeros(len(at.case.breakers))
        )
        self.assertGreater(unforced.reserve_of_supply(unforced.passes()).factor, 1.1 * forced)

    def test_eco_halves_what_a_start_finds(self) -> None:
        supply = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}
        stiff = UNIT | {"breakaway": 2.0}
        full, eco = run(question(supply, [stiff])), run(question(supply | {"eco": True}, [stiff]))
        self.assertAlmostEqual(eco.trace.a[0][0] / full.trace.a[0][0], 0.5, delta=0.01)

    def test_a_battery_sags_behind_its_surge_and_draws_itself(self) -> None:
        small = BatteryInverter(continuous_w=2000, surge_w=4000, battery_wh=1000)
        large = BatteryInverter(continuous_w=2000, surge_w=4000, battery_wh=10000)
        self.assertAlmostEqual(battery_sag(small), 0.04 * 4000 / 0.88 / 1000)
        self.assertAlmostEqual(battery_sag(large), battery_sag(small) / 10)
        self.assertLess(
            source_of(small, Conditions()).limit_a, source_of(large, Conditions()).limit_a
        )
        self.assertEqual(
            [idle_w(BatteryInverter(continuous_w=w, surge_w=w)) for w in (300, 2000, 9000)],
            [8.0, 20.0, 40.0],
        )
        self.assertEqual(idle_w(BatteryInverter(continuous_w=300, surge_w=300, idle_w=3.0)), 3.0)

    def test_uncorrected_chargers_fill_a_small_inverter_s_peak(self) -> None:
        supply = {"kind": "battery-inverter", "continuous_w": 1000, "surge_w": 1000}
        rows = {}
        for pf in (0.65, 0.98):
            result = check(
                question(
                    supply,
                    [
                        {
                            "id": "c",
                            "name": "charger",
                            "kind": "charger",
                            "amps": 6,
                            "power_factor": pf,
                        }
                    ],
                )
            )
            rows[pf] = [r for r in result.sustain if r.note == "crest"]
        self.assertEqual(rows[0.98], [])
        self.assertAlmostEqual(
            rows[0.65][0].amps, 6.0 / 0.65, delta=0.15
        )  # peak √2/pf times the amps, over √2


class LettingGo(unittest.TestCase):
    def test_a_long_cord_with_electronics_does_not_hold(self) -> None:
        loads = [
            {"id": "m", "name": "Microwave", "kind": "microwave", "watts": 1500},
            {"id": "c", "name": "Charger", "kind": "charger", "watts": 600},
        ]
        result = check(
            question(
                {"kind": "shore", "breaker_a": 20, "source_ohm": 0.3},
                loads,
                hookup=[{"kind": "cord", "awg": 14, "length_m": 120}],
            )
        )
        self.assertEqual(result.verdict, "fails")
        self.assertEqual({row.load for row in result.dropped_out}, {"m", "c"})
        self.assertTrue(all(row.margin < 0 and row.v < 120 for row in result.dropped_out))
        self.assertEqual(
            {w.check for w in result.why if w.verdict == "fails"} & {"voltage"}, {"voltage"}
        )

    def test_what_lets_go_in_a_start_must_come_back(self) -> None:
        """A router that falls off in the dip and comes back is a caution; one that cannot come back
        is a failure.
        """
        tv = {"id": "tv", "name": "Router", "kind": "electronic", "watts": 60}
        supply = {
            "kind": "parallel",
            "units": [{"kind": "generator", "continuous_w": 1200, "starting_w": 1350}] * 2,
        }
        result = check(question(supply, [UNIT, tv]))
        start = result.starts[0]
        self.assertEqual((start.outcome, start.resets), ("starts", ("tv",)))
        self.assertTrue(any("Router may reset" in c for c in result.cautions), result.cautions)

    def test_what_comes_and_goes_until_the_set_trips_may_reset(self) -> None:
        result = checked(14).result
        start = result.starts[0]
        self.assertEqual((start.outcome, start.drops_out, start.resets), ("trips", ("chg",), ()))
        self.assertTrue(any("charger may reset" in c for c in result.cautions), result.cautions)

    def test_names_are_listed_as_a_person_does(self) -> None:
        self.assertEqual(listed(["a"]), "a")
        self.assertEqual(listed(iter(["a", "b"])), "a and b")
        self.assertEqual(listed(["a", "b", "c"]), "a, b and c")

    def test_a_running_unit_pulled_out_is_a_failure_by_name(self) -> None:
        loads = [UNIT | {"id": "a", "name": "A"}, UNIT | {"id": "b", "name": "B", "lra_a": 90}]
        got = run(question({"kind": "generator", "continuous_w": 3400, "starting_w": 4000}, loads))
        self.assertNotEqual(got.outcome, "starts")
        self.assertIn(1, got.off)

    def test_volts_that_stay_low_are_the_path_s_fault(self) -> None:
        result = check(
            question(
                {"kind": "generator", "continuous_w": 8000, "starting_w": 10000},
                [UNIT, {"id": "h", "name": "Heater", "kind": "resistive", "watts": 1500}],
                hookup=[{"kind": "cord", "awg": 12, "length_m": 100}],
            )
        )
        self.assertEqual(
            (result.starts[0].outcome, result.starts[0].gives_first), ("volts-stay-low", "path")
        )
        self.assertNotIn("stronger", result.weakest.sentence)


class Chances(unittest.TestCase):
    def test_more_trials_narrow_it_and_the_seed_hardly_moves_it(self) -> None:
        setup = changed(13, lambda doc: None)

        def chance(trials: int, seed: int) -> Any:
            return (
                examine(replace(setup, rules=replace(setup.rules, trials=trials, seed=seed)))
                .starts[0]
                .chance
            )

        few, many = chance(300, 1), chance(8000, 1)
        self.assertLess(many.high - many.low, few.high - few.low)
        self.assertAlmostEqual(chance(8000, 2).chance, many.chance, delta=0.012)

    def test_the_two_layers_enclose_the_whole_and_measuring_narrows(self) -> None:
        doc = document(9)
        for load in doc["rig"]["loads"]:
            load["from"] = "typical"
        (found,) = (s.chance for s in examine(read_setup(doc)).starts
                    if s.chance.decides == Unknown("lra", "small"))  # fmt: skip
        self.assertTrue(
            found.rig_low <= found.known_low <= found.chance <= found.known_high <= found.rig_high,
            found,
        )
        self.assertGreater(found.rig_high - found.rig_low, 0.5)

    def test_a_figure_whose_measuring_narrows_nothing_decides_nothing(self) -> None:
        """On a set that holds its limit the rotor's amps are not what a start hangs on."""
        doc = document(13)
        doc["rig"]["loads"][0]["from"] = "typical"
        found = examine(read_setup(doc)).starts[0].chance
        self.assertEqual((found.decides, found.known_low), (None, None))


class Bounded(unittest.TestCase):
    def outcome(self, doc: dict[str, Any]) -> str:
        try:
            return check(read_setup(doc)).verdict
        except SetupError as error:
            return error.faults[0].code

    def test_odd_figures_give_a_result_or_a_named_fault(self) -> None:
        base = document(2)
        odd = [
            lambda d: d["rig"]["loads"][0].update(start="soft-start", soft_start={"peak_a": 1.0}),
            lambda d: d["rig"]["loads"][0].update(breakaway=2.0),
            lambda d: d["supply"].update(starting_w=1800),
            lambda d: d.update(hookup=[{"kind": "cord", "awg": 16, "length_m": 200}]),
            lambda d: d.update(rules={"trials": 10000}),
            lambda d: (d["rig"]["loads"][0].update(count=40), d.update(rules={"trials": 0})),
            lambda d: d["rig"]["loads"][0].update(count=40),
        ]
        for change in odd:
            doc = {
                **base,
                "rig": {**base["rig"], "loads": [dict(x) for x in base["rig"]["loads"]]},
                "supply": dict(base["supply"]),
            }
            change(doc)
            self.assertIn(
                self.outcome(doc), ("holds", "thin", "fails", "too-much", "soft-start-turns")
            )


if __name__ == "__main__":
    unittest.main()
