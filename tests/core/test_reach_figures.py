"""The figures of a look for limits: how it walks, how near it goes; what costs how much."""

from __future__ import annotations

import unittest

from ironmargin.limits.ledger import FAILS, HOLDS
from ironmargin.reaching.reach import NOWHERE, Point, _edge
from ironmargin.reaching.size import _cost_class, size
from ironmargin.reaching.starters import PEAKS, RAMPS_S
from tests.core.test_engine import UNIT, question

COUNTS = (HOLDS,)


def point(holds: bool) -> Point:
    return Point(HOLDS if holds else FAILS, 0.1, "sustain", "supply", "sustain", "supply")


class Walks(unittest.TestCase):
    def test_a_short_island_of_failing_is_met(self) -> None:
        """Ten steps, closer together near where it stands: one of them is at 0.09."""
        edge = _edge(lambda v: point(not 0.08 < v < 0.1), 0.0, 1.0, 0.001, COUNTS)
        assert edge is not None
        self.assertAlmostEqual(edge.value, 0.08, delta=0.001)

    def test_it_goes_as_near_as_a_hundredth(self) -> None:
        requested: list[float] = []

        def look(value: float) -> Point:
            requested.append(value)
            return point(value <= 0.55)

        edge = _edge(look, 0.0, 1.0, 1e-9, COUNTS)
        assert edge is not None
        self.assertAlmostEqual(edge.value, 0.55, delta=0.0055)
        # Where it stands, eight steps to 0.64, five halvings of 0.15, and the last once more.
        self.assertEqual(len(requested), 1 + 8 + 5 + 1)

    def test_where_there_is_no_setup_there_is_no_margin(self) -> None:
        self.assertEqual((NOWHERE.verdict, NOWHERE.margin), ("none", -1.0))


class Louder(unittest.TestCase):
    def test_two_sets_are_three_decibels_louder_than_one(self) -> None:
        """10·log10(2): two sources that know nothing of each other."""
        small = {"kind": "generator", "continuous_w": 1600, "starting_w": 2000}
        rows = size(question(small, [UNIT], rules={"trials": 0}))
        dba = {(row.key, row.fuel, row.aid): row.dba_at_7m for row in rows}
        pairs = [
            (level, dba[key, fuel, "none"])
            for (key, fuel, aid), level in dba.items()
            if aid == "second-set" and dba.get((key, fuel, "none")) is not None
        ]
        self.assertTrue(pairs)
        for both, one in pairs:
            assert both is not None
            assert one is not None
            self.assertAlmostEqual(both - one, 3.0, delta=0.3)


class Gear(unittest.TestCase):
    def test_what_is_tried_is_what_starters_are_set_to(self) -> None:
        """Common practice, no source: a soft starter holds a start at a third to a half of its
        locked-rotor amps, for a third of a second to somewhat over one.
        """
        self.assertEqual((min(PEAKS), max(PEAKS)), (0.3, 0.5))
        self.assertEqual((min(RAMPS_S), max(RAMPS_S)), (0.3, 1.2))
        self.assertEqual(sorted({*PEAKS, *RAMPS_S}), [0.3, 0.4, 0.5, 0.6, 1.2])


class Costs(unittest.TestCase):
    def test_the_classes_of_power(self) -> None:
        """Common practice, no source."""
        for watts, cost in ((1400, 1), (1600, 2), (2900, 2), (3100, 3), (4900, 3), (5100, 4),
                            (7900, 4), (8100, 5)):  # fmt: skip
            one, same = _cost_class(watts, True), _cost_class(watts, False)
            self.assertEqual(one - _cost_class(1000, True), cost - 1, watts)
            self.assertEqual(one - same, 1, "what an inverter costs more")


if __name__ == "__main__":
    unittest.main()
