"""A load manager: what it keeps off, said the same by check, order, Now and bench."""

from __future__ import annotations

import unittest
from typing import Any

from ironmargin.bench.play import run_script
from ironmargin.bench.script import Act, Begin, Script
from ironmargin.planning.order import sequence_of
from ironmargin.planning.present import present
from ironmargin.planning.together import Together
from ironmargin.setup.changed import leave_off
from ironmargin.setup.managing import manages_words, shed_order, unmanaged
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.verdict.check import certain_to_fail, examine
from ironmargin.verdict.sentences import say
from tests.kinds import SUPPLIES, question


def managed(limit_a: float = 24.0, **priority: str) -> Setup:
    """A microwave, a heater and a water heater behind a load manager: 13, 12 and 10 A."""

    def load(ident: str, watts: float, usual: str) -> dict[str, Any]:
        more = {"priority": priority.get(ident, usual)}
        return {"id": ident, "name": ident, "kind": "resistive", "watts": watts} | more

    return read_setup(
        {
            "format": "iron-margin/setup",
            "version": 1,
            "name": "managed",
            "supply": SUPPLIES["shore"],
            "hookup": [
                {"kind": "load-manager", "limit_a": limit_a, "delay_s": 3, "restore_s": 120}
            ],
            "rig": {
                "name": "Rig",
                "main_a": 30,
                "loads": [
                    load("cooker", 1560, "must"),
                    load("heater", 1440, "want"),
                    load("water", 1200, "wait"),
                ],
            },
            "wanted": [{"load": x} for x in ("cooker", "heater", "water")],
            "rules": {"trials": 0},
        }
    )


class Sheds(unittest.TestCase):
    def test_what_can_wait_goes_first_and_what_must_run_never(self) -> None:
        for limit_a, shed in ((36.0, []), (26.0, ["water"]), (20.0, ["water", "heater"]),
                              (5.0, ["water", "heater"])):  # fmt: skip
            case = examine(managed(limit_a)).case
            self.assertEqual([x.id for x in case.shed], shed, limit_a)

    def test_of_equal_ones_the_largest_goes_first(self) -> None:
        case = examine(managed(26.0, water="want")).case
        self.assertEqual([x.id for x in case.shed], ["heater"])

    def test_the_verdict_is_that_of_what_stays_on_and_says_what_does_not(self) -> None:
        found, without = examine(managed()).result, examine(leave_off(managed(), "water"))
        self.assertEqual(found.verdict, examine(managed(), trials=0).result.verdict)
        # 25 A are more than the 24 A it was set to, so the heater goes, too.
        only = examine(leave_off(without.setup, "heater")).result
        self.assertEqual((found.verdict, found.iron_margin), (only.verdict, only.iron_margin))
        self.assertEqual(found.verdict, "holds")
        said = " ".join(found.cautions)
        self.assertIn("keeps water and heater off", said)
        sentence = say(examine(managed()), None, looked=False).sentence
        self.assertTrue(sentence.startswith("water and heater stay off: the load manager"))
        document = write_setup(managed())
        document["hookup"] = []
        self.assertEqual(examine(read_setup(document)).result.verdict, "fails")

    def test_a_start_finds_on_what_the_manager_let_come_back(self) -> None:
        """It sheds after its delay, so it saves no start: the heater is on while the unit rests."""

        def requested(limit_a: float | None, heater: bool) -> Setup:
            document = question("generator")
            document["supply"] = document["supply"] | {"continuous_w": 2000, "starting_w": 2400}
            roof = document["rig"]["loads"][0] | {"start": "start-capacitor"}
            document["rig"]["loads"] = [
                roof,
                {"id": "heater", "name": "Heater", "kind": "resistive", "watts": 1400,
                 "priority": "wait"},
            ]  # fmt: skip
            document["wanted"] = [{"load": "roof"}] + [{"load": "heater"}] * heater
            if limit_a is not None:
                manager = {"kind": "load-manager", "limit_a": limit_a}
                document["hookup"] = [*document["hookup"], manager]
            return read_setup(document)

        alone = examine(requested(None, False), quick=True).result
        self.assertEqual(alone.verdict, "thin")
        managed_ = examine(requested(16.0, True), quick=True)
        self.assertEqual(
            (managed_.result.verdict, managed_.result.weakest.check), ("fails", "start")
        )
        self.assertTrue(certain_to_fail(requested(16.0, True)))
        self.assertIn("sheds only after its delay", managed_.result.cautions[0])
        self.assertEqual(managed_.setup, requested(16.0, True))
        # So small a limit never lets the heater come back: its start is that of the unit alone.
        never = examine(requested(11.0, True), quick=True).result
        self.assertEqual((never.verdict, never.iron_margin), (alone.verdict, alone.iron_margin))

    def test_it_says_what_it_does_by_itself(self) -> None:
        said = manages_words(managed())
        self.assertIn("Above 24 A on a leg the load manager turns off", said)
        self.assertIn("for at least 2 min", said)
        names = [x.name for x in shed_order(managed().rig.loads)]
        self.assertIn(f"turns off {names[0]} first, then", said)
        kept = {x.id: "must" for x in managed().rig.loads}
        self.assertEqual(manages_words(managed(**kept)), "")
        self.assertEqual(manages_words(unmanaged(managed())), "")

    def test_order_and_now_ask_the_same(self) -> None:
        setup = managed(26.0)
        steps = [s.load for s in sequence_of(Together.of(setup)).steps]
        self.assertEqual(set(steps), {"cooker", "heater"})
        here = present(setup, {"cooker": None, "heater": None}, frozenset())
        water = next(c for c in here.chips if c.load == "water")
        self.assertNotEqual(water.first_off, ())
        free = present(managed(40.0), {"cooker": None}, frozenset())
        heater = next(c for c in free.chips if c.load == "heater")
        self.assertEqual(heater.first_off, ())

    def test_the_bench_sheds_after_its_delay_and_lets_it_come_back(self) -> None:
        steps = (
            Act(at_s=0.0, do="set", on=True),
            Act(at_s=10.0, do="load", what="cooker", on=True),
            Act(at_s=20.0, do="load", what="water", on=True),
            Act(at_s=30.0, do="load", what="heater", on=True),
            Act(at_s=300.0, do="load", what="cooker", on=False),
        )
        bench = run_script(managed(26.0), Script(hours=0.2, begin=Begin(all="off"), steps=steps))
        told = [(round(e.at_s), e.kind, e.where) for e in bench.events if e.where == "water"]
        self.assertIn((33, "shed", "water"), told)
        self.assertIn((300, "restored", "water"), told)
        self.assertFalse([e for e in bench.events if e.kind == "tripped"])
        peak = max(row[1] for row in bench.rows if row[0] > 34.0)
        self.assertLess(peak, 26.0)

    def test_it_rests_before_it_comes_back(self) -> None:
        steps = (
            Act(at_s=0.0, do="set", on=True),
            Act(at_s=1.0, do="load", what="cooker", on=True),
            Act(at_s=2.0, do="load", what="water", on=True),
            Act(at_s=3.0, do="load", what="heater", on=True),
            Act(at_s=20.0, do="load", what="cooker", on=False),
        )
        bench = run_script(managed(26.0), Script(hours=0.1, begin=Begin(all="off"), steps=steps))
        (shed,) = (e.at_s for e in bench.events if e.kind == "shed")
        (back,) = (e.at_s for e in bench.events if e.kind == "restored")
        self.assertAlmostEqual(back - shed, 120.0, delta=0.1)


if __name__ == "__main__":
    unittest.main()
