"""Setups at the edge of each limit, with what an electrician would say of them. Common practice
where no source is named.
"""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.planning.answer import check
from ironmargin.setup.model import Setup
from ironmargin.verdict.check import examine
from ironmargin.verdict.result import LimitRow, Result
from ironmargin.verdict.stations import stations
from tests.core.test_engine import UNIT, question

POST: dict[str, Any] = {"kind": "shore", "breaker_a": 30, "source_ohm": 0.05}
SET: dict[str, Any] = {"kind": "generator", "continuous_w": 5500, "starting_w": 7000}
SPLIT_SET = SET | {"output": "120/240", "voltage_v": 240}
BRIEF = {"rules": {"continuous_fraction": 1.0, "trials": 0}}
HOUSE = {"inlet": {"kind": "inlet", "rating_a": 50}, "transfer": {"kind": "transfer"}}


def heater(watts: float, **more: Any) -> dict[str, Any]:
    return {"id": "heater", "name": "Heater", "kind": "resistive", "watts": watts} | more


def named(setup: Setup, name: str) -> Setup:
    """The same question about a rig of another name."""
    from dataclasses import replace

    return replace(setup, rig=replace(setup.rig, name=name))


def row_of(result: Result, limit: str, where: str | None = None) -> LimitRow:
    """The ledger's row of a limit, at a place."""
    return next(r for r in result.limits if r.limit == limit and where in (None, r.where))


class Contacts(unittest.TestCase):
    def part(self, condition: str, watts: float) -> Result:
        adapter = {"kind": "adapter", "rating_a": 30, "condition": condition}
        return check(question(POST, [heater(watts)], hookup=[adapter], **BRIEF))

    def test_a_hot_contact_is_out_of_service_at_any_current(self) -> None:
        for watts in (50, 1200, 2880):
            result = self.part("hot", watts)
            self.assertEqual((result.verdict, result.weakest.check), ("fails", "path"), watts)
            self.assertIn("out of service", result.weakest.sentence)
            self.assertTrue(any("has been hot" in c for c in result.cautions))

    def test_a_worn_contact_is_limited_by_its_watts(self) -> None:
        """0.02 ohm and 6 W: 17.3 A (watts from memory)."""
        self.assertEqual(self.part("worn", 1500).verdict, "holds")
        result = self.part("worn", 2640)
        self.assertEqual(result.verdict, "fails")
        self.assertIn("W in it", result.weakest.sentence)
        self.assertAlmostEqual(row_of(result, "contact").allowed, 17.32, delta=0.01)


class Ratings(unittest.TestCase):
    def over(self, part: dict[str, Any], watts: float, outdoor_c: float = 20.0) -> Result:
        conditions = {"outdoor_c": outdoor_c}
        setup = question(POST, [heater(watts)], hookup=[part], conditions=conditions, **BRIEF)
        return check(setup)

    def test_a_15_a_plug_typed_as_30_a_is_a_15_a_plug(self) -> None:
        """NEMA WD 6: a 5-15 is rated 15 A."""
        for part in (
            {"kind": "outlet", "type": "5-15", "rating_a": 30},
            {"kind": "adapter", "from": "5-15", "to": "TT-30", "rating_a": 30},
            {"kind": "cord", "awg": 10, "length_m": 2, "rating_a": 30, "type": "5-15"},
        ):
            result = self.over(part, 2400)
            self.assertEqual((result.verdict, result.path[0].rating_a), ("fails", 15.0), part)
            self.assertTrue(result.path[0].unprotected)
            self.assertTrue(any("entered as 30 A" in c for c in result.cautions), part)

    def test_a_cord_s_ampacity_wins_over_what_was_typed(self) -> None:
        """NEC Table 400.5(A)(1), from memory: 14 AWG carries 18 A."""
        cord = {"kind": "cord", "awg": 14, "length_m": 2, "rating_a": 30}
        self.assertEqual(self.over(cord, 2400).verdict, "fails")
        self.assertEqual(self.over(cord, 1500).verdict, "holds")

    def test_a_listed_cord_on_a_hot_day_or_a_drum_is_thin_not_failed(self) -> None:
        """NEC Table 310.15(B)(1), 60 °C column, from memory: 0.58 at 46 to 50 °C."""
        cord = {"kind": "cord", "awg": 14, "length_m": 2}
        hot = self.over(cord, 1600, outdoor_c=46.0)
        self.assertEqual(hot.verdict, "thin")
        self.assertAlmostEqual(hot.path[0].early_a or 0.0, 18 * 0.58, places=3)
        self.assertEqual(self.over(cord, 1600).verdict, "holds")
        self.assertEqual(self.over(cord | {"coiled": True}, 1600).verdict, "thin")
        metric = {"kind": "cord", "mm2": 1.5, "length_m": 2}
        self.assertEqual(self.over(metric, 1560, outdoor_c=55.0).verdict, "thin")

    def test_a_cord_on_its_drum_is_to_be_uncoiled_where_it_carries_too_much(self) -> None:
        for watts, said in ((1500.0, True), (600.0, False)):
            cord = {"kind": "cord", "awg": 14, "length_m": 5, "coiled": True}
            result = check(question(POST, [heater(watts)], hookup=[cord], **BRIEF))
            self.assertEqual(any("Uncoil" in c for c in result.cautions), said, watts)
            if said:
                self.assertIn("while it is coiled up", result.weakest.sentence)

    def test_ratings_are_for_hours_and_not_for_a_start(self) -> None:
        cord = {"kind": "cord", "awg": 14, "length_m": 2}
        result = check(question(POST, [UNIT], hookup=[cord], **BRIEF))
        self.assertGreater(result.starts[0].peak_a, 40.0)
        self.assertEqual(result.verdict, "holds")

    def test_what_no_breaker_protects_is_named_at_any_margin(self) -> None:
        cord = {"kind": "cord", "awg": 14, "length_m": 2, "name": "the thin cord"}
        result = self.over(cord, 120)
        self.assertGreater(result.path[0].margin, 0.9)
        self.assertTrue(any("No breaker protects the thin cord" in c for c in result.cautions))


