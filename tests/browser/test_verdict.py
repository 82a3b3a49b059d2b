"""The verdict screen in headless Chromium: figures read off the drawings against the core's,
remedies, what decides, sharing.
"""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.case import BrowserCase
from tests.shared import document
from web.setups import judging, repository
from web.setups.models import SavedSetup


class Verdict(BrowserCase):
    def test_the_drawings_say_what_the_core_says(self) -> None:
        page = self.open()
        owner = SavedSetup.objects.first().owner
        saved = repository.store(owner, judging.judge(document(7)))
        page.goto(f"{self.live_server_url}/setups/{saved.pk}/")
        checked = judging.judge(repository.compose(saved)).checked
        result = checked.result
        # Volts of the start picture: the lowest point of the drawn line, turned back into volts by
        # its axis.
        path = page.locator("#plot-volts").get_attribute("d")
        lowest = max(float(y) for y in re.findall(r"[\d.]+ ([\d.]+)", path))
        ticks = page.locator("#plot .axis").all_text_contents()
        self.assertIn("0", ticks)
        volts = (278 - lowest) / (278 - 206) * 1.12 * 120
        row = next(s for s in result.starts if s.load == page.locator("#picture").input_value())
        self.assertAlmostEqual(volts, row.lowest_v, delta=1.0)
        # Legs: heights of the blocks on L1, by the limit line's height.
        label = page.locator("#more-legs svg").get_attribute("aria-label")
        amps = {name: float(a) for name, a in re.findall(r"(L1|L2) ([\d.]+) A", label)}
        for name in ("L1", "L2"):
            self.assertAlmostEqual(amps[name], result.legs[name].a, delta=0.06)
        for part in result.path:
            drawn = page.locator(f'#path [data-part="{part.item}"]')
            self.assertAlmostEqual(float(drawn.get_attribute("data-margin")), part.margin, places=3)
        self.assertEqual(self.errors, [])

    def test_remedies_and_a_variant(self) -> None:
        page = self.open()
        expect(page.locator("#remedies")).to_contain_text("Leave Water heater off until later")
        row = (
            page.locator("#remedies li").filter(has_text="Leave Water heater off until later").first
        )
        expect(row).to_contain_text("+14 %")
        row.get_by_role("button", name=re.compile("^Save as a variant")).click()
        page.wait_for_url(lambda url: not url.endswith("/11/") and "/setups/" in url)
        expect(page.locator("#verdict-word")).to_have_text("Thin")
        expect(page.locator("#iron-margin")).to_have_text("+14 %")
        self.assertTrue(
            SavedSetup.objects.filter(name__endswith="leave Water heater off until later").exists()
        )

    def test_what_decides_comparing_and_the_breaker(self) -> None:
        page = self.open()
        page.get_by_role("button", name="Find what to measure").click()
        expect(page.locator("#decides li").first).to_be_visible()
        page.get_by_label("against").select_option("gear")
        expect(page.locator("#plot .amps.over")).to_have_count(1)
        expect(page.locator("#more-breaker svg")).to_have_attribute(
            "aria-label", re.compile("over the 30 A rating")
        )
        with page.expect_download() as caught:
            page.get_by_role("button", name="SVG").click()
        self.assertEqual(caught.value.suggested_filename, "start.svg")

    def test_sharing(self) -> None:
        page = self.open()
        page.get_by_role("button", name="Share").click()
        page.get_by_role("button", name="Make a link").click()
        url = page.get_by_label("Link 1").input_value()
        stranger = self.browser.new_context().new_page()
        self.addCleanup(stranger.context.close)
        stranger.goto(url)
        expect(stranger.locator("#verdict-word")).to_have_text("Fails")
        expect(stranger.get_by_role("button", name="Save")).to_have_count(0)
        page.get_by_role("button", name="Revoke").click()
        expect(page.get_by_label("Link 1")).to_have_count(0)
        self.assertEqual(stranger.goto(url).status, 404)


class Order(BrowserCase):
    def at_the_order(self, phone: bool = False, theme: str = "day"):
        page = self.open(phone=phone, theme=theme)
        saved = SavedSetup.objects.get(name="Clay wagon, two fairground outlets")
        page.goto(f"{self.live_server_url}/order/{saved.pk}/")
        expect(page.locator("#steps li").first).to_be_visible()
        return page, saved

    def test_walking_through_the_steps(self) -> None:
        page, saved = self.at_the_order(phone=True)
        page.get_by_role("button", name="Walk me through it").click()
        expect(page.locator("#now-title")).to_have_text("Rear unit on fan high")
        page.get_by_role("button", name="Next").click()
        expect(page.locator("#now-wait")).to_contain_text("Wait")
        page.get_by_label("What I read, A").fill("10.9")
        page.get_by_role("button", name="Save the reading").click()
        expect(page.locator("#now-answer")).to_contain_text("Saved: 10.9 A")
        page.get_by_role("button", name="It tripped").click()
        expect(page.locator("#now-answer")).to_contain_text("It tripped at Rear unit")
        page.get_by_role("button", name="Plan again without it").click()
        expect(page.locator("#order")).to_contain_text("Planned again without Rear unit")
        self.assertEqual(saved.readings.count(), 2)
        self.assertEqual(self.errors, [])

    def test_the_day_by_keys_and_by_dragging(self) -> None:
        page, _ = self.at_the_order()
        page.get_by_role("button", name="Plan the day").click()
        task = page.locator('#timeline [data-task="0"]')
        expect(task).to_have_attribute("aria-valuetext", "08:00")
        task.focus()
        page.keyboard.press("Shift+ArrowRight")
        expect(task).to_have_attribute("aria-valuetext", "09:00")
        expect(task).to_have_class(re.compile("locked"))
        expect(task).to_be_focused()
        task.scroll_into_view_if_needed()
        box = task.bounding_box()
        slot = float(page.locator("#timeline").get_attribute("data-slot")) * page.evaluate(
            "document.querySelector('#timeline').getBoundingClientRect().width / 1220"
        )
        page.mouse.move(box["x"] + 8, box["y"] + 8)
        page.mouse.down()
        page.mouse.move(box["x"] + 8 + 4 * slot, box["y"] + 8, steps=3)
        page.mouse.up()
        expect(task).to_have_attribute("aria-valuetext", "10:00")
        page.get_by_label("Minutes of task 1").fill("soon")
        page.get_by_role("button", name="Plan again").click()
        expect(page.locator("#day [role=alert]")).to_contain_text("must be a number")
        self.assertEqual(page.get_by_label("Minutes of task 1").input_value(), "soon")

    def test_axe_finds_nothing(self) -> None:
        for phone, theme in ((False, "day"), (True, "night")):
            page, saved = self.at_the_order(phone, theme)
            page.locator("#plan").click()
            expect(page.locator("#timeline")).to_be_visible()
            self.clean(page, f"order {theme}")
            page.get_by_role("button", name="Walk me through it").click()
            self.clean(page, f"steps {theme}")
            page.goto(f"{self.live_server_url}/setups/{saved.pk}/")
            expect(page.locator("#remedies")).to_be_visible()
            self.unfold(page)
            page.get_by_role("button", name="Find what to measure").click()
            expect(page.locator("#decides")).to_be_visible()
            if phone:
                page.locator(".rail-handle").click()
            page.get_by_role("button", name="Share").click()
            page.get_by_role("button", name="Make a link").click()
            self.clean(page, f"verdict with everything open {theme}")
            page.goto(page.get_by_label("Link 1").input_value())
            self.clean(page, f"shared {theme}")
            page.context.close()
