"""Many setups at once, over worker processes that die; and how far a stronger supply holds."""

from __future__ import annotations

import csv
import json
import os
import signal
import subprocess
import sys
import tempfile
import unittest
from contextlib import ExitStack
from pathlib import Path
from typing import Any
from unittest import mock

import pyarrow.parquet
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ironmargin.errors import SetupError
from ironmargin.planning.answer import check
from ironmargin.reaching import sweep as many
from ironmargin.reaching.axes import NAMED, scaled_supply
from ironmargin.reaching.reach import limits_of
from ironmargin.reaching.rows import safe_cell
from ironmargin.setup.model import Setup
from tests.shared import SETUPS, changed, document

ROOT = SETUPS.parents[1]


def setup_of(number: int) -> Setup:
    return changed(number, lambda doc: doc.update(rules={"trials": 300}))


def without_seconds(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [{k: v for k, v in row.items() if k != "seconds" and v is not None} for row in rows]


class Stronger(unittest.TestCase):
    @settings(
        max_examples=12,
        deadline=None,
        derandomize=True,
        suppress_health_check=[HealthCheck.too_slow],
    )
    @given(st.sampled_from([1, 4, 6, 15]), st.floats(1.05, 1.6))
    def test_a_stronger_supply_never_holds_less_far(self, number: int, times: float) -> None:
        setup = changed(number, lambda doc: doc.update(rules={"trials": 0}))
        fields = ("base_load_w", "outdoor_c")
        before = limits_of(setup, fields)
        after = limits_of(scaled_supply(setup, times), fields)
        for a, b in zip(before, after, strict=True):
            if a.passes_high is not None:
                self.assertIsNotNone(b.passes_high)
                slack = max(NAMED[a.field].step, 0.012 * abs(a.passes_high.value))
                self.assertGreaterEqual(b.passes_high.value, a.passes_high.value - slack)


def address_in(file: Path) -> str | None:
    """The address a scheduler wrote down; None until it is whole there."""
    try:
        found: str = json.loads(file.read_text(encoding="utf-8"))["address"]
    except (OSError, ValueError, KeyError):
        return None
    return found


class Sweeps(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.lines = Path(self.folder.name) / "clients.jsonl"
        lines = []
        for n in range(160):
            doc = document((2, 4, 6, 13)[n % 4]) | {"name": f"client {n}"}
            lines.append('{"format": broken' if n % 50 == 7 else json.dumps(doc))
        self.lines.write_text("\n".join(lines) + "\n", encoding="utf-8")

    def out(self, name: str) -> str:
        return str(Path(self.folder.name) / name)

    def swept(self, items: list[many.Item], name: str, **how: Any) -> list[dict[str, Any]]:
        """The rows of a sweep, from the file it wrote."""
        counts = many.sweep(items, [], self.out(name), **how)
        lines = Path(self.out(name)).read_text(encoding="utf-8").splitlines()
        rows = [json.loads(line) for line in lines]
        self.assertEqual(counts.total(), len(rows))
        self.assertEqual(counts["fault"], sum(bool(row["fault"]) for row in rows))
        return rows

    def items(self) -> list[many.Item]:
        return many.items_of([], str(self.lines))

    def test_rows_in_every_kind_of_file(self) -> None:
        figures = many.read_sets(["conditions.outdoor_c=43"])
        counts = many.sweep(self.items()[:30], figures, self.out("a.jsonl"))
        self.assertEqual(counts.total(), 30)
        lines = Path(self.out("a.jsonl")).read_text(encoding="utf-8").splitlines()
        nothing = {"check": "", "where": "", "iron_margin": None}
        rows = [nothing | json.loads(line) for line in lines]
        self.assertEqual(len(rows), 30)
        self.assertIn("not JSON", rows[7]["fault"])
        many.sweep(self.items()[:30], figures, self.out("a.csv"))
        with open(self.out("a.csv"), encoding="utf-8", newline="") as file:
            read = list(csv.DictReader(file))
        self.assertEqual([r["verdict"] for r in read], [r["verdict"] for r in rows])
        many.sweep(self.items()[:30], figures, self.out("a.parquet"))
        table = pyarrow.parquet.read_table(self.out("a.parquet")).to_pylist()
        self.assertEqual(without_seconds(table), without_seconds(rows))
        self.assertEqual(list(Path(self.folder.name).glob("*.journal")), [])

    def test_a_row_is_the_check(self) -> None:
        ((row,),) = many.in_this_process(self.items()[:1], [("conditions.outdoor_c", 20.0)])
        alone = check(changed(2, lambda doc: doc["conditions"].update(outdoor_c=20)))
        self.assertEqual(row["verdict"], alone.verdict)
        self.assertAlmostEqual(row["iron_margin"], alone.iron_margin, places=6)

    def test_bad_questions(self) -> None:
        for items, out, code in (([], "a.csv", "none"), (self.items()[:1], "a.xls", "kind")):
            with self.assertRaises(SetupError) as caught:
                many.sweep(items, [], self.out(out))
            self.assertEqual(caught.exception.faults[0].code, code)
        with self.assertRaises(SetupError):
            many.read_sets(["conditions.outdoor_c=hot"])
        with self.assertRaises(SetupError):
            many.items_of([], self.out("none.jsonl"))

    def test_formulas_stay_text_in_a_spreadsheet(self) -> None:
        self.assertEqual(
            [safe_cell(x) for x in ("=1+1", "-3", "plain", 4.0)], ["'=1+1", "'-3", "plain", 4.0]
        )

    def test_killed_and_resumed_it_ends_with_the_same_rows(self) -> None:
        whole = self.swept(self.items(), "whole.jsonl")
        out = self.out("killed.jsonl")
        command = [
            sys.executable,
            "-m",
            "ironmargin",
            "sweep",
            "--from",
            str(self.lines),
            "--out",
            out,
        ]
        killed = subprocess.Popen(command, cwd=ROOT, stderr=subprocess.PIPE, text=True)
        killed.stderr.readline()  # the first batch is in the journal
        killed.send_signal(signal.SIGKILL)
        killed.communicate()
        journal = Path(out + ".journal")
        kept = journal.read_text(encoding="utf-8")
        self.assertTrue(0 < len(kept.splitlines()) < len(whole))
        journal.write_text(kept + '{"file": "torn', encoding="utf-8")
        rows = self.swept(self.items(), "killed.jsonl", resume=True)
        self.assertEqual(without_seconds(rows), without_seconds(whole))
        self.assertEqual(len({r["file"] for r in rows}), len(rows))

    def test_a_worker_that_dies_costs_nothing_and_a_poisonous_setup_one_row(self) -> None:
        whole = self.swept(self.items(), "whole.jsonl")
        with many.cluster(2, None) as client:
            found = many.on_workers(self.items(), [], client)
            rows = list(next(found))
            address = next(iter(client.scheduler_info()["workers"]))
            pid = client.run(os.getpid, workers=[address])[address]
            os.kill(pid, signal.SIGKILL)
            for more in found:
                rows += more
        by_file = {r["file"]: r for r in rows}
        self.assertEqual(len(by_file), len(rows))
        self.assertEqual(
            without_seconds([by_file[r["file"]] for r in whole]), without_seconds(whole)
        )

    def test_a_cluster_without_our_core_is_named_in_one_line(self) -> None:
        """Scheduler and worker in a folder from which the core cannot be imported."""
        with tempfile.TemporaryDirectory() as folder, ExitStack() as stack:
            env = {k: v for k, v in os.environ.items() if k != "PYTHONPATH"}
            file = Path(folder) / "scheduler.json"
            address = ["--scheduler-file", str(file)]
            for part in (
                ["dask_scheduler", "--port", "0", "--no-dashboard", "--host", "127.0.0.1"],
                ["dask_worker", "--nworkers", "1", "--no-dashboard"],
            ):
                command = [sys.executable, "-m", f"distributed.cli.{part[0]}", *part[1:], *address]
                process = subprocess.Popen(command, cwd=folder, env=env, stderr=subprocess.DEVNULL)
                stack.callback(process.wait)
                stack.callback(process.terminate)
                while (url := address_in(file)) is None:
                    self.assertIsNone(process.poll())
            with self.assertRaises(SetupError) as refused:
                many.sweep(self.items()[:2], [], f"{folder}/rows.jsonl", scheduler=url)
            (fault,) = refused.exception.faults
            self.assertRegex(fault.message, r"^the scheduler has no ironmargin; there, run: pip ")

    def test_another_core_is_named_and_the_same_one_goes_on(self) -> None:
        with many.cluster(1, None) as client, tempfile.TemporaryDirectory() as folder:
            many.demand_core(client)
            version, digest = many.core_here()
            for here, words in (
                (("9.9.9", digest), f"has ironmargin {version}, here is 9.9.9"),
                ((version, "0" * 64), "has other code or tables"),
            ):
                with (
                    mock.patch.object(many, "core_here", return_value=here),
                    self.assertRaises(SetupError) as refused,
                ):
                    many.demand_core(client)
                self.assertIn(words, refused.exception.faults[0].message)
            url = client.scheduler.address
            counts = many.sweep(self.items()[:3], [], f"{folder}/rows.jsonl", scheduler=url)
            self.assertEqual(counts.total(), 3)


if __name__ == "__main__":
    unittest.main()
