"""The day plan, checked slot by slot by an independent checker; contradictions and reasons in
words.
"""

from __future__ import annotations

import json
import random
import tempfile
import unittest
from pathlib import Path
from typing import Any

from ironmargin.__main__ import main
from ironmargin.errors import SetupError
from ironmargin.planning.day import Day, day_json, plan_day
from ironmargin.planning.tasks import read_tasks, slots_of, tasks_schema
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.check import examine
from tests.core.test_planning import random_rig
from tests.shared import path_of
from tests.walking import walk


def tasks(*items: dict[str, Any], **more: Any) -> dict[str, Any]:
    """A tasks file."""
    return {"format": "iron-margin/tasks", "version": 1, "tasks": list(items)} | more


def planned(setup: Setup, data: dict[str, Any]) -> Day:
    return plan_day(setup, read_tasks(data, setup))


def check_by_hand(test: unittest.TestCase, day: Day) -> None:
    """No slot breaks a settled limit by the ordinary check; every task once, whole, in its
    window.
    """
    from dataclasses import replace

    seen: dict[frozenset[str], float] = {}
    for slot in day.slots:
        loads = frozenset(slot.loads)
        if loads not in seen:
            always = {x.id for x in day.setup.rig.loads if x.always_on}
            if not loads:
                continue
            setup = replace(day.setup, wanted=tuple(Wanted(load=i) for i in sorted(loads - always)))
            result = examine(setup, trials=0).result
            seen[loads] = min(
                [r.margin for r in (*result.sustain, *result.path, *result.volts)], default=1.0
            )
        test.assertGreaterEqual(seen[loads], -1e-6, loads)
    for item in day.placed:
        test.assertGreaterEqual(item.start, item.task.earliest)
        test.assertLessEqual(item.start + item.task.minutes, item.task.latest)
        test.assertEqual(
            sum(item.task.load in s.loads for s in day.slots if item.start <= s.at < item.end),
            len(item.slots),
        )
    test.assertEqual(len(day.placed) + len(day.unplaced), len(day.tasks.tasks))


