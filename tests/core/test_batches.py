"""What is computed many at once, or not at all where it cannot matter, is what one by one gives."""

from __future__ import annotations

import unittest
from dataclasses import FrozenInstanceError, field, fields, is_dataclass, replace
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from ironmargin.case import Case, dead_at
from ironmargin.electrics import motor
from ironmargin.electrics.motor import BREAKAWAY_AT_ONCE
from ironmargin.limits.breaker_starts import trips_along
from ironmargin.limits.ledger import View
from ironmargin.limits.now import Now, now_of, now_of_sets
from ironmargin.loads.demand import L1, L2, Draw
from ironmargin.planning.legs import MIN_AMPS, leg_moves
from ironmargin.protection.breaker import EARLY, NOMINAL, curve
from ironmargin.record import record
from ironmargin.setup.reading import read_setup
from ironmargin.starting.plan import Plan
from ironmargin.starting.points import normal, normal_quantile, uniform
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.starts import PATH, SUPPLY, every_start, warm_heat
from ironmargin.sustaining.steady import averaged, settled, source_amps
from ironmargin.verdict.check import examine, without_motors
from ironmargin.verdict.deciding import _candidates, _of_settled
from tests.shared import checked, document

SPLIT = (5, 7, 8, 9)
"""Check setups whose loads stand on two legs."""
SOUND = tuple(n for n in range(1, 23) if n != 12)


def without(case: Case, at: int) -> Case:
    """A case whose demand of a number draws nothing."""
    demands = (*case.demands[:at], replace(case.demands[at], steady=(), one=()))
    return replace(case, demands=(*demands, *case.demands[at + 1 :]))


class Legs(unittest.TestCase):
    def moved(self, case: Case, at: int) -> Case:
        """A case with one load on the other leg."""
        demand = case.demands[at]
        to = L2 if demand.leg == L1 else L1
        steady = tuple(Draw(to, d.bus_v, d.va, d.constant_power, d.dropout) for d in demand.steady)
        there = replace(demand, leg=to, steady=steady)
        return replace(case, demands=(*case.demands[:at], there, *case.demands[at + 1 :]))

    def test_every_move_is_as_if_it_alone_were_made(self) -> None:
        seen = 0
        for number in SPLIT:
            case = checked(number).case
            now = settled(case)
            busier = max(abs(now.i1), abs(now.i2))
            by_load = {move.load: move for move in leg_moves(case)}
            for at, demand in enumerate(case.demands):
                if demand.load.id not in by_load:
                    continue
                state, move = settled(self.moved(case, at)), by_load[demand.load.id]
                self.assertAlmostEqual(move.l1_a, abs(state.i1), places=5)
                self.assertAlmostEqual(move.l2_a, abs(state.i2), places=5)
                self.assertAlmostEqual(move.neutral_a, state.neutral_a, places=5)
                gained = busier - max(abs(state.i1), abs(state.i2))
                self.assertAlmostEqual(move.gained_a, gained, places=5)
                seen += 1
        self.assertGreaterEqual(seen, 4)

    def test_the_move_that_lightens_most_is_first_and_the_small_are_left_out(self) -> None:
        for number in SPLIT:
            case = checked(number).case
            moves = leg_moves(case)
            gains = [m.gained_a for m in moves]
            self.assertEqual(gains, sorted(gains, reverse=True))
            drawn = {d.load.id: sum(x.amps for x in d.steady) for d in case.demands}
            self.assertTrue(all(drawn[m.load] >= MIN_AMPS for m in moves))

    def test_one_leg_has_no_other(self) -> None:
        self.assertEqual(leg_moves(checked(1).case), ())


