"""What goes wrong on the bench, and when: overloads, a lost neutral, a guard, a fan that is still
running up. Times and limits are common practice without a source.
"""

from __future__ import annotations

import json
import unittest
from itertools import pairwise
from typing import Any

from ironmargin.bench.clock import Bench
from ironmargin.bench.script import Begin
from ironmargin.bench.words import bench_json
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from tests.core.test_bench import kinds, played, step

UNIT = {
    "id": "roof", "name": "Roof", "kind": "air-conditioner", "running_a": 12, "lra_a": 60,
    "start": "start-capacitor", "fan_high_a": 3.0,
}  # fmt: skip


def on(supply: dict[str, Any], *loads: dict[str, Any], **more: Any) -> Setup:
    return read_setup(
        {
            "format": "iron-margin/setup", "version": 1, "name": "q", "supply": supply,
            "rig": {"name": "q", "service": "120/240", "main_a": 50, "loads": list(loads)},
            "wanted": [{"load": x["id"]} for x in loads],
        } | more
    )  # fmt: skip


def heater(ident: str, leg: str, amps: float) -> dict[str, Any]:
    return {"id": ident, "name": ident, "kind": "resistive", "leg": leg, "amps": amps}


class Mishaps(unittest.TestCase):
    SPLIT = {"kind": "shore", "breaker_a": 50, "legs": "split"}

    def test_an_overload_lets_a_motor_try_again_after_two_and_a_half_minutes(self) -> None:
        weak = {"kind": "shore", "breaker_a": 50, "source_ohm": 4.0}
        bench = played(
            on(weak, UNIT),
            step(0, "set", on=True),
            step(1, "load", "roof", mode="high-cool"),
            hours=0.3,
        )
        tries = [e.at_s for e in bench.events if e.kind == "stalled"]
        self.assertGreater(len(tries), 2)
        for before, after in pairwise(tries):
            self.assertAlmostEqual(after - before, 150.0, delta=8.0)
        json.dumps(bench_json(bench), allow_nan=False)  # a stall has its moment, too

    def test_what_sees_15_in_100_too_much_may_burn(self) -> None:
        """Two heaters in series across 240 V share it by the other's amps: 13 A beside 10 A leave
        the smaller 136 V, 14.2 A leave it 141 V.
        """
        for large, burnt in ((13.0, False), (14.2, True)):
            setup = on(self.SPLIT, heater("a", "L1", large), heater("b", "L2", 10.0))
            bench = played(
                setup, step(60, "neutral", on=False), begin={"all": "as-wanted"}, hours=0.05
            )
            (event,) = (e for e in bench.events if e.where == "neutral")
            self.assertEqual("b may burn" in event.why, burnt, event.why)

    def test_a_guard_opens_a_second_after_the_volts_go(self) -> None:
        setup = on(self.SPLIT, heater("a", "L1", 10.0), hookup=[{"kind": "guard", "low_v": 102}])
        bench = played(setup, step(600, "volts", figure=95), begin={"all": "as-wanted"}, hours=0.3)
        (opened, *_) = (e for e in bench.events if e.kind == "guard-opened")
        self.assertAlmostEqual(opened.at_s, 601.0, delta=0.05)

    def test_a_guard_opens_five_seconds_after_the_amps_go_over_its_limit(self) -> None:
        setup = on(
            self.SPLIT, heater("a", "L1", 12.0),
            hookup=[{"kind": "guard", "overload_a": 10, "delay_s": 60}],
        )  # fmt: skip
        bench = played(setup, step(0, "set", on=True), step(600, "load", "a", on=True), hours=0.3)
        (opened, *_) = (e for e in bench.events if e.kind == "guard-opened")
        self.assertAlmostEqual(opened.at_s, 605.0, delta=0.05)

    def test_knocked_straight_to_high_the_fan_is_still_running_up(self) -> None:
        def peak(fan_s: float) -> float:
            unit = UNIT | {"compressor_delay_s": 0.5}
            bench = Bench(on({"kind": "shore", "breaker_a": 30}, unit), Begin(all="as-wanted"))
            one = bench.state.loads["roof"]
            bench.state.t_s, one.since_s = 1000.0, 1000.0 - fan_s
            one.running, one.compressor, one.due_s, one.turned_s = True, False, 1000.0, None
            bench._start(("roof",))
            return max(e.amps for e in bench.events if e.where == "roof" and e.amps)

        self.assertGreater(peak(1.4), peak(1.6) + 1.0)
        self.assertEqual(peak(1.6), peak(60.0))

    def test_nothing_of_it_happens_to_a_sound_rig(self) -> None:
        bench = played(
            on(self.SPLIT, UNIT, heater("a", "L1", 10.0)), begin={"all": "as-wanted"}, hours=0.2
        )
        self.assertEqual(kinds(bench, "stalled", "guard-opened", "tripped", "dropped-out"), [])


if __name__ == "__main__":
    unittest.main()