class Plans(unittest.TestCase):
    @walk
    def test_random_days_keep_every_limit(self) -> None:
        for seed in range(25):
            setup = read_setup(
                random_rig(seed) | {"wanted": []}
                if any(x.get("always_on") for x in random_rig(seed)["rig"]["loads"])
                else random_rig(seed)
            )
            draw = random.Random(seed)
            loads = [x.id for x in setup.rig.loads if not x.always_on]
            if not loads:
                continue
            items = [
                {
                    "id": f"t{n}",
                    "load": draw.choice(loads),
                    "minutes": draw.choice((15, 45, 60, 120)),
                    "earliest": f"{draw.randrange(6, 12):02d}:00",
                    "latest": f"{draw.randrange(15, 23):02d}:30",
                    "priority": draw.choice(("must", "want", "wait")),
                }
                for n in range(4)
            ]
            try:
                day = planned(setup, tasks(*items, running=[]))
            except SetupError as error:
                self.assertIn("empties it by", str(error))
                self.assertEqual(setup.supply.kind, "battery-inverter")
                continue
            check_by_hand(self, day)
            self.assertEqual(day.status, "optimal")

    def test_the_microwave_waits_for_the_air_conditioner(self) -> None:
        setup = load_setup(path_of(5))
        data = tasks(
            {"id": "lunch", "load": "micro", "minutes": 15, "earliest": "11:00", "latest": "14:00"},
            {
                "id": "supper",
                "name": "Supper",
                "load": "micro",
                "minutes": 15,
                "earliest": "17:00",
                "latest": "19:00",
            },
            running=[{"load": "roof", "from": "12:00", "to": "20:00"}],
        )
        day = planned(setup, data)
        self.assertEqual([(p.task.id, p.start) for p in day.placed], [("lunch", 11 * 60)])
        ((task, why, relax),) = day.unplaced
        self.assertEqual(task.id, "supper")
        self.assertIn("Rooftop unit on a hot day runs at every time it could", why)
        self.assertIn("leave Rooftop unit on a hot day off", relax)
        self.assertEqual(
            json.loads(json.dumps(day_json(day), allow_nan=False))["placed"][0]["start"], "11:00"
        )

    def test_priority_before_number(self) -> None:
        # One 30 A leg holds one 1,700 W load beside the other at a time; only one hour: the must
        # wins.
        loads = [{"id": i, "name": i, "kind": "resistive", "watts": 2000} for i in ("a", "b")]
        doc = random_rig(1) | {
            "supply": {"kind": "shore", "breaker_a": 30},
            "rig": {"name": "r", "service": "120", "main_a": 30, "loads": loads},
            "wanted": [],
        }
        doc["wanted"] = [{"load": "a"}]
        window = {"minutes": 60, "earliest": "08:00", "latest": "09:00"}
        day = planned(
            read_setup(doc),
            tasks(
                {"id": "a", "load": "a", "priority": "wait"} | window,
                {"id": "b", "load": "b", "priority": "must"} | window,
                running=[],
            ),
        )
        self.assertEqual([p.task.id for p in day.placed], ["b"])
        self.assertIn("b left no room", day.unplaced[0][1])

    def test_the_generator_runs_no_longer_than_it_must_and_never_in_quiet_hours(self) -> None:
        loads = [{"id": i, "name": i, "kind": "resistive", "watts": 600} for i in ("a", "b", "c")]
        doc = random_rig(1) | {
            "supply": {"kind": "generator", "continuous_w": 1800, "starting_w": 2200, "tank_l": 4},
            "rig": {"name": "r", "service": "120", "main_a": 30, "loads": loads},
            "wanted": [{"load": "a"}],
            "site": {"quiet_from_h": 22, "quiet_to_h": 7},
        }
        setup = read_setup(doc)
        items = [{"id": i, "load": i, "minutes": m} for i, m in (("a", 60), ("b", 120), ("c", 30))]
        day = planned(setup, tasks(*items, running=[]))
        self.assertEqual(day.generator_h, 2.0)  # the longest task; the others run beside it
        self.assertTrue(all(not (s.generator and s.quiet) for s in day.slots))
        check_by_hand(self, day)
        short = planned(setup, tasks(*items, running=[], max_generator_h=1))
        self.assertEqual({t.id for t, _, _ in short.unplaced}, {"b"})

    def test_fuel_on_board_is_a_limit(self) -> None:
        loads = [{"id": i, "name": i, "kind": "resistive", "watts": 1500} for i in ("a", "b")]
        doc = random_rig(1) | {
            "supply": {
                "kind": "generator",
                "continuous_w": 1800,
                "starting_w": 2200,
                "tank_l": 2.0,
            },
            "rig": {"name": "r", "service": "120", "main_a": 30, "loads": loads},
            "wanted": [{"load": "a"}],
        }
        day = planned(
            read_setup(doc),
            tasks(
                {"id": "a", "load": "a", "minutes": 120},
                {"id": "b", "load": "b", "minutes": 120},
                running=[],
            ),
        )
        self.assertEqual(len(day.placed), 1)

    def test_a_battery_is_a_limit_and_its_charge_is_shown(self) -> None:
        setup = load_setup(path_of(11))
        day = planned(
            setup,
            tasks(
                {
                    "id": "supper",
                    "load": "hob",
                    "minutes": 60,
                    "earliest": "18:00",
                    "latest": "20:00",
                },
                running=[],
            ),
        )
        at = {s.at: s.soc for s in day.slots}
        self.assertLessEqual(min(at.values()), at[17 * 60])
        self.assertTrue(all(0.1 - 1e-9 <= v <= 1.0 for v in at.values()))
        small = json.loads(path_of(11).read_text())
        small["supply"]["inverter"]["battery_wh"] = 200
        small["supply"]["input_limit_a"] = 0.5
        day = planned(
            read_setup(small),
            tasks(
                {
                    "id": "supper",
                    "load": "hob",
                    "minutes": 120,
                    "earliest": "18:00",
                    "latest": "20:00",
                },
                running=[],
            ),
        )
        self.assertEqual(len(day.unplaced), 1)