class Breakers(unittest.TestCase):
    def carrying(self, amps: float, outdoor_c: float = 20.0, **post: Any) -> Result:
        supply = {"kind": "shore", "breaker_a": 30, "source_ohm": 1e-4} | post
        load = {"id": "x", "name": "x", "kind": "resistive", "amps": amps}
        conditions = {"outdoor_c": outdoor_c, "target_hours": 2.0}
        return check(question(supply, [load], conditions=conditions, **BRIEF))

    def test_a_30_a_breaker_carries_33_to_35_a_for_an_hour(self) -> None:
        """Common practice, no source; the adapter behind it turned brown meanwhile."""
        for amps in (33.0, 35.0):
            self.assertEqual(self.carrying(amps).verdict, "thin", amps)
        self.assertEqual(self.carrying(36.0).verdict, "fails")
        self.assertEqual(self.carrying(24.0).verdict, "holds")

    def test_in_a_hot_box_it_opens_within_minutes(self) -> None:
        cool, hot = self.carrying(33.0), self.carrying(33.0, outdoor_c=45.0)
        self.assertEqual((cool.verdict, hot.verdict), ("thin", "fails"))
        opens_s = hot.breakers[0].hold_s_nominal
        assert opens_s is not None
        self.assertTrue(60.0 < opens_s < 600.0, opens_s)
        self.assertIn("opens after about", hot.weakest.sentence)

    def test_a_worn_breaker_is_early_or_late(self) -> None:
        self.assertEqual(self.carrying(31.0, breaker_trips="early").verdict, "fails")
        self.assertEqual(self.carrying(36.0, breaker_trips="late").verdict, "thin")

    def test_what_may_hold_for_an_hour_says_what_may_not(self) -> None:
        adapter = {"kind": "adapter", "rating_a": 30, "name": "the adapter"}
        load = {"id": "x", "name": "x", "kind": "resistive", "amps": 34}
        result = check(question(POST, [load], hookup=[adapter], **BRIEF))
        said = "A 30 A breaker may hold 34 A for an hour; the adapter may not."
        self.assertTrue(any(said in c for c in result.cautions), result.cautions)
        late = result.breakers[0].hold_s_late
        self.assertTrue(late is None or late > 3600.0)

    def branch(self, breaker: dict[str, Any], load: dict[str, Any]) -> Result:
        rig = {"name": "r", "service": "230", "main_a": 63, "circuits": [breaker]}
        supply = {"kind": "shore", "breaker_a": 63, "voltage_v": 230, "source_ohm": 0.05}
        rig["loads"] = [load | {"circuit": breaker["id"], "voltage_v": 230}]
        return check(question(supply, [load], rig=rig, rules={"trials": 0}))

    def test_95_a_into_a_6_a_c_branch_opens_it_at_once(self) -> None:
        """IEC 60898-1: a C breaker opens at once from 5 to 10 times its rating."""
        saw = {"id": "saw", "name": "Saw", "kind": "motor", "running_a": 5, "lra_a": 95}
        branch = {"id": "b", "breaker_a": 6, "breaker_standard": "IEC60898-C"}
        result = self.branch(branch, saw)
        self.assertEqual(result.verdict, "fails")
        self.assertIn("branch", result.weakest.sentence)
        self.assertEqual(result.starts[0].outcome, "trips")
        large = self.branch(branch | {"breaker_a": 20, "breaker_standard": "IEC60898-D"}, saw)
        self.assertEqual(large.verdict, "holds", large.weakest.sentence)


