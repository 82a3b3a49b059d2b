"""How strong a start needs its supply: walked to and bisected, line by line or for the reserve; the
same compiled and not, guessed at and not, on one core and on two.
"""

from __future__ import annotations

import os
import signal
import threading
import unittest
from collections.abc import Callable
from types import SimpleNamespace
from typing import Any
from unittest.mock import patch

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from ironmargin.electrics.network import Real
from ironmargin.setup.reading import read_setup
from ironmargin.starting import chance as chances
from ironmargin.starting import side_by_side as sides
from ironmargin.starting.chance import BELIEF, SLOPES, chance_of, prior_plane
from ironmargin.starting.edge import STRONGEST, WEAKEST, Edge
from ironmargin.starting.engine import PASSES, Engine, Factors
from ironmargin.starting.lines import Lines
from ironmargin.starting.plan import Plan
from ironmargin.starting.samples import samples_of
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.side_by_side import side_by_side
from ironmargin.starting.starts import every_start, warm_heat
from ironmargin.verdict.check import examine
from tests.shared import document, plain

STARTING = tuple(n for n in range(1, 23) if n not in (11, 12, 18, 21))
"""The check setups that have a start."""
PLAIN_LINES, PLAIN_EDGE = plain("starting.lines"), plain("starting.edge")


def scenario_of(number: int) -> StartScenario:
    """The first start of a check setup."""
    case = examine(read_setup(document(number)), quick=True).case
    return StartScenario(case, Plan((case.starters[0],)), warm_heat(case, (0.0, 0.0)))


class Stand:
    """An engine whose start passes where one says, for what is not compiled; the strengths it was
    asked at.
    """

    def __init__(self, passes: Callable[[float], bool]) -> None:
        self.passes = passes
        self.requested: list[float] = []

    def follow(self, by: Factors, *_: Any) -> int:
        # Of the path alone, or of the supply, too.
        requested = by.path if by.source_strength == 1.0 else by.source_strength
        self.requested.append(requested)
        return PASSES if self.passes(requested) else 0


def seen(engine: Engine) -> Any:
    """The compiled engine, for what is not compiled."""

    def follow(*given: Any) -> int:
        return engine.one_start(*given)

    return SimpleNamespace(follow=follow)


def walked(passes: Callable[[float], bool], at_one: bool) -> tuple[float, tuple[float, ...]]:
    found: tuple[float, tuple[float, ...]] = PLAIN_EDGE.Edge(Stand(passes), np.ones(1), 1.0).find(
        False, at_one
    )
    return found


class Edges(unittest.TestCase):
    def test_the_reserve_is_the_edge_to_a_tenth_of_a_per_cent(self) -> None:
        for edge in (0.2, 0.413, 0.8, 0.999):
            self.assertAlmostEqual(walked(lambda s, e=edge: s >= e, True)[0], edge, delta=0.001)
        for edge in (1.001, 1.2, 3.3):
            found = walked(lambda s, e=edge: s >= e, False)[0]
            self.assertAlmostEqual(found, edge, delta=0.001 * edge)
        self.assertEqual(walked(lambda s: False, False)[0], STRONGEST)
        self.assertEqual(walked(lambda s: True, True)[0], WEAKEST)

    def test_past_the_boundary_it_is_looked_at_four_times(self) -> None:
        """At 97, 90, 75 and 50 hundredths of it, so that an island there is reported."""
        for share in (0.97, 0.9, 0.75, 0.5):
            low, high = 0.81 * share - 0.004, 0.81 * share + 0.004
            factor, islands = walked(
                lambda s, low=low, high=high: s >= 0.81 or low <= s <= high, True
            )
            self.assertAlmostEqual(factor, 0.81, delta=0.001)
            self.assertEqual(len(islands), 1, share)
            self.assertAlmostEqual(islands[0], 0.81 * share, delta=0.002)
        self.assertEqual(walked(lambda s: s >= 0.81, True)[1], ())

    def test_no_stronger_and_no_weaker_one_is_tried_past_it(self) -> None:
        for edge, at_one in ((0.25, True), (5.0, False)):
            engine = Stand(lambda s, e=edge: s >= e)
            PLAIN_EDGE.Edge(engine, np.ones(1), 1.0).find(False, at_one)
            self.assertGreaterEqual(min(engine.requested), WEAKEST)
            self.assertLessEqual(max(engine.requested), STRONGEST)

    def test_compiled_it_finds_the_same(self) -> None:
        for number in STARTING:
            scenario = scenario_of(number)
            passes = scenario.passes()
            ones, short = scenario.ones, scenario.short
            slow = PLAIN_EDGE.Edge(seen(scenario.engine), ones, short)
            quick = Edge(scenario.engine, ones, short)
            for by_path in (False, True):
                self.assertEqual(quick.find(by_path, passes), slow.find(by_path, passes), number)
            for factor in (0.5, 0.9, 1.2, 3.0):
                within = quick.changes_within(factor, passes)
                self.assertEqual(within, slow.changes_within(factor, passes), number)


