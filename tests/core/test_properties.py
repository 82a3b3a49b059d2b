"""Properties that must hold for any setup: monotone margins, repeatable results, and never an
exception, NaN or infinity.
"""

from __future__ import annotations

import copy
import json
import math
import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import HealthCheck, assume, given, reject, settings
from hypothesis import strategies as st

from ironmargin.case import prepare
from ironmargin.errors import SetupError
from ironmargin.planning.answer import check_fully
from ironmargin.setup.changed import leave_off
from ironmargin.setup.reading import read_setup
from ironmargin.starting.plan import Plan
from ironmargin.starting.scenario import StartScenario
from ironmargin.verdict.check import examine
from ironmargin.verdict.result import Result, result_json
from tests.shared import changed, checked
from tests.walking import walk

QUICK = settings(
    max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True
)
FAR_OVER = -0.9
"""Below, electronics come and go at each step: the last digit decides by how much."""
GRID_STEP = 0.002
"""Margins of starts are bisected to a tenth of a per cent."""


def figure(low: float, high: float) -> st.SearchStrategy[float]:
    return st.floats(low, high, allow_nan=False).map(lambda x: float(f"{x:.3g}"))


@st.composite
def supplies(draw: Any) -> dict[str, Any]:
    kind = draw(
        st.sampled_from(
            ["generator", "split", "parallel", "shore", "legs", "battery-inverter", "assist"]
        )
    )
    watts = draw(figure(500, 12000))
    engine = {
        "kind": "generator",
        "continuous_w": watts,
        "starting_w": watts * draw(st.sampled_from([1.0, 1.1, 1.3])),
        "eco": draw(st.booleans()),
        "inverter": draw(st.booleans()),
        "fuel": draw(st.sampled_from(["gasoline", "propane"])),
    }
    battery = {
        "kind": "battery-inverter",
        "continuous_w": watts,
        "surge_w": watts * 2,
        "surge_s": draw(figure(0.1, 10)),
    }
    post = {
        "kind": "shore",
        "breaker_a": draw(st.sampled_from([6, 15, 30, 50])),
        "source_ohm": draw(figure(0, 1.0)),
    }
    return {
        "generator": engine,
        "split": engine | {"output": "120/240", "voltage_v": 240},
        "parallel": {"kind": "parallel", "units": [engine, engine]},
        "shore": post,
        "legs": post | {"legs": draw(st.sampled_from(["split", "same-leg", "network-208"]))},
        "battery-inverter": battery,
        "assist": {
            "kind": "assist",
            "input": post,
            "input_limit_a": draw(figure(1, 30)),
            "inverter": battery,
        },
    }[kind]


@st.composite
def loads(draw: Any, at: int) -> dict[str, Any]:
    kind = draw(
        st.sampled_from(
            [
                "air-conditioner",
                "motor",
                "resistive",
                "electronic",
                "charger",
                "microwave",
                "incandescent",
            ]
        )
    )
    amps = draw(figure(0.2, 25))
    high = draw(st.booleans())
    base: dict[str, Any] = {
        "id": f"l{at}",
        "name": f"load {at}",
        "kind": kind,
        "count": draw(st.sampled_from([1, 1, 2])),
        "always_on": draw(st.booleans()),
    }
    if high:
        base["voltage_v"] = 240
    else:
        base["leg"] = draw(st.sampled_from(["L1", "L2"]))
    if kind in ("air-conditioner", "motor"):
        start = draw(
            st.sampled_from(
                ["run-capacitor", "start-capacitor", "hard-start", "soft-start", "inverter-drive"]
            )
        )
        return base | {
            "running_a": amps,
            "lra_a": amps * draw(figure(2, 9)),
            "start": start,
            "duty": draw(st.sampled_from([0.3, 1.0])),
            "wait_s": draw(st.sampled_from([0, 90, 300])),
        }
    return base | ({"watts": amps * 120} if kind == "microwave" else {"amps": amps})


