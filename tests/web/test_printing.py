"""Prints: set in a subprocess, bounded in time and memory, fetching nothing."""

from __future__ import annotations

import os
import sys
from unittest.mock import patch

from django.contrib.auth.models import User
from django.test import SimpleTestCase
from django.urls import reverse
from pebble import ProcessPool

from tests.shared import document
from tests.web.pages import PageCase
from web.design import printing
from web.design.printing import PAPER_CSS, NotPrinted, pdf_answer, printer, to_pdf
from web.setups import judging, repository

LONG = "<p>and one more line</p>" * 20_000


class Prints(SimpleTestCase):
    def setUp(self) -> None:
        self.prints_in(printing.MAX_MEMORY)
        to_pdf.cache_clear()

    def prints_in(self, max_bytes: int) -> None:
        own = printer(max_bytes)
        self.enterContext(patch.object(printing, "PRINTER", own))
        self.addCleanup(own.end)

    def test_one_that_takes_too_long_is_ended_and_the_next_is_printed(self) -> None:
        with patch.object(printing.PRINTER, "max_s", 0.01), self.assertRaises(NotPrinted):
            to_pdf(LONG, "report.css", "long")
        self.assertTrue(to_pdf("<p>short</p>", "report.css", "short").startswith(b"%PDF-"))

    def test_one_that_needs_too_much_memory_is_ended(self) -> None:
        self.prints_in(330 << 20)
        with self.assertRaises(NotPrinted):
            to_pdf(LONG, "report.css", "large")

    def test_a_process_that_dies_says_so_in_words(self) -> None:
        pool = printing.PRINTER.begun()
        with patch.object(pool, "schedule", lambda *_, **__: pool_dies(pool)):
            self.assertRaises(NotPrinted, to_pdf, "<p>x</p>", "report.css", "dies")

    def test_nothing_is_fetched(self) -> None:
        """A print that names a file of the machine or an address is the same as one that names
        nothing there.
        """
        with_secret = to_pdf(
            '<p>x</p><img src="file:///etc/passwd"><img src="http://127.0.0.1:9/x.png">'
            '<link rel="stylesheet" href="file:///etc/hostname">',
            "report.css",
            "the same",
        )
        self.assertNotIn(b"root:", with_secret)
        self.assertNotIn(b"/EmbeddedFile", with_secret)
        self.assertNotIn(b"/Image", with_secret)

    def test_no_web_process_holds_what_only_prints_need(self) -> None:
        to_pdf("<p>x</p>", "report.css", "apart")
        self.assertNotIn("weasyprint", sys.modules)

    def test_the_largest_type_that_fills_one_page_is_taken(self) -> None:
        """Rows that fit at 8 pt do not at 20; what fits at no size takes the smallest."""
        page = "@page { size: a6; margin: 5mm }"
        text = '<body class="a6">' + "<p>words to be read at arm's length</p>" * 12
        small = to_pdf(text, "card.css", "k", page, (8.0,))
        self.assertEqual(to_pdf(text, "card.css", "k", page, (40.0, 8.0)), small)
        self.assertNotEqual(to_pdf(text, "card.css", "k", page, (40.0,)), small)

    def test_a_name_without_letters_gets_another(self) -> None:
        names = [pdf_answer(b"%PDF-", name, "card") for name in ("Clay wagon", "…")]
        said = [answer["Content-Disposition"] for answer in names]
        self.assertEqual(said, [f'attachment; filename="{n}.pdf"' for n in ("clay-wagon", "card")])


def pool_dies(pool: object) -> object:
    """A print whose process ends itself in the middle."""
    return ProcessPool.schedule(pool, os._exit, args=[3])


class NotPrintedPage(PageCase):
    def test_a_page_that_cannot_be_printed_says_what_to_do(self) -> None:
        owner = User.objects.create_user("ines", password="a-long-sentence-9")
        saved = repository.store(owner, judging.judge(document(3)))
        self.client.force_login(owner)
        with patch("web.verdicts.report.to_pdf", side_effect=NotPrinted):
            answer = self.client.get(reverse("report", args=[saved.pk]))
        self.assertContains(answer, "print a smaller setup", status_code=503)
        self.assertIn("Retry-After", answer)


class Paper(PageCase):
    def test_the_chosen_size_or_the_one_usual_with_the_units(self) -> None:
        self.client.force_login(User.objects.create_user("me"))
        saved = repository.store(
            User.objects.get(), judging.judge(document(5) | {"rules": {"trials": 0}})
        )
        url = reverse("steps-blank", args=[saved.pk, "upkeep"])

        def style() -> str:
            """What is put to the style sheet of a print."""
            with patch("web.steps.views.to_pdf", return_value=b"%PDF-") as printed:
                self.client.get(url)
            return str(printed.call_args.args[3])

        self.assertEqual(style(), "")  # letter, as report.css has it
        self.client.cookies["units"] = "si"
        self.assertEqual(style(), "@page { size: A4; }")
        self.client.post(reverse("paper"), {"paper": "letter"})
        self.assertEqual(style(), "")
        self.client.post(reverse("paper"), {"paper": "papyrus"})
        self.assertEqual(style(), "")
        one, other = (to_pdf("<p>x</p>", "report.css", "x", css) for css in PAPER_CSS.values())
        self.assertNotEqual(one, other)
