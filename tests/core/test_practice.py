"""Step lists and drills: what each kind of setup must have, gates, and one defensible answer."""

from __future__ import annotations

import contextlib
import io
import json
import random
import re
import unittest
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from ironmargin.__main__ import main
from ironmargin.errors import SetupError
from ironmargin.planning.order import sequence_of
from ironmargin.planning.together import Together
from ironmargin.practice.facts import facts_of
from ironmargin.practice.lines import BACKFEED, BONDS, GAS, LICENSED, RED_LAMP, RESETS
from ironmargin.practice.lists import BEGINS, LISTS, TITLES
from ironmargin.practice.lists.before_need import UPKEEP, UPKEEP_DAYS
from ironmargin.practice.lists.tripped import tripped_facts
from ironmargin.practice.next_step import after, begins, next_step, unmet
from ironmargin.practice.steps import (
    PURPOSES,
    applies,
    pass_gate,
    steps_json,
    steps_of,
    steps_words,
)
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.cautions import MONOXIDE
from ironmargin.verdict.check import examine
from ironmargin.verdict.sentences import say
from tests.kinds import SUPPLIES, question
from tests.shared import SETUPS, changed, path_of
from tests.walking import walk


def load_setup_of(number: int) -> Setup:
    """A check setup."""
    return load_setup(path_of(number))


SETUP_FILES = [f for f in sorted(SETUPS.glob("*.setup.json")) if not f.name.startswith("12")]
MUST: dict[str, dict[str, set[str]]] = {
    # What each kind of setup must have in its list (common practice, reviewed).
    "parallel": {
        "hook-up": {"generator-place", "parallel-kit", "generator-warm", "volts-open", "plug"},
        "start": {"eco-off", "rested", "watch"},
        "shut-down": {"unloaded", "stop"},
        "storm": {"alarm", "fuel"},
    },
    "generator": {
        "hook-up": {"generator-place", "generator-warm", "volts-open"},
        "upkeep": {"oil", "filter", "exercise"},
    },
    "shore": {
        "hook-up": {"post-off", "post-on", "volts-open", "volts-loaded"},
        "shut-down": {"post-off"},
    },
    "splitter": {
        "hook-up": {"splitter-off", "splitter-first", "splitter-both", "volts-open"},
        "shut-down": {"splitter-off"},
    },
    "assist": {"hook-up": {"input-limit", "ventilate", "alarm"}},
}
NEVER: dict[str, dict[str, set[str]]] = {
    "shore": {"hook-up": {"generator-warm", "generator-place"}, "upkeep": {"oil", "exercise"}},
    "generator": {"hook-up": {"post-off", "tester"}},
    "parallel": {"hook-up": {"post-off", "tester", "input-limit"}},
}


def ids(setup: Any, purpose: str) -> list[str]:
    return [s.id for s in steps_of(setup, purpose)]


PATHS: dict[str, list[dict[str, Any]]] = {
    "guard": [{"kind": "guard"}],
    "house": [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "switched_neutral": True}],
    "transformer": [{"kind": "transformer", "va": 3000, "type": "isolation"}],
}
"""What may lie in a path beside its cord."""


def walks() -> Iterator[Setup]:
    """The check setups, and every kind of supply with every path, on every fuel and neutral."""
    yield from (load_setup(file) for file in SETUP_FILES)
    for kind in SUPPLIES:
        for path, parts in PATHS.items():
            for fuel, neutral in (("propane", "floating"), ("gasoline", "bonded")):
                doc = json.loads(json.dumps(question(kind)))
                doc |= {"name": f"{kind}, {path}, {fuel}, {neutral}"}
                doc["hookup"] += parts
                supply = doc["supply"]
                for part in (supply, *supply.get("units", ()), supply.get("input", {})):
                    if part.get("kind") == "generator":
                        part |= {"fuel": fuel, "neutral": neutral}
                yield read_setup(doc)


