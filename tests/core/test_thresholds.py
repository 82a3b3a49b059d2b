"""Where a check turns: each figure that decides between two verdicts, from both of its sides.

``tools/mutants.py`` breaks each of these rules in turn and asks whether this is noticed.
"""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from types import SimpleNamespace
from typing import Any
from unittest.mock import patch

import numpy as np

from ironmargin.bench.play import run_script
from ironmargin.bench.script import read_script
from ironmargin.case import prepare
from ironmargin.electrics import motor
from ironmargin.enduring.boiloff import gauge_pa
from ironmargin.learning import particles
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.instruments import BENCH
from ironmargin.learning.looking import RESULTS, Edge
from ironmargin.learning.observed import ObservedStart
from ironmargin.learning.particles import POOR, SAMPLES, weigh
from ironmargin.learning.unknowns import Unknown
from ironmargin.limits.bounds import min_allowed_a
from ironmargin.limits.breaker_hours import BreakerHours
from ironmargin.limits.breaker_starts import warm_of
from ironmargin.limits.breakers import breaker_curve, carried_by, requested_s
from ironmargin.limits.contact import ContactHeat
from ironmargin.limits.lasting import share_words
from ironmargin.limits.now import now_of
from ironmargin.path.rating import rating_of
from ironmargin.protection.breaker import LATE
from ironmargin.setup.hookup import Cord
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.starting.chance import Boundary
from ironmargin.starting.engine import Factors
from ironmargin.starting.nights import coincidences_per_night
from ironmargin.starting.plan import Plan
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.starts import straight_concurrent, warm_heat
from ironmargin.verdict.check import Checked, examine
from tests.core.test_engine import UNIT, question
from tests.shared import document

POST: dict[str, Any] = {"kind": "shore", "breaker_a": 30, "source_ohm": 0.05}
QUICK = {"trials": 0}


def heater(watts: float, **more: Any) -> dict[str, Any]:
    return {"id": f"h{watts}", "name": "Heater", "kind": "resistive", "watts": watts} | more


def row_of(checked: Checked, limit: str, name: str = "") -> Any:
    return next((x for x in checked.result.limits if x.limit == limit and name in x.name), None)


