"""Every source is easy to read on half a screen: no line over a hundred letters, no long module."""

from __future__ import annotations

import subprocess
from pathlib import Path

from django.test import SimpleTestCase

ROOT = Path(__file__).resolve().parents[2]
WIDEST, LONGEST = 100, 440
OTHERS = (".md", ".csv", ".json", ".svg", ".png", ".lock", ".woff2", ".webmanifest", ".txt", ".zip")
"""Prose, tables, data and pictures: their lines are as long as what they say."""
NOT_OURS = ("/vendor/", "/migrations/", "app.css", "tests/fixtures/", "LICENSE", "package-lock")
TABLES = ("| figure | taken |",)
"""Lines of a page that is written by a program, as it has them."""


def sources() -> list[Path]:
    """The files that somebody writes, as git knows them."""
    known = subprocess.run(
        ["git", "ls-files"], cwd=ROOT, check=True, capture_output=True, text=True
    ).stdout
    return [
        ROOT / name
        for name in known.splitlines()
        if not name.endswith(OTHERS) and not any(part in f"/{name}" for part in NOT_OURS)
    ]


class Sources(SimpleTestCase):
    def test_no_line_is_over_a_hundred_letters(self) -> None:
        found = [
            f"{file.relative_to(ROOT)}:{n}"
            for file in sources()
            for n, line in enumerate(file.read_text(encoding="utf-8").splitlines(), 1)
            if len(line) > WIDEST and not line.startswith(TABLES)
        ]
        self.assertEqual(found, [])

    def test_no_module_is_long(self) -> None:
        found = {
            str(file.relative_to(ROOT)): lines
            for file in sources()
            if file.suffix == ".py"
            and (lines := len(file.read_text(encoding="utf-8").splitlines())) > LONGEST
        }
        self.assertEqual(found, {})
