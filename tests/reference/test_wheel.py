"""The core as a wheel, read back with the standard tools."""

from __future__ import annotations

import subprocess
import sys
import tarfile
import tempfile
import unittest
import zipfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


class TheWheel(unittest.TestCase):
    """``pip wheel .`` makes a wheel of the core alone, typed and with its tables."""

    def test_it_holds_the_core_and_no_web(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            subprocess.run(
                [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation",
                 "--disable-pip-version-check", "-w", folder, str(ROOT)],
                check=True, capture_output=True,
            )  # fmt: skip
            (wheel,) = Path(folder).glob("ironmargin-*.whl")
            with zipfile.ZipFile(wheel) as file:
                names = file.namelist()
                meta = next(n for n in names if n.endswith("METADATA"))
                words = file.read(meta).decode()
                entry = next(n for n in names if n.endswith("entry_points.txt"))
                self.assertIn("ironmargin = ironmargin.__main__:run", file.read(entry).decode())
        self.assertIn("ironmargin/py.typed", names)
        self.assertIn("ironmargin/tables/sources.csv", names)
        self.assertIn("ironmargin_meter/registers.py", names)
        self.assertFalse([n for n in names if n.startswith(("web/", "tests/", "tools/"))])
        self.assertTrue([n for n in names if "licenses" in n.lower()])
        for extra in ("plan", "scale", "meter", "web"):
            self.assertIn(f"Provides-Extra: {extra}", words)
        self.assertIn("Requires-Dist: numpy>=2", words)

    def test_the_source_holds_what_it_is_compiled_with(self) -> None:
        """A wheel built from it is as fast as one built here: the compiler's types come along."""
        typed = {f.relative_to(ROOT).as_posix() for f in (ROOT / "ironmargin").rglob("*.pxd")}
        with tempfile.TemporaryDirectory() as folder:
            subprocess.run(
                [sys.executable, "setup.py", "-q", "sdist", "-d", folder],
                cwd=ROOT, check=True, capture_output=True,
            )  # fmt: skip
            (source,) = Path(folder).glob("ironmargin-*.tar.gz")
            with tarfile.open(source) as file:
                names = {n.partition("/")[2] for n in file.getnames()}
        self.assertIn("ironmargin/starting/engine.pxd", typed)
        self.assertLessEqual(typed, names)