class Guards(unittest.TestCase):
    def behind(self, guard: dict[str, Any], loads: list[dict[str, Any]], **more: Any) -> Result:
        hookup = [{"kind": "guard"} | guard]
        return check(question(more.pop("supply", POST), loads, hookup=hookup, **BRIEF, **more))

    def test_it_opens_at_the_lower_of_rating_and_overload(self) -> None:
        load = {"id": "x", "name": "x", "kind": "resistive", "amps": 34}
        for guard in ({"overload_a": 32, "rating_a": 50}, {"overload_a": 50, "rating_a": 32}):
            result = self.behind(guard, [load], conditions={"outdoor_c": 20, "target_hours": 2})
            self.assertEqual(result.verdict, "fails")
            self.assertEqual(row_of(result, "guard-amps").allowed, 32.0)
            self.assertIn("guard opens", result.weakest.sentence)

    def test_it_watches_the_volts_where_it_stands(self) -> None:
        """A cord behind it drops nothing for it, a cord before it does."""
        cord = {"kind": "cord", "awg": 12, "length_m": 70}
        guard = {"kind": "guard", "low_v": 112}
        load = heater(1600)
        after = check(question(POST, [load], hookup=[guard, cord], **BRIEF))
        before = check(question(POST, [load], hookup=[cord, guard], **BRIEF))
        self.assertGreaterEqual(row_of(after, "guard-volts").margin, 0.0)
        self.assertLess(row_of(before, "guard-volts").margin, 0.0)

    def test_it_stands_before_an_inverter_too(self) -> None:
        """96 V at the input of an inverter/charger behind a guard that opens at 102 V."""
        supply = assist(input_ohm=2.0, limit_a=12.0)
        result = self.behind({"low_v": 102}, [heater(300)], supply=supply)
        self.assertEqual(result.verdict, "fails")
        self.assertAlmostEqual(
            next(v.v for v in result.volts if v.where == "guard"), 120 - 24, delta=0.5
        )

    def test_a_floating_neutral_keeps_a_guard_open_that_refuses_it(self) -> None:
        floating = SET | {"neutral": "floating"}
        self.assertEqual(
            self.behind({"open_ground": True}, [heater(900)], supply=floating).verdict, "fails"
        )
        for guard, supply in (
            ({"open_ground": False}, floating),
            ({"open_ground": True}, SET | {"neutral": "bonded"}),
            ({"open_ground": True}, SET),
        ):
            result = self.behind(guard, [heater(900)], supply=supply)
            self.assertEqual(result.verdict, "holds", (guard, supply))
        self.assertTrue(any("open ground" in c for c in result.cautions))


def assist(input_ohm: float = 0.15, limit_a: float = 4.0, **post: Any) -> dict[str, Any]:
    """An inverter/charger on a 15 A outlet."""
    inverter = {"kind": "battery-inverter", "continuous_w": 3000, "surge_w": 6000}
    outlet = {"kind": "shore", "breaker_a": 15, "source_ohm": input_ohm} | post
    return {"kind": "assist", "input": outlet, "input_limit_a": limit_a, "inverter": inverter}


class Inputs(unittest.TestCase):
    def test_what_else_hangs_on_the_outlet_s_circuit_counts(self) -> None:
        """4 A of an inverter/charger and 10 A of others are 14 A for hours on a 15 A breaker."""
        alone = check(question(assist(), [heater(1200)], rules={"trials": 0}))
        shared = check(question(assist(also_on_circuit_a=10), [heater(1200)], rules={"trials": 0}))
        self.assertEqual((alone.verdict, shared.verdict), ("holds", "fails"))
        self.assertEqual(shared.weakest.where, "input")

    def test_the_input_passes_the_whole_path(self) -> None:
        cord = {"kind": "cord", "awg": 16, "length_m": 60, "rating_a": 3}
        result = check(question(assist(), [heater(900)], hookup=[cord], rules={"trials": 0}))
        self.assertEqual((result.verdict, result.weakest.check), ("fails", "path"))
        self.assertEqual(result.path[0].amps, 4.0)

    def test_low_volts_at_the_input_fail(self) -> None:
        result = check(question(assist(input_ohm=1.6, limit_a=12), [heater(900)], **BRIEF))
        self.assertEqual(result.weakest.check, "voltage")
        self.assertIn("input", result.weakest.sentence)


