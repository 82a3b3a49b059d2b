"""Every page in both themes and sizes: axe has nothing to say, nothing runs out of the window at
twice the size; and the first minutes counted in touches and tabs.
"""

from __future__ import annotations

import re
from typing import Any

from django.contrib.auth.models import User
from playwright.sync_api import Page, expect

from tests.browser.case import AXE, PATIENCE_MS, TERSE, BrowserCase
from tests.shared import document
from web.meter.models import Meter
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.supplies.models import Supply

OPEN = ("/", "/account/sign-in/", "/account/sign-up/", "/account/reset/", "/offline/")
LISTS = (
    "/setups/", "/rigs/", "/supplies/", "/setups/new/", "/setups/first/", "/drills/",
    "/account/", "/account/password/", "/account/members/", "/api/", "/reach/clients/",
)  # fmt: skip
OF_A_SETUP = (
    "/setups/{}/", "/now/{}/", "/log/{}/", "/log/{}/survey/", "/log/{}/learning/", "/log/{}/pairs/",
    "/bench/{}/", "/hours/{}/", "/steps/{}/", "/meter/{}/", "/reach/{}/", "/reach/{}/places/",
    "/order/{}/", "/kept/setup/{}/history/", "/verdicts/{}/report/",
)  # fmt: skip
TWICE = {"width": 640, "height": 400}
"""What is left of a desk's window at twice the size [CSS px]."""
TALLEST = 4
MAX_TOUCHES, MAX_TABS = 14, 12
LEADS = "document.activeElement.matches('.skip[href=\"#inputs\"]')"
RULES = (
    f"axe.run({{{TERSE}, runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa']}}).then(found => "
    "found.violations.map(v => `${v.id}: ${v.nodes.map(n => n.html).slice(0, 2).join(' ')}`))"
)
LOOSE = """() => [...document.querySelectorAll('body *')].filter(e => {
  const box = e.getBoundingClientRect();
  return box.right > innerWidth + 2 && box.width > 0 && getComputedStyle(e).visibility !== 'hidden'
    && !e.closest('svg, .overflow-x-auto, [popover], dialog, .sr-only, [data-scrolls]');
}).slice(0, 3).map(e => e.outerHTML.slice(0, 90))"""


