"""Typical figures that learn: the statistics, what is told of nobody, and files from strangers."""

from __future__ import annotations

import json
import math
import unittest
from dataclasses import replace

import numpy as np

from ironmargin.case import prepare
from ironmargin.errors import SetupError
from ironmargin.learning.pool import (
    Unit,
    class_of,
    fitted,
    read_typicals,
    typicals,
    typicals_json,
    units_of,
)
from ironmargin.setup.loads import AirConditioner
from ironmargin.starting.samples import lra_sd
from tests.core.test_learning import on_a_post, start, told

KEY = "ac-13k"
"""57 A in the printed table."""


def units(logs: list[float], sd: float = 0.05, each: int = 1) -> list[Unit]:
    """Measured units, so many of each account."""
    return [Unit(n // each, KEY, x, sd) for n, x in enumerate(logs)]


class Pool(unittest.TestCase):
    def test_a_middle_and_a_spread_are_found_again(self) -> None:
        draw = np.random.default_rng(3)
        true = math.log(52.0) + 0.09 * draw.standard_normal(400)
        read = true + 0.05 * draw.standard_normal(400)
        (found,) = typicals(units(read.tolist()))
        self.assertAlmostEqual(found.median, 52.0, delta=1.0)
        self.assertAlmostEqual(found.sd, 0.09, delta=0.012)
        self.assertEqual((found.units, found.accounts), (400, 400))
        inside = np.mean((np.exp(true) >= found.low) & (np.exp(true) <= found.high))
        self.assertAlmostEqual(float(inside), 0.9, delta=0.04)

    def test_few_units_stay_near_the_printed_table_and_its_spread(self) -> None:
        far = [math.log(40.0)] * 5
        (few,) = typicals(units(far))
        (many,) = typicals(units(far * 40))
        self.assertGreater(few.median, many.median)
        self.assertGreater(few.sd, 0.08)
        self.assertLess(many.sd, 0.04)

    def test_intervals_of_new_units_cover_nine_in_ten_from_few_and_many(self) -> None:
        draw = np.random.default_rng(5)
        for count in (6, 20, 80):
            hits = []
            for _ in range(300):
                middle = math.log(57.0) + 0.12 * draw.standard_normal()
                true = middle + 0.1 * draw.standard_normal(count + 1)
                read = true[:-1] + 0.06 * draw.standard_normal(count)
                found = fitted(KEY, np.arange(count), read, np.full(count, 0.06))
                assert found is not None
                hits.append(found.low <= math.exp(true[-1]) <= found.high)
            self.assertTrue(0.85 <= np.mean(hits) <= 0.98, f"{count}: {np.mean(hits):.2f}")

    def test_nothing_is_told_of_few_units_or_few_accounts(self) -> None:
        logs = [math.log(55.0)] * 12
        self.assertEqual(typicals(units(logs[:4])), ())
        self.assertEqual(typicals(units(logs, each=6)), ())
        self.assertEqual(len(typicals(units(logs[:5]))), 1)

    def test_no_account_counts_with_more_than_three_units(self) -> None:
        crowd = [Unit(0, KEY, math.log(110.0), 0.01)] * 500
        (without,) = typicals(units([math.log(55.0)] * 20))
        (with_it,) = typicals([*units([math.log(55.0)] * 20), *crowd])
        self.assertLess(with_it.median, 1.15 * without.median)
        self.assertEqual(with_it.units, 20)

    def test_one_reading_more_cannot_be_told_from_what_is_shown(self) -> None:
        """Two digits and counts by fives: one unit among fifty moves neither."""
        draw = np.random.default_rng(9)
        logs = (math.log(55.0) + 0.05 * draw.standard_normal(52)).tolist()
        (one,), (other,) = typicals(units(logs[:51])), typicals(units(logs))
        self.assertEqual((one.median, one.units, one.accounts),
                         (other.median, other.units, other.accounts))  # fmt: skip

    def test_the_class_is_the_nearest_typical_load(self) -> None:
        unit = AirConditioner(id="a", name="a", running_a=11.2, lra_a=50.0)
        self.assertEqual(class_of(unit), KEY)
        self.assertEqual(class_of(replace(unit, running_a=12.4)), "ac-15k")
        self.assertIsNone(class_of(replace(unit, running_a=30.0)))
        self.assertIsNone(class_of(replace(unit, running_a=None)))

    def test_what_a_log_corrected_is_a_unit_and_what_nobody_read_is_none(self) -> None:
        setup = on_a_post(running_a=11.5, lra_a=57.0)
        self.assertEqual(units_of(setup.rig, 7), [])
        learned = told(setup, *[start(46.0, outcome="starts", notes=f"{n}") for n in range(4)])
        (unit,) = units_of(learned.setup.rig, 7)
        self.assertEqual((unit.account, unit.key), (7, KEY))
        self.assertLess(math.exp(unit.log_value), 56.0)
        self.assertLess(unit.sd, 0.08)

    def test_a_typical_spread_is_that_of_the_units(self) -> None:
        wide, narrow = (
            on_a_post(**{"from": "typical"}),
            on_a_post(**{"from": "typical", "lra_spread": 0.06}),
        )
        self.assertEqual(lra_sd(prepare(narrow).demands[0]), 0.06)
        self.assertGreater(lra_sd(prepare(wide).demands[0]), 0.1)
        read = on_a_post(**{"from": "measured", "lra_spread": 0.06})
        self.assertLess(lra_sd(prepare(read).demands[0]), 0.06)


class Files(unittest.TestCase):
    def file(self, **change: object) -> bytes:
        found = typicals(units([math.log(55.0)] * 12))
        document = typicals_json(found, "2026-07-04T14:00:00+00:00")
        document["figures"][0] |= change
        return json.dumps(document).encode()

    def test_it_goes_out_and_comes_in(self) -> None:
        (found,) = read_typicals(self.file())
        self.assertEqual(found, typicals(units([math.log(55.0)] * 12))[0])

    def test_a_stranger_s_nonsense_is_named(self) -> None:
        for change, where in (
            ({"key": "ufo"}, "key"), ({"key": 7}, "key"), ({"figure": "age"}, "key"),
            ({"median": 900.0}, "median"), ({"median": float("nan")}, "median"),
            ({"median": True}, "median"), ({"sd": 0.0}, "sd"), ({"units": 2}, "units"),
            ({"accounts": "many"}, "accounts"),
        ):  # fmt: skip
            with self.assertRaises(SetupError) as caught:
                read_typicals(self.file(**change))
            self.assertIn(where, caught.exception.faults[0].path)
        for raw in (b"", b"{", b"[]", b"\xff\xfe", b"{}" * 600_000, b'{"format": "x"}',
                    b'{"format": "iron-margin/typicals", "figures": 4}',
                    b'{"format": "iron-margin/typicals", "figures": [4]}'):  # fmt: skip
            with self.assertRaises(SetupError):
                read_typicals(raw)


if __name__ == "__main__":
    unittest.main()
