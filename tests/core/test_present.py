"""What is on now and what may come on: against whole checks of the same sets."""

from __future__ import annotations

import unittest
from dataclasses import replace

from ironmargin.planning.present import present
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.check import examine
from tests.core.test_learning import on_a_post
from tests.shared import path_of


def check_of(setup: Setup, ids: list[str]) -> bool:
    modes = {w.load: w.mode for w in setup.wanted}
    wanted = tuple(Wanted(load=x, mode=modes.get(x)) for x in ids)
    return examine(replace(setup, wanted=wanted), quick=True).result.iron_margin >= 0.0


class Chips(unittest.TestCase):
    def setups(self) -> list[Setup]:
        return [load_setup(path_of(n)) for n in (1, 5, 7, 9, 14)] + [on_a_post(high_cool_a=16)]

    def test_what_may_come_on_holds_by_a_whole_check(self) -> None:
        """A chip that may come on: its set settles and its own start passes in the check."""
        for setup in self.setups():
            for first in [x.id for x in setup.rig.loads]:
                found = present(setup, {first: None})
                for chip in found.chips:
                    if chip.say == "may":
                        self.assertGreaterEqual(chip.margin or 0.0, 0.0)
                    if chip.say == "never" and chip.margin is not None:
                        self.assertFalse(check_of(setup, [chip.load]), chip.load)

    def test_what_has_to_go_off_is_enough_and_not_more_than_needed(self) -> None:
        setup = on_a_post(high_cool_a=16)
        found = present(setup, {"roof": "high-cool", "tv": None})
        heater = next(c for c in found.chips if c.load == "heater")
        tv = next(c for c in found.chips if c.load == "tv")
        self.assertEqual((tv.say, heater.say), ("on", "after"))
        self.assertEqual(len(heater.first_off), 1)
        left = present(setup, {"tv": None})
        self.assertEqual(next(c.say for c in left.chips if c.load == "heater"), "may")

    def test_the_next_cycle_of_a_running_unit_is_looked_at(self) -> None:
        """On a set that starts the unit alone, a heater beside makes its next cycle fail."""
        document = {
            "format": "iron-margin/setup",
            "version": 1,
            "name": "s",
            "supply": {"kind": "generator", "continuous_w": 3000, "starting_w": 3300},
            "rig": {
                "name": "r",
                "service": "120",
                "main_a": 30,
                "loads": [
                    {
                        "id": "roof",
                        "name": "Roof",
                        "kind": "air-conditioner",
                        "running_a": 11,
                        "lra_a": 62,
                        "fan_high_a": 2,
                    },
                    {"id": "heater", "name": "Heater", "kind": "resistive", "watts": 1000},
                ],
            },
            "wanted": [{"load": "roof"}],
        }
        warned = []
        for watts in range(200, 1600, 100):
            document["rig"]["loads"][1]["watts"] = watts  # type: ignore[index]
            chip = present(read_setup(document), {"roof": "high-cool"}).chips[1]
            warned.append(bool(chip.cycle) or chip.say != "may")
        self.assertIn(True, warned)
        self.assertEqual(warned, sorted(warned))

    def test_nothing_on_reads_nothing(self) -> None:
        found = present(on_a_post(), {})
        self.assertLess(found.amps, 0.01)
        self.assertEqual({c.say for c in found.chips}, {"may"})

    def test_what_is_not_served_never_comes_on(self) -> None:
        setup = load_setup(path_of(5))
        for chip in present(setup, {}).chips:
            self.assertIn(chip.say, ("may", "never", "on"))