def one_line(lines: Any, edges: Real, enough: float) -> tuple[int, int]:
    """A look at one line."""
    ones = np.ones(1)
    samples = SimpleNamespace(
        voc_factor=ones, lockout=ones, short=ones, lra=np.ones((1, 1)), breakaway=np.ones((1, 1)),
        z=np.zeros((1, 1)),
    )  # fmt: skip
    above = np.linspace(1.0, 0.0, len(edges) + 2)
    lines.look(samples, edges, above, np.full(1, enough))
    return int(lines.fails[0]), int(lines.passing[0])


class OfLines(unittest.TestCase):
    def lines(self, engine: Any, guess: float) -> Any:
        return PLAIN_LINES.Lines(engine, np.array([guess, 0.0]), np.eye(2))

    @given(st.integers(0, 65), st.integers(-3, 70))
    def test_a_guess_changes_nothing_but_the_runs(self, first: int, guess: int) -> None:
        engine = Stand(lambda s: s >= first)
        edges = np.arange(65.0)
        found = one_line(self.lines(engine, guess + 0.5), edges, 0.0)
        self.assertEqual(found, (first - 1, first))
        self.assertEqual(len(engine.requested), len(set(engine.requested)))
        if 0 < first < 65 and guess in (first - 1, first):
            self.assertLessEqual(len(engine.requested), 3)

    @given(st.integers(0, 33), st.integers(0, 31), st.integers(1, 33))
    def test_it_may_stop_where_nearer_need_not_be_known(
        self, first: int, guess: int, near: int
    ) -> None:
        engine = Stand(lambda s: s >= first)
        enough = (near + 0.5) / 34.0
        fails, passing = one_line(self.lines(engine, guess + 0.5), np.arange(33.0), enough)
        self.assertTrue(fails < first <= passing)
        self.assertLessEqual(passing - fails, near)

    def test_beyond_the_edges_it_is_learnt_where_it_was_not_foreseen(self) -> None:
        for first, guess, learns in ((0, 20.5, True), (0, -1.0, False), (40, 20.5, True),
                                     (40, 33.0, False), (10, 20.5, True)):  # fmt: skip
            lines = self.lines(Stand(lambda s, f=first: s >= f), guess)
            one_line(lines, np.arange(33.0), 0.0)
            self.assertEqual(lines.plane[0] != guess, learns, (first, guess))

    def test_compiled_they_find_and_learn_the_same(self) -> None:
        for number in (2, 3, 9, 16, 20):
            scenario = scenario_of(number)
            samples = samples_of(scenario, 24, 3)
            source_strengths, above = chances._edges(chances.CELLS)
            for enough in (0.0, 0.02):
                slow, quick = (
                    kind(engine, *prior_plane(samples.names))
                    for kind, engine in (
                        (PLAIN_LINES.Lines, seen(scenario.engine)),
                        (Lines, scenario.engine),
                    )
                )
                for lines in (slow, quick):
                    lines.look(samples, source_strengths, above, np.full(24, enough))
                np.testing.assert_array_equal(np.array(quick.fails), slow.fails)
                np.testing.assert_array_equal(np.array(quick.passing), slow.passing)
                np.testing.assert_array_equal(np.array(quick.needed), slow.needed)
                np.testing.assert_allclose(np.array(quick.plane), slow.plane, rtol=1e-12)


class Blind(PLAIN_LINES.Lines):  # type: ignore[misc]
    """Lines looked at from both ends, whatever is expected of them."""

    def __init__(self, engine: Engine, plane: Real, doubt: Real) -> None:
        super().__init__(seen(engine), plane, doubt)

    def observe(self, at: int) -> None:
        guess, last = self.expected(at), len(self.edges) - 1
        fails, passing, edge = -1, last + 1, 0
        while passing - fails > 1 and (
            self.above[fails + 1] - self.above[passing + 1] >= self.enough[at]
        ):
            if self.ok(at, edge):
                passing = edge
            else:
                fails = edge
            edge = last if passing > last else (fails + passing) // 2
        self.fails[at], self.passing[at] = fails, passing
        self.needed[at] = 0.5 * (self.edges[max(fails, 0)] + self.edges[min(passing, last)])
        if passing - fails == 1:
            self.learn(at, self.needed[at] - guess)


class OfChances(unittest.TestCase):
    def test_they_are_those_of_a_search_without_guesses(self) -> None:
        for number in (2, 3, 9, 20):
            scenario = scenario_of(number)
            with patch.object(chances, "Lines", Blind):
                near = chance_of(scenario, 1000, 1)
                with patch.object(chances, "DOUBT", 0.0):
                    expected = chance_of(scenario, 1000, 1)
            with patch.object(chances, "DOUBT", 0.0):
                exact = chance_of(scenario, 1000, 1)
            # On the second set an island lies on one line: which of its edges is found depends.
            self.assertAlmostEqual(exact.chance, expected.chance, delta=5e-4 * (number == 2))
            found = chance_of(scenario, 1000, 1)
            self.assertAlmostEqual(found.chance, near.chance, delta=2.0 * chances.DOUBT)
            self.assertAlmostEqual(found.chance, expected.chance, delta=chances.DOUBT)

    def test_and_take_half_the_runs(self) -> None:
        runs = []
        for kind in (Lines, Blind):
            scenario = scenario_of(2)
            with patch.object(chances, "Lines", kind):
                chance_of(scenario, 1000, 1)
            runs.append(scenario.engine.runs)
        self.assertGreater(runs[0], 16)
        self.assertLess(runs[0], 0.6 * runs[1])