class Sets(unittest.TestCase):
    def test_each_set_is_settled_as_alone(self) -> None:
        for number in SPLIT:
            case = checked(number).case
            count = len(case.demands)
            on = 1.0 - np.eye(count)
            now = now_of_sets(case, on)
            for at in range(count):
                less = without(case, at)
                alone = Now(less, settled(less), averaged(less))
                for ours, theirs in zip(now.amps, alone.amps, strict=True):
                    self.assertAlmostEqual(float(ours[at]), float(theirs), places=4)
                for ours, theirs in zip(now.mean_amps, alone.mean_amps, strict=True):
                    self.assertAlmostEqual(float(ours[at]), float(theirs), places=4)

    def test_what_decides_is_what_taking_away_one_by_one_finds(self) -> None:
        """Each load's gain for every settled finding, against the same computed load by load."""
        seen = 0
        for number in SOUND:
            full = checked(number)
            for finding in full.findings:
                if not finding.limit.settled:
                    continue
                expected = {}
                for at in _candidates(full):
                    if finding.place.ident == full.case.demands[at].load.id:
                        continue  # of a load that is off nothing is asked
                    less = without(full.case, at)
                    margins = [
                        float(r.margin)
                        for r in finding.limit.rows(View(now_of(less)))
                        if (r.place, r.name, r.note) == (finding.place, finding.name, finding.note)
                    ]
                    if margins:
                        expected[at] = margins[0] - float(finding.margin)
                found = {at: gain for gain, at in _of_settled(full, finding)}
                for at in found.keys() - expected.keys():  # nothing else runs on that pole
                    self.assertAlmostEqual(found[at] + finding.margin, 1.0)
                for at, gain in expected.items():
                    if found[at] + float(finding.margin) > 1.0 - 1e-9:
                        continue  # nothing else runs there
                    self.assertAlmostEqual(found[at], gain, places=4, msg=f"{number} {finding}")
                    seen += 1
        self.assertGreater(seen, 100)


class Reserves(unittest.TestCase):
    def test_the_part_that_gives_first_is_that_of_both_reserves_in_full(self) -> None:
        seen = set()
        for number in SOUND:
            full = examine(read_setup(document(number)), quick=True)
            case = full.case
            warm = warm_heat(case, source_amps(case, without_motors(case)))
            for start in full.starts:
                scenario = StartScenario(
                    case, Plan(start.starters, off=dead_at(case, start.starters[0])), warm
                )
                passes = scenario.passes()
                supply, path = scenario.reserve_of_supply(passes), scenario.reserve_of_path(passes)
                by_path = path.factor > supply.factor if passes else path.factor < supply.factor
                within = scenario.path_changes_it_within(supply.factor, passes)
                self.assertEqual(within, by_path, number)
                seen.add(PATH if by_path else SUPPLY)
        self.assertEqual(seen, {PATH, SUPPLY})


class Points(unittest.TestCase):
    def test_draws_are_remembered_and_nobody_writes_to_them(self) -> None:
        first = normal(16, 5, 3)
        self.assertIs(first, normal(16, 5, 3))
        np.testing.assert_array_equal(first, normal_quantile(uniform(16, 5, 3)))
        with self.assertRaises(ValueError):
            first[0, 0] = 1.0

    @settings(max_examples=30)
    @given(st.integers(1, 6), st.integers(1, 300))
    def test_powers_of_two_points_fill_every_half_alike(self, dimensions: int, seed: int) -> None:
        """A (t, m, s)-net in base 2: each dimension's halves hold the same number (I. Sobol, USSR
        Comput. Math. 7, 1967), whatever the shift.
        """
        points = uniform(64, dimensions, seed)
        self.assertTrue(((points > 0.0) & (points < 1.0)).all())
        np.testing.assert_array_equal((points < 0.5).sum(axis=0), np.full(dimensions, 32))


@record
class Point:
    """A record with every sort of field."""

    x: float
    y: float = 2.0
    names: list[str] = field(default_factory=list)


@record(kw_only=True)
class Named:
    """A record of names alone."""

    a: int
    b: int = 3


class Records(unittest.TestCase):
    def test_defaults_positions_and_names(self) -> None:
        self.assertEqual(Point(1.0), Point(x=1.0, y=2.0, names=[]))
        self.assertEqual(Point(1.0, 5.0, ["a"]), Point(names=["a"], y=5.0, x=1.0))
        self.assertEqual(Named(a=1), Named(a=1, b=3))
        self.assertNotEqual(Point(1.0), Point(1.5))
        self.assertNotEqual(Point(1.0), Named(a=1))

    def test_each_has_a_list_of_its_own(self) -> None:
        one, other = Point(1.0), Point(1.0)
        one.names.append("only here")
        self.assertEqual(other.names, [])

    def test_what_is_missing_unknown_or_too_much_is_named(self) -> None:
        for make, words in (
            (lambda: Point(), "needs x"),  # type: ignore[call-arg]
            (lambda: Point(1.0, z=3.0), "no field z"),  # type: ignore[call-arg]
            (lambda: Point(1.0, 2.0, [], 4.0), "takes 3 positional"),  # type: ignore[call-arg]
            (lambda: Named(1), "takes 0 positional"),  # type: ignore[misc]
            (lambda: Named(b=1), "needs a"),  # type: ignore[call-arg]
        ):
            with self.assertRaisesRegex(TypeError, words):
                make()

    def test_they_do_not_change_and_are_dataclasses(self) -> None:
        one = Point(1.0)
        with self.assertRaises(FrozenInstanceError):
            one.x = 2.0  # type: ignore[misc]
        with self.assertRaises(FrozenInstanceError):
            del one.x
        self.assertTrue(is_dataclass(one))
        self.assertEqual([f.name for f in fields(one)], ["x", "y", "names"])
        self.assertEqual(replace(one, y=9.0), Point(1.0, 9.0))
        self.assertEqual(repr(Named(a=1)), "Named(a=1, b=3)")
        self.assertEqual(hash(Named(a=1)), hash(Named(a=1, b=3)))


