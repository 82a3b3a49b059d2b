"""A headless Chromium on the demo, for every browser test."""

from __future__ import annotations

from pathlib import Path

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import Client, tag
from django.urls import reverse
from playwright.sync_api import Browser, ConsoleMessage, Page, expect, sync_playwright

from tests.browser.demo import lay_demo
from tools.screenshots import ARGS, CHROMIUM, DESK, PHONE
from web.setups.models import SavedSetup

PATIENCE_MS = 60_000
"""How long a page may take before a test gives up: a loaded machine stalls for seconds, and a page
that comes at once costs none of it.
"""
AXE = Path(__file__).resolve().parents[2] / "node_modules/axe-core/axe.min.js"
TERSE = "resultTypes: ['violations'], preload: false"
"""What axe need not do: write up what passes, fetch the styles again."""


@tag("browser")
class BrowserCase(StaticLiveServerTestCase):
    """One browser for each class; every test has a context of its own."""

    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        expect.set_options(timeout=PATIENCE_MS)
        cls.play = sync_playwright().start()
        cls.browser = cls.play.chromium.launch(executable_path=CHROMIUM, args=ARGS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.play.stop()
        super().tearDownClass()

    def open(
        self,
        *,
        phone: bool = False,
        theme: str = "day",
        worker: bool = False,
        elsewhere: bool = False,
    ) -> Page:
        """The demo, signed in, at its first setup; ``elsewhere``: at no page yet, for a test that
        goes to another. ``worker``: with the service worker, whose first look takes a second of
        each context; only what happens without network needs it.
        """
        if not SavedSetup.objects.exists():
            lay_demo()
        context = self.browser.new_context(
            viewport=PHONE if phone else DESK,
            has_touch=phone,
            service_workers="allow" if worker else "block",
        )
        self.addCleanup(context.close)
        context.set_default_timeout(PATIENCE_MS)
        context.add_cookies([{"name": "theme", "value": theme, "url": self.live_server_url}])
        page = context.new_page()
        self.errors: list[str] = []
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("console", self.heard)
        entered = Client().post(reverse("enter-demo"))
        session = {"name": "sessionid", "value": entered.cookies["sessionid"].value}
        context.add_cookies([session | {"url": self.live_server_url}])
        if not elsewhere:
            page.goto(f"{self.live_server_url}{entered.headers['Location']}")
            self.unfold(page)
        return page

    def unfold(self, page: Page) -> None:
        """Open every part of the rail and of the station: they stay so."""
        page.wait_for_function("document.querySelector('.rail')")
        page.evaluate(
            "document.querySelectorAll('#inputs details, .more-of details')"
            ".forEach(one => { one.open = true })"
        )

    def heard(self, message: ConsoleMessage) -> None:
        """Keep what the console complains of, but a refused figure (422) and a request overtaken by
        a newer one.
        """
        overtaken = message.text.startswith(("htmx:sendAbort", "htmx:afterRequest"))
        if message.type == "error" and "422" not in message.text and not overtaken:
            self.errors.append(message.text)

    def new(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/setups/new/?typical=1")
        self.unfold(page)

    def clean(self, page: Page, where: str) -> None:
        """No violation of axe-core, no script error, nothing wider than the window."""
        page.evaluate(AXE.read_text(encoding="utf-8"))
        found = page.evaluate(
            f"async () => (await axe.run({{{TERSE}}})).violations.map(v => v.id + ': ' + "
            "v.nodes.map(n => n.target.join(' ')).slice(0, 3).join(' | '))"
        )
        self.assertEqual(found, [], where)
        self.assertEqual(self.errors, [], where)
        self.assertLessEqual(
            page.evaluate(
                "document.documentElement.scrollWidth - document.documentElement.clientWidth"
            ),
            0,
            where,
        )
