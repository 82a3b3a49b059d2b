"""Setups at the edge of a limit: houses, paralleled sets, contactors, the rule for hours."""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.errors import SetupError
from ironmargin.planning.answer import check
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine
from ironmargin.verdict.result import Result
from tests.core.test_edge_setups import BRIEF, HOUSE, POST, SET, SPLIT_SET, heater
from tests.core.test_engine import UNIT, question


class Contactors(unittest.TestCase):
    """Those of residential units drop out at 43 to 56 % of their volts in utility tests (from
    memory): a dip that turns the compressor may let its contactor go.
    """

    def said(self, **more: Any) -> list[str]:
        unit = {"id": "unit", "name": "Unit", "kind": "motor", "voltage_v": 240, "lra_a": 80}
        load = unit | {"running_a": 15, "start": "hard-start"} | more
        rig = {"name": "r", "service": "120/240", "main_a": 50, "loads": [load]}
        result = check(question(SPLIT_SET, [load], rig=rig, **BRIEF))
        self.assertEqual(result.starts[0].outcome, "starts")
        return [c for c in result.cautions if "contactor" in c]

    def test_a_deep_dip_is_cautioned_and_a_shallow_one_is_not(self) -> None:
        self.assertEqual(len(self.said()), 1)
        self.assertIn("keep the dip above 66 V", self.said()[0])
        soft = {"start": "soft-start", "soft_start": {"fraction": 0.3, "learned_starts": 5}}
        self.assertEqual(self.said(**soft), [])

    def test_a_pump_or_a_rooftop_unit_has_none(self) -> None:
        self.assertEqual(self.said(metering="none"), [])


class Houses(unittest.TestCase):
    def house(self, supply: dict[str, Any], hookup: list[dict[str, Any]], **rig: Any) -> Result:
        service = rig.pop("service", "120/240")
        setup = question(supply, [heater(900, **rig.pop("load", {}))], service=service, **BRIEF)
        from dataclasses import replace

        from ironmargin.setup.reading import read_setup, write_setup

        document = write_setup(replace(setup, rig=replace(setup.rig, **rig)))
        return check(read_setup(document | {"hookup": hookup}))

    def test_a_house_without_an_inlet_and_transfer_gear_violates_code(self) -> None:
        """NEC 702.5, at any voltage and number of legs."""
        parts = list(HOUSE.values())
        cases: list[tuple[dict[str, Any], dict[str, Any]]] = [
            (SPLIT_SET, {}),
            (SET, {"service": "120"}),
            (
                {**SET, "output": "230", "voltage_v": 230},
                {"service": "230", "load": {"voltage_v": 230}},
            ),
            (
                {"kind": "battery-inverter", "continuous_w": 5000, "surge_w": 9000},
                {"service": "120"},
            ),
        ]
        for supply, more in cases:
            for hookup in ([], parts[:1], parts[1:]):
                result = self.house(supply, hookup, name="Summer house", **dict(more))
                self.assertEqual((result.verdict, result.weakest.check), ("fails", "code"), supply)
                self.assertIn("violates code", result.weakest.sentence)
                self.assertTrue(any("Back-feed" in c for c in result.cautions))
            fine = self.house(supply, parts, name="Summer house", **dict(more))
            self.assertNotEqual(fine.weakest.check, "code", supply)
            self.assertTrue(any("Back-feed" in c for c in fine.cautions))

    def test_a_rig_nobody_knows_gets_the_caution_and_does_not_fail(self) -> None:
        result = self.house(SPLIT_SET, [], name="Number 7")
        self.assertEqual(result.verdict, "holds")
        self.assertTrue(any("back-feeds the street" in c for c in result.cautions))

    def test_a_trailer_and_a_house_on_the_street_need_none_of_it(self) -> None:
        self.assertEqual(self.house(SPLIT_SET, [], name="Clay wagon").verdict, "holds")
        street = {"kind": "shore", "breaker_a": 50, "legs": "split"}
        self.assertEqual(self.house(street, [], name="House").verdict, "holds")

    def test_what_it_says_wins_over_its_name(self) -> None:
        result = self.house(SPLIT_SET, [], name="Clay wagon", what="building")
        self.assertEqual(result.weakest.check, "code")
        self.assertEqual(self.house(SPLIT_SET, [], name="House", what="vehicle").verdict, "holds")

    def test_the_bonds_of_the_neutral_are_counted(self) -> None:
        """NEC 250.30, from memory: one bond between neutral and ground."""
        for neutral, switched, bonds in (
            ("bonded", False, 2),
            ("floating", False, 1),
            ("bonded", True, 1),
            ("floating", True, 0),
        ):
            parts = [HOUSE["inlet"], HOUSE["transfer"] | {"switched_neutral": switched}]
            result = self.house(SPLIT_SET | {"neutral": neutral}, parts, name="House")
            self.assertEqual(result.bonding.bonds, bonds, (neutral, switched))
        self.assertIn(
            "one bond has to come out",
            " ".join(
                self.house(
                    SPLIT_SET | {"neutral": "bonded"}, list(HOUSE.values()), name="House"
                ).cautions
            ),
        )


