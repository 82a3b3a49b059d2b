"""Figures of loads, transformers and inverters that came from memory or the trade: each lies where
its source says, so that half of it, or half as much again, is noticed.
"""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.case import prepare
from ironmargin.electrics import motor as m
from ironmargin.enduring.duty import watts_of
from ironmargin.loads.demand import Demand, transformer_demand
from ironmargin.loads.reader import demand_of
from ironmargin.path.trace import transformer_ohm
from ironmargin.setup.hookup import Transformer
from ironmargin.starting.starts import straight_concurrent
from tests.core.test_engine import POST, UNIT, question

SAW = {"id": "s", "name": "Saw", "kind": "motor", "running_a": 10.0, "start": "universal"}
DRIVE = {"id": "d", "name": "Pump", "kind": "motor", "running_a": 10.0, "start": "inverter-drive"}
BATTERY: dict[str, Any] = {"kind": "battery-inverter", "continuous_w": 2000, "surge_w": 4000}
STEP_UP = Transformer(type="auto", va=5000.0, impedance_pct=3.0)


def demand(load: dict[str, Any]) -> Demand:
    return demand_of(question(POST, [load]), 0, None)


class Loads(unittest.TestCase):
    def test_a_universal_motor_rushes_two_to_three_times_for_some_tenths(self) -> None:
        """Common practice, no source."""
        rush = demand(SAW).inrush
        assert rush is not None
        self.assertTrue(2.0 <= rush.times <= 3.0, rush)
        self.assertTrue(0.1 <= rush.tau_s <= 0.2, rush)
        self.assertTrue(0.85 <= watts_of(demand(SAW)) / (10.0 * 120.0) <= 1.0)

    def test_an_inverter_drive_draws_nearly_all_watts(self) -> None:
        """Power factor 0.9 to 1: corrected as IEC 61000-3-2 asks of it (from memory)."""
        self.assertTrue(0.9 <= watts_of(demand(DRIVE)) / (10.0 * 120.0) <= 1.0)

    def test_a_soft_starter_of_which_nothing_is_said_ramps_half_a_second_and_more(self) -> None:
        """Common practice, no source: 0.4 to 0.8 s."""
        plate = demand(UNIT | {"start": "soft-start"}).plate
        assert plate is not None
        self.assertTrue(0.4 <= plate.ramp_s <= 0.8)

    def test_a_fan_that_has_a_second_is_up_before_its_compressor(self) -> None:
        for delay_s, up in ((0.7, False), (1.3, True)):
            case = prepare(question(POST, [UNIT | {"compressor_delay_s": delay_s}]))
            self.assertEqual(straight_concurrent(case, case.starters[0]) is None, up, delay_s)


class Machines(unittest.TestCase):
    def test_no_motor_slips_more_than_a_third_at_full_load(self) -> None:
        """What a plate that was misread is taken for at most: a circuit that still is a motor."""
        circuit = m.circuit_of(120.0, m.feasible_lra(5.0, 10.0), 10.0)
        self.assertTrue(0.25 <= circuit.slip_fl <= 0.35)

    def test_a_transformer_is_a_third_resistance_and_its_rush_is_magnetizing(self) -> None:
        """Small ones have an X/R of two to four (from memory); magnetizing current lags nearly a
        quarter turn: power factor 0.1 to 0.3 (from memory)."""
        ohm = transformer_ohm(STEP_UP)
        self.assertTrue(2.0 <= ohm.imag / ohm.real <= 4.0)
        rush = transformer_demand(STEP_UP, 120.0).inrush
        assert rush is not None
        self.assertTrue(0.12 <= rush.va.real / abs(rush.va) <= 0.28)

    def test_a_battery_inverter_rides_half_a_second_through_low_volts(self) -> None:
        case = prepare(question(BATTERY, [UNIT]))
        self.assertTrue(0.3 <= case.source.undervolt_s <= 0.7)
