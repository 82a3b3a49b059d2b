"""Where a verdict changes: each line it is drawn at, from both sides; and what its plots reach."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from ironmargin.starting.chance import Chance
from ironmargin.verdict.check import Seen, examine, reasons_of
from ironmargin.verdict.curves import breaker_plot
from tests.core.test_engine import UNIT, question
from tests.shared import checked

POST = {"kind": "shore", "breaker_a": 30}


def seen_with(chance: float) -> Seen:
    """What a check of one easy start saw, with another chance."""
    quick = examine(question(POST, [UNIT]), quick=True)
    start = replace(quick.starts[0], chance=Chance(chance, 0.0, 1.0, 0.0, 1.0))
    result = quick.result
    return Seen(
        quick.case,
        quick.now,
        (start,),
        None,
        result.sustain,
        result.path,
        result.volts,
        result.service,
        result.let_go,
        result.breakers,
        result.endurance,
    )


class Chances(unittest.TestCase):
    def said(self, chance: float) -> list[tuple[str, str]]:
        """Verdict and words of what is said of a chance."""
        found = reasons_of(seen_with(chance), [], "time-current")
        return [(r.verdict, r.sentence) for r in found if "times in" in r.sentence]

    def test_less_than_every_second_time_fails_and_less_than_surely_is_thin(self) -> None:
        for chance, verdict in ((0.2, "fails"), (0.49, "fails"), (0.51, "thin"), (0.98, "thin")):
            self.assertEqual([v for v, _ in self.said(chance)], [verdict], chance)
        for chance in (0.995, 1.0):
            self.assertEqual(self.said(chance), [])

    def test_the_words_say_how_often(self) -> None:
        ((_, words),) = self.said(0.49)
        self.assertIn("starts 49 times in 100: less than every second time", words)


class Margins(unittest.TestCase):
    def test_short_fails_and_under_the_line_is_thin(self) -> None:
        seen = seen_with(1.0)
        thin_below = seen.case.setup.rules.thin_below
        (finding,) = (f for f in checked(4).findings[:1])
        for margin, verdicts in (
            (-0.01, ["fails"]),
            (0.0, ["thin"]),
            (thin_below - 0.001, ["thin"]),
            (thin_below, []),
        ):
            at = replace(finding, margin=margin)
            found = reasons_of(seen, [at], "time-current")
            self.assertEqual([r.verdict for r in found], verdicts, margin)


class Plots(unittest.TestCase):
    def test_a_breaker_s_curve_reaches_from_its_rating_to_twenty_times_without_a_kink(self) -> None:
        full = checked(2)
        plot = breaker_plot(full, full.starts[0])
        assert plot is not None
        amps = np.array(plot.amps)
        self.assertAlmostEqual(amps[0], plot.rating_a)
        self.assertAlmostEqual(amps[-1], 20.0 * plot.rating_a)
        self.assertLess((amps[1:] / amps[:-1]).max(), 1.04)
        self.assertGreater((amps[1:] / amps[:-1]).min(), 1.03)

    def test_settled_loads_are_shown_at_three_hours(self) -> None:
        """NEC 210.20(A): loads on for three hours or more count as continuous."""
        full = checked(2)
        plot = breaker_plot(full, None)
        assert plot is not None
        self.assertIn(3 * 3600.0, [point.seconds for point in plot.points])
