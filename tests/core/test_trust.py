"""How far a figure is trusted before anything is read, and what a reading weighs against it: held
against ranges of the trade and against Bayes' rule integrated by scipy.
"""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
from scipy import stats

from ironmargin.case import prepare
from ironmargin.learning import instruments
from ironmargin.learning.entries import SurveyEntry
from ironmargin.learning.figures import running_figures
from ironmargin.learning.learn import Found
from ironmargin.learning.log import read_log
from ironmargin.learning.looking import run, unknowns_in
from ironmargin.learning.observed import ObservedStart, scenarios_of
from ironmargin.learning.particles import outcome_logs
from ironmargin.learning.running import Learned, Surveyed, prior_sd, solve_survey
from ironmargin.learning.unknowns import heavy_quantile, prior_of
from ironmargin.planning.sensitivity import sensitivity
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.starting.samples import lra_sd
from ironmargin.verdict.check import examine
from tests.core.test_learning import on_a_post, start, told

NINE_IN_TEN = 1.645
"""Standard deviations to either side that hold nine in ten (any table of the normal law)."""


def observed_in(setup: Setup) -> list[ObservedStart]:
    """The start of a log that reads one."""
    log = read_log({"entries": [start(50.0)]}, setup)
    return scenarios_of(setup, list(enumerate(log.entries)))[0]  # type: ignore[arg-type]


def sds(setup: Setup) -> dict[str, float]:
    """What a start can tell of, and how far each may be off before it [1]."""
    return {u.what: u.sd for u in unknowns_in(setup, observed_in(setup))}


def surveyed(*steps: tuple[list[str], float]) -> Surveyed:
    """What is solved from steps read with a clamp: which loads were on, and the amps."""
    read = [{"on": on, "amps": amps} for on, amps in steps]
    log = read_log({"entries": [{"kind": "survey", "instrument": "clamp", "steps": read}]})
    (entry,) = log.entries
    assert isinstance(entry, SurveyEntry)
    return solve_survey(on_a_post(), 0, entry)


def nine_in_ten(sd: float) -> float:
    """How far up nine in ten reach."""
    return math.exp(NINE_IN_TEN * sd)


def by_grid(sd: float, read: float, predicted: float, error: float) -> tuple[float, float, float]:
    """5th, 50th and 95th hundredth of the factor on a running figure, by Bayes' rule on a fine
    grid: log-normal before, Student's t of four degrees about the reading.
    """
    logs = np.linspace(-2.0, 2.0, 40_001)
    expected = predicted * np.exp(logs)
    density = stats.norm.pdf(logs, scale=sd)
    off = stats.t.pdf(read, df=4, loc=expected, scale=error * expected)
    density *= 0.97 * off + 0.03 / read  # three in a hundred are wrong altogether
    heap = np.cumsum(density) / density.sum()
    low, middle, high = np.exp(np.interp((0.05, 0.5, 0.95), heap, logs))
    return float(low), float(middle), float(high)


