"""Words that were replaced stay replaced: in what pages say, in the core's sentences, in the docs.

The list is the one of docs/nomenclature.md; what it marks as still in code, and what is a word of
everyday use as well, is not looked for.
"""

from __future__ import annotations

import ast
import re
from pathlib import Path

from django.test import SimpleTestCase

from tests.kinds import SUPPLIES, question
from web.design.labels import LABELS
from web.logbook.service import FIELDS
from web.supplies.form import MORE_FIELDS, SUPPLY_FIELDS, SupplyForm

ROOT = Path(__file__).resolve().parents[2]
HISTORY = ("nomenclature.md", "fields.md")
EVERYDAY = {"keep it", "let go", "lets go"}
"""Fine in a sentence; as a button's only words they are looked for on their own."""
MARKUP = re.compile(r"{%\s*comment.*?endcomment\s*%}|{#.*?#}|<[^>]+>|{[%{].*?[%}]}", re.DOTALL)


def banned() -> list[str]:
    """What is no longer said: phrases of two words and more from the list's right column."""
    text = (ROOT / "docs" / "nomenclature.md").read_text(encoding="utf-8")
    found = []
    for _, before in re.findall(
        r"^\| ([^|]+) \| ([^|]+) \|$", text.partition("## Words that")[2], re.M
    ):
        if "(code" in before:
            continue
        plain = re.sub(r"\([^)]*\)", "", before)
        found += [w.strip() for w in re.split(r"[,;]", plain) if len(w.split()) > 1]
    return found


def strings(source: str) -> list[str]:
    """The strings of a module that are no docstrings."""
    tree = ast.parse(source)
    said = {
        id(node.value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    return [
        node.value
        for node in ast.walk(tree)
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in said
    ]


class Terms(SimpleTestCase):
    def setUp(self) -> None:
        self.words = banned()
        phrases = [re.escape(w) for w in self.words if w not in EVERYDAY]
        # One hot conductor is what an electrician calls it; "one hot" alone is not.
        self.found = re.compile(rf"\b(?:{'|'.join(phrases)})\b(?! conductor)", re.IGNORECASE)

    def said(self, where: str, text: str) -> list[str]:
        flat = re.sub(r"\s+", " ", text)
        hits = [f"{where}: {m[0]}" for m in self.found.finditer(flat)]
        return hits + [f"{where}: {flat}" for _ in [0] if flat.strip(" .").lower() in EVERYDAY]

    def test_the_list_is_read_and_would_be_noticed(self) -> None:
        self.assertGreater(len(self.words), 12)
        self.assertEqual(self.said("x", "Over the\n duty cycle"), ["x: Over the duty cycle"])
        self.assertEqual(self.said("x", "Keep it"), ["x: Keep it"])
        self.assertEqual(self.said("x", "keep it dry; one hot conductor"), [])

    def test_pages_do_not_say_them(self) -> None:
        hits = []
        for file in [*(ROOT / "web").rglob("*.html"), *(ROOT / "web").rglob("*.txt")]:
            for piece in MARKUP.split(file.read_text(encoding="utf-8")):
                hits += self.said(file.name, piece)
        self.assertEqual(hits, [])

    def test_sentences_in_code_do_not(self) -> None:
        hits = []
        for folder in ("ironmargin", "web"):
            for file in (ROOT / folder).rglob("*.py"):
                for text in strings(file.read_text(encoding="utf-8")):
                    hits += self.said(file.name, text)
        self.assertEqual(hits, [])

    def test_documents_do_not(self) -> None:
        files = [ROOT / "README.md", *(ROOT / "docs").glob("*.md")]
        hits = [
            hit
            for file in files
            if file.name not in HISTORY
            for hit in self.said(file.name, file.read_text(encoding="utf-8"))
        ]
        self.assertEqual(hits, [])


class Labels(SimpleTestCase):
    UNITS = ("a", "c", "db", "h", "kg", "l", "m", "ohm", "pct", "s", "v", "w", "wh")

    def test_whatever_is_asked_for_has_a_label(self) -> None:
        """A field's own name is no label: "Dc a" is nothing anybody says."""
        requested = {**SUPPLY_FIELDS, **FIELDS}
        for kind, names in (*requested.items(), *MORE_FIELDS.items()):
            for name in names:
                self.assertTrue({name, f"{kind}.{name}"} & set(LABELS), f"{kind}.{name}")

    def test_a_label_names_no_unit(self) -> None:
        """The unit stands beside it, in the person's own: "Capacity kg [lb]" says two."""
        for name in SUPPLIES:
            document = question(name)
            document["supply"] = document["supply"] | {"fuel": "propane", "cylinder": {"count": 1}}
            for group in SupplyForm(document, "us").supply_groups(full=True):
                for field in group.fields:
                    last = field.label.lower().split()[-1]
                    self.assertNotIn(last, self.UNITS, f"{name}: {field.label}")