class Planes(unittest.TestCase):
    """Where the boundary of a line is expected."""

    def lines(self, samples: Any) -> Any:
        lines = PLAIN_LINES.Lines(None, *prior_plane(samples.names))
        lines.points = np.column_stack([np.ones(len(samples.z)), samples.z])
        return lines

    def test_it_is_ridge_regression_in_closed_form(self) -> None:
        """``(XᵀX + Λ)⁻¹(Xᵀy + Λb)``: A. Hoerl and R. Kennard, Technometrics 12, 1970."""
        samples = samples_of(scenario_of(2), 12, 3)
        needed = np.random.default_rng(1).normal(0.9, 0.1, len(samples.z))
        lines = self.lines(samples)
        for at, y in enumerate(needed):
            lines.learn(at, y - lines.expected(at))
        x = lines.points
        prior = np.array([1.0, *(SLOPES.get(n.kind, 0.0) for n in samples.names)])
        penalty = np.diag([1e-6, *(BELIEF for _ in samples.names)])
        closed = np.linalg.solve(x.T @ x + penalty, x.T @ needed + penalty @ prior)
        np.testing.assert_allclose(lines.plane, closed, atol=1e-5)

    def test_a_plane_is_learnt(self) -> None:
        samples = samples_of(scenario_of(2), 40, 3)
        slopes = np.linspace(-0.05, 0.08, len(samples.names))
        lines = self.lines(samples)
        for at, z in enumerate(samples.z):
            lines.learn(at, 0.8 + float(slopes @ z) - lines.expected(at))
        others = samples_of(scenario_of(2), 10, 9)
        lines.points = self.lines(others).points
        for at, z in enumerate(others.z):
            self.assertAlmostEqual(lines.expected(at), 0.8 + float(slopes @ z), delta=0.003)


class SideBySide(unittest.TestCase):
    def setUp(self) -> None:
        self.enterContext(patch.object(sides, "CORES", 2))

    def test_both_work_and_what_they_find_is_in_order(self) -> None:
        """Each waits until the other has begun."""
        both = threading.Barrier(2, timeout=30)
        found = side_by_side(lambda n: (both.wait(), n * n)[1], range(6))
        self.assertEqual(found, [n * n for n in range(6)])

    def test_what_either_raises_reaches_the_caller(self) -> None:
        side_by_side(str, range(2))  # the helper stays
        caller, running = threading.current_thread(), threading.active_count()
        for fails_here in (True, False):
            both = threading.Barrier(2, timeout=30)

            def work(task: int, fails: bool = fails_here, both: Any = both) -> int:
                if task < 2:
                    both.wait()
                    if fails == (threading.current_thread() is caller):
                        raise ValueError(f"task {task}")
                return task

            with self.assertRaisesRegex(ValueError, "task"):
                side_by_side(work, range(9))
        self.assertEqual(threading.active_count(), running)

    def test_one_core_or_one_task_needs_no_second_thread(self) -> None:
        with patch.object(sides, "_helper", side_effect=AssertionError):
            self.assertEqual(side_by_side(str, [7]), ["7"])
            self.assertEqual(side_by_side(str, []), [])
            with patch.object(sides, "CORES", 1):
                self.assertEqual(side_by_side(str, [7, 8]), ["7", "8"])

    def test_while_the_helper_is_busy_the_caller_works_alone(self) -> None:
        free, done_by = threading.Event(), set()
        busy = sides._helper().submit(free.wait, 30)
        try:
            found = side_by_side(lambda n: done_by.add(threading.current_thread()) or n, range(9))
        finally:
            free.set()
        self.assertTrue(busy.result())
        self.assertEqual((found, done_by), (list(range(9)), {threading.current_thread()}))

    def test_a_forked_child_has_a_helper_of_its_own(self) -> None:
        side_by_side(str, range(9))  # the parent's helper is there before the fork
        child = os.fork()
        if not child:
            signal.alarm(30)
            both = threading.Barrier(2)
            found = side_by_side(lambda n: (both.wait() if n < 2 else 0, n)[1], range(9))
            os._exit(0 if found == list(range(9)) else 1)
        self.assertEqual(os.waitpid(child, 0)[1], 0)

    def test_starts_are_the_same_figures_as_one_by_one(self) -> None:
        for number in (7, 9):
            case = examine(read_setup(document(number)), quick=True).case
            told = [every_start(case, (0.0, 0.0), 200) for _ in range(2)]
            with patch.object(sides, "CORES", 1):
                told.append(every_start(case, (0.0, 0.0), 200))
            for starts, together in told[1:]:
                self.assertEqual(
                    [(s.outcome, s.factor, s.chance) for s in (*starts, together)],
                    [(s.outcome, s.factor, s.chance) for s in (*told[0][0], told[0][1])],
                )