class Starts(unittest.TestCase):
    def scenario(self, number: int) -> StartScenario:
        case = checked(number).case
        plan = Plan((case.starters[0],), off=dead_at(case, case.starters[0]))
        return StartScenario(case, plan, warm_heat(case, (0.0, 0.0)))

    def test_a_restart_is_a_start_with_the_breakaway_of_one(self) -> None:
        seen = set()
        for number in SOUND:
            for start in checked(number).starts:
                case, starter = checked(number).case, start.starters[0]
                plate = case.demands[starter.demand].plate
                if plate is None:
                    self.assertIsNone(start.restart)
                    continue
                stiff = max(BREAKAWAY_AT_ONCE, plate.breakaway)
                plan = Plan((starter,), off=dead_at(case, starter), breakaway=stiff)
                warm = warm_heat(case, source_amps(case, without_motors(case)))
                self.assertEqual(
                    start.restart, StartScenario(case, plan, warm).run().outcome, number
                )
                seen.add((start.outcome, start.restart))
        self.assertIn(("starts", "stalls"), seen)
        case = checked(4).case
        with patch.object(motor, "BREAKAWAY_AT_ONCE", 0.0):  # as stiff as the plate says
            again, _ = every_start(case, (0.0, 0.0), 0)
        self.assertEqual({start.restart for start in again}, {"starts"})

    def test_an_outcome_alone_is_that_of_the_whole_run(self) -> None:
        for number in SOUND:
            if not checked(number).case.starters:
                continue
            for source_strength in (0.3, 0.7, 1.0, 2.0):
                scenario = self.scenario(number)
                outcome, trace = scenario.traced(source_strength, source_strength)
                run = scenario.run(source_strength, source_strength)
                self.assertEqual((outcome, trace.a.tolist()), (run.outcome, run.trace.a.tolist()))
                self.assertEqual(
                    scenario.passes(source_strength, source_strength),
                    outcome == "starts",
                    (number, source_strength),
                )
            self.assertEqual(scenario.outcome(), scenario.run().outcome)

    def test_a_trace_holds_its_own_steps_and_no_more(self) -> None:
        scenario = self.scenario(4)
        _, first = scenario.traced()
        before = first.a.copy()
        scenario.traced(0.4, 0.4)
        np.testing.assert_array_equal(first.a, before)
        held = first.a.base
        self.assertLessEqual(held.shape[1], len(first.t_s))

    def test_a_breaker_s_heat_along_a_start_is_walked_step_by_step(self) -> None:
        trips = set()
        for number in (4, 5, 7, 9, 20):
            trace = checked(number).starts[0].trace
            for rating_a in (6.0, 10.0, 15.0, 20.0, 30.0, 50.0):
                for edge in (EARLY, NOMINAL):
                    for warm in (0.0, 0.8, 1.0):
                        c = curve("UL489", rating_a, edge, 35.0)
                        heat, tripped = warm, False
                        for at in range(len(trace.t_s) - 1):
                            x = (float(trace.a[0][at]) + 1.5) / rating_a
                            heat = c.heat_after(x, float(trace.t_s[at + 1] - trace.t_s[at]), heat)
                            tripped = tripped or heat >= c.multiple**2 or x >= c.magnetic
                        found = trips_along(trace, 0, rating_a, c, warm, 1.5)
                        self.assertEqual(found, tripped, (number, rating_a, edge, warm))
                        trips.add(found)
        self.assertEqual(trips, {True, False})
