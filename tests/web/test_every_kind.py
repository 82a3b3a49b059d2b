"""Every kind of supply through every page of a setup: each opens, and says nothing empty."""

from __future__ import annotations

from unittest.mock import patch

from django.contrib.auth.models import User
from django.urls import reverse

from ironmargin.setup.reading import read_setup
from ironmargin.setup.supply import supply_kinds
from tests.kinds import SUPPLIES, locked_out, question
from tests.web.pages import PageCase
from web.design.printing import PRINTER
from web.setups import judging, repository

PAGES = (
    "bench",
    "hours",
    "hours-series",
    "log",
    "log-export",
    "log-learning",
    "log-pairs",
    "log-power",
    "log-survey",
    "meter",
    "now",
    "now-look",
    "now-table",
    "order",
    "panel",
    "panel-pdf",
    "panel-svg",
    "reach",
    "reach-places",
    "report",
    "report-for",
    "setup",
    "setup-chip",
    "setup-export",
    "steps",
    "steps-calendar",
)
MAPPED = ("shore", "generator", "assist")
"""Of these the reach is drawn: to find one takes longer than all other pages, and the core's own
walk finds it for every kind.
"""
PDF = "application/pdf"


def unprinted(typeset: object, html: str, *_: object) -> bytes:
    """What would be printed, as words."""
    return html.encode()


class EveryKind(PageCase):
    coarse_maps = True

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.client.cookies["units"] = "si"

    def test_every_kind_is_walked(self) -> None:
        self.assertEqual({s["kind"] for s in SUPPLIES.values()}, set(supply_kinds()))

    def test_each_page_opens_on_each_kind(self) -> None:
        requested = {kind: question(kind) for kind in SUPPLIES}
        requested["never both"] = locked_out("shore")
        for kind, document in requested.items():
            saved = repository.store(self.owner, judging.judge(document))
            for page in PAGES:
                if page == "reach" and kind not in MAPPED:
                    continue
                with self.subTest(f"{kind}: {page}"):
                    with patch.object(PRINTER, "ask", unprinted):
                        answer = self.client.get(reverse(page, args=[saved.pk]))
                    self.assertIn(answer.status_code, (200, 204), page)
                    if answer.headers.get("Content-Type", "").startswith(("text/html", PDF)):
                        words = answer.content.decode()
                        for odd in (">None<", "nan %", "inf ", "Traceback"):
                            self.assertNotIn(odd, words)
                        self.assertNotRegex(words, r"\w\.\.(?!\.)", "a sentence ends once")
                        self.assertNotIn(",,", words)
                        engine = bool(read_setup(document).supply.engines)
                        loud = page == "hours" and engine
                        self.assertEqual("Noise on the pitch" in words, loud)
            with self.subTest(f"{kind}: supply"):
                page = self.client.get(reverse("supply", args=[saved.supply_id]))
                self.assertEqual(page.status_code, 200)