class Volts(unittest.TestCase):
    def at(self, legs: str, compressor: dict[str, Any], **post: Any) -> Result:
        supply = {"kind": "shore", "breaker_a": 50, "legs": legs, "source_ohm": 1e-3} | post
        unit = {"id": "c", "name": "Compressor", "kind": "motor", "voltage_v": 240, "lra_a": 40}
        unit |= {"running_a": 8, "start": "start-capacitor"} | compressor
        return check(question(supply, [unit], service="120/240", rules={"trials": 0}))

    def test_a_240_v_compressor_on_a_208_v_service_fails(self) -> None:
        """NEMA MG 1: rated voltage plus or minus 10 %."""
        self.assertEqual(self.at("network-208", {}).verdict, "fails")
        self.assertEqual(self.at("network-208", {}, voltage_v=117.2).verdict, "fails")
        self.assertIn("nameplate of 240 V", self.at("network-208", {}).weakest.sentence)

    def test_a_208_230_v_nameplate_takes_both(self) -> None:
        plate = {"voltage_v": 230, "voltage_min_v": 208, "voltage_max_v": 230}
        self.assertEqual(self.at("network-208", plate).verdict, "holds")
        self.assertEqual(self.at("split", plate, voltage_v=110.0).verdict, "holds")
        self.assertEqual(self.at("split", plate, voltage_v=111.0).volts[1].where, "c")

    def test_too_many_volts_fail_too(self) -> None:
        self.assertEqual(self.at("split", {"voltage_v": 208, "running_a": 9}).verdict, "fails")


class Neutrals(unittest.TestCase):
    def electronics(self, power_factor: float, kind: str = "L2") -> Result:
        load = {"kind": "electronic", "watts": 1500, "power_factor": power_factor}
        loads = [load | {"id": leg, "name": leg, "leg": leg} for leg in ("L1", kind)]
        supply = {"kind": "shore", "breaker_a": 50, "legs": "split"}
        cord = {"kind": "cord", "awg": 6, "length_m": 5}
        return check(question(supply, loads, service="120/240", hookup=[cord], **BRIEF))

    def test_third_harmonics_of_uncorrected_electronics_do_not_cancel(self) -> None:
        """IEEE 1100, from memory: up to 1.7 times one leg on three of them."""
        result = self.electronics(0.65)
        leg_a = result.legs["L1"].a
        self.assertAlmostEqual(result.legs["N"].a, 2 * 0.577 * leg_a, delta=0.02 * leg_a)
        self.assertLess(self.electronics(0.98).legs["N"].a, 0.5)

    def test_the_neutral_fails_where_it_carries_more_than_its_part(self) -> None:
        load = {"kind": "electronic", "watts": 3000, "power_factor": 0.65}
        loads = [load | {"id": leg, "name": leg, "leg": leg} for leg in ("L1", "L2")]
        supply = {"kind": "shore", "breaker_a": 50, "legs": "split", "source_ohm": 0.02}
        cord = {"kind": "cord", "awg": 8, "length_m": 3}
        result = check(question(supply, loads, service="120/240", hookup=[cord], **BRIEF))
        self.assertLess(row_of(result, "neutral").margin, 0.0)
        self.assertEqual(result.verdict, "fails")


class Legs(unittest.TestCase):
    def test_two_outlets_of_one_leg_are_said(self) -> None:
        loads = [heater(2400, leg="L1"), heater(2400, leg="L2") | {"id": "other"}]
        splitter = [{"kind": "splitter", "rating_a": 30}]
        rig = {"name": "r", "service": "120/240", "main_a": 50, "loads": loads}
        for legs, words in (("same-leg", ["no 240 V", "39 A"]), ("split", [])):
            post = POST | {"legs": legs, "source_ohm": 0.15}
            result = check(question(post, loads, hookup=splitter, rig=rig, **BRIEF))
            said = [c for c in result.cautions if "the same leg" in c]
            self.assertEqual(len(said), bool(words), legs)
            for word in words:
                self.assertIn(word, said[0])

    def test_a_set_is_held_against_its_busier_leg_and_each_leg_against_its_own_amps(self) -> None:
        loads = [heater(w, id=leg, name=leg, leg=leg) for leg, w in (("L1", 3000), ("L2", 600))]
        checked = examine(question(SPLIT_SET, loads, service="120/240", **BRIEF))
        result, found = checked.result, {s.key: s for s in stations(checked)}
        first, second = found["leg-L1"], found["leg-L2"]
        self.assertLess(first.margin, 0.0)
        allowed = result.legs["L2"].limit_a
        assert allowed is not None
        self.assertAlmostEqual(second.margin, 1.0 - result.legs["L2"].a / allowed, places=6)


if __name__ == "__main__":
    unittest.main()
