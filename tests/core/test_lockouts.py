"""Loads that never run together: every command keeps to it."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

from ironmargin.bench.clock import Bench
from ironmargin.bench.script import Act, Begin
from ironmargin.case import prepare
from ironmargin.errors import SetupError
from ironmargin.planning.answer import check_fully
from ironmargin.planning.first_fix import first_fix
from ironmargin.planning.order import sequence_of
from ironmargin.planning.present import present
from ironmargin.planning.remedies import find_remedies
from ironmargin.planning.remedy import worth_trying
from ironmargin.planning.sets import maximal_sets
from ironmargin.planning.together import Together
from ironmargin.setup.changed import leave_off
from ironmargin.setup.model import Lockout, Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.ways import heaviest, running_ids, ways
from ironmargin.setup.work import work_of
from ironmargin.sustaining.totals import totals
from ironmargin.verdict.check import certain_to_fail, examine
from tests.kinds import locked_out, question

BOTH = {"roof", "two"}


def requested(*pairs: tuple[str, str], loads: int = 2) -> Setup:
    """Two roof units, or three, on a 30 A post that carries only one."""
    doc = question("shore")
    unit = doc["rig"]["loads"][0] | {"running_a": 13.0}
    more: list[dict[str, Any]] = [
        unit,
        unit | {"id": "two", "name": "Second unit", "running_a": 12.0},
        unit | {"id": "three", "name": "Third unit", "running_a": 11.0},
        unit | {"id": "four", "name": "Fourth unit", "running_a": 10.0},
    ]
    doc["rig"]["loads"] = more[:loads]
    doc["wanted"] = [{"load": x["id"]} for x in more[:loads]]
    doc["rig"]["lockouts"] = [{"first": a, "second": b} for a, b in pairs]
    doc["rules"] = {"trials": 0}
    return read_setup(doc)


class Ways(unittest.TestCase):
    def test_one_load_of_each_pair_is_left_off(self) -> None:
        self.assertEqual(len(ways(requested())), 1)
        running = [{w.load for w in x.wanted} for x in ways(requested(("roof", "two")))]
        self.assertEqual(running, [{"roof"}, {"two"}])
        three = requested(("roof", "two"), ("two", "three"), ("roof", "three"), loads=3)
        running = [{w.load for w in x.wanted} for x in ways(three)]
        self.assertEqual(sorted(map(sorted, running)), [["roof"], ["three"], ["two"]])
        self.assertEqual([w.load for w in heaviest(three).wanted], ["roof"])

    def test_a_pair_of_which_one_is_not_wanted_is_no_conflict(self) -> None:
        setup = leave_off(requested(("roof", "two")), "two")
        self.assertEqual(ways(setup), (setup,))

    def test_bad_pairs_are_named(self) -> None:
        for pair in (("roof", "gone"), ("roof", "roof")):
            with self.assertRaises(SetupError) as caught:
                requested(pair)
            self.assertEqual(caught.exception.faults[0].path, "rig.lockouts[0].second")


class Commands(unittest.TestCase):
    def test_the_verdict_is_that_of_the_worse_way_and_says_so(self) -> None:
        setup = requested(("two", "roof"))
        self.assertEqual(examine(requested()).result.verdict, "fails")
        checked = check_fully(setup)
        alone = [examine(leave_off(requested(), x)).result.iron_margin for x in ("roof", "two")]
        self.assertAlmostEqual(checked.result.iron_margin, min(alone))
        said = "Roof unit and Second unit never run together: this is with Roof unit on"
        self.assertTrue(checked.result.cautions[0].startswith(said))
        self.assertEqual(checked.setup, setup)
        self.assertFalse(certain_to_fail(setup))

    def test_taking_turns_is_a_lockout_and_its_setup_holds_as_it_says(self) -> None:
        found = find_remedies(requested()).found[0]
        self.assertEqual(found.change, "take-turns")
        self.assertEqual(found.setup.rig.lockouts, (Lockout(first="roof", second="two"),))
        self.assertEqual({w.load for w in found.setup.wanted}, BOTH)
        again = examine(read_setup(write_setup(found.setup))).result
        self.assertAlmostEqual(again.iron_margin, found.iron_margin)
        near, _ = first_fix(examine(requested()))
        assert near is not None
        self.assertEqual(near.what, found.what)

    def test_turns_are_offered_for_up_to_three_units(self) -> None:
        for loads, pairs in ((2, 1), (3, 3), (4, 0)):
            setup = requested(loads=loads)
            kinds = [c.kind for c in worth_trying(examine(setup, quick=True))]
            self.assertEqual(kinds.count("take-turns"), pairs, loads)

    def test_a_remedy_of_what_fails_with_a_lockout_keeps_both_loads(self) -> None:
        setup = requested(("roof", "two"))
        small = replace(setup, supply=replace(setup.supply, breaker_a=15.0))
        found = find_remedies(small).found
        kept = [r for r in found if r.rung != "asked"]
        self.assertTrue(kept)
        for remedy in kept:
            self.assertLessEqual(BOTH, {w.load for w in remedy.setup.wanted}, remedy.what)

    def test_sets_order_and_now_never_have_both(self) -> None:
        setup = requested(("roof", "two"))
        together = Together.of(setup)
        for found in maximal_sets(together)[0]:
            self.assertFalse(set(found.loads) >= BOTH)
        self.assertLess(float(together.margins(together.mask_of(BOTH)[None])[0]), 0.0)
        sequence = sequence_of(together)
        self.assertTrue(sequence.feasible)
        self.assertEqual({x.load for x in sequence.steps}, {"roof"})
        chip = next(c for c in present(setup, {"roof": "high-cool"}).chips if c.load == "two")
        self.assertEqual((chip.say, chip.first_off), ("after", ("Roof unit",)))

    def test_the_bench_switches_one_off_for_the_other(self) -> None:
        setup = requested(("roof", "two"))
        bench = Bench(setup, Begin(all="as-wanted"))
        on = {ident for ident, load in bench.state.loads.items() if load.on}
        self.assertEqual(on & BOTH, {"roof"})
        bench.do(Act(at_s=0.0, do="load", what="two", on=True))
        on = {ident for ident, load in bench.state.loads.items() if load.on}
        self.assertEqual(on & BOTH, {"two"})

    def test_now_keeps_two_apart_that_the_supply_would_carry_together(self) -> None:
        free, locked = requested(), requested(("roof", "two"))
        for setup, say in ((free, "may"), (locked, "after")):
            strong = replace(setup, supply=replace(setup.supply, breaker_a=100.0))
            strong = replace(strong, rig=replace(strong.rig, main_a=100.0))
            chips = present(strong, {"roof": "high-cool"}).chips
            self.assertEqual(next(c.say for c in chips if c.load == "two"), say)

    def test_two_that_are_always_on_are_not_on_together(self) -> None:
        setup = read_setup(locked_out("shore"))
        running = [frozenset(running_ids(way)) for way in ways(setup)]
        self.assertEqual(len(set(running)), 4)
        bench = Bench(setup, Begin(all="as-wanted"))
        on = {ident for ident, load in bench.state.loads.items() if load.on}
        self.assertEqual(on, {"roof", "kettle"})
        for found in maximal_sets(Together.of(setup))[0]:
            self.assertNotIn("charger", found.loads)  # beside the kettle, which stays on

    def test_a_switched_load_never_runs_beside_what_is_always_on(self) -> None:
        doc = locked_out("shore")
        doc["rig"]["loads"][2]["always_on"] = False
        together = Together.of(read_setup(doc))
        self.assertFalse(together.may(together.mask_of({"charger"})[None])[0])
        self.assertTrue(together.may(together.mask_of({"roof"})[None])[0])

    def test_every_way_counts_as_work(self) -> None:
        both, pairs = requested(), requested(("roof", "two"))
        self.assertEqual(work_of(pairs), 2 * work_of(both))

    def test_what_looks_at_one_way_looks_at_the_heavier_one_and_totals_at_all(self) -> None:
        setup = requested(("two", "roof"))
        self.assertEqual([d.load.id for d in prepare(setup).demands], ["roof"])
        self.assertLessEqual(BOTH, set(totals(setup.rig).load_amps))


if __name__ == "__main__":
    unittest.main()
