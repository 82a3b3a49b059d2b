"""Bounds of what is accepted, and sizes of what is advised: each is met on both its sides, so that
half of it, or half as much again, is noticed.
"""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.case import prepare
from ironmargin.errors import SetupError
from ironmargin.planning.change import Change
from ironmargin.planning.changes import changes_of
from ironmargin.planning.order import running_order
from ironmargin.setup.hookup import Transformer
from ironmargin.setup.inverters import Assist
from ironmargin.setup.model import Setup
from tests.core.test_engine import POST, UNIT, question

LAMP: dict[str, Any] = {"id": "l", "name": "Lamp", "kind": "resistive", "watts": 100}
SET: dict[str, Any] = {"kind": "generator", "continuous_w": 2000, "starting_w": 2500}


def refused(supply: dict[str, Any], load: dict[str, Any], **more: Any) -> set[str]:
    """The codes of the faults of a question; none where it is taken."""
    try:
        question(supply, [load], **more)
    except SetupError as error:
        return {fault.code for fault in error.faults}
    return set()


def changes(setup: Setup, kind: str) -> list[Change]:
    return [change for change in changes_of(setup, prepare(setup)) if change.kind == kind]


class Accepted(unittest.TestCase):
    def test_watts_fit_amps_within_half(self) -> None:
        for times, fits in ((0.45, False), (0.55, True), (1.45, True), (1.55, False)):
            load = LAMP | {"watts": 1200.0 * times, "amps": 10.0}
            self.assertEqual(not refused(POST, load), fits, times)

    def test_a_load_is_for_a_service_there_is(self) -> None:
        """Between 140 and 195 V nothing is rated."""
        for volts, fits in ((139, True), (141, False), (194, False), (196, True)):
            found = refused(
                POST | {"legs": "split"}, LAMP | {"voltage_v": volts}, service="120/240"
            )
            self.assertEqual("load-voltage" not in found, fits, volts)

    def test_locked_rotor_amps_are_no_slip_of_the_pen(self) -> None:
        for times, fits in ((39.0, True), (41.0, False)):
            self.assertEqual(not refused(POST, UNIT | {"lra_a": 9.5 * times}), fits, times)

    def test_an_output_is_rated_for_its_service(self) -> None:
        """A split one as it is stated: leg to neutral, or across both legs."""
        for output, volts, fits in (
            ("120", 129, True), ("120", 131, False), ("230", 201, True), ("230", 199, False),
            ("120/240", 129, True), ("120/240", 131, False), ("120/240", 199, False),
            ("120/240", 201, True),
        ):  # fmt: skip
            found = refused(SET | {"output": output, "voltage_v": volts}, LAMP)
            self.assertEqual("output-voltage" not in found, fits, (output, volts))

    def test_two_readings_of_a_post_lie_apart_and_tell_a_service(self) -> None:
        for volts, amps, fits in (
            (119.9, 0.4, False), (119.9, 0.6, True), (110.5, 2.0, True), (109.5, 2.0, False),
        ):  # fmt: skip
            post = POST | {"readings": [[120.0, 0.0], [volts, amps]]}
            self.assertEqual("readings" not in refused(post, LAMP), fits, (volts, amps))

    def test_a_step_up_fits_what_it_is_fed_and_doubles_it(self) -> None:
        for from_v, to_v, fits in (
            (141, 240, True), (142, 240, False), (104, 240, False), (105, 240, True),
            (120, 181, True), (120, 179, False),
        ):  # fmt: skip
            part = {"kind": "transformer", "va": 3000, "from_v": from_v, "to_v": to_v}
            found = refused(POST, LAMP, hookup=[part])
            self.assertEqual("transformer" not in found, fits, (from_v, to_v, found))


class Advised(unittest.TestCase):
    def test_a_cord_of_five_meters_is_short_enough(self) -> None:
        for length_m, advised in ((4.5, False), (5.5, True)):
            cord = {"kind": "cord", "awg": 14, "length_m": length_m}
            found = changes(question(POST, [UNIT], hookup=[cord]), "shorter-cord")
            self.assertEqual(bool(found), advised, length_m)

    def test_an_input_limit_leaves_the_post_its_hours_and_the_set_its_rating(self) -> None:
        """80 % of a breaker for hours on end (NEC 210.20(A)), nine tenths of a set's rating."""
        for supply, limit_a in ((POST | {"breaker_a": 20}, 16.0), (SET, 15.0)):
            setup = question(supply, [UNIT], conditions={"outdoor_c": 20})
            (change,) = changes(setup, "assist")
            after = change.apply(setup)
            assert after is not None
            assert isinstance(after.supply, Assist)
            self.assertAlmostEqual(after.supply.input_limit_a, limit_a)

    def test_a_step_up_is_as_small_ones_are_built(self) -> None:
        """From memory: impedance of two to four per cent, a few per cent without load."""
        high = {"id": "h", "name": "Dryer", "kind": "resistive", "watts": 2700, "voltage_v": 240}
        setup = question(POST, [high])
        (change,) = changes(setup, "transformer")
        after = change.apply(setup)
        assert after is not None
        (part,) = (item for item in after.hookup if isinstance(item, Transformer))
        self.assertEqual(part.va, 3000.0)  # a tenth to spare
        self.assertTrue(2.0 <= part.impedance_pct <= 4.0)
        self.assertTrue(0.007 <= part.no_load_w / part.va <= 0.014)
        self.assertTrue(0.03 <= part.no_load_va / part.va <= 0.05)

    def test_a_minute_between_compressors_less_after_what_settles_sooner(self) -> None:
        """Common practice, no source: a minute for a unit, ten seconds for its fan alone, a quarter
        of a minute for another motor, five seconds for the rest."""
        motor = {"id": "m", "name": "Motor", "kind": "motor", "running_a": 2.0, "lra_a": 9.0}
        fan = {"id": "f", "name": "Fan", "kind": "electronic", "watts": 90}
        setup = question(POST | {"breaker_a": 50}, [UNIT, motor, fan, LAMP])
        waits = [step.wait_s for step in running_order(setup).sequence.steps]
        self.assertEqual(waits, [0, 10, 60, 15, 5])

    def test_the_next_size_is_clearly_larger_not_the_same_printed_anew(self) -> None:
        """From a set of 2,690 W one of 2,800 W is the same size, from 2,610 W the next."""
        for continuous_w, next_w in ((2690, 3100.0), (2610, 2800.0)):
            small = SET | {"continuous_w": continuous_w, "starting_w": 2900, "inverter": True}
            setup = question(small, [UNIT])
            after = changes(setup, "next-size")[0].apply(setup)
            assert after is not None
            self.assertEqual(after.supply.carrying[0].continuous_w, next_w)