@st.composite
def documents(draw: Any) -> dict[str, Any]:
    rig_loads = [draw(loads(at)) for at in range(draw(st.integers(1, 5)))]
    hookup = draw(
        st.lists(
            st.sampled_from(
                [
                    {"kind": "cord", "awg": 10, "length_m": 20},
                    {
                        "kind": "adapter",
                        "from": "TT-30",
                        "to": "14-50",
                        "rating_a": 30,
                        "feeds": "both-legs",
                    },
                    {"kind": "guard"},
                    {"kind": "cord", "awg": 14, "length_m": 90},
                    {"kind": "inline-soft-start"},
                    {"kind": "inlet", "rating_a": 30, "condition": "worn"},
                    {"kind": "splitter", "rating_a": 30},
                ]
            ),
            max_size=3,
        )
    )
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "any",
        "supply": draw(supplies()),
        "hookup": hookup,
        "conditions": {"outdoor_c": draw(figure(-20, 50)), "altitude_m": draw(figure(0, 4000))},
        "rig": {"name": "any", "service": "120/240", "main_a": 50, "loads": rig_loads},
        "wanted": [{"load": x["id"]} for x in rig_loads],
        "rules": {"trials": 20},
    }


def plain(doc: dict[str, Any]) -> Result:
    """The result without chances; a setup with a fault is none to compare."""
    try:
        setup = read_setup(doc)
    except SetupError:
        reject()
    return examine(setup, trials=0).result


def finite(value: Any) -> bool:
    if isinstance(value, dict):
        return all(map(finite, value.values()))
    if isinstance(value, list):
        return all(map(finite, value))
    return not isinstance(value, float) or math.isfinite(value)


class AnySetup(unittest.TestCase):
    @QUICK
    @given(documents())
    def test_a_result_or_a_named_fault(self, doc: dict[str, Any]) -> None:
        try:
            setup = read_setup(doc)
        except SetupError as error:
            self.assertTrue(all(f.path and f.message for f in error.faults))
            return
        result = check_fully(setup).result
        body = result_json(result)
        self.assertTrue(finite(body))
        json.dumps(body, allow_nan=False)
        self.assertIn(result.verdict, ("holds", "thin", "fails"))
        self.assertTrue(result.weakest.sentence)
        chances = [s.chance for s in result.starts if s.chance is not None]
        short = result.iron_margin < 0 or any(c < 0.5 for c in chances)
        self.assertEqual(result.verdict == "fails", short)
        self.assertEqual(bool(result.why), result.verdict != "holds")
        for start in (*result.starts, *((result.coincidence,) if result.coincidence else ())):
            self.assertEqual(start.seconds is not None, start.outcome == "starts")
            self.assertEqual(start.margin < 0, start.outcome != "starts")
            if start.chance is not None:
                self.assertLessEqual(start.chance_rig_low, start.chance + 1e-9)
                self.assertGreaterEqual(start.chance_rig_high, start.chance - 1e-9)
        for gone in result.dropped_out:
            self.assertLess(gone.margin, 0)

    @QUICK
    @given(
        st.recursive(
            st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=5),
            lambda x: (
                st.lists(x, max_size=3)
                | st.dictionaries(
                    st.sampled_from(
                        [
                            "format",
                            "version",
                            "name",
                            "supply",
                            "kind",
                            "rig",
                            "loads",
                            "wanted",
                            "hookup",
                            "continuous_w",
                            "id",
                            "x",
                        ]
                    ),
                    x,
                    max_size=5,
                )
            ),
            max_leaves=20,
        )
    )
    def test_any_json_is_a_setup_or_a_fault(self, junk: Any) -> None:
        with self.assertRaises(SetupError) as caught:
            read_setup(junk)
        self.assertTrue(caught.exception.faults)

    @QUICK
    @given(st.sampled_from([1, 2, 3, 4, 9, 10]), figure(1.02, 2.0))
    def test_more_supply_never_lowers_a_margin(self, number: int, times: float) -> None:
        def stronger(doc: dict[str, Any]) -> None:
            for unit in doc["supply"].get("units", [doc["supply"]]):
                unit["continuous_w"] *= times
                unit["starting_w"] *= times

        before, after = (
            examine(changed(number, lambda d: None), trials=0).result,
            examine(changed(number, stronger), trials=0).result,
        )
        for a, b in zip(before.starts, after.starts, strict=True):
            self.assertGreaterEqual(b.margin, a.margin - GRID_STEP)
        for x, y in zip(before.sustain, after.sustain, strict=True):
            self.assertGreaterEqual(y.margin, x.margin - 0.01)

    @QUICK
    @given(st.sampled_from([1, 2, 5, 6, 7]), figure(1.1, 6.0))
    def test_a_longer_cord_never_raises_volts(self, number: int, times: float) -> None:
        def longer(doc: dict[str, Any]) -> None:
            for item in doc["hookup"]:
                if item["kind"] == "cord":
                    item["length_m"] *= times

        before, after = (
            examine(changed(number, lambda d: None), trials=0).result,
            examine(changed(number, longer), trials=0).result,
        )
        for a, b in zip(before.volts, after.volts, strict=True):
            self.assertLessEqual(b.v, a.v + 1e-6)

    def test_fewer_loads_never_lower_a_margin(self) -> None:
        for number in (5, 7, 9):
            full = checked(number)
            for load in full.case.setup.rig.loads:
                less = leave_off(full.case.setup, load.id)
                if not less.wanted:
                    continue
                after = {s.load: s for s in examine(less, trials=0).result.starts}
                for before in full.result.starts:
                    if before.load in after:
                        self.assertGreaterEqual(
                            after[before.load].margin, before.margin - GRID_STEP
                        )