class Paralleling(unittest.TestCase):
    def test_only_sets_made_for_it_and_of_one_kind(self) -> None:
        unit = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}
        loose = unit | {"inverter": False}
        for units, verdict in (
            ([unit, unit], "holds"),
            ([loose, loose], "fails"),
            ([unit, loose], "fails"),
            ([unit, unit | {"parallel_ready": False}], "fails"),
        ):
            supply = {"kind": "parallel", "units": units}
            result = check(question(supply, [heater(900)], rules={"trials": 0}))
            self.assertEqual(result.verdict, verdict, units)
            if verdict == "fails":
                self.assertIn("cannot be paralleled", result.weakest.sentence)


class Figures(unittest.TestCase):
    def refused(self, load: dict[str, Any], *named: str) -> None:
        with self.assertRaises(SetupError) as refused:
            question(POST, [UNIT | load])
        said = " ".join(f.message for f in refused.exception.faults)
        for figure in named:
            self.assertIn(figure, said)

    def test_figures_that_cannot_be_together_name_both(self) -> None:
        soft = {"start": "soft-start"}
        self.refused({"high_cool_a": 8}, "9.5", "8")
        self.refused({"lra_a": 15}, "9.5", "15")
        self.refused(soft | {"soft_start": {"peak_a": 60}}, "52", "60")
        self.refused(soft | {"soft_start": {"peak_a": 3}}, "52", "3")
        self.refused(soft | {"soft_start": {"fraction": 0.06}}, "52", "0.06")

    def test_what_practice_has_measured_is_taken(self) -> None:
        """Common practice: 52 A locked rotor turned by 9.7 A, and by 12.7 A with 3 A of fan."""
        question(POST, [UNIT | {"start": "soft-start", "soft_start": {"peak_a": 9.7}}])
        inverter = UNIT | {"start": "inverter-drive", "lra_a": None}
        question(POST, [{k: v for k, v in inverter.items() if v is not None}])

    def test_an_air_conditioner_of_240_v_has_a_run_capacitor_unless_said(self) -> None:
        """Common practice, no source: condensing and large window units come with a run capacitor
        alone, rooftop units of 120 V with a start capacitor.
        """
        plain = {k: v for k, v in UNIT.items() if k != "start"}
        big = plain | {"lra_a": 80, "running_a": 15, "high_cool_a": 17, "voltage_v": 240}
        rig = {"name": "r", "service": "120/240", "main_a": 50}
        for said, gear, verdict in (
            ({}, "run-capacitor", "fails"), ({"start": "hard-start"}, "hard-start", "thin"),
        ):  # fmt: skip
            load = big | said
            setup = question(SPLIT_SET, [load], rig=rig | {"loads": [load]}, **BRIEF)
            self.assertEqual(setup.rig.loads[0].start_gear, gear)
            self.assertEqual(check(setup).verdict, verdict, gear)
        self.assertEqual(question(POST, [plain]).rig.loads[0].start_gear, "start-capacitor")

    def test_any_id_a_person_types_works(self) -> None:
        for ident in ("a/c", "roof #1", "🐑", "x" * 60, "circuit x", "main", "contact/3", "N"):
            setup = question(POST, [UNIT | {"id": ident}])
            result = check(setup)
            self.assertEqual(result.starts[0].load, ident)
            self.assertIsNotNone(result.starts[0].chance)
        circuits = [{"id": "main", "breaker_a": 20}]
        rig = {"name": "r", "service": "120", "main_a": 30, "circuits": circuits, "loads": [UNIT]}
        with self.assertRaises(SetupError) as refused:
            question(POST, [UNIT], rig=rig)
        self.assertIn("main", refused.exception.faults[0].message)


class RuleForHours(unittest.TestCase):
    """Twenty-five amps on a 30 A post is golden to most owners and against NEC 210.20(A)."""

    def found(self, watts: float, **rules: float) -> tuple[str, bool]:
        heater = {"id": "h", "name": "Heater", "kind": "resistive", "watts": watts}
        rig = {"name": "r", "service": "120", "main_a": 30, "loads": [heater]}
        result = examine(
            read_setup(
                {"format": "iron-margin/setup", "version": 1, "name": "q",
                 "supply": {"kind": "shore", "breaker_a": 30}, "rig": rig,
                 "conditions": {"target_hours": 8, "outdoor_c": 25},
                 "wanted": [{"load": "h"}], "rules": rules}
            )
        ).result  # fmt: skip
        return result.verdict, result.rule_alone

    def test_a_rule_broken_alone_is_told_apart_from_what_does_not_work(self) -> None:
        self.assertEqual(self.found(3060.0), ("fails", True))
        self.assertEqual(self.found(5400.0), ("fails", False))
        self.assertEqual(self.found(2700.0)[1], False)

    def test_over_the_rule_and_over_the_curve_says_when_it_opens(self) -> None:
        for watts, opens in ((5400.0, True), (3060.0, False)):
            setup = question(POST, [heater(watts)], conditions={"target_hours": 8, "outdoor_c": 25})
            result = check(setup)
            self.assertEqual(result.weakest.sentence.count("It opens after about"), opens, watts)

    def test_the_rule_is_a_choice(self) -> None:
        self.assertNotEqual(self.found(3060.0, continuous_fraction=1.0)[0], "fails")


if __name__ == "__main__":
    unittest.main()
