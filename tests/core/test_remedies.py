"""What would make a setup hold, and planning from the command line."""

from __future__ import annotations

import io
import json
import unittest
from contextlib import redirect_stdout
from dataclasses import replace
from types import SimpleNamespace
from unittest.mock import patch

from ironmargin.__main__ import main
from ironmargin.planning import remedies
from ironmargin.planning.change import ASKED, COSTS, RUNGS, Change
from ironmargin.planning.first_fix import first_fix
from ironmargin.planning.remedies import _Search, find_remedies, remedies_json
from ironmargin.planning.remedy import WHO, Remedy, worth_trying
from ironmargin.planning.sensitivity import sensitivity
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.check import examine
from tests.kinds import SUPPLIES, question
from tests.shared import checked, path_of
from tests.walking import walk


class Remedies(unittest.TestCase):
    def test_leaving_the_microwave_off(self) -> None:
        found = find_remedies(load_setup(path_of(5)))
        self.assertTrue(found.complete)
        self.assertIn("leave-off", {r.change for r in found.found})
        micro = next(r for r in found.found if r.what == "Leave Microwave oven off")
        self.assertEqual(micro.verdict, "holds")
        self.assertIn("it holds with 15 % of iron left", micro.sentence)

    def test_each_leads_to_what_it_says_and_best_come_first(self) -> None:
        for number in (2, 5, 8):
            found = find_remedies(load_setup(path_of(number)))
            self.assertTrue(found.found, number)
            order = [
                (RUNGS.index(r.rung), len(r.changes), r.verdict != "holds", COSTS.index(r.cost))
                for r in found.found
            ]
            self.assertEqual(order, sorted(order))
            for r in found.found[:4]:
                result = examine(r.setup).result
                self.assertEqual(
                    (result.verdict, round(result.iron_margin, 6)),
                    (r.verdict, round(r.iron_margin, 6)),
                    r.what,
                )

    def test_pairs_where_single_changes_do_not_do(self) -> None:
        found = find_remedies(load_setup(path_of(9)))
        both = next(r for r in found.found if r.change == "soft-start+soft-start")
        self.assertEqual((both.verdict, both.cost), ("holds", "part"))
        self.assertIn(", and fit a soft starter", both.what)

    def test_three_that_hold_and_keep_what_was_asked_for_are_enough(self) -> None:
        """Pairs are looked for where fewer do; what only thinly holds, or gives up what was asked
        for, does not count.
        """
        setup = load_setup(path_of(5))
        free = Change("leave-off", "Leave it off", "free", 0, "x", lambda s: s, rung=RUNGS[0])
        search = _Search(examine(setup, quick=True), None)
        given_up = replace(free, rung=ASKED)
        for change, verdict, enough in (
            (free, "holds", False), (free, "holds", False), (free, "thin", False),
            (given_up, "holds", False), (free, "holds", True),
        ):  # fmt: skip
            search.found.append(Remedy((change,), setup, verdict, 0.2, ""))
            self.assertEqual(search.enough(), enough, (change.kind, verdict))

    def tried(self, gained: float) -> dict[int, int]:
        """How many sets of one, two and three changes are tried of twenty that all help by so
        much and none of which is enough [1].
        """
        each = [
            Change("leave-off", f"{n}", "free", 0, f"load{n}", lambda s: s, rung=RUNGS[0])
            for n in range(20)
        ]
        sizes: dict[int, int] = {}

        def attempt(
            search: _Search, changes: tuple[Change, ...], _: object, *, last: bool
        ) -> SimpleNamespace:
            sizes[len(changes)] = sizes.get(len(changes), 0) + 1
            fails = SimpleNamespace(verdict="fails")
            return SimpleNamespace(result=fails, short=10.0 - gained * len(changes))

        with (
            patch.object(remedies, "worth_trying", lambda _: each),
            patch.object(remedies, "_shortfall", lambda c: getattr(c, "short", 10.0)),
            patch.object(_Search, "attempt", attempt),
        ):
            self.assertEqual(find_remedies(load_setup(path_of(5))).found, ())
        return sizes

    def test_how_far_more_than_one_change_is_looked_for(self) -> None:
        """Pairs of the eight most promising, and of the three best pairs each with a third: no pair
        and no three twice. What gains less than half a hundredth goes on nowhere.
        """
        self.assertEqual(self.tried(1.0), {1: 20, 2: 8 * 7 // 2, 3: 3 * 6 - 3})
        self.assertEqual(self.tried(0.004), {1: 20})
        self.assertEqual(self.tried(0.006)[2], 28)

    def test_what_hardly_gains_is_no_remedy_and_a_list_ends(self) -> None:
        before = examine(load_setup(path_of(5)), quick=True)
        margin = before.result.iron_margin
        for gained, offered in ((0.004, 0), (0.006, 1)):
            search = _Search(before, None)
            search.old = "fails"
            result = replace(before.result, verdict="thin", iron_margin=margin + gained)
            full = replace(before, result=result)
            with (
                patch.object(remedies, "examine", return_value=full),
                patch.object(remedies, "with_chance", lambda x: x),
                patch.object(remedies, "say", lambda *_, **__: SimpleNamespace(sentence="s")),
            ):
                search.attempt((), replace(before.setup, name="changed"), last=False)
            self.assertEqual(len(search.found), offered, gained)
        search = _Search(before, None)
        change = Change("leave-off", "x", "free", 0, "x", lambda s: s, rung=RUNGS[0])
        search.found = [
            Remedy((replace(change, what=f"{n}"),), before.setup, "holds", 0.2, "s")
            for n in range(40)
        ]
        self.assertEqual(len(remedies._ranked(search, complete=True).found), 24)

    def test_what_was_asked_for_is_given_up_last_and_so_named(self) -> None:
        """Two units on a 30 A post: in turns first; a unit left off only after all else."""
        document = question("shore")
        unit = document["rig"]["loads"][0] | {"running_a": 13.0}
        document["rig"]["loads"] = [unit, unit | {"id": "two", "name": "Second unit"}]
        document["wanted"] = [{"load": "roof"}, {"load": "two"}]
        setup = read_setup(document)
        found = find_remedies(setup).found
        self.assertEqual((found[0].change, found[0].rung), ("take-turns", "order"))
        self.assertEqual(found[0].gives_up, "one of them at a time")
        requested = [at for at, r in enumerate(found) if r.rung == "asked"]
        self.assertEqual(requested, list(range(len(found) - len(requested), len(found))))
        self.assertTrue({"leave-off", "fan-only"} <= {found[at].change for at in requested})
        alone = found[requested[0]]
        self.assertTrue(alone.advice.startswith("Nothing else here is enough: leave "))

    @walk
    def test_one_order_for_the_first_fix_and_the_list(self) -> None:
        for number in (2, 3, 5, 8, 14, 21, 22):
            setup = load_setup(path_of(number))
            near, _ = first_fix(examine(setup))
            found = find_remedies(setup).found
            assert near is not None
            self.assertEqual(near.rung, found[0].rung, number)
            self.assertIn(near.what, [r.what for r in found], number)

    def test_three_changes_where_no_two_do(self) -> None:
        """Three heaters too many, each of which has to go; nothing smaller would do."""
        document = question("shore")
        heaters = [
            {"id": f"h{n}", "name": f"Heater {n}", "kind": "resistive", "watts": 2500}
            for n in range(4)
        ]
        document["rig"]["loads"] = heaters
        document["wanted"] = [{"load": x["id"]} for x in heaters]
        document["conditions"] = {"target_hours": 8, "outdoor_c": 10}
        found = find_remedies(read_setup(document)).found
        three = [r for r in found if set(r.change.split("+")) == {"leave-off"}]
        self.assertTrue(three)
        self.assertEqual({len(r.changes) for r in three}, {3})

    def test_only_what_exists_here_is_offered(self) -> None:
        """No pitch in a driveway, no gadget for a cord in a house (common practice, no source)."""
        document = question("shore")
        document["rig"] |= {"service": "120/240", "main_a": 50}
        unit = document["rig"]["loads"][0] | {"start": "start-capacitor", "running_a": 14.0}
        document["rig"]["loads"] += [unit | {"id": "two", "name": "Second unit"}]
        document["wanted"] += [{"load": "two"}]
        adapter = {"kind": "adapter", "from": "5-15", "to": "14-50", "rating_a": 15}
        for amps, what, offered in ((15, "vehicle", False), (30, "vehicle", True)):
            document["supply"] = {"kind": "shore", "breaker_a": amps}
            document["hookup"] = [adapter | {"rating_a": amps}]
            document["rig"]["what"] = what
            kinds = {c.kind for c in worth_trying(examine(read_setup(document)))}
            self.assertIs("50-a-pitch" in kinds, offered, (amps, what))
        document["rig"]["loads"][0]["start"] = "start-capacitor"
        self.assertIn(
            "inline-soft-start", {c.kind for c in worth_trying(examine(read_setup(document)))}
        )
        document["rig"]["what"] = "building"
        self.assertNotIn(
            "inline-soft-start", {c.kind for c in worth_trying(examine(read_setup(document)))}
        )

    def test_every_kind_of_change_has_its_rung(self) -> None:
        """Each change of every check setup and kind of supply can be ranked."""
        setups = [load_setup(path_of(n)) for n in range(1, 23) if n != 12]
        setups += [read_setup(question(kind)) for kind in SUPPLIES]
        seen = set()
        for setup in setups:
            for change in worth_trying(examine(setup, quick=True)):
                self.assertLess(change.step, len(RUNGS))
                self.assertIn(change.by, WHO)
                seen.add(change.kind)
        self.assertGreater(len(seen), 15)

    def test_nothing_to_mend_and_stopping(self) -> None:
        self.assertEqual(find_remedies(load_setup(path_of(1))).found, ())
        calls = []
        stopped = find_remedies(
            load_setup(path_of(2)),
            progress=lambda n, of: calls.append((n, of)),
            stop=lambda: len(calls) >= 2,
        )
        self.assertFalse(stopped.complete)
        self.assertEqual(len(calls), 2)

    def test_missing_240_brings_a_transformer_or_another_outlet(self) -> None:
        found = {r.change for r in find_remedies(load_setup(path_of(8))).found}
        self.assertTrue({"50-a-pitch", "opposite-legs"} <= found, found)

    def test_the_setups_of_remedies_read_back(self) -> None:
        out = json.loads(
            json.dumps(remedies_json(find_remedies(load_setup(path_of(2)))), allow_nan=False)
        )
        for r in out["remedies"]:
            read_setup(r["setup"])
            self.assertEqual(
                set(r),
                {
                    "change",
                    "what",
                    "sentence",
                    "cost",
                    "effort",
                    "gives_up",
                    "rung",
                    "by",
                    "verdict",
                    "iron_margin",
                    "gained",
                    "setup",
                },
            )

    def test_what_decides(self) -> None:
        swings = sensitivity(checked(6))
        self.assertIn("running amps", swings[0].what)
        self.assertTrue(swings[0].decides)
        self.assertEqual([s.swing for s in swings], sorted((s.swing for s in swings), reverse=True))
        lra = next(s for s in sensitivity(checked(9)) if s.field == "rig.loads[0].lra_a")
        self.assertTrue(lra.decides)
        self.assertLess(lra.low, 0.0)


class CommandLine(unittest.TestCase):
    def run_it(self, *words: str) -> tuple[int, str]:
        out = io.StringIO()
        with redirect_stdout(out):
            code = main(list(words))
        return code, out.getvalue()

    def test_remedies_and_order(self) -> None:
        for command in ("remedies", "order"):
            code, text = self.run_it(command, str(path_of(5)), "--json")
            self.assertEqual((code, json.loads(text)["format"]), (0, f"iron-margin/{command}"))
            code, text = self.run_it(command, str(path_of(5)))
            self.assertEqual(code, 0)
            self.assertIn("An estimate, not an approval.", text)
            self.assertEqual(self.run_it(command, str(path_of(12)))[0], 2)


if __name__ == "__main__":
    unittest.main()