class Before(unittest.TestCase):
    def test_locked_rotor_amps_by_where_they_come_from(self) -> None:
        """3 % measured, 7 % off the plate, 15 % typical and 20 % guessed, the same for the chance
        and for a log: a plate's is the maker's upper figure, and real units read up to a fifth
        below it (common practice, no source).
        """
        for source, up in (
            ("measured", 1.051), ("plate", 1.122), ("typical", 1.280), ("rounded-up", 1.390),
        ):  # fmt: skip
            found = nine_in_ten(sds(on_a_post(**{"from": source}))["lra"])
            self.assertAlmostEqual(found, up, delta=0.002, msg=source)
            case = prepare(on_a_post(**{"from": source}))
            self.assertAlmostEqual(nine_in_ten(lra_sd(case.demands[0])), up, delta=0.002)

    def test_a_plate_that_is_of_another_unit_is_let_go_sooner_than_a_normal_law_would(self) -> None:
        """Nine in ten as near as a normal law has them, and Student's t of four degrees beyond
        (scipy's quantiles).
        """
        z = np.linspace(-4.0, 4.0, 33)
        wanted = stats.t.ppf(stats.norm.cdf(z), df=4)
        np.testing.assert_allclose(heavy_quantile(z), wanted, rtol=1e-6, atol=1e-9)

    def test_what_nobody_wrote_down_is_typical_whatever_the_rest_is(self) -> None:
        document = write_setup(on_a_post(**{"from": "measured"}))
        del document["rig"]["loads"][0]["lra_a"]
        self.assertAlmostEqual(nine_in_ten(sds(read_setup(document))["lra"]), 1.280, delta=0.002)

    def test_what_a_soft_starter_holds(self) -> None:
        for given, source, up in (
            ({"peak_a": 20.0}, "measured", 1.10),
            ({"peak_a": 20.0}, "plate", 1.28),
            (None, "measured", 1.28),
        ):
            held = {"soft_start": given} if given else {}
            setup = on_a_post(start="soft-start", **held, **{"from": source})
            found = nine_in_ten(sds(setup)["held"])
            self.assertAlmostEqual(found, up, delta=0.01, msg=(given, source))

    def test_a_set_s_limit_and_what_lies_behind_a_post(self) -> None:
        """A set is what its plate says within a twentieth or so, two thirds of that in each
        direction; nobody knows a post's wire. What our own model is off comes beside it.
        """
        post = on_a_post()
        document = write_setup(post)
        document["supply"] = {"kind": "generator", "continuous_w": 4000, "starting_w": 5000}
        self.assertAlmostEqual(nine_in_ten(sds(read_setup(document))["supply"]), 1.051, delta=0.002)
        self.assertAlmostEqual(nine_in_ten(sds(post)["supply"]), 1.64, delta=0.01)

    def test_running_amps_by_where_they_come_from(self) -> None:
        for source, up in (
            ("measured", 1.05), ("plate", 1.18), ("typical", 1.51), ("rounded-up", 1.78),
        ):  # fmt: skip
            setup = on_a_post(**{"from": source})
            found = nine_in_ten(prior_sd(setup, "roof", "high-cool"))
            self.assertAlmostEqual(found, up, delta=0.01, msg=source)

    def test_nine_in_ten_starts_lie_within_what_is_predicted(self) -> None:
        """Between the 5th and the 95th hundredth of four thousand draws made here."""
        setup = on_a_post()
        observed = observed_in(setup)
        unknowns = unknowns_in(setup, observed)
        draw = np.random.default_rng(7)
        z = draw.standard_normal((4000, len(unknowns) + 1))
        logs = prior_of(setup, unknowns).draw(z[:, :-1])
        peaks = run(observed[0], unknowns, logs, z[:, -1])["peak_a"]
        peaks = peaks * np.exp(logs[:, [u.what for u in unknowns].index("peaks")])
        (one,) = (j for j in told(setup, start(50.0)).entries if j.figure == "peak_a")
        assert one.predicted is not None
        wanted = np.quantile(peaks, (0.05, 0.5, 0.95))
        np.testing.assert_allclose(one.predicted, wanted, rtol=0.01)


