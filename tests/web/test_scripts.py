"""The pages' scripts, each by itself on a page without a browser (tests/scripts, by node)."""

from __future__ import annotations

import re
import subprocess
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from django.conf import settings
from django.contrib.staticfiles.finders import find
from django.core.management import call_command
from django.test import override_settings

from web.design.views import FILES, MODULES

ROOT = Path(__file__).resolve().parents[2]
SHIPPED = ("js", "css", "svg", "txt", "json", "html", "map")
SCRIPTS = ROOT / "web" / "design" / "static" / "design"


class Scripts(unittest.TestCase):
    def test_they_do_what_they_say(self) -> None:
        files = sorted(str(f) for f in (ROOT / "tests" / "scripts").glob("*.test.js"))
        self.assertTrue(files)
        done = subprocess.run(
            ["node", "--test", *files], cwd=ROOT, capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stdout[-4000:] + done.stderr[-1000:])

    def test_every_module_is_a_part_of_every_page_and_kept_for_no_network(self) -> None:
        entry = (SCRIPTS / "app.js").read_text()
        named = set(re.findall(r'import "\./app/(\w+)\.js";', entry))
        there = {f.stem for f in (SCRIPTS / "app").glob("*.js")}
        self.assertEqual(named, there)
        self.assertEqual(set(MODULES), there)
        for name in FILES:
            self.assertIsNotNone(find(name), name)

    def test_collected_they_name_each_other_by_content(self) -> None:
        backend = {"staticfiles": {"BACKEND": "web.project.static_files.NamedByContent"}}
        with (
            TemporaryDirectory() as folder,
            override_settings(
                STATIC_ROOT=folder,
                STORAGES=settings.STORAGES | backend,
                WHITENOISE_SKIP_COMPRESS_EXTENSIONS=SHIPPED,
            ),
        ):
            call_command("collectstatic", verbosity=0, interactive=False)
            # Only ours: what packages bring along nobody is sent.
            self.assertEqual(
                {path.name for path in Path(folder).iterdir()}, {"design", "staticfiles.json"}
            )
            entry = next(Path(folder, "design").glob("app.????????????.js")).read_text()
            named = re.findall(r'import\s?"\./(app/\w+\.[0-9a-f]{12}\.js)";', entry)
            self.assertEqual(len(named), len(MODULES))
            for name in named:
                self.assertTrue(Path(folder, "design", name).exists(), name)

    def test_none_leaves_a_name_behind_or_needs_another_ones(self) -> None:
        for file in SCRIPTS.rglob("*.js"):
            if "vendor" in file.parts:
                continue
            text = file.read_text()
            self.assertNotRegex(text, r"\bwindow\.\w+ = |globalThis", file.name)
            for module in re.findall(r'from "(\.[^"]+)"', text):
                self.assertTrue((file.parent / module).exists(), f"{file.name}: {module}")