class Faults(unittest.TestCase):
    def faults(self, data: dict[str, Any], number: int = 5) -> str:
        setup = load_setup(path_of(number))
        with self.assertRaises(SetupError) as caught:
            planned(setup, data)
        return str(caught.exception)

    def test_bad_files_name_every_fault(self) -> None:
        text = self.faults(
            tasks(
                {"id": "a", "load": "nosuch", "minutes": 0, "earliest": "25:00"},
                {"id": "b", "load": "roof", "minutes": "x", "more": 1},
            )
        )
        for words in (
            "tasks[0].minutes: must be above 0",
            "tasks[0].earliest: must be a time of the day",
            "tasks[1].more: unknown field",
            "tasks[1].minutes: must be a number",
        ):
            self.assertIn(words, text)
        text = self.faults(
            tasks(
                {"id": "a", "load": "nosuch", "minutes": 60},
                {"id": "a", "load": "roof", "minutes": 600, "earliest": "08:00", "latest": "12:00"},
            )
        )
        for words in (
            'must be the id of one of the rig\'s loads (got "nosuch")',
            'must be unique (got "a" again)',
            "must fit between 08:00 and 12:00",
        ):
            self.assertIn(words, text)
        self.assertIn("must name at least one task", self.faults(tasks()))

    def test_a_task_longer_than_the_day(self) -> None:
        self.assertIn(
            "must be at most 1440", self.faults(tasks({"id": "a", "load": "roof", "minutes": 2000}))
        )

    def test_contradictory_locks(self) -> None:
        lock = {"minutes": 30, "start": "10:00"}
        text = self.faults(
            tasks(
                {"id": "a", "name": "Cool", "load": "roof"} | lock,
                {"id": "b", "name": "Lunch", "load": "micro"} | lock,
                running=[],
            )
        )
        self.assertIn(
            "tasks[1].start: cannot be together with Cool at 10:00; unlock one of them", text
        )

    def test_what_runs_anyway_must_hold(self) -> None:
        text = self.faults(
            tasks(
                {"id": "a", "load": "fridge", "minutes": 30},
                running=[{"load": "roof"}, {"load": "micro"}],
            )
        )
        self.assertIn("may not run together at 00:00", text)

    def test_no_supply_hours(self) -> None:
        setup = load_setup(path_of(2))
        day = planned(
            setup, tasks({"id": "a", "load": "base", "minutes": 30}, running=[], generator_hours=[])
        )
        self.assertIn("already", day.unplaced[0][1])
        doc = json.loads(path_of(2).read_text())
        doc["rig"]["loads"][1]["always_on"] = False
        day = planned(
            read_setup(doc),
            tasks({"id": "a", "load": "base", "minutes": 30}, running=[], generator_hours=[]),
        )
        self.assertIn("the generator may not run long enough", day.unplaced[0][1])
        text = self.faults(
            tasks(
                {"id": "a", "load": "base", "minutes": 30},
                running=[{"load": "bed", "from": "23:00", "to": "24:00"}],
                generator_hours=[],
            ),
            4,
        )
        self.assertIn("must lie where the generator may run", text)

    def test_midnight(self) -> None:
        self.assertEqual(slots_of(22 * 60, 60), [0, 1, 2, 3, *range(88, 96)])
        self.assertEqual(slots_of(0, 24 * 60), list(range(96)))

    def test_the_schema_knows_the_clock(self) -> None:
        self.assertIn("earliest", tasks_schema()["properties"]["tasks"]["items"]["properties"])

    def test_command_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "t.json"
            file.write_text(
                json.dumps(tasks({"id": "a", "load": "micro", "minutes": 15}, running=[]))
            )
            self.assertEqual(main(["day", str(path_of(5)), "--tasks", str(file), "--json"]), 0)
            self.assertEqual(main(["day", str(path_of(5)), "--tasks", str(file)]), 0)
            file.write_text("{")
            self.assertEqual(main(["day", str(path_of(5)), "--tasks", str(file)]), 2)
            self.assertEqual(
                main(["day", str(path_of(5)), "--tasks", str(Path(folder) / "none.json")]), 2
            )


if __name__ == "__main__":
    unittest.main()
