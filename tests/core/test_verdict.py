"""Where a verdict changes: each line it is drawn at, from both sides; and what its plots reach."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from ironmargin.limits.asking import rows_of
from ironmargin.limits.ledger import Row, View
from ironmargin.starting.chance import Chance
from ironmargin.verdict.check import examine, reasons_of
from ironmargin.verdict.curves import breaker_plot
from ironmargin.verdict.deciding import deciding
from ironmargin.verdict.picture import ceilings, moments, picture_of
from ironmargin.verdict.stations import chance_words
from tests.core.test_engine import UNIT, question
from tests.shared import checked

GENERATOR = {"kind": "generator", "continuous_w": 2000, "starting_w": 2500}
POST = {"kind": "shore", "breaker_a": 30}


def rows_with(chance: float) -> list[Row]:
    """What the ledger says of one easy start with another chance."""
    quick = examine(question(POST, [UNIT]), quick=True)
    start = replace(quick.starts[0], chance=Chance(chance, 0.0, 1.0, 0.0, 1.0))
    return rows_of(View(quick.now, (start,)))


class Chances(unittest.TestCase):
    def said(self, chance: float) -> list[tuple[str, str]]:
        """Verdict and words of what is said of a chance."""
        found = reasons_of(rows_with(chance), 0.15)
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
        thin_below = 0.15
        (finding,) = (f for f in checked(4).findings[:1])
        for margin, verdicts in (
            (-0.01, ["fails"]),
            (0.0, ["thin"]),
            (thin_below - 0.001, ["thin"]),
            (thin_below, []),
        ):
            at = replace(finding, margin=margin)
            found = reasons_of([at], thin_below)
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


class Pictures(unittest.TestCase):
    def test_ninety_of_a_hundred_trials_lie_in_the_band(self) -> None:
        quick = examine(question(POST, [UNIT]), quick=True)
        start = quick.starts[0]
        trials = tuple(
            ("starts", replace(start.trace, a=start.trace.a * share / 100.0))
            for share in range(101)
        )
        picture = picture_of(quick, replace(start, trial_traces=trials))
        first = int(np.argmin(np.abs(picture.t_s)))
        np.testing.assert_allclose(picture.low_a[first:], 0.05 * picture.amps[first:], rtol=1e-6)
        np.testing.assert_allclose(picture.high_a[first:], 0.95 * picture.amps[first:], rtol=1e-6)

    def test_it_begins_three_tenths_of_a_second_before(self) -> None:
        quick = examine(question(POST, [UNIT]), quick=True)
        picture = picture_of(quick, quick.starts[0])
        self.assertAlmostEqual(float(picture.t_s[0]), -0.3, delta=0.5 / 60.0)
        self.assertEqual(picture.amps[picture.t_s < 0].max(), picture.amps[0])

    def test_a_rotor_is_said_to_pull_in_at_half_its_speed(self) -> None:
        start = examine(question(POST, [UNIT]), quick=True).starts[0]
        (pulls,) = (m for m in moments(start, False) if m.words == "pulls in")
        speed = start.trace.speed[0]
        crossed = int(np.flatnonzero(speed >= 0.5)[0])
        self.assertEqual(pulls.t_s, start.trace.t_s[crossed])
        self.assertGreater(start.trace.t_s[crossed], start.trace.t_s[np.argmax(speed >= 0.3)])

    def test_a_rotor_that_hardly_turned_stands_still(self) -> None:
        start = checked(2).starts[0]
        self.assertNotEqual(start.outcome, "starts")
        for fastest, stands in ((0.04, True), (0.06, False)):
            turned = replace(start.trace, speed=np.full_like(start.trace.speed, fastest))
            said = {m.words for m in moments(replace(start, trace=turned), False)}
            self.assertEqual("rotor stands still" in said, stands, fastest)

    def test_a_start_that_pulls_in_at_its_end_has_one_moment_less(self) -> None:
        start = examine(question(POST, [UNIT]), quick=True).starts[0]
        (pulls,) = (m for m in moments(start, False) if m.words == "pulls in")
        for share, two in ((0.8, True), (0.9, False)):
            early = replace(start, seconds=pulls.t_s / share)
            said = [m.words for m in moments(early, False)]
            self.assertEqual("pulls in" in said, two, share)

    def test_what_a_set_lost_to_the_place_is_drawn_from_half_a_per_cent_on(self) -> None:
        full = examine(question(GENERATOR, [UNIT]), quick=True)
        plate, *_ = full.case.source.derate
        here = replace(plate, key="altitude")
        for lost, lines in ((0.003, 1), (0.007, 2)):
            steps = (plate, replace(here, starting_w=plate.starting_w * (1.0 - lost)))
            source = replace(full.case.source, derate=steps)
            case = replace(full.case, source=source)
            said = {c.words for c in ceilings(replace(full, case=case))}
            self.assertEqual(len(said & {"starting limit here", "nameplate"}), lines, lost)

    def test_chances_of_one_rig_that_lie_near_each_other_are_said_as_one(self) -> None:
        row = replace(checked(1).result.starts[0], chance=0.52, chance_rig_low=0.50)
        for high, two in ((0.54, False), (0.56, True)):
            said = chance_words(replace(row, chance_rig_high=high))
            self.assertEqual("this one rig between" in said, two, said)


class Deciding(unittest.TestCase):
    def test_of_loads_that_decide_alike_three_are_named(self) -> None:
        equal = [
            {"id": f"h{n}", "name": f"Heater {n}", "kind": "resistive", "watts": 700.0}
            for n in range(6)
        ]
        checked_now = examine(question(POST, equal), quick=True)
        finding = next(f for f in checked_now.findings if f.check == "sustain")
        self.assertLess(finding.margin, 0.0)
        self.assertEqual(len(deciding(checked_now, finding)), 3)
