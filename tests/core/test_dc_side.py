"""The 12 V side: amp-hours a night, how they come back, and a full battery's start."""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.enduring.dc_side import dc_words, night_of
from ironmargin.errors import SetupError
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine
from tests.kinds import question

USES = [{"name": "Fan", "amps": 7.0, "hours": 5.0}, {"name": "Lights", "amps": 3.0, "hours": 4.0}]


def with_dc(**side: Any) -> Setup:
    document = question("generator")
    document["rig"]["dc"] = {"uses": USES} | side
    return read_setup(document)


class OnTwelveVolts(unittest.TestCase):
    def test_amp_hours_are_amps_times_hours(self) -> None:
        found = night_of(with_dc(battery_ah=188.0))
        assert found is not None
        self.assertAlmostEqual(found.used_ah, 47.0)
        self.assertAlmostEqual(found.lasts_nights, 2.0)  # half of a lead battery
        lithium = night_of(with_dc(battery_ah=94.0, usable_fraction=1.0))
        assert lithium is not None
        self.assertAlmostEqual(lithium.lasts_nights, 2.0)

    def test_the_charger_brings_them_back_at_its_rating(self) -> None:
        """47 Ah at 12.8 V are 602 Wh; 300 W at 80 % bring back 240 W."""
        found = night_of(with_dc())
        assert found is not None
        self.assertAlmostEqual(found.recharge_h, 47.0 * 12.8 / (0.8 * 300.0))
        self.assertAlmostEqual(found.recharge_w, 300.0)
        self.assertIsNone(found.lasts_nights)
        self.assertIsNone(night_of(read_setup(question("generator"))))

    def test_a_full_battery_leaves_the_charger_a_trickle_in_the_start(self) -> None:
        def charger_w(setup: Setup) -> float:
            (demand,) = (
                d for d in examine(setup, quick=True).case.demands if d.load.id == "charger"
            )
            return sum(d.va.real for d in demand.steady)

        self.assertAlmostEqual(charger_w(with_dc()), 300.0)
        full = charger_w(with_dc(full=True))
        self.assertTrue(10.0 <= full <= 60.0, full)
        low, high = (
            examine(x, quick=True).result.starts[0] for x in (with_dc(), with_dc(full=True))
        )
        self.assertGreater(high.margin, low.margin)

    def test_said_in_words(self) -> None:
        said = dc_words(with_dc(battery_ah=30.0))
        self.assertIn("12 V takes 47 Ah a night, Fan and Lights most of it.", said)
        self.assertIn("down after 32 % of a night", said)
        self.assertIn("Charger then draws 300 W for 2.5 h", said)
        self.assertIn("draws a trickle", dc_words(with_dc(full=True)))
        self.assertEqual(dc_words(read_setup(question("shore"))), "")

    def test_a_charger_there_is_not_is_a_fault(self) -> None:
        with self.assertRaises(SetupError) as caught:
            with_dc(charger="kettle")
        self.assertEqual(caught.exception.faults[0].path, "rig.dc.charger")
