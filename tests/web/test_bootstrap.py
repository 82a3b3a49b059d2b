"""The shell part of ./start and ./test: what it says on a machine where it may not install."""

from __future__ import annotations

import os
import subprocess
import tempfile
from pathlib import Path

from django.test import SimpleTestCase

ROOT = Path(__file__).resolve().parents[2]


class Bootstrap(SimpleTestCase):
    def run_with(self, script: str, **fakes: str) -> subprocess.CompletedProcess[str]:
        """Run a line of shell with bootstrap.sh sourced and some commands replaced."""
        with tempfile.TemporaryDirectory() as folder:
            for name, body in fakes.items():
                fake = Path(folder) / name.replace("_", "-")
                fake.write_text(f"#!/bin/sh\n{body}\n")
                fake.chmod(0o755)
            env = os.environ | {"PATH": f"{folder}:{os.environ['PATH']}"}
            return subprocess.run(
                ["sh", "-eu", "-c", f". {ROOT}/tools/bootstrap.sh; NAME=start; {script}"],
                cwd=folder,
                env=env,
                capture_output=True,
                text=True,
                check=False,
                timeout=30,
            )

    def test_without_rights_it_prints_the_one_line_to_run(self) -> None:
        done = self.run_with(
            "need_packages mariadb-server gcc", dpkg_query="exit 1", id="echo 1000"
        )
        self.assertEqual(done.returncode, 1)
        self.assertEqual(
            done.stderr.strip(),
            "start: Debian packages are missing; run: sudo apt-get install "
            "--no-install-recommends mariadb-server gcc",
        )

    def test_with_everything_there_it_does_nothing(self) -> None:
        done = self.run_with(
            "need_packages mariadb-server && echo fine",
            dpkg_query="echo install ok installed",
            apt_get="exit 9",
        )
        self.assertEqual((done.returncode, done.stdout.strip()), (0, "fine"))

    def test_a_failing_apt_get_is_named(self) -> None:
        done = self.run_with(
            "need_packages gcc",
            dpkg_query="exit 1",
            id="echo 0",
            apt_get="echo E: no network >&2; exit 100",
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("could not install gcc", done.stderr)
        self.assertIn("E: no network", done.stderr)

    def test_no_room_for_the_packages(self) -> None:
        done = self.run_with(
            "touch requirements.lock; need_venv", df="echo head; echo a b c 12 e f"
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("only 12 MB free here; the Python packages need 1500 MB", done.stderr)
