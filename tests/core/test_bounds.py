"""What is bounded, and what is looked for in a shorter way than before: the same is found."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np

from ironmargin.errors import SetupError
from ironmargin.learning.learn import learn
from ironmargin.learning.log import read_log
from ironmargin.learning.observed import MAX_KINDS, kinds_weighed
from ironmargin.planning import first_fix as fixing
from ironmargin.planning.answer import check_fully
from ironmargin.planning.first_fix import first_fix
from ironmargin.planning.together import Together
from ironmargin.record import record
from ironmargin.setup.reading import read_setup
from ironmargin.setup.work import MAX_WORK, work_of
from ironmargin.verdict.check import certain_to_fail, examine
from tests.shared import document, path_of
from tests.walking import walk

ROOT = Path(__file__).resolve().parents[2]


def crowd(units: int, others: int, trials: int = 1000) -> dict[str, Any]:
    """So many air conditioners and other loads, on a set that just does not do."""
    loads: list[dict[str, Any]] = [
        {"id": f"a{n}", "name": f"A{n}", "kind": "air-conditioner", "running_a": 4, "lra_a": 20}
        for n in range(units)
    ]
    loads += [
        {"id": f"l{n}", "name": f"L{n}", "kind": "electronic", "watts": 10} for n in range(others)
    ]
    watts = 0.7 * (480 * units + 10 * others) + 1000
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "crowd",
        "supply": {"kind": "generator", "continuous_w": watts, "starting_w": 1.1 * watts},
        "hookup": [],
        "rig": {"name": "crowd", "service": "120", "main_a": 400, "loads": loads},
        "wanted": [{"load": x["id"]} for x in loads],
        "rules": {"trials": trials},
    }


class Searching(unittest.TestCase):
    def test_a_set_asked_again_is_known(self) -> None:
        together = Together.of(read_setup(document(9)))
        masks = np.array(
            [[bool(n >> at & 1) for at in range(len(together.switchable))] for n in range(4)]
        )
        first = together.may(np.vstack([masks, masks]))
        self.assertEqual(first[:4].tolist(), first[4:].tolist())
        self.assertEqual(first[:4].tolist(), together._may(masks).tolist())
        with patch.object(Together, "_may", side_effect=AssertionError):
            self.assertEqual(together.may(masks).tolist(), first[:4].tolist())


class Bounds(unittest.TestCase):
    def test_work_grows_with_motors_loads_and_trials(self) -> None:
        base = work_of(read_setup(crowd(4, 10)))
        for more in (crowd(5, 10), crowd(4, 11), crowd(4, 10, 2000)):
            self.assertGreater(work_of(read_setup(more)), base)
        # What is not wanted costs nothing.
        idle = crowd(4, 10)
        idle["wanted"] = idle["wanted"][:4]
        self.assertLess(work_of(read_setup(idle)), base)

    def test_more_than_a_check_may_compute_is_a_named_fault(self) -> None:
        with self.assertRaises(SetupError) as caught:
            read_setup(crowd(54, 446))
        fault = caught.exception.faults[0]
        self.assertEqual((fault.path, fault.code), ("rules.trials", "too-much"))
        self.assertRegex(fault.message, r"2\.\d times what a check may compute")
        self.assertLessEqual(work_of(read_setup(crowd(30, 200))), MAX_WORK)

    def test_a_start_that_fails_is_known_before_the_check(self) -> None:
        for number in (*range(1, 12), *range(13, 23)):
            setup = read_setup(document(number))
            starts = examine(setup, quick=True).starts
            if certain_to_fail(setup):
                self.assertEqual(examine(setup, quick=True).result.verdict, "fails", number)
            else:
                self.assertTrue(all(s.passes for s in starts), number)

    def test_the_nearest_remedy_ends_and_says_that_it_did(self) -> None:
        failing = examine(read_setup(document(2)), quick=True)
        found, whole = first_fix(failing)
        self.assertTrue(whole and found is not None)
        with patch.object(fixing, "MAX_FIRST_FIX", 0):
            self.assertEqual(first_fix(failing), (None, False))
            words = check_fully(read_setup(document(2))).result.weakest.sentence
        self.assertNotIn("No single change", words)

    def test_fewer_kinds_of_start_are_weighed_of_a_larger_setup(self) -> None:
        small, large = read_setup(document(3)), read_setup(crowd(8, 150))
        self.assertEqual(kinds_weighed(small), MAX_KINDS)
        self.assertEqual(kinds_weighed(large), 1)
        self.assertEqual(kinds_weighed(read_setup(crowd(1, 480, 300))), 0)

    @walk
    def test_the_newest_kinds_are_weighed_and_the_others_named(self) -> None:
        entries = [
            {"kind": "start", "load": "bed", "outcome": "starts", "peak_a": 30.0,
             "changed": {"lra_a": 30.0 + n}}
            for n in range(MAX_KINDS + 2)
        ]  # fmt: skip
        log = read_log({"format": "iron-margin/log", "version": 1, "entries": entries})
        setup = read_setup(document(3))
        setup = replace(setup, rules=replace(setup.rules, trials=0))
        found = learn(setup, log).entries
        older = [j.entry for j in found if j.sentence.startswith("Saved, but not used")]
        self.assertEqual(older, [0, 1])


class Records(unittest.TestCase):
    def test_they_name_what_is_missing_or_unknown(self) -> None:
        @record
        class Pair:
            first: int
            second: int = 2

        self.assertEqual((Pair(1).first, Pair(1).second, Pair(1, 3).second), (1, 2, 3))
        for words, make in (
            ("Pair needs first", lambda: Pair()),  # type: ignore[call-arg]
            ("Pair has no field third", lambda: Pair(1, third=3)),  # type: ignore[call-arg]
            ("takes 2 positional", lambda: Pair(1, 2, 3)),  # type: ignore[call-arg]
        ):
            with self.assertRaisesRegex(TypeError, words):
                make()


class Command(unittest.TestCase):
    def run_check(self, *more: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "ironmargin", "check", str(path_of(2)), *more]
        return subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)

    def test_everything_it_prints_arrives_before_it_ends_at_once(self) -> None:
        done = self.run_check("--json")
        self.assertEqual(done.returncode, 0)
        self.assertEqual(json.loads(done.stdout)["verdict"], "fails")
        self.assertEqual(self.run_check("--no-such").returncode, 2)

    def test_a_reader_that_stopped_listening_is_no_error(self) -> None:
        read, write = os.pipe()
        os.close(read)
        command = [sys.executable, "-m", "ironmargin", "check", str(path_of(2))]
        done = subprocess.run(
            command, cwd=ROOT, stdout=write, stderr=subprocess.PIPE, text=True, check=False
        )
        os.close(write)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
