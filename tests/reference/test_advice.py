"""Advice over three hundred random setups: lists that can be done, in order and in safety; remedies
that give what they say. Too many for the core's own tests.
"""

from __future__ import annotations

import unittest
from functools import cache

from ironmargin.errors import SetupError
from ironmargin.planning.order import sequence_of
from ironmargin.planning.remedies import find_remedies
from ironmargin.planning.together import Together
from ironmargin.practice.facts import Facts, facts_of
from ironmargin.practice.lists import LISTS
from ironmargin.practice.next_step import after, begins, unmet
from ironmargin.practice.steps import PURPOSES, applies, steps_of
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine_unless_fails
from tests.core.test_one_answer import random_document

COUNT = 300
FIRST_SEED = 5000
"""None of the seeds that the core's own tests use."""
EACH = "each-start-"


@cache
def setups() -> tuple[tuple[Setup, Facts], ...]:
    """Three hundred random questions that keep every rule, with their facts."""
    found: list[tuple[Setup, Facts]] = []
    seed = FIRST_SEED
    while len(found) < COUNT:
        seed += 1
        try:
            setup = read_setup(random_document(seed))
        except SetupError:
            continue
        found.append((setup, facts_of(setup)))
    return tuple(found)


class Advice(unittest.TestCase):
    def test_no_list_asks_for_what_the_steps_before_made_impossible(self) -> None:
        for setup, facts in setups():
            for purpose in ("hook-up", "shut-down"):
                state = begins(purpose, facts)
                for line in (x for x in LISTS[purpose] if applies(x, facts)):
                    self.assertEqual(unmet(state, line), [], f"{setup.name} {purpose} {line.id}")
                    state = after(state, line)

    def test_steps_follow_the_order_and_the_order_what_is_wanted(self) -> None:
        for setup, facts in setups():
            wanted = {w.load for w in setup.wanted} | {x.id for x in setup.rig.loads if x.always_on}
            steps = steps_of(setup, "start", facts)
            if steps[0].id == "stop":
                continue
            sequence = sequence_of(Together.of(setup))
            turns = [x.load for x in sequence.steps]
            self.assertLessEqual(set(turns), wanted, setup.name)
            by_hand = [s.id.removeprefix(EACH) for s in steps if s.id.startswith(EACH)]
            switched = [x for x in by_hand if x in turns]
            self.assertEqual(switched, sorted(switched, key=turns.index), setup.name)
            self.assertLessEqual(set(by_hand), wanted, setup.name)

    def test_a_caution_stands_once_in_each_list(self) -> None:
        for setup, facts in setups()[::3]:
            for purpose in PURPOSES:
                said = [s.caution for s in steps_of(setup, purpose, facts) if s.caution]
                self.assertEqual(len(said), len(set(said)), f"{setup.name} {purpose}")

    def test_each_remedy_gives_what_it_says_and_what_was_asked_for_goes_last(self) -> None:
        looked = 0
        for setup, facts in setups()[::4]:
            if facts.checked.result.verdict == "holds":
                continue
            found = find_remedies(setup).found
            rungs = [r.rung == "asked" for r in found]
            self.assertEqual(rungs, sorted(rungs), setup.name)
            for remedy in found[:3]:
                result = examine_unless_fails(remedy.setup).result
                self.assertEqual(
                    (result.verdict, round(result.iron_margin, 6)),
                    (remedy.verdict, round(remedy.iron_margin, 6)),
                    f"{setup.name} {remedy.what}",
                )
                looked += 1
        self.assertGreater(looked, 50)


if __name__ == "__main__":
    unittest.main()
