"""What the documents say is so: links, examples, figures."""

from __future__ import annotations

import json
import re
from pathlib import Path

from django.test import SimpleTestCase

from ironmargin.__main__ import COMMANDS
from ironmargin.case import prepare
from ironmargin.limits.asking import all_limits
from ironmargin.planning.answer import check
from ironmargin.planning.changes import changes_of
from ironmargin.planning.tasks import read_tasks
from ironmargin.setup.reading import load_setup, read_setup
from tests.shared import document, path_of
from tools import assumed, nomenclature
from tools.fields import page

ROOT = Path(__file__).resolve().parents[2]
MARKED = re.compile(
    r"^([A-Z][A-Z_]+)[^=\n]* = [^\n]*"
    r'(?:# [^\n]*\(memory|\n"""(?:(?!""")[\s\S])*?\(?(?:from )?memory\b)',
    re.MULTILINE,
)
"""A constant whose comment or text says that its figure comes from memory."""
NAME = re.compile(r"[A-Z][A-Z_]+")
PUBLISHED = {
    ("electrics/services.py", "NOMINAL_V"),
    ("enduring/battery.py", "NO_CHARGE_BELOW_C"),
    ("enduring/noise.py", "SLEEP_DBA"),
    ("enduring/pitch.py", "CARBON_MONOXIDE_M"),
    ("learning/fits.py", "MIN_OVER_BACKGROUND_DB"),
    ("limits/load_volts.py", "TOLERANCE"),
    ("limits/neutral.py", "THIRD_OF_HARMONICS"),
    ("planning/panel.py", "LARGEST_MOTOR"),
    ("planning/panel.py", "CONTINUOUS"),
    ("practice/facts.py", "SERVICE_LOW"),
    ("practice/facts.py", "EN_LOW"),
    ("verdict/cautions.py", "RECEPTACLE_V"),
}
"""From a publication, or a maker's sheet, written down from memory: opened to be checked."""
TOLD_BY_ANOTHER = {
    ("bench/panel.py", "GUARD_VOLTS_S"),
    ("enduring/battery.py", "TAPER_END"),
    ("enduring/battery.py", "CHARGER_C_RATE"),
    ("loads/demand.py", "TRANSFORMER_INRUSH"),
    ("path/trace.py", "CONTACT_OHM"),
    ("reaching/sweep.py", "IN_FLIGHT"),
}
"""Has a row by one of its entries, is the same figure elsewhere, or is about a machine."""


def examples(name: str) -> list[str]:
    """The JSON examples of a document, comments taken off."""
    text = (ROOT / "docs" / name).read_text(encoding="utf-8")
    return [
        re.sub(r"//.*", "", block) for block in re.findall(r"```jsonc\n(.*?)```", text, re.DOTALL)
    ]


class Documents(SimpleTestCase):
    def test_every_link_of_the_readme_leads_somewhere(self) -> None:
        text = (ROOT / "README.md").read_text(encoding="utf-8")
        for link in re.findall(r"\]\(([^)#]+)\)", text):
            self.assertTrue((ROOT / link).exists(), link)

    def test_figures_from_memory_are_the_core_s_and_lie_in_their_range(self) -> None:
        """``python tools/assumed.py`` writes the page, with what each end of a range does."""
        text = (ROOT / "docs" / "assumed.md").read_text(encoding="utf-8")
        for one in assumed.FIGURES:
            self.assertLessEqual(one.low, one.value(), one.words)
            self.assertGreaterEqual(one.high, one.value(), one.words)
            head = assumed.row_of(one, []).split(" |  |")[0]
            self.assertIn(head, text)

    def test_every_constant_that_is_marked_as_from_memory_is_in_that_page(self) -> None:
        known = {(one.module, name) for one in assumed.FIGURES for name in NAME.findall(one.before)}
        for file in sorted((ROOT / "ironmargin").rglob("*.py")):
            module = str(file.relative_to(ROOT / "ironmargin"))
            for name in MARKED.findall(file.read_text(encoding="utf-8")):
                if (module, name) not in known | PUBLISHED | TOLD_BY_ANOTHER:
                    self.fail(f"{module}: {name} is from memory; give it a row in tools/assumed.py")

    def test_every_screenshot_is_linked_and_they_are_few(self) -> None:
        text = (ROOT / "README.md").read_text(encoding="utf-8")
        shots = list((ROOT / "docs" / "screenshots").glob("*.png"))
        self.assertLess(len(shots), 20)
        for shot in shots:
            self.assertIn(shot.name, text)

    def test_every_limit_stands_in_the_ledgers_page_as_it_says_itself(self) -> None:
        text = (ROOT / "docs" / "limits.md").read_text(encoding="utf-8")
        for limit in all_limits():
            row = next((x for x in text.splitlines() if x.startswith(f"| `{limit.key}` |")), "")
            for words in (limit.formula, limit.source, limit.consequence.words):
                self.assertIn(words, row, limit.key)

    def test_every_field_stands_in_its_page_as_the_core_reads_it(self) -> None:
        """Written anew by ``python tools/fields.py``."""
        self.assertEqual((ROOT / "docs" / "fields.md").read_text(encoding="utf-8"), page())
        row = next(x for x in page().splitlines() if x.startswith("| `length_m` |"))
        self.assertIn(" | m | ", row)
        self.assertIn("above 0", row)

    def test_the_examples_of_the_format_are_read(self) -> None:
        setup, tasks = examples("format.md")[:2]
        read_setup(json.loads(setup))
        doc = document(5)
        doc["rig"]["loads"].append(
            {"id": "washer", "name": "Washer", "kind": "resistive", "watts": 500}
        )
        read_tasks(json.loads(tasks), read_setup(doc))

    def test_the_worked_example_is_true(self) -> None:
        text = (ROOT / "README.md").read_text(encoding="utf-8")
        one, pair = (check(load_setup(path_of(n))) for n in (2, 1))
        self.assertIn(f"{abs(one.starts[0].margin) * 100:.0f} %", text)
        self.assertEqual(f"{one.starts[0].peak_a:.1f}", re.search(r"= ([\d.]+) A`", text)[1])
        self.assertIn(
            f"{pair.starts[0].peak_a:.1f} A, {pair.starts[0].lowest_v:.0f} V at the dip, "
            f"up to speed in {pair.starts[0].seconds:.1f} s",
            text,
        )
        self.assertIn(f"**+{pair.starts[0].margin * 100:.0f} %**", text)

    def test_every_kind_of_change_is_documented(self) -> None:
        text = (ROOT / "docs" / "format.md").read_text(encoding="utf-8")
        for number in range(1, 12):
            setup = load_setup(path_of(number))
            for change in changes_of(setup, prepare(setup)):
                self.assertIn(f"`{change.kind}`", text)

    def test_every_command_is_in_the_readme(self) -> None:
        text = (ROOT / "README.md").read_text(encoding="utf-8")
        for command in COMMANDS:
            self.assertIn(f"python -m ironmargin {command} ", text)

    def test_every_term_of_the_nomenclature_stands_in_the_code_where_it_says(self) -> None:
        """Written anew by ``python tools/nomenclature.py``."""
        text = nomenclature.PAGE.read_text(encoding="utf-8")
        self.assertEqual(text, nomenclature.page(text))
        table = text.partition(nomenclature.HEAD)[2].partition(nomenclature.ENDS)[0]
        self.assertGreater(table.count("\n"), 90)
        self.assertNotIn("|  |\n", table + "\n", "a term that no code knows")