class FiguresOfPractice(unittest.TestCase):
    """Figures of common practice that decide a setup, each held within a band of its own."""

    def test_electronics_that_cut_off_stand_half_a_second_at_their_limit(self) -> None:
        set_ = {"kind": "generator", "continuous_w": 1800, "starting_w": 2000}
        found = {}
        for character in ("cuts-off", "folds-back"):
            case = prepare(question(set_ | {"character": character}, [UNIT]))
            scenario = StartScenario(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
            scenario.engine.one_start(Factors(), np.ones(1), np.ones(1))
            found[character] = scenario.engine.opened_s
        self.assertTrue(0.45 < found["cuts-off"] < 0.6, found)
        self.assertGreater(found["folds-back"], 1.0)

    def test_a_cord_on_its_drum_carries_half(self) -> None:
        setup = read_setup(document(1))
        cord = next(x for x in setup.hookup if isinstance(x, Cord))
        laid, coiled = (rating_of(replace(cord, coiled=on), 30.0) for on in (False, True))
        assert laid is not None
        assert coiled is not None
        assert laid.here_a is not None
        assert coiled.here_a is not None
        self.assertTrue(0.45 <= coiled.here_a / laid.here_a <= 0.55)


class BreakersTurn(unittest.TestCase):
    def small_post(self, lra_a: float) -> Checked:
        pump = {"id": "p", "name": "Pump", "kind": "motor", "running_a": 6.0, "lra_a": lra_a}
        rules = QUICK | {"trip_criterion": "time-current"}
        return examine(question(POST | {"breaker_a": 15}, [pump], rules=rules))

    def test_a_start_that_only_an_early_breaker_opens_on_is_thin(self) -> None:
        holds, thin = self.small_post(124.0), self.small_post(130.0)
        self.assertEqual(next(b.start_trips for b in holds.result.breakers), "no")
        self.assertEqual(next(b.start_trips for b in thin.result.breakers), "early")
        self.assertEqual((holds.result.verdict, thin.result.verdict), ("holds", "thin"))
        self.assertGreater(thin.result.iron_margin, thin.case.setup.rules.thin_below)

    def test_what_else_hangs_on_the_circuit_warms_the_breaker(self) -> None:
        case = prepare(question(POST | {"also_on_circuit_a": 6}, [heater(1200)]))
        post = next(b for b, _ in case.breakers if b.where == "post")
        warm = {
            b.where: h for (b, _), h in zip(case.breakers, warm_heat(case, (12.0,)), strict=True)
        }
        self.assertAlmostEqual(warm["post"], (18.0 / 30.0) ** 2)
        self.assertAlmostEqual(warm["main"], (12.0 / 50.0) ** 2)
        self.assertAlmostEqual(warm_of(case, post, 0, (12.0,)), (18.0 / 30.0) ** 2)

    def test_three_hours_exactly_are_continuous(self) -> None:
        """NEC Article 100 (from memory): a load expected to run for three hours or more."""
        for hours, has in ((2.99, False), (3.0, True)):
            setup = question(POST, [heater(3000)], conditions={"target_hours": hours}, rules=QUICK)
            row = row_of(examine(setup, quick=True), "breaker-continuous", "post")
            self.assertEqual(row is not None, has, hours)

    def test_a_branch_breaker_carries_its_loads_averaged_over_their_cycles(self) -> None:
        branch = {"id": "b", "name": "kitchen", "breaker_a": 15}
        pump = {"id": "p", "name": "Pump", "kind": "motor", "running_a": 6.0, "lra_a": 30}
        loads = [heater(600, circuit="b"), pump | {"circuit": "b", "duty": 0.25}]
        setup = question(
            POST, loads, rig={"name": "r", "main_a": 50, "circuits": [branch], "loads": loads}
        )
        now = now_of(prepare(setup))
        on = next(c for c in carried_by(now) if c.rating_a == 15)
        self.assertAlmostEqual(float(on.amps) - float(on.mean_a), 0.75 * 6.0, delta=0.2)

    def test_the_least_a_search_allows_is_what_the_smallest_limit_leaves(self) -> None:
        cord = {"kind": "cord", "awg": 10, "length_m": 5}
        post = POST | {"also_on_circuit_a": 5, "breaker_a": 20}
        setup = question(post, [heater(1200)], hookup=[cord], rules=QUICK)
        at_once, averaged = min_allowed_a(prepare(setup))
        self.assertAlmostEqual(averaged, 0.8 * 20 - 5)
        early = row_of(examine(setup, quick=True), "breaker-hours", "post")
        self.assertAlmostEqual(at_once, early.allowed - 5, places=3)


class GuardsTurn(unittest.TestCase):
    def test_a_guard_opens_above_its_high_volts_only(self) -> None:
        guard = {"kind": "guard", "low_v": 102, "high_v": 132}
        for volts, verdict in ((131.0, "holds"), (133.0, "fails")):
            setup = question(
                POST | {"voltage_v": volts}, [heater(300)], hookup=[guard], rules=QUICK
            )
            checked = examine(setup, quick=True)
            row = row_of(checked, "guard-volts")
            self.assertEqual(
                row_of(checked, "guard-volts").margin < 0
                or any(x.limit == "guard-volts" and x.margin < 0 for x in checked.result.limits),
                verdict == "fails",
                row,
            )


class StartsTurn(unittest.TestCase):
    def test_pressures_are_equal_after_five_minutes_and_with_a_valve_after_fifteen(self) -> None:
        """Common practice, no source: five time constants of a minute, or of three."""
        for metering, seconds in (("capillary", 300.0), ("valve", 900.0)):
            self.assertEqual(motor.rested_s(metering), seconds)
            self.assertGreater(motor.pressure_left(0.9 * seconds, metering), 0.0)
            self.assertEqual(motor.pressure_left(seconds, metering), 0.0)

    def test_a_fan_still_running_up_draws_three_times_its_amps(self) -> None:
        for delay_s, times in ((0.5, 3.0), (1.5, None)):
            unit = UNIT | {"compressor_delay_s": delay_s}
            case = prepare(question(POST, [unit]))
            found = straight_concurrent(case, case.starters[0])
            if times is None:
                self.assertIsNone(found)
                continue
            assert found is not None
            own = case.demands[case.starters[0].demand].single_concurrent
            self.assertEqual([abs(x.va) for x in found], [times * abs(x.va) for x in own])

    def test_the_window_of_a_coincidence_is_the_start_between_half_a_second_and_ten(self) -> None:
        pumps = [
            {"id": f"p{n}", "name": "Pump", "kind": "motor", "running_a": 4, "lra_a": 20}
            | {"on_s": 300, "off_s": 900}
            for n in range(2)
        ]
        case = prepare(question(POST, pumps))
        by_hand = 2 * (3 / 3600) ** 2 * 10 * 3600
        for seconds, window in ((0.1, 0.5), (0.5, 0.5), (4.0, 4.0), (10.0, 10.0), (60.0, 10.0)):
            self.assertAlmostEqual(coincidences_per_night(case, seconds), by_hand * window)

    def test_forcing_the_field_is_what_lets_a_conventional_set_start_it(self) -> None:
        one = {"kind": "generator", "inverter": False, "continuous_w": 5000, "starting_w": 6250}
        case = prepare(question(one, [UNIT]))
        tame = replace(case, source=replace(case.source, forced=False))
        held = [
            StartScenario(c, Plan((c.starters[0],)), np.zeros(len(c.breakers))).run().lowest_v
            for c in (case, tame)
        ]
        self.assertGreater(held[0], held[1] - 1e-9)
        ends = [
            float(
                StartScenario(c, Plan((c.starters[0],)), np.zeros(len(c.breakers)))
                .traced()[1]
                .v.max(axis=0)[-1]
            )
            for c in (case, tame)
        ]
        self.assertGreater(ends[0], ends[1] + 1.0)


class StoresTurn(unittest.TestCase):
    def test_a_cylinders_pressure_is_that_of_propane_over_the_air(self) -> None:
        """NIST Chemistry WebBook (from memory): propane boils at −42.1 °C at 101.325 kPa, and
        stands at 8.36 bar at 20 °C."""
        self.assertAlmostEqual(gauge_pa(-42.1, 0.0), 0.0, delta=800.0)
        self.assertAlmostEqual(gauge_pa(20.0, 0.0) / 1e5, 8.36 - 1.013, delta=0.05)
        lower_air = gauge_pa(20.0, 3000.0) - gauge_pa(20.0, 0.0)
        self.assertAlmostEqual(lower_air / 1e5, 1.013 - 0.701, delta=0.01)


class BenchTurns(unittest.TestCase):
    def test_a_warm_breaker_cools_while_everything_is_dead(self) -> None:
        """By ``e^(−t/τ)``: after two time constants an eighth is left."""
        setup = question(POST, [heater(2900)], rules=QUICK)
        steps = [{"at_s": 3600, "do": "set", "on": False}]
        script = {"format": "iron-margin/script", "version": 1, "begin": {"all": "as-wanted"}}

        def heat(hours: float) -> float:
            requested = script | {"hours": hours, "steps": steps}
            return max(run_script(setup, read_script(requested, setup)).state.heat.values())

        warm, cooler, cold = heat(1.0), heat(1.0 + 100 / 3600), heat(1.5)
        self.assertGreater(warm, 0.4)
        self.assertAlmostEqual(cooler / warm, math.exp(-100 / 98.9), delta=0.02)
        self.assertLess(cold, 0.01)


class LearningTurns(unittest.TestCase):
    def weighed(self, off_by: float, prior_sd: float) -> particles.Posterior:
        """One unknown read once: its figure is a hundred amps times its factor."""
        unknowns = [Unknown("lra", "u", prior_sd)]
        setup: Setup = question(POST, [UNIT])
        entry = StartEntry(load="u", peak_a=100.0 * math.exp(off_by), instrument="inrush-clamp")
        scenario = StartScenario(
            (c := prepare(setup)), Plan((c.starters[0],)), np.zeros(len(c.breakers))
        )
        observed = ObservedStart(setup, scenario, 0, [0], False)

        def figures(one: Any, unknowns: Any, logs: Any, day: Any) -> dict[str, Any]:
            return {name: 100.0 * np.exp(logs[:, 0]) for name in (*RESULTS, "code")}

        edge = Edge(Boundary((), 1.0, np.zeros(0), 0.5), 0.0, None)
        with (
            patch.object(particles, "unknowns_in", lambda *args: unknowns),
            patch.object(particles, "run", figures),
            patch.object(particles, "edge_of", lambda *args: edge),
            patch.object(particles, "day_sds", lambda *args: dict.fromkeys(RESULTS, 0.0)),
        ):
            return weigh(setup, {0: entry}, [observed], set())

    def test_the_posterior_is_that_of_two_normals(self) -> None:
        """Gelman et al., Bayesian Data Analysis, section 2.5: the mean of a normal prior and a
        normal reading is weighed by their precisions. The reading's heavy tails move it little."""
        sd, off_by = 0.20, 0.10
        error = BENCH["inrush-clamp"].peak
        found = self.weighed(off_by, sd)
        logs = np.log(found.factors[:, 0])
        mean = float(found.weights @ logs)
        spread = math.sqrt(float(found.weights @ (logs - mean) ** 2))
        share = sd**2 / (sd**2 + error**2)
        self.assertAlmostEqual(mean, share * off_by, delta=0.01)
        self.assertGreater(spread, 0.95 * math.sqrt(share) * error)
        # Student's t of four has twice the variance, and three in a hundred may be anything.
        self.assertLess(spread, 1.6 * math.sqrt(share) * error)

    def test_draws_far_from_a_reading_are_drawn_again_around_it_and_wider(self) -> None:
        """Three prior deviations off, next to nothing carries the weight at first."""
        found = self.weighed(1.2, 0.30)
        self.assertGreater(found.rounds, 1)
        self.assertGreater(found.effective, POOR * SAMPLES)
        logs = np.log(found.factors[:, 0])
        mean = float(found.weights @ logs)
        spread = math.sqrt(float(found.weights @ (logs - mean) ** 2))
        self.assertGreater(float(logs.std()), 1.15 * spread)

    def test_a_log_that_nothing_explains_leaves_a_figure_its_doubt(self) -> None:
        """Twelve peaks no draw shows: one draw is the least wrong, and is not believed alone."""
        with patch.object(particles, "ROUNDS", 1):
            found = self.weighed(2.5, 0.05)
        self.assertGreaterEqual(found.effective, 0.99 * particles.MIN_EFFECTIVE)
        logs = np.log(found.factors[:, 0])
        mean = float(found.weights @ logs)
        self.assertGreater(math.sqrt(float(found.weights @ (logs - mean) ** 2)), 0.2 * 0.05)


class Contacts(unittest.TestCase):
    """A plug that warms: ``τ·dΔT/dt = R·P − ΔT`` by hand."""

    def test_six_watts_are_thirty_kelvin_in_the_end_and_two_thirds_of_it_after_five_minutes(
        self,
    ) -> None:
        """UL 498 allows a rise of 30 K; the watts and the five minutes are common practice."""
        heat = ContactHeat(6.0)
        self.assertAlmostEqual(heat.rise_after(0.0, 1e6), 30.0, delta=0.01)
        self.assertAlmostEqual(heat.rise_after(0.0, 300.0), 30.0 * (1 - math.exp(-1)), delta=0.01)

    def test_it_melts_at_ninety_kelvin_over_the_air_and_when(self) -> None:
        self.assertEqual(ContactHeat(17.9).melts_s(0.0), math.inf)
        self.assertAlmostEqual(ContactHeat(24.0).melts_s(0.0), 300 * math.log(4.0), delta=0.1)
        self.assertEqual(ContactHeat(1.0).melts_s(90.0), 0.0)


class HoursAsked(unittest.TestCase):
    def test_without_hours_a_breaker_is_to_hold_for_a_day(self) -> None:
        case = prepare(question(POST, [UNIT]))
        self.assertEqual(requested_s(case), 86_400.0)

    def test_a_late_breaker_is_warned_of_where_it_holds_an_hour_and_not_below(self) -> None:
        adapter = {"kind": "adapter", "from": "TT-30", "to": "5-15", "rating_a": 15}
        case = prepare(replace(question(POST, [UNIT]), hookup=()))
        case = prepare(read_setup(write_setup(case.setup) | {"hookup": [adapter]}))
        breaker = next(b for b, _ in case.breakers if b.where == "post")
        late = breaker_curve(case, breaker, LATE)
        for hours, warned in ((0.75, False), (1.25, True)):
            amps = breaker.rating_a * late.holds_x(3600.0 * hours)
            row = SimpleNamespace(about=breaker, value=amps)
            said = BreakerHours().caution(row, SimpleNamespace(case=case))  # type: ignore[arg-type]
            self.assertEqual("for an hour" in said, warned, hours)

    def test_what_is_left_of_the_hours_is_said_in_words_from_both_sides_of_each(self) -> None:
        for share, words in (
            (0.91, "almost all"), (0.89, "three quarters"), (0.71, "three quarters"),
            (0.69, "two thirds"), (0.61, "two thirds"), (0.59, "half"), (0.41, "half"),
            (0.39, "a third"), (0.31, "a third"), (0.29, "a quarter"), (0.21, "a quarter"),
            (0.19, "a tenth or two"), (0.11, "a tenth or two"), (0.09, "hardly any"),
        ):  # fmt: skip
            self.assertEqual(share_words(share), words, share)


if __name__ == "__main__":
    unittest.main()
