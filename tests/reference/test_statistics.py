"""The statistics of chances and logs against ``scipy`` and closed forms."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy import optimize, special, stats
from scipy.stats import qmc

from benchmarks.check import document as crowd
from ironmargin.case import dead_at
from ironmargin.electrics.network import Upstream
from ironmargin.learning.fits import T_90
from ironmargin.loads.demand import L1, L1L2, L2, Draw
from ironmargin.setup.reading import read_setup
from ironmargin.starting.chance import Z_95, Z_RIG, chance_of, wilson
from ironmargin.starting.plan import Plan
from ironmargin.starting.points import BITS, normal_quantile, uniform
from ironmargin.starting.samples import samples_of, share_below, source_strength_sd
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.starts import warm_heat
from ironmargin.sustaining.steady import solve_sets, solve_steady, source_amps
from ironmargin.verdict.check import examine, without_motors
from tests.core.test_engine import POST, question
from tests.shared import document


class Distributions(unittest.TestCase):
    def test_the_normal_distribution_function(self) -> None:
        z = np.linspace(-8.0, 8.0, 161)
        ours = [share_below(float(x)) for x in z]
        np.testing.assert_allclose(ours, special.ndtr(z), rtol=1e-12, atol=1e-300)

    def test_its_inverse_to_the_ninth_place(self) -> None:
        """Acklam says a relative error of 1.15e-9 at most."""
        share = np.concatenate([np.logspace(-9, -2, 60), np.linspace(0.02, 0.98, 200)])
        share = np.concatenate([share, 1.0 - np.logspace(-9, -2, 60)])
        np.testing.assert_allclose(
            normal_quantile(share), special.ndtri(share), rtol=1.3e-9, atol=1e-9
        )

    def test_quantiles_by_name(self) -> None:
        self.assertAlmostEqual(Z_95, stats.norm.ppf(0.975), places=5)
        self.assertAlmostEqual(Z_RIG, stats.norm.ppf(0.95), places=5)

    def test_student_s_t_of_a_90_per_cent_interval(self) -> None:
        for freedom, t in T_90.items():
            self.assertAlmostEqual(t, stats.t.ppf(0.95, freedom), delta=0.006, msg=str(freedom))

    @settings(max_examples=60)
    @given(st.integers(1, 3000), st.data())
    def test_wilson_s_interval(self, trials: int, data: st.DataObject) -> None:
        good = data.draw(st.integers(0, trials))
        low, high = wilson(good / trials, trials)
        expected = stats.binomtest(good, trials).proportion_ci(0.95, method="wilson")
        self.assertAlmostEqual(low, expected.low, places=6)
        self.assertAlmostEqual(high, expected.high, places=6)

    def test_without_trials_nothing_is_known(self) -> None:
        self.assertEqual(wilson(0.3, 0.0), (0.0, 1.0))


class SobolPoints(unittest.TestCase):
    """``scipy.stats.qmc.Sobol`` has the same direction numbers; ours are shifted digit by digit."""

    def whole(self, points: np.ndarray) -> np.ndarray:
        """Points as whole numbers of their digits."""
        found: np.ndarray = np.floor(points * (1 << BITS)).astype(np.int64)
        return found

    def test_they_are_scipy_s_but_for_the_shift(self) -> None:
        dimensions, count = 40, 256
        ours = self.whole(uniform(count, dimensions, 7))
        plain = qmc.Sobol(dimensions, scramble=False, bits=BITS).random(count)
        theirs = self.whole(plain)
        shift = ours[0] ^ theirs[0]
        np.testing.assert_array_equal(ours ^ shift, theirs)

    def test_another_seed_is_another_shift(self) -> None:
        one, other = (self.whole(uniform(64, 12, seed)) for seed in (1, 2))
        moved = one ^ other
        self.assertTrue((moved == moved[0]).all())
        self.assertTrue((moved[0] != 0).all())

    def test_they_fill_the_cube_more_evenly_than_plain_draws(self) -> None:
        points = uniform(256, 6, 3)
        plain = np.random.default_rng(3).random((256, 6))
        self.assertLess(qmc.discrepancy(points), 0.2 * qmc.discrepancy(plain))

    def test_a_smooth_integral_comes_out_closer(self) -> None:
        """The mean of Π(1 + (x − ½)/2) over the cube is 1."""

        def mean(points: np.ndarray) -> float:
            return float((1.0 + 0.5 * (points - 0.5)).prod(axis=1).mean())

        ours = [abs(mean(uniform(256, 6, seed)) - 1.0) for seed in range(1, 21)]
        plain = [abs(mean(np.random.default_rng(s).random((256, 6))) - 1.0) for s in range(1, 21)]
        self.assertLess(np.mean(ours), 0.25 * np.mean(plain))


class Samples(unittest.TestCase):
    """What is drawn of a rig has the spread it is said to have."""

    def scenario(self) -> StartScenario:
        case = examine(read_setup(document(2)), quick=True).case
        return StartScenario(case, Plan((case.starters[0],)), warm_heat(case, (0.0, 0.0)))

    def test_spreads(self) -> None:
        samples = samples_of(self.scenario(), 4096, 5)
        for name, column in zip(samples.names, samples.z.T, strict=True):
            self.assertAlmostEqual(float(column.mean()), 0.0, delta=0.01, msg=name)
            self.assertAlmostEqual(float(column.std()), 1.0, delta=0.01, msg=name)
        together = np.corrcoef(samples.z.T)
        self.assertLess(np.abs(together - np.eye(len(together))).max(), 0.06)
        self.assertAlmostEqual(float(samples.voc_factor.std()), 0.0075, delta=0.0002)
        self.assertAlmostEqual(float(samples.lockout.std()), 0.15, delta=0.005)
        own_and_day = np.log(samples.breakaway[:, 0])
        self.assertAlmostEqual(float(own_and_day.std()), 0.25, delta=0.005)

    def test_a_supply_s_limit_and_the_model_s_own_form_are_in_doubt_together(self) -> None:
        """± 6 % and ± 11 %, two standard deviations each, independent of each other."""
        self.assertAlmostEqual(source_strength_sd(), 0.0626, places=4)

    def test_locked_rotor_amps_are_off_by_where_they_come_from(self) -> None:
        """7 % of a plate, 15 of what is typical, 3 of a reading; each one standard deviation."""
        plate = {"id": "u", "name": "u", "kind": "air-conditioner", "running_a": 9.5}
        for more, spread in (
            ({"lra_a": 52, "from": "plate"}, 0.07),
            ({}, 0.15),
            ({"lra_a": 52, "from": "measured"}, 0.03),
        ):
            case = examine(question(POST, [plate | more]), quick=True).case
            one = StartScenario(case, Plan((case.starters[0],)), warm_heat(case, (0.0, 0.0)))
            lra = samples_of(one, 4096, 5).lra[:, 0]
            self.assertAlmostEqual(float(lra.std()), spread, delta=0.02 * spread, msg=f"{more}")
            self.assertAlmostEqual(float(lra.mean()), 1.0, delta=0.002)

    def test_short_time_current_lies_anywhere_up_to_the_most_there_is(self) -> None:
        supply = {"kind": "generator", "continuous_w": 2000, "starting_w": 2400}
        unit = {"id": "u", "name": "u", "kind": "air-conditioner", "running_a": 9.5, "lra_a": 52}
        case = examine(question(supply, [unit]), quick=True).case
        one = StartScenario(case, Plan((case.starters[0],)), warm_heat(case, (0.0, 0.0)))
        short = samples_of(one, 4096, 5).short
        maximum = case.source.short_factor
        self.assertGreater(maximum, 1.0)
        self.assertAlmostEqual(float(short.mean()), 0.5 * (1.0 + maximum), delta=0.005)
        self.assertAlmostEqual(float(short.min()), 1.0, delta=0.01)
        self.assertAlmostEqual(float(short.max()), maximum, delta=0.01)

    def test_a_shift_moves_the_middle_alone(self) -> None:
        one = self.scenario()
        plain, moved = samples_of(one, 64, 5), samples_of(one, 64, 5, 1.5)
        np.testing.assert_allclose(moved.z, plain.z + 1.5)

    def plain(self, one: StartScenario, trials: int) -> tuple[float, float]:
        """The chance by starts drawn one by one, the strength with them, and its standard error."""
        many = samples_of(one, trials, 77)
        normal = np.random.default_rng(5).normal(size=len(many.voc_factor))
        source_strength = 1.0 + 0.5 * math.hypot(0.06, 0.11) * normal
        passed = [
            one.passes(float(s), float(s), **each)
            for s, each in zip(source_strength, many.each(), strict=True)
        ]
        share = float(np.mean(passed))
        return share, math.sqrt(share * (1.0 - share) / len(passed))

    def test_the_chance_is_that_of_plain_trials(self) -> None:
        one = self.scenario()
        share, error = self.plain(one, 4000)
        self.assertAlmostEqual(chance_of(one, 4000, 1).chance, share, delta=4.0 * (error + 2.5e-4))

    def crowded(self, starting_w: float) -> tuple[StartScenario, float]:
        """Two units and a houseful of loads on a set, and how strong it must be for the first."""
        supply = {"kind": "generator", "output": "120/240", "voltage_v": 240}
        supply |= {"continuous_w": 0.785 * starting_w, "starting_w": starting_w}
        setup = read_setup(crowd(2, 18) | {"supply": supply, "conditions": {"outdoor_c": 31.3}})
        checked = examine(setup, quick=True)
        case, start = checked.case, checked.starts[0]
        starter = start.starters[0]
        warm = warm_heat(case, source_amps(case, without_motors(case)))
        plan = Plan((starter,), off=dead_at(case, starter))
        return StartScenario(case, plan, warm), start.factor

    def test_also_where_nearly_every_start_is_sure(self) -> None:
        """Hardly a draw comes near the limit of a 7 kW set, and in four of a thousand its overload
        lockout opens, however strong it is.
        """
        one, near = self.crowded(7000.0)
        share, error = self.plain(one, 10_000)
        self.assertTrue(0.99 < share < 0.999, share)
        found = [chance_of(one, 1000, seed, near) for seed in range(1, 11)]
        estimates = [c.chance for c in found]
        self.assertAlmostEqual(float(np.mean(estimates)), share, delta=3.0 * error)
        plain_error = math.sqrt(share * (1.0 - share) / 1000)
        self.assertLess(float(np.std(estimates)), 1.5 * plain_error)
        between = [c.low - error <= share <= c.high + error for c in found]
        self.assertGreaterEqual(sum(between), 8)

    def test_it_is_as_precise_as_the_trials_asked_for_also_where_a_line_tells_little(self) -> None:
        """A 6 kW set passes or trips by its lockout more than by its strength."""
        one, near = self.crowded(6000.0)
        share, error = self.plain(one, 4000)
        estimates = [chance_of(one, 1000, seed, near).chance for seed in range(1, 11)]
        plain_error = math.sqrt(share * (1.0 - share) / 1000)
        self.assertLess(float(np.std(estimates)), 1.2 * plain_error)
        self.assertAlmostEqual(float(np.mean(estimates)), share, delta=2.0 * error)


class SettledNetwork(unittest.TestCase):
    """Constant power on two legs against a general solver of equations (``optimize.root``)."""

    UP = Upstream(120.0, 120.0 * complex(-1.0, 0.0), 0.12 + 0.03j, -0.04, 0.15 + 0.02j, 2, False)

    def solved(self, samples: list[Draw]) -> tuple[complex, complex]:
        """Volts of both legs at which every load draws what it is said to."""
        up = self.UP

        def off_by(x: np.ndarray) -> list[float]:
            v1, v2 = complex(x[0], x[1]), complex(x[2], x[3])
            i1 = i2 = 0j
            for draw in samples:
                v = (v1, v2, v1 - v2)[draw.leg]
                # watts at any volts, or ohms
                amps = (
                    (draw.va / v).conjugate()
                    if draw.constant_power
                    else v * draw.va.conjugate() / draw.bus_v**2
                )
                i1 += amps if draw.leg in (L1, L1L2) else 0j
                i2 += amps if draw.leg == L2 else -amps if draw.leg == L1L2 else 0j
            one = up.e1_v - up.z11 * i1 - up.z12 * i2 - v1
            two = up.e2_v - up.z12 * i1 - up.z22 * i2 - v2
            return [one.real, one.imag, two.real, two.imag]

        found = optimize.root(off_by, [120.0, 0.0, -120.0, 0.0], tol=1e-12)
        # The solver may stop at the last bit and call it no progress: what counts is what is left.
        self.assertLess(np.abs(found.fun).max(), 1e-8)
        return complex(found.x[0], found.x[1]), complex(found.x[2], found.x[3])

    @settings(max_examples=40)
    @example([(L1, 1247.1240484023897, 0.0, False)])
    @given(
        st.lists(
            st.tuples(
                st.sampled_from((L1, L2, L1L2)),
                st.floats(50.0, 1500.0),
                st.floats(0.0, 500.0),
                st.booleans(),
            ),
            min_size=1,
            max_size=6,
        )
    )
    def test_volts(self, loads: list[tuple[int, float, float, bool]]) -> None:
        samples = [
            Draw(leg, 240.0 if leg == L1L2 else 120.0, complex(w, var), power, 0.3)
            for leg, w, var, power in loads
        ]
        state = solve_steady(self.UP, samples)
        self.assertTrue(state.converged, state.reason)
        v1, v2 = self.solved(samples)
        self.assertAlmostEqual(abs(state.v1 - v1), 0.0, places=4)
        self.assertAlmostEqual(abs(state.v2 - v2), 0.0, places=4)
        many = solve_sets(self.UP, list(enumerate(samples)), np.ones((2, len(samples))))
        self.assertAlmostEqual(abs(complex(many.v1[1]) - v1), 0.0, places=4)