class Weighed(unittest.TestCase):
    def heater(self, amps: float, instrument: str) -> Found:
        entry = {"kind": "run", "load": "heater", "amps": amps, "instrument": instrument}
        return told(on_a_post(), entry)

    def test_a_reading_by_each_instrument_agrees_with_bayes_rule(self) -> None:
        """A clamp is good to two or three in a hundred, a watt meter to one and a half, a set's
        own display to five, an ear to nothing (memory); no clamp tells a tenth of an amp.
        """
        for instrument, good_to in (
            ("inrush-clamp", 0.02), ("clamp", 0.03), ("watt-meter", 0.015), ("monitor", 0.03),
            ("set-display", 0.05), ("starter-report", 0.05), ("trace", 0.015),
        ):  # fmt: skip
            for amps in (11.0, 14.5):
                (figure,) = self.heater(amps, instrument).figures
                error = math.hypot(good_to, 0.09 / amps)
                low, middle, high = by_grid(0.25, amps, 12.5, error)
                for got, wanted in zip(
                    (figure.low, figure.after, figure.high), (low, middle, high), strict=True
                ):
                    self.assertAlmostEqual(got / figure.before, wanted, delta=0.002, msg=instrument)
        (vague,) = self.heater(19.0, "by-ear").figures
        self.assertAlmostEqual(
            vague.after / vague.before, by_grid(0.25, 19.0, 12.5, 0.5)[1], delta=0.002
        )

    def test_just_after_a_start_amps_are_an_eighth_below_what_they_come_to(self) -> None:
        """By 10 to 15 in a hundred (common practice, no source)."""
        entry = start(60.0, settled_a=9.6, with_running=[], mode="high-cool")
        found = told(on_a_post(), entry)
        (figure,) = (f for f in found.figures if "cool" in f.field or "running" in f.field)
        low, middle, high = by_grid(0.10, 9.6, figure.before / 1.12, 0.06)
        self.assertAlmostEqual(figure.after / figure.before, middle, delta=0.004)
        self.assertAlmostEqual(figure.high / figure.low, high / low, delta=0.004)

    def test_errors_of_a_start_are_the_instrument_s_alone(self) -> None:
        """What our model is off is one figure a rig: twelve readings do not wear it down."""
        fifty = np.array([50.0])
        for instrument, share in (
            ("inrush-clamp", 0.04), ("clamp", 0.04), ("monitor", 0.04), ("watt-meter", 0.03),
            ("trace", 0.03), ("set-display", 0.06), ("starter-report", 0.05), ("by-ear", 0.5),
        ):  # fmt: skip
            wanted = math.hypot(50.0 * share, 0.3)
            found = float(instruments.peak_error(instrument, fifty)[0])
            self.assertAlmostEqual(found, wanted, delta=0.004 * wanted, msg=instrument)
        for instrument, volts in (
            ("inrush-clamp", 2.4), ("clamp", 2.4), ("monitor", 1.8), ("watt-meter", 1.2),
            ("trace", 1.2), ("set-display", 2.4), ("starter-report", 3.6), ("by-ear", 60.0),
        ):  # fmt: skip
            self.assertAlmostEqual(instruments.volts_error(instrument, 120.0), volts, delta=0.01)
        one = np.array([1.0])
        for instrument, seconds in (
            ("inrush-clamp", 0.35), ("clamp", 0.55), ("monitor", 0.55), ("watt-meter", 0.55),
            ("trace", 0.15), ("set-display", 0.55), ("starter-report", 0.25), ("by-ear", 0.55),
        ):  # fmt: skip
            found = float(instruments.seconds_error(instrument, one)[0])
            self.assertAlmostEqual(found, seconds, delta=0.001, msg=instrument)

    def test_an_outcome_is_put_down_right_97_times_in_100(self) -> None:
        passes = np.array([1.0, 0.8, 0.0])
        lost = 1.0 - passes
        for outcome, share in (("starts", passes), ("stalls", 0.4 * lost), ("trips", 0.6 * lost)):
            found = np.exp(outcome_logs(outcome, passes, 0.6))
            np.testing.assert_allclose(found, 0.97 * share + 0.015, rtol=1e-9)

    def test_a_survey_holds_a_load_loosely_at_what_was_believed(self) -> None:
        """Least squares by hand for one step: 0.6 either way against a clamp's error."""
        read, prior_a = 20.0, 12.5
        (one,) = surveyed(([], 0.0), (["heater"], read)).readings
        # The rest of the rig is held at nought within 0.3 A, the step read within 3 % and 0.15 A.
        error = math.hypot(0.03 * read, 0.15)
        base = 0.3
        pulled = (0.6 * prior_a) ** 2
        share = pulled / (pulled + base**2 + error**2)
        self.assertAlmostEqual(one.read, prior_a + share * (read - prior_a), delta=0.02)

    def test_a_survey_s_step_four_errors_off_is_odd(self) -> None:
        def odd(errors: float) -> int:
            error = math.hypot(0.03 * 12.5, 0.15)
            amps = [12.5] * 12 + [12.5 + errors * error]
            return len(surveyed(*((["heater"], a) for a in amps)).odd)

        # Its own error grows with what it reads, and the fit leans a little towards it.
        self.assertEqual((odd(4.0), odd(5.6)), (0, 1))

    def test_the_likelihood_is_student_s_t_and_now_and_then_anything(self) -> None:
        """Of four degrees (scipy), three readings in a hundred wrong altogether (common practice,
        no source).
        """
        true, error = np.linspace(5.0, 20.0, 31), np.full(31, 1.7)
        found = np.exp(instruments.log_likelihood(11.0, true, error))
        wanted = 0.97 * stats.t.pdf(11.0, df=4, loc=true, scale=1.7) + 0.03 / 11.0
        np.testing.assert_allclose(found, wanted, rtol=1e-9)

    def test_a_bound_says_nothing_of_what_lies_beyond_it(self) -> None:
        true, error = np.array([12.0, 30.0, 90.0]), np.array([0.5, 1.2, 3.6])
        found = instruments.log_at_least(11.0, true, error)
        np.testing.assert_allclose(np.exp(found), np.full(3, np.exp(found[0])), rtol=0.12)
        minimum = instruments.log_at_most(11.0, np.array([3.0, 9.0]), np.array([0.4, 0.4]))
        self.assertAlmostEqual(float(minimum[0]), float(minimum[1]), delta=1e-9)