class Everywhere(BrowserCase):
    def pages(self) -> list[str]:
        owner = SavedSetup.objects.first().owner
        saved = repository.store(owner, judging.judge(document(1) | {"rules": {"trials": 0}}))
        Meter.objects.create(setup=saved, host="simulated", words="no answer")
        own = [where.format(saved.pk) for where in OF_A_SETUP]
        own += [f"/rigs/{saved.rig_id}/", f"/rigs/{saved.rig_id}/plate/"]
        own += [f"/supplies/{saved.supply_id}/", f"/log/rig/{saved.rig_id}/"]
        own.append(f"/kept/rig/{saved.rig_id}/history/")
        house = Rig.objects.get(name="Alder Creek house")
        three = "&".join(f"pk={s.pk}" for s in SavedSetup.objects.of(owner)[:3])
        own += [f"/rigs/{house.pk}/", f"/setups/compare/?{three}"]
        largest = Supply.objects.get(document__input__kind="generator")
        own.append(f"/supplies/{largest.pk}/")
        return [*LISTS, *own]

    def faults(self, page: Page, where: str) -> list[str]:
        page.goto(self.live_server_url + where)
        page.evaluate(AXE.read_text(encoding="utf-8"))
        found: list[str] = page.evaluate(RULES)
        return found

    def test_axe_has_nothing_and_nothing_runs_out_of_the_window_on_any_page(self) -> None:
        """By day at the desk and by night on the phone: what a page's colours and its layout can do
        wrong, each was seen once. At the desk at twice the size, too; on the phone a page is four
        screens of named folds at most.
        """
        found: dict[str, Any] = {}
        own: list[str] = []
        for phone, theme in ((False, "day"), (True, "night")):
            page = self.open(phone=phone, theme=theme)
            own = own or self.pages()
            stranger = page.context.browser.new_page()
            cookie = {"name": "theme", "value": theme, "url": self.live_server_url}
            stranger.context.add_cookies([cookie])
            for of, wheres in ((page, own), (stranger, OPEN)):
                for where in wheres:
                    faults = self.faults(of, where) + (self.tall(of) if phone else self.wide(of))
                    if faults:
                        found[f"{where} {theme}"] = faults
            stranger.close()
        self.assertEqual(found, {})

    def tall(self, page: Page) -> list[str]:
        screens: float = page.evaluate("document.documentElement.scrollHeight / innerHeight")
        return [f"{screens:.1f} screens tall"] if screens > TALLEST else []

    def wide(self, page: Page) -> list[str]:
        before = page.viewport_size
        page.set_viewport_size(TWICE)
        px: int = page.evaluate("document.documentElement.scrollWidth")
        found = [f"{px} px wide", *page.evaluate(LOOSE)] if px > TWICE["width"] + 1 else []
        page.set_viewport_size(before)
        return found

    def test_a_fold_of_the_rail_stays_open_and_a_fault_in_it_opens_it(self) -> None:
        page = self.open(phone=True)
        page.evaluate("document.querySelectorAll('#inputs details').forEach(d => d.open = false)")
        supply = page.locator("#group-supply")
        figure = supply.locator("input[inputmode]").first
        expect(figure).to_be_hidden()
        page.locator(".rail-handle").click()
        supply.locator("summary").click()
        figure.fill("many")
        figure.press("Tab")
        expect(supply.locator("[aria-invalid=true]")).to_be_visible()
        expect(figure).to_be_visible()  # over the answer of the server
        supply.locator("summary").click()
        expect(figure).to_be_hidden()
        figure.evaluate("field => htmx.trigger('#setup', 'redraw')")
        expect(figure).to_be_visible()  # what is wrong in it is shown again
        page.set_viewport_size({"width": 1280, "height": 800})
        expect(page.locator(".rail-handle")).to_be_hidden()
        expect(figure).to_be_visible()

    def test_a_newcomer_s_verdict_in_fourteen_touches(self) -> None:
        """From the front page on a phone: an account, six answers, the verdict. Every tap and every
        choice in a list counts, a choice as two.
        """
        context = self.browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
        page = context.new_page()
        touches = 0

        def tap(what: Any) -> None:
            nonlocal touches
            touches += 1
            what.tap()

        def choose(label: str, words: str) -> None:
            nonlocal touches
            touches += 2
            page.get_by_label(label).select_option(label=words)

        page.goto(self.live_server_url)
        tap(page.get_by_role("link", name="Make an account"))
        for name, typed in (("username", "newcomer"), ("password1", "wet-clay-and-iron"),
                            ("password2", "wet-clay-and-iron")):  # fmt: skip
            tap(page.locator(f"[name={name}]"))
            page.locator(f"[name={name}]").fill(typed)
        tap(page.get_by_role("button", name="Make an account"))
        choose("What does it run on?", "Shore post, 30 A")
        choose("Which air conditioner?", "15,000 Btu/h roof unit")
        choose("How does it start?", "With a soft starter")
        tap(page.get_by_label("Microwave oven", exact=False))
        tap(page.get_by_role("button", name="Will it start?"))
        expect(page.locator("#verdict-word")).to_be_visible()
        self.assertLessEqual(touches, MAX_TOUCHES)
        saved = SavedSetup.objects.get(owner=User.objects.get(username="newcomer"))
        self.assertIn(saved.verdict, page.locator("#station").inner_text().lower())
        context.close()

    def test_a_stranger_s_walk_has_no_dead_end(self) -> None:
        """From the front page to the own rig, what to turn off, tried, saved; Now, a clamp reading,
        tonight's hours, the bench, a house with its pump, the report for its owner.
        """
        context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        page = context.new_page()
        self.errors: list[str] = []
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.goto(self.live_server_url)
        page.locator("[name=supply]").select_option("post-30")
        page.get_by_role("button", name="Will it start?").click()
        expect(page.locator("#answer-title")).to_be_visible()
        page.get_by_role("link", name="Make an account").click()
        page.locator("[name=username]").fill("stranger")
        for name in ("password1", "password2"):
            page.locator(f"[name={name}]").fill("wet-clay-and-iron")
        page.get_by_role("button", name="Make an account").click()
        expect(page.get_by_label("What does it run on?")).to_have_value("post-30")
        page.get_by_label("Is there a second one?").select_option("yes")
        page.get_by_role("button", name="Will it start?").click()
        expect(page.locator("#verdict-word")).to_have_text("Fails")
        page.get_by_role("button", name="Try it", exact=True).click()
        expect(page.locator("#verdict-word")).not_to_have_text("Fails")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.locator("#rail-saved")).to_have_text(re.compile(r"^\s*saved"))
        page.get_by_role("link", name="Now", exact=True).first.click()
        # Until its script has come a press loads the page anew, and back leads to it.
        page.wait_for_url(re.compile(r"/now/\d+/"))
        page.locator(".now-may button").first.click()
        expect(page.locator(".now-on button").first).to_be_visible()
        page.go_back()
        page.get_by_role("link", name="Log", exact=True).first.click()
        page.get_by_label("Amps read").fill("11.9")
        page.locator(".quick-log").get_by_role("button", name="Save").click()
        expect(page.locator(".answer-word")).to_have_text("One reading")
        page.get_by_role("link", name="Hours", exact=True).first.click()
        expect(page.locator(".answer-word")).to_have_text("No limit")
        page.get_by_role("link", name="Bench", exact=True).first.click()
        expect(page.locator("#bench-events")).to_be_visible()
        page.goto(f"{self.live_server_url}/setups/first/?what=house")
        page.get_by_label("Name (optional)").fill("Home")
        page.get_by_role("button", name="Will it start?").click()
        expect(page.locator("#verdict-word")).to_be_visible()
        page.locator("#rail-more summary").click()
        report = page.get_by_role("link", name="Report (PDF)").get_attribute("href")
        answer = context.request.get(f"{self.live_server_url}{report}", timeout=PATIENCE_MS)
        self.assertEqual(answer.headers["content-type"], "application/pdf")
        page.get_by_role("link", name="Board").click()
        expect(page.locator(".board-cell .tally")).to_have_count(2)
        self.assertEqual(self.errors, [])

    def test_twelve_tabs_to_the_first_supply_figure(self) -> None:
        page = self.open()
        page.evaluate("document.activeElement.blur()")
        tabs, inside = 0, False
        while not inside and tabs < MAX_TABS:
            tabs += 1
            page.keyboard.press("Tab")
            if page.evaluate(LEADS):  # past the head
                page.keyboard.press("Enter")
            inside = page.evaluate("!!document.activeElement.closest('#group-supply')")
        self.assertTrue(inside, f"{tabs} tabs")