def same(one: Result, other: Result) -> None:
    """Assert that two results say the same, load by load."""
    starts = {s.load: s for s in other.starts}
    assert len(starts) == len(one.starts)
    assert (one.coincidence is None) == (other.coincidence is None)
    pairs = [(s, starts[s.load]) for s in one.starts]
    if one.coincidence and other.coincidence:
        pairs.append((one.coincidence, other.coincidence))
    for a, b in pairs:
        assert a.outcome == b.outcome, (a.load, a.outcome, b.outcome)
        assert a.margin < FAR_OVER or abs(a.margin - b.margin) < 2 * GRID_STEP, (a.load, b.margin)
    assert {x.load for x in one.dropped_out} == {x.load for x in other.dropped_out}
    if one.iron_margin > FAR_OVER:
        assert abs(one.iron_margin - other.iron_margin) < 2 * GRID_STEP
        assert one.verdict == other.verdict


class Alike(unittest.TestCase):
    """The order a setup is written down in, and which of two like legs is called L1, change
    nothing.
    """

    @QUICK
    @given(documents())
    def test_the_order_loads_are_written_in(self, doc: dict[str, Any]) -> None:
        other = copy.deepcopy(doc)
        other["rig"]["loads"].reverse()
        other["wanted"].reverse()
        same(plain(doc), plain(other))

    @walk
    @QUICK
    @given(documents())
    def test_the_legs_of_a_split_service(self, doc: dict[str, Any]) -> None:
        """Not of a network of 120/208 V, whose legs follow each other, and not where one leg alone
        is fed.
        """
        supply = doc["supply"]
        both = supply.get("output") == "120/240" or supply.get("legs") in ("split", "same-leg")
        assume(both)
        other = copy.deepcopy(doc)
        for load in other["rig"]["loads"]:
            if "leg" in load:
                load["leg"] = {"L1": "L2", "L2": "L1"}[load["leg"]]
        same(plain(doc), plain(other))


class Repeatable(unittest.TestCase):
    def test_the_same_seed_gives_the_same_result(self) -> None:
        setup = checked(1).case.setup
        self.assertEqual(result_json(check_fully(setup).result), result_json(checked(1).result))
        near = checked(9).case.setup
        other = replace(near, rules=replace(near.rules, seed=2))
        self.assertNotEqual(
            examine(other).result.starts[0].chance, checked(9).result.starts[0].chance
        )

    def test_no_run_depends_on_those_before_it(self) -> None:
        case = prepare(changed(9, lambda d: None))
        warm = np.zeros(len(case.breakers))
        used = StartScenario(case, Plan((case.starters[0],)), warm)
        before = [
            a.copy()
            for a in (used.model.motors.r1, used.model.loads.power_y, used.model.supply.warm)
        ]
        for source_strength in (0.6, 1.3, 0.2):
            used.run(source_strength)
        fresh = StartScenario(case, Plan((case.starters[0],)), warm)
        for source_strength in (0.9, 1.0):
            a, b = used.run(source_strength), fresh.run(source_strength)
            self.assertEqual(
                (a.outcome, a.peak_a, a.lowest_v, a.seconds, a.opened_s),
                (b.outcome, b.peak_a, b.lowest_v, b.seconds, b.opened_s),
            )
            np.testing.assert_array_equal(a.trace.speed, b.trace.speed)
        for now, then in zip(
            (used.model.motors.r1, used.model.loads.power_y, used.model.supply.warm),
            before,
            strict=True,
        ):
            np.testing.assert_array_equal(now, then)

    def test_the_picture_does_not_change_the_chance(self) -> None:
        setup = checked(9).case.setup
        with_picture = examine(setup, picture="large").result
        self.assertEqual(
            [s.chance for s in with_picture.starts], [s.chance for s in checked(9).result.starts]
        )


if __name__ == "__main__":
    unittest.main()