class Lists(unittest.TestCase):
    @walk
    def test_each_kind_of_setup_has_what_it_must_and_nothing_it_must_not(self) -> None:
        for file in SETUP_FILES:
            setup = load_setup(file)
            kind = setup.supply.kind
            if any(part.kind == "splitter" for part in setup.hookup):
                kind = "splitter"
            for purpose, must in MUST.get(kind, {}).items():
                self.assertLessEqual(must, set(ids(setup, purpose)), f"{file.name} {purpose}")
            for purpose, never in NEVER.get(setup.supply.kind, {}).items():
                self.assertFalse(never & set(ids(setup, purpose)), f"{file.name} {purpose}")

    def test_steps_are_the_same_from_a_check_that_was_made_before(self) -> None:
        """The page passes the check it shows: figures, order and gates are those of a quick one."""
        for file in SETUP_FILES[::3]:
            setup = load_setup(file)
            quick, full = facts_of(setup), facts_of(setup, examine(setup))
            for purpose in PURPOSES:
                same = [steps_of(setup, purpose, facts) for facts in (quick, full)]
                self.assertEqual(*same, f"{file.name} {purpose}")

    @walk
    def test_every_list_of_every_setup_is_filled_in_and_ordered(self) -> None:
        for file in SETUP_FILES:
            setup = load_setup(file)
            facts = facts_of(setup)
            for purpose in PURPOSES:
                steps = steps_of(setup, purpose, facts)
                self.assertTrue(steps, f"{file.name} {purpose}")
                self.assertEqual(len({s.id for s in steps}), len(steps), f"{file.name} {purpose}")
                plain = json.dumps(steps_json(setup, purpose, steps), allow_nan=False)
                self.assertNotIn("{", plain.replace('{"', "").replace("{}", ""))
                self.assertIn("not an approval", steps_words(setup, purpose, steps))
                for step in steps:
                    self.assertTrue(step.text and step.why, f"{purpose} {step.id}")

    def test_a_house_is_never_fed_before_its_main_is_off(self) -> None:
        for file in SETUP_FILES:
            setup = load_setup(file)
            if not any(i.kind == "transfer" for i in setup.hookup):
                continue
            order = ids(setup, "hook-up")
            self.assertLess(order.index("main-off"), order.index("generator-warm"))
            self.assertLess(order.index("main-off"), order.index("inlet-live"))
            gate = next(s.gate for s in steps_of(setup, "hook-up") if s.id == "main-off")
            assert gate is not None
            self.assertTrue(gate.ends)
            back = ids(setup, "shut-down")
            self.assertLess(back.index("stop"), back.index("main-on"))

    @walk
    def test_no_step_asks_what_those_before_made_impossible_or_dangerous(self) -> None:
        """A small model of what is live, plugged and off is walked through every list, of every
        check setup, every kind of supply, and what may lie in its path.
        """
        walked = 0
        for setup in walks():
            facts = facts_of(setup)
            for purpose in BEGINS:
                if purpose == "tripped":
                    more, _ = tripped_facts(facts)
                    facts = replace(facts, is_=facts.is_ | more)
                state = begins(purpose, facts)
                for line in (x for x in LISTS[purpose] if applies(x, facts)):
                    self.assertEqual(unmet(state, line), [], f"{setup.name}, {purpose}, {line.id}")
                    if "plugged" in line.makes and "shore" in facts.is_:
                        self.assertNotIn("outlet-live", state, f"{setup.name}: plugged in live")
                    if "plugged" in line.makes and "house" in facts.is_:
                        self.assertIn("main-off", state, setup.name)
                    state = after(state, line)
                    walked += 1
                if purpose == "shut-down":
                    self.assertFalse(state & {"outlet-live", "plugged", "inlet-live"}, setup.name)
        self.assertGreater(walked, 500)

    @walk
    def test_the_next_step_of_a_drill_is_the_only_one_that_can_be_done(self) -> None:
        requested = set()
        for setup in walks():
            for seed in range(3):
                found = next_step(setup, random.Random(seed))
                if found is None:
                    continue
                self.assertEqual(len({text for _, text in found.choices}), 3)
                self.assertIn(found.right, [key for key, _ in found.choices])
                requested.add(found.right)
                purpose = next(p for p, title in TITLES.items() if title == found.list)
                facts = facts_of(setup)
                lines = [x for x in LISTS[purpose] if applies(x, facts)]
                state = begins(purpose, facts)
                for line in lines:
                    if line.id == found.right:
                        break
                    state = after(state, line)
                for line in (x for x in lines if x.id in dict(found.choices)):
                    self.assertIs(bool(unmet(state, line)), line.id != found.right)
        self.assertGreater(len(requested), 8)
        again = [next_step(load_setup_of(7), random.Random(5)) for _ in range(2)]
        self.assertEqual(again[0], again[1])

    @walk
    def test_a_caution_stands_once_in_a_list_at_the_step_it_belongs_to(self) -> None:
        seen = set()
        for setup in walks():
            facts = facts_of(setup)
            for purpose in PURPOSES:
                said = [s.caution for s in steps_of(setup, purpose, facts) if s.caution]
                self.assertEqual(len(said), len(set(said)), f"{setup.name} {purpose}")
                seen |= set(said)
        self.assertLessEqual({BACKFEED, MONOXIDE, GAS, BONDS, LICENSED, RED_LAMP, RESETS}, seen)

    def test_a_vehicle_has_its_own_hook_up(self) -> None:
        setup = read_setup(question("a vehicle's outlets"))
        ids = [s.id for s in steps_of(setup, "hook-up")]
        own = ["vehicle-parked", "vehicle-reserve", "vehicle-bonded", "vehicle-on"]
        self.assertEqual([i for i in ids if i.startswith("vehicle")], own)
        self.assertLess(ids.index("vehicle-on"), ids.index("plug"))
        self.assertEqual({"inverter-on", "ventilate", "alarm"} & set(ids), set())
        down = [s.id for s in steps_of(setup, "shut-down")]
        self.assertIn("vehicle-off", down)
        self.assertNotIn("inverter-off", down)
        document = question("a vehicle's outlets")
        document["supply"] = document["supply"] | {"continuous_w": 900, "surge_w": 900}
        said = say(examine(read_setup(document), quick=True), None, looked=False).sentence
        self.assertIn("the vehicle can hold", said)

    def test_where_the_breaker_is_stands_before_it_is_reset(self) -> None:
        document = question("shore")
        document["supply"] = document["supply"] | {"breaker_at": "shed, key at the office"}
        steps = steps_of(read_setup(document), "tripped")
        ids = [s.id for s in steps]
        self.assertEqual(ids.index("reset-where") + 1, ids.index("reset"))
        self.assertIn("shed, key at the office", steps[ids.index("reset-where")].text)
        without = [s.id for s in steps_of(read_setup(question("shore")), "tripped")]
        self.assertNotIn("reset-where", without)

    def test_both_ways_through_are_said_where_practitioners_differ(self) -> None:
        setup = read_setup(question("generator"))
        facts = facts_of(setup)
        told = [s for purpose in PURPOSES for s in steps_of(setup, purpose, facts)]
        ways = {s.id: s.other_way for s in told if s.other_way}
        self.assertLessEqual({"rested", "eco-on", "watch", "learn", "one-on"}, set(ways))
        body = steps_json(setup, "start", steps_of(setup, "start"))
        self.assertIn("other_way", next(s for s in body["steps"] if s["id"] == "rested"))
        self.assertIn("    or: ", steps_words(setup, "start", steps_of(setup, "start")))

    def test_no_blade_in_a_hand_is_ever_live(self) -> None:
        """A splitter: both outlets off, the rig's end first, each leg looked at from the panel."""
        steps = ids(load_setup_of(7), "hook-up")
        requested = ["splitter-off", "splitter-plug", "splitter-first", "splitter-both"]
        self.assertEqual([x for x in steps if x in requested], requested)
        self.assertNotIn("plug", steps)

    def test_an_open_ground_is_a_fault_of_a_bonded_set_and_none_of_a_floating_one(self) -> None:
        """Common practice, no source."""
        for neutral, word in (("floating", "open ground"), ("bonded", "correct")):
            setup = changed(2, lambda d, n=neutral: d["supply"].update(neutral=n))
            step = next(s for s in steps_of(setup, "hook-up") if s.id == f"tester-{neutral}")
            assert step.gate is not None
            self.assertTrue(pass_gate(step.gate, word).passes)
            self.assertFalse(pass_gate(step.gate, "reversed").passes)

    def test_no_step_speaks_of_a_supply_that_is_not_there(self) -> None:
        for name in SUPPLIES:
            setup = read_setup(question(name))
            supply, facts = setup.supply, facts_of(setup)
            for purpose in PURPOSES:
                for step in steps_of(setup, purpose, facts):
                    refused = step.gate.if_not if step.gate is not None else ""
                    caution = step.caution if step.caution != BONDS else ""
                    told = f"{step.text} {step.expect} {refused} {caution}"
                    where = f"{name}, {purpose}: {told}"
                    if supply.post is None:
                        self.assertNotRegex(told, r"\bposts?\b", where)
                    if not supply.engines:
                        self.assertNotRegex(told, r"\b[Gg]enerators?\b", where)
                    if supply.battery is None:
                        self.assertNotRegex(told, r"\b[Ii]nverter\b", where)

    def test_a_generator_behind_an_inverter_may_have_stopped_too(self) -> None:
        setup = read_setup(question("assist on a generator"))
        steps = {x.id: x for x in steps_of(setup, "tripped")}
        self.assertIn("the generator's red overload light", steps["look-first"].text)
        self.assertIn("lamp", steps)
        self.assertIn("inverter-down", steps)

    def test_hands_come_into_a_unit_only_after_it_is_discharged(self) -> None:
        for purpose in ("fit-soft-starter", "fit-hard-start"):
            order = ids(load_setup(path_of(1)), purpose)
            for later in ("photograph", "wire", "crimps"):
                self.assertLess(order.index("discharge"), order.index(later))
            self.assertLess(order.index("isolate"), order.index("zero-volts"))
            self.assertLess(order.index("zero-volts"), order.index("discharge"))
            for name in ("zero-volts", "discharge"):
                line = next(x for x in LISTS[purpose] if x.id == name)
                assert line.gate is not None
                self.assertTrue(line.gate.ends or line.gate.must, "never passed unmeasured")
        gate = next(s.gate for s in steps_of(load_setup(path_of(1)), purpose) if s.id == name)
        assert gate is not None
        with self.assertRaises(SetupError):
            pass_gate(gate, "not measured")
            self.assertLess(order.index("before"), order.index("isolate"))

    def test_starts_follow_the_order_and_its_amps(self) -> None:
        """The order's own sequence, and at each gate the amps it expects there."""
        for number in (1, 7, 9, 10, 17):
            setup = load_setup_of(number)
            sequence = sequence_of(Together.of(setup))
            steps = [s for s in steps_of(setup, "start") if s.id.startswith("each-start-")]
            expected = {x.load: x.expect_a for x in sequence.steps}
            turns = [x.load for x in sequence.steps]
            loads = [s.id.removeprefix("each-start-") for s in steps]
            self.assertEqual(loads, sorted(loads, key=turns.index), number)
            for step, load in zip(steps, loads, strict=True):
                assert step.gate is not None
                self.assertAlmostEqual(step.gate.high or 0.0, 1.15 * expected[load], delta=0.06)

    def test_a_blink_of_the_overload_light_is_foretold(self) -> None:
        """As long as the trace stands at what the electronics hold; a post has no lamp."""
        setup = load_setup_of(13)
        checked = examine(setup, quick=True)
        start, limit_a = checked.starts[0], checked.case.source.limit_a
        step = next(s for s in steps_of(setup, "start") if s.id.startswith("each-start-"))
        found = re.search(r"red overload light for about ([\d.]+) s", step.expect)
        assert found is not None
        at_limit = start.trace.t_s[start.trace.a.max(axis=0) > 0.99 * limit_a]
        self.assertAlmostEqual(float(found[1]), at_limit[-1] - at_limit[0], delta=0.15)
        on_a_post = [s.expect for s in steps_of(load_setup_of(6), "start")]
        self.assertFalse([x for x in on_a_post if "lamp" in x])

    def test_what_fails_has_no_start_but_its_first_fix_has(self) -> None:
        for number in (2, 3, 5, 14):
            stop, *rest = steps_of(load_setup_of(number), "start")
            self.assertEqual(stop.id, "stop")
            self.assertTrue(stop.why)
            self.assertEqual(rest[0].id, "first-fix")
            self.assertTrue(any(s.id.startswith("each-start-") for s in rest) or number == 5)

    def test_a_charger_nobody_wants_is_not_switched_back_on(self) -> None:
        """Setup 14 without its charger: off before the start, and never on again."""
        setup = changed(14, lambda d: d.update(wanted=d["wanted"][:1]))
        ids = [s.id for s in steps_of(setup, "start")]
        self.assertIn("charger-off", ids)
        self.assertNotIn("charger-on", ids)

    def test_a_worn_adapter_is_put_aside_first(self) -> None:
        def worn(doc: dict[str, Any]) -> None:
            doc["hookup"][0]["condition"] = "worn"

        self.assertIn("worn", ids(changed(5, worn), "hook-up"))
        self.assertNotIn("worn", ids(changed(1, lambda doc: None), "hook-up"))

    def test_the_guards_own_delay_is_waited(self) -> None:
        def guarded(doc: dict[str, Any]) -> None:
            doc["hookup"].insert(0, {"kind": "guard", "delay_s": 136})

        step = next(s for s in steps_of(changed(6, guarded), "hook-up") if s.id == "guard")
        self.assertEqual(step.wait_s, 136)

    def test_upkeep_has_a_date_for_each_line(self) -> None:
        self.assertEqual({line.id for line in UPKEEP}, set(UPKEEP_DAYS))

    def test_upkeep_comes_monthly_quarterly_half_yearly_or_yearly(self) -> None:
        """Common practice, no source."""
        common = {
            30: {"fuel-old", "exercise", "gfci"},
            90: {"filter", "contacts", "battery"},
            180: {"oil", "plug", "coil"},
            365: {"cylinder", "screws"},
        }
        for days, names in common.items():
            self.assertEqual({n for n, d in UPKEEP_DAYS.items() if d == days}, names)

    def test_a_time_said_in_words_is_the_time_that_is_waited(self) -> None:
        said = {"half an hour": 1800.0, "fifteen minutes": 900.0, "five minutes": 300.0}
        found = set()
        for name, line in ((name, line) for name, lines in LISTS.items() for line in lines):
            for words, seconds in said.items():
                if words in line.text and line.wait_s:
                    self.assertEqual(line.wait_s, seconds, (name, line.id))
                    found.add(words)
                    break
        self.assertEqual(found, set(said))

    def test_other_waits_are_a_minute_or_two(self) -> None:
        """A set warms up and cools down two minutes, a mode settles in one (common practice)."""
        waits = {line.id: line.wait_s for lines in LISTS.values() for line in lines if line.wait_s}
        self.assertEqual((waits["generator-warm"], waits["unloaded"]), (120.0, 120.0))
        self.assertEqual(waits["modes"], 60.0)

    def test_no_purpose_of_that_name(self) -> None:
        with self.assertRaises(SetupError):
            steps_of(load_setup(path_of(1)), "dance")
        with contextlib.redirect_stderr(io.StringIO()):
            self.assertEqual(main(["steps", str(path_of(1)), "--for", "dance"]), 2)

    def test_the_command(self) -> None:
        for purpose in LISTS:
            with contextlib.redirect_stdout(io.StringIO()) as out:
                self.assertEqual(main(["steps", str(path_of(1)), "--for", purpose, "--json"]), 0)
            self.assertEqual(json.loads(out.getvalue())["format"], "iron-margin/steps")