class Told(unittest.TestCase):
    """Worth saying is what made a figure surer by a twelfth, or moved it by two fifths of its
    doubt.
    """

    def figures(self, middle: float, sd: float) -> int:
        one = Learned("heater", None, middle, 0.9, 1.1, sd, 0.10, (0,))
        return len(running_figures(on_a_post(), [one]))

    def test_neither_surer_nor_moved_is_not_said(self) -> None:
        self.assertEqual(self.figures(1.039, 0.0925), 0)
        self.assertEqual(self.figures(0.961, 0.0925), 0)

    def test_surer_is(self) -> None:
        self.assertEqual(self.figures(1.0, 0.0915), 1)

    def test_moved_is(self) -> None:
        self.assertEqual(self.figures(1.041, 0.0995), 1)
        self.assertEqual(self.figures(0.959, 0.0995), 1)

    def test_a_reading_four_errors_off_the_others_is_let_be(self) -> None:
        """Eleven of one load agree; a twelfth is off by so many of a clamp's errors."""
        error = math.hypot(0.03, 0.09 / 12.5)

        def judged(errors: float) -> str:
            amps = [12.5] * 11 + [12.5 * (1.0 + errors * error)]
            entries = [
                {"kind": "run", "load": "heater", "amps": a, "instrument": "clamp",
                 "at": f"2026-07-04T14:{n:02d}:00+00:00"}
                for n, a in enumerate(amps)
            ]  # fmt: skip
            return told(on_a_post(), *entries).entries[-1].judged

        self.assertNotEqual(judged(3.6), "unlikely")
        self.assertEqual(judged(4.6), "unlikely")


class Moved(unittest.TestCase):
    """How far each input is moved both ways to see whether it decides (common practice)."""

    WEAK = {"kind": "shore", "breaker_a": 15, "source_ohm": 0.6}

    def off_by(
        self, supply: dict[str, Any], source: str = "plate", **load: Any
    ) -> dict[str, float]:
        document = write_setup(on_a_post(**load, **{"from": source})) | {"supply": supply}
        return {s.field: s.off_by for s in sensitivity(examine(read_setup(document), quick=True))}

    def test_by_where_a_figure_comes_from(self) -> None:
        supply = {"kind": "generator", "continuous_w": 3000, "starting_w": 3600}
        for source, off in (
            ("measured", 0.03), ("plate", 0.07), ("typical", 0.15), ("rounded-up", 0.25),
        ):  # fmt: skip
            found = self.off_by(supply, source)
            self.assertEqual(found["rig.loads[0].lra_a"], off)
            self.assertEqual(found["rig.loads[0].running_a"], off)
            self.assertEqual(found["supply.starting_w"], 0.06)

    def test_a_post_s_impedance_by_half_and_its_volts_by_a_volt_or_two(self) -> None:
        found = self.off_by(self.WEAK, lra_a=40)
        self.assertEqual(found["supply.source_ohm"], 0.5)
        self.assertAlmostEqual(120 * found["supply.voltage_v"], 1.8)
        self.assertEqual(found["conditions.outdoor_c"], 5.0)

    def test_heat_moves_it_as_far_as_five_degrees_do(self) -> None:
        document = write_setup(on_a_post(lra_a=40)) | {"supply": self.WEAK}
        found = sensitivity(examine(read_setup(document), quick=True))
        (swing,) = (s for s in found if s.field == "conditions.outdoor_c")
        ends = [
            examine(read_setup(document | {"conditions": {"outdoor_c": c}}), quick=True).result
            for c in (30.0, 40.0)
        ]
        self.assertAlmostEqual(swing.low, ends[1].iron_margin, delta=1e-9)
        self.assertAlmostEqual(swing.high, ends[0].iron_margin, delta=1e-9)


if __name__ == "__main__":
    unittest.main()
