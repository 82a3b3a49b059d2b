"""What runs on gas as well: every list of what to turn off says so."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

from ironmargin.case import prepare
from ironmargin.planning.changes import changes_of
from ironmargin.planning.order import running_order
from ironmargin.planning.order_words import order_words
from ironmargin.planning.present import present
from ironmargin.planning.remedies import find_remedies
from ironmargin.practice.steps import steps_of
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from tests.shared import document


def on_a_small_post(*, gas: bool, cooling: bool = True) -> Setup:
    """A rooftop unit and a water heater, which do not go together on 30 A."""
    doc: dict[str, Any] = document(5)
    doc["hookup"] = []
    doc["supply"] = {"kind": "shore", "breaker_a": 30, "source_ohm": 0.1}
    water = {"id": "water", "name": "Water heater", "kind": "resistive", "watts": 2400}
    unit = doc["rig"]["loads"][0] | {"id": "unit", "name": "Roof unit", "lra_a": 40}
    water |= {"gas": gas, "priority": "must"}
    doc["rig"]["loads"] = [unit, water] if cooling else [water]
    doc["rig"].pop("circuits", None)
    doc["wanted"] = [{"load": x["id"]} for x in doc["rig"]["loads"]]
    return read_setup(doc)


class OnGas(unittest.TestCase):
    def test_the_first_fix_is_to_run_it_on_gas_and_little_is_given_up(self) -> None:
        for gas, what in ((True, "Run Water heater on gas"), (False, "Leave Water heater off")):
            setup = on_a_small_post(gas=gas)
            change = next(c for c in changes_of(setup, prepare(setup)) if c.about == "water")
            self.assertEqual((change.what, change.kind), (what, "leave-off"))
            self.assertEqual(change.effort == 0, gas)
            self.assertEqual(change.gives_up == "a little gas", gas)
        self.assertEqual(
            find_remedies(on_a_small_post(gas=True)).found[0].what, "Run Water heater on gas"
        )

    def test_one_that_this_service_cannot_feed_is_not_missed_on_gas(self) -> None:
        for gas, rung in ((True, "nuisance"), (False, "asked")):
            setup = on_a_small_post(gas=gas)
            loads = [replace(x, voltage_v=240.0) if x.id == "water" else x for x in setup.rig.loads]
            setup = replace(setup, rig=replace(setup.rig, loads=tuple(loads)))
            case = prepare(setup)
            self.assertEqual([load.id for load, _ in case.unserved], ["water"])
            change = next(c for c in changes_of(setup, case) if c.about == "water")
            self.assertEqual(change.rung, rung)

    def test_trades_and_now_name_the_gas_where_they_say_what_goes_off(self) -> None:
        for gas in (True, False):
            setup = on_a_small_post(gas=gas)
            chip = next(c for c in present(setup, {"water": None}).chips if c.load == "unit")
            self.assertEqual(chip.first_off, ("Water heater" + " (run it on gas)" * gas,))
            said = order_words(running_order(setup))
            self.assertEqual("Roof unit: Water heater (run it on gas)" in said, gas)

    def test_hooking_up_sets_it_to_gas(self) -> None:
        for setup, said in (
            (on_a_small_post(gas=True), True),
            (on_a_small_post(gas=False), False),
            (on_a_small_post(gas=True, cooling=False), True),
            (on_a_small_post(gas=False, cooling=False), False),
        ):
            steps = {s.id: s for s in steps_of(setup, "hook-up")}
            self.assertEqual("to-gas" in steps, said)
            if said:
                self.assertIn("Set Water heater to gas", steps["to-gas"].text)
                self.assertIn("every flame out", steps["to-gas"].caution)


if __name__ == "__main__":
    unittest.main()
