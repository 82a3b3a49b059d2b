"""The command line as another program meets it."""

from __future__ import annotations

import csv
import json
import subprocess
import sys
import tempfile
import tomllib
import unittest
from pathlib import Path

from tests.shared import path_of

ROOT = Path(__file__).resolve().parents[2]


def run(*words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "ironmargin", *words],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )


class CommandLine(unittest.TestCase):
    def test_a_failing_setup_is_a_verdict_not_an_error(self) -> None:
        done = run("check", str(path_of(2)))
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("FAILS", done.stdout)
        self.assertIn("An estimate, not an approval", done.stdout)

    def test_its_version_is_the_package_s_and_the_changelog_s_newest(self) -> None:
        done = run("--version")
        project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
        self.assertEqual(done.stdout, f"ironmargin {project['version']}\n")
        newest = next(
            line
            for line in (ROOT / "CHANGELOG.md").read_text("utf-8").splitlines()
            if line.startswith("## ")
        )
        self.assertRegex(newest, rf"^## {project['version']} \(\d{{4}}-\d\d-\d\d\)$")

    def test_json_has_the_format_and_only_finite_figures(self) -> None:
        done = run("check", str(path_of(2)), "--json")

        def refuse(word: str) -> None:
            raise AssertionError(word)

        body = json.loads(done.stdout, parse_constant=refuse)
        self.assertEqual(
            (body["format"], body["version"], body["verdict"]), ("iron-margin/result", 1, "fails")
        )
        for name in (
            "starts",
            "legs",
            "sustain",
            "path",
            "breakers",
            "service",
            "schools",
            "cautions",
            "assumed",
        ):
            self.assertIn(name, body)
        self.assertNotIn("seconds", body["starts"][0])
        self.assertNotIn("null", done.stdout)

    def test_a_bad_file_exits_2_with_a_fault_a_line(self) -> None:
        done = run("check", str(path_of(12)))
        self.assertEqual(done.returncode, 2)
        self.assertGreaterEqual(len(done.stderr.strip().splitlines()), 5)
        self.assertNotIn("Traceback", done.stderr)

    def test_the_trace_is_a_table(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "trace.csv"
            self.assertEqual(run("check", str(path_of(7)), "--trace", str(file)).returncode, 0)
            rows = list(csv.DictReader(file.read_text().splitlines()))
        self.assertEqual({row["start"] for row in rows}, {"r1", "r2", "r1+r2"})
        self.assertGreater(float(rows[0]["l2_v"]), 100)
        self.assertIn("heat_post_1", rows[0])
        refused = run("check", str(path_of(7)), "--trace", "/nonexistent/t.csv")
        self.assertEqual((refused.returncode, refused.stderr.count("\n")), (2, 1))

    def test_the_schema_is_json(self) -> None:
        self.assertEqual(json.loads(run("schema").stdout)["$id"], "iron-margin/setup")


if __name__ == "__main__":
    unittest.main()
