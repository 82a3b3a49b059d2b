"""What a device takes along for Now: every state presses lead to, each as it is computed alone."""

from __future__ import annotations

import unittest
from itertools import combinations

from ironmargin.planning.now_table import MAX_STATES, key_of, now_table, plain, states_of
from ironmargin.planning.present import present
from ironmargin.setup.reading import load_setup, read_setup
from tests.core.test_bounds import crowd
from tests.shared import document, path_of


class Table(unittest.TestCase):
    def test_every_set_of_a_small_rig_is_there_as_it_is_alone(self) -> None:
        setup = load_setup(path_of(7))
        found = now_table(setup, {}, frozenset())["states"]
        modes = {chip.load: chip.mode for chip in present(setup, {}).chips}
        loads = [x for x in setup.rig.loads if not x.always_on]
        for count in range(len(loads) + 1):
            for some in combinations(loads, count):
                on = {x.id: modes[x.id] for x in some}
                self.assertEqual(found[key_of(on, frozenset())], plain(present(setup, on)))

    def test_modes_and_what_is_always_on_are_presses_too(self) -> None:
        setup = load_setup(path_of(7))
        cooling = next(x.id for x in setup.rig.loads if x.kind == "air-conditioner")
        found = now_table(setup, {cooling: "high-cool"}, frozenset())["states"]
        self.assertIn(key_of({cooling: "fan-low"}, frozenset()), found)
        always = [x.id for x in setup.rig.loads if x.always_on]
        for ident in always:
            self.assertIn(key_of({cooling: "high-cool"}, frozenset({ident})), found)

    def test_of_a_large_rig_two_presses_are_and_no_more_than_a_device_takes(self) -> None:
        setup = read_setup(crowd(2, 20) | {"rules": {"trials": 0}})
        states = states_of(setup, {}, frozenset())
        self.assertEqual(len(states), MAX_STATES)
        self.assertEqual(states[0], ({}, frozenset()))
        singles = {next(iter(on)) for on, _ in states if len(on) == 1}
        self.assertEqual(singles, {x.id for x in setup.rig.loads if not x.always_on})
        self.assertTrue(any(len(on) == 2 for on, _ in states))

    def test_a_state_is_known_whatever_an_id_holds(self) -> None:
        one, other = key_of({"a=b": None}, frozenset()), key_of({"a": "b"}, frozenset())
        self.assertNotEqual(one, other)

    def test_legs_apart_and_watts(self) -> None:
        setup = read_setup(document(7))
        on = {w.load: w.mode for w in setup.wanted}
        found = present(setup, on)
        self.assertEqual([leg.name for leg in found.legs], ["L1", "L2"])
        self.assertEqual(found.amps, max(leg.amps for leg in found.legs))
        self.assertEqual(found.volts, min(leg.volts for leg in found.legs))
        per_leg = sum(leg.amps * leg.volts for leg in found.legs)
        self.assertAlmostEqual(found.watts / per_leg, 0.9, delta=0.12)  # power factor of the motors
