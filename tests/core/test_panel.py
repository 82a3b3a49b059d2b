"""The panel schedule and the code's count, by hand arithmetic."""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.planning.panel import Panel, panel_of
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.check import examine
from tests.shared import path_of

LOADS: list[dict[str, Any]] = [
    {"id": "pump", "name": "Well pump", "kind": "motor", "running_a": 8.0, "lra_a": 40,
     "voltage_v": 240, "circuit": "p"},
    {"id": "blower", "name": "Blower", "kind": "motor", "running_a": 5.0, "lra_a": 25, "leg": "L2"},
    {"id": "lights", "name": "Lights", "kind": "electronic", "watts": 190, "power_factor": 0.95,
     "circuit": "k"},
    {"id": "oven", "name": "Microwave", "kind": "microwave", "watts": 1500, "circuit": "k"},
    {"id": "spare", "name": "Kettle", "kind": "resistive", "watts": 1200, "circuit": "k"},
]  # fmt: skip


def house() -> Panel:
    """A house on a set: two circuits, three loads of one, two straight ones; the kettle is off."""
    rig = {
        "name": "house", "service": "120/240", "main_a": 100, "what": "building", "loads": LOADS,
        "circuits": [
            {"id": "p", "name": "Pump", "breaker_a": 20, "leg": "L1L2"},
            {"id": "k", "name": "Kitchen", "breaker_a": 20, "leg": "L1"},
            {"id": "e", "name": "Spare", "breaker_a": 15, "leg": "L2"},
        ],
    }  # fmt: skip
    supply = {"kind": "generator", "continuous_w": 5500, "starting_w": 7000, "output": "120/240",
              "voltage_v": 240}  # fmt: skip
    doc = {"format": "iron-margin/setup", "version": 1, "name": "house", "supply": supply,
           "hookup": [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer"}], "rig": rig,
           "conditions": {"outdoor_c": 15, "altitude_m": 0},
           "wanted": [{"load": x["id"]} for x in LOADS[:4]]}  # fmt: skip
    return panel_of(examine(read_setup(doc), quick=True))


class Schedule(unittest.TestCase):
    def test_every_circuit_is_a_row_and_so_is_a_load_without_one(self) -> None:
        rows = {(r.circuit, r.leg): r for r in house().rows}
        self.assertEqual(
            list(rows), [("Kitchen", "L1"), ("Spare", "L2"), ("Pump", "L1-L2"), ("", "L2")]
        )
        kitchen = rows["Kitchen", "L1"]
        self.assertEqual(kitchen.loads, ("Lights", "Microwave", "Kettle"))
        self.assertAlmostEqual(kitchen.watts, 190 + 1500 + 1200, delta=1)
        self.assertEqual((rows["Spare", "L2"].loads, rows["Spare", "L2"].amps), ((), 0.0))
        self.assertEqual(rows["", "L2"].loads, ("Blower",))
        self.assertIsNone(rows["", "L2"].breaker_a)

    def test_two_loads_of_one_name_are_two_rows(self) -> None:
        panel = panel_of(examine(load_setup(path_of(9)), quick=True))
        self.assertEqual(sum(len(r.loads) for r in panel.rows), 2)


class Count(unittest.TestCase):
    """NEC 430.24, 210.20(A), 220.14 (from memory): largest motor and what runs on at 125 %."""

    def test_the_largest_motor_and_continuous_loads_count_more(self) -> None:
        panel = house()
        counted = {x.name: x for x in panel.counted}
        self.assertNotIn("Kettle", counted)  # not chosen
        pump, blower, lights = (counted[x] for x in ("Well pump", "Blower", "Lights"))
        self.assertAlmostEqual(pump.va, 8.0 * 240, delta=0.02 * 1920)
        self.assertEqual((pump.factor, blower.factor, lights.factor), (1.25, 1.0, 1.25))
        self.assertEqual((pump.article, lights.article), ("NEC 430.24", "NEC 210.20(A)"))
        self.assertAlmostEqual(lights.va, 200, delta=1)
        by_hand = 1.25 * pump.va + blower.va + 1.25 * 200 + counted["Microwave"].counted_va
        self.assertAlmostEqual(panel.total_va, by_hand, delta=2)

    def test_the_supply_stands_beside_it_where_it_has_a_rating(self) -> None:
        self.assertAlmostEqual(house().supply_va or 0.0, 5500, delta=1)
        self.assertIsNone(panel_of(examine(load_setup(path_of(7)), quick=True)).supply_va)


if __name__ == "__main__":
    unittest.main()
