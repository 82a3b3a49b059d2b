"""The screens of every day in headless Chromium: two phones, no network, a whole hook-up, the bench
by keyboard, a drill.
"""

from __future__ import annotations

import re
import threading
from typing import Any
from unittest import mock

import numpy as np
from django.utils import timezone
from playwright.sync_api import Page, expect

from ironmargin.case import prepare
from ironmargin.enduring.endurance import lasting
from ironmargin.setup.reading import read_setup
from tests.browser.case import PATIENCE_MS, BrowserCase
from tests.shared import document
from web.logbook import service
from web.logbook.models import LogEntry
from web.meter.models import Meter
from web.now.models import RigNow
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.steps.models import Checklist

CONTROLLED = "() => navigator.serviceWorker.controller !== null"
ARRIVED = "async (url) => />done</.test(await (await fetch(url)).text())"
STORED = "async (path) => !!await (await caches.open('pages')).match(path ?? location.pathname)"
CARD = """async (pk) => {
  const card = await (await caches.open('pages')).match(`/order/${pk}/card-a6.pdf`);
  return card?.headers.get('Content-Type');
}"""
UNTIL = """async ([about, patience]) => {
  const state = %s;
  const late = new Promise((_, fail) => setTimeout(fail, patience, new Error(`never: ${state}`)));
  const comes = async () => {
    for (;;) {
      const found = await state(about);
      if (found) return found;
      await new Promise(requestAnimationFrame);
    }
  };
  return Promise.race([comes(), late]);
}"""
"""What is waited for has an end: a worker that does not come fails its test instead of holding up
the run. The page's own policy forbids what Playwright would wait with.
"""


class Screens(BrowserCase):
    def stored(self, page: Page, number: int) -> SavedSetup:
        owner = SavedSetup.objects.first().owner
        saved: SavedSetup = repository.store(owner, judging.judge(document(number)))
        return saved

    def at(self, page: Page, where: str) -> None:
        page.goto(f"{self.live_server_url}{where}")

    def until(self, page: Page, state: str, about: object = None) -> object:
        """Wait for a state of the page; what it is then."""
        return page.evaluate(UNTIL % state, [about, 3 * PATIENCE_MS])

    def test_a_press_is_seen_on_a_second_phone(self) -> None:
        page = self.open(phone=True)
        saved = self.stored(page, 5)
        second = page.context.new_page()
        for one in (page, second):
            self.at(one, f"/now/{saved.pk}/")
        name = page.locator(".now-may button strong").first.text_content() or ""
        page.locator(".now-may button").first.click()
        expect(page.locator(".now-on button").filter(has_text=name)).to_be_visible()
        expect(second.locator(".now-on button").filter(has_text=name)).to_be_visible()
        self.assertEqual(self.errors, [])

    def test_now_answers_on_the_device_and_sends_presses_later_once(self) -> None:
        page = self.open(worker=True, phone=True)
        saved = self.stored(page, 5)
        self.at(page, f"/now/{saved.pk}/")
        self.until(page, CONTROLLED)
        page.reload()
        self.until(page, STORED)
        self.until(page, STORED, f"/now/{saved.pk}/table/")
        page.context.set_offline(True)
        page.reload()
        reads, told = page.locator("#now-reads"), page.locator("#now-told")
        expect(page.locator("#age")).to_contain_text("No network")
        expect(page.locator("#now[data-at]")).to_be_visible()
        before = reads.inner_text()
        name = page.locator(".now-may button strong").first.text_content() or ""
        page.locator(".now-may button").first.click()
        running = page.locator(".now-on > button").filter(has_text=name)
        expect(running).to_have_attribute("aria-pressed", "true")
        self.assertNotEqual(reads.inner_text(), before)
        expect(told).to_contain_text("before the connection was lost")
        expect(page.locator("#trouble")).to_be_hidden()
        running.click()  # two presses of one chip cancel each other
        expect(told).to_be_hidden()
        self.assertEqual(reads.inner_text(), before)
        page.locator(".now-may button").filter(has_text=name).click()
        expect(told).to_contain_text("1 press stored on this device")
        self.assertEqual(list(RigNow.objects.filter(version__gt=1).values()), [])
        page.reload()
        expect(running).to_have_count(1)
        page.context.set_offline(False)
        expect(told).to_be_hidden()
        expect(running).to_have_count(1)
        self.assertEqual(RigNow.objects.get(version__gt=1).version, 2)

    def test_a_press_on_each_of_two_devices_counts_when_one_had_no_network(self) -> None:
        page = self.open(worker=True, phone=True)
        saved = self.stored(page, 7)
        second = page.context.browser.new_context(storage_state=page.context.storage_state())
        self.addCleanup(second.close)
        other = second.new_page()
        for one in (page, other):
            self.at(one, f"/now/{saved.pk}/")
        expect(page.locator("#now[data-at]")).to_be_visible()
        page.context.set_offline(True)
        names = [s.strip() for s in page.locator(".now-may button strong").all_text_contents()]
        page.locator(".now-may button").filter(has_text=names[0]).click()
        other.locator(".now-may button").filter(has_text=names[1]).click()
        expect(other.locator(".now-on button").filter(has_text=names[1])).to_be_visible()
        page.context.set_offline(False)
        for one in (page, other):
            for name in names[:2]:
                expect(one.locator(".now-on button strong").filter(has_text=name)).to_have_count(1)

    def test_a_page_that_was_not_kept_says_so_and_names_nobody(self) -> None:
        page = self.open(worker=True, phone=True, theme="night")
        self.until(page, CONTROLLED)
        page.context.set_offline(True)
        self.at(page, "/rigs/")
        expect(page.get_by_role("heading", name="No network here")).to_be_visible()
        expect(page.locator("html")).to_have_attribute("data-theme", "night")
        expect(page.get_by_role("link", name="Setups")).to_be_visible()
        self.assertNotIn("demo", page.locator("body").inner_text())

    def test_a_silent_network_shows_the_kept_page_and_its_age(self) -> None:
        page = self.open(worker=True, phone=True)
        saved = self.stored(page, 1)
        self.at(page, f"/log/{saved.pk}/")
        self.until(page, CONTROLLED)
        page.reload()
        self.until(page, STORED)
        answers = threading.Event()

        def late(*requested: Any) -> Any:
            answers.wait()
            return told(*requested)

        told = service.told
        self.addCleanup(answers.set)
        with mock.patch.object(service, "told", late):
            page.reload(wait_until="commit")
            expect(page.locator("#age")).to_contain_text("The network does not answer")
            answers.set()
        expect(page.get_by_role("heading", name=re.compile("Add a reading"))).to_be_visible()

    def test_a_hook_up_goes_on_without_network(self) -> None:
        page = self.open(worker=True, phone=True)
        saved = self.stored(page, 6)
        self.at(page, f"/steps/{saved.pk}/")
        page.get_by_role("button", name="Hook up").click()
        self.until(page, CONTROLLED)
        page.reload()
        self.until(page, STORED)
        self.assertEqual(self.until(page, CARD, saved.pk), "application/pdf")
        page.context.set_offline(True)
        page.reload()
        expect(page.get_by_text("1 of ")).to_be_visible()
        expect(page.locator("#all-steps ~ ol li").first).to_be_visible()
        held = Checklist.objects.get()
        for number, step in enumerate(held.steps, 1):
            expect(page.get_by_text(f"{number} of {len(held.steps)}")).to_be_visible()
            gate = step.get("gate")
            if gate and gate.get("words"):
                page.locator("#step").get_by_role("button", name=gate["words"]).first.click()
                continue
            if gate:
                page.locator("#reading").fill("3")
                page.get_by_role("button", name="Done, next").click()
                expect(page.get_by_role("alert").filter(has_text="Not passed")).to_be_visible()
                page.locator("#reading").fill(str(gate["high"]))
            page.get_by_role("button", name=re.compile("Done, next|Finish")).click()
        expect(page.get_by_text("It is noted when the network is back")).to_be_visible()
        # Each is held before the network is back: else the last would overtake the others.
        expect(page.locator("#age")).to_contain_text(f"{len(held.steps)} readings or steps kept")
        self.assertEqual(Checklist.objects.get().place, 0)
        page.context.set_offline(False)
        page.evaluate("navigator.serviceWorker.controller.postMessage('send')")
        self.until(page, ARRIVED, f"/steps/{saved.pk}/")
        self.assertEqual(Checklist.objects.get().ended, "done")

    def test_the_bench_by_keyboard(self) -> None:
        page = self.open(elsewhere=True)
        saved = self.stored(page, 1)
        self.at(page, f"/bench/{saved.pk}/?new=1")
        page.get_by_role("button", name="Start cold").press("Enter")
        page.get_by_role("button", name="Turn the supply on").press("Enter")
        expect(page.get_by_role("button", name="Turn the supply off")).to_be_visible()
        page.locator("#knob-roof-high-cool").press("Enter")
        expect(page.locator("#load-roof")).to_have_attribute("aria-pressed", "true")
        page.locator("#bench-next").press("Enter")
        expect(page.locator(".event-started").filter(has_text="Rooftop")).to_be_visible()
        page.get_by_role("button", name=re.compile("Rewind to before: Rooftop")).press("Enter")
        expect(page.get_by_text("branched from")).to_be_visible()
        self.assertEqual(self.errors, [])

    def test_a_reading_is_typed_judged_and_corrects(self) -> None:
        page = self.open(phone=True, elsewhere=True)
        saved = self.stored(page, 1)
        self.at(page, f"/log/{saved.pk}/")
        page.get_by_label("Which load").select_option(label="Rooftop unit, 15,000 Btu/h")
        page.get_by_label("Highest amps").fill("33")
        page.locator("form:has([name='entry.peak_a']) button.btn-main").click()
        expect(page.locator("#entries")).to_be_visible()
        expect(page.get_by_text("33 A read")).to_be_visible()
        self.assertEqual(LogEntry.objects.filter(setup=saved).count(), 1)
        page.get_by_role("button", name="Use the checked ones").click()
        expect(page.get_by_text("Corrected:")).to_be_visible()

    def test_a_slider_redraws_the_hours(self) -> None:
        page = self.open(elsewhere=True)
        saved = self.stored(page, 18)
        self.at(page, f"/hours/{saved.pk}/")
        before = page.locator("#hours [role=status]").text_content()
        page.get_by_label("Hours wanted").press("End")
        expect(page.locator("#hours [role=status]")).not_to_have_text(before or "")
        expect(page.locator("[data-stands]").first).to_have_text("168")
        self.assertEqual(self.errors, [])

    def test_the_set_is_dragged_and_moved_by_keys(self) -> None:
        page = self.open()
        doc = document(1) | {"rules": {"trials": 0}}
        for unit in doc["supply"]["units"]:
            unit["noise"] = {"dba": 60, "at_m": 7}
        saved = repository.store(SavedSetup.objects.first().owner, judging.judge(doc))
        self.at(page, f"/hours/{saved.pk}/")
        page.locator("#pitch").scroll_into_view_if_needed()
        box = page.locator("#set-mark .grab").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 60, y - 40, steps=3)
        with page.expect_response(lambda r: "across" in r.url) as answer:
            page.mouse.up()
        across = int(re.findall(r"across=(-?\d+)", answer.value.url)[0])
        self.assertGreater(across, 0)
        expect(page.locator("#set-mark")).to_have_attribute("aria-valuenow", str(across))
        page.locator("#set-mark").press("ArrowLeft")
        expect(page.locator("#set-mark")).to_have_attribute("aria-valuenow", str(across - 1))
        expect(page.locator("#set-mark")).to_be_focused()
        for by in range(2, 8):  # as soon as the mark is there again, as a key that is held
            page.keyboard.press("ArrowLeft")
            expect(page.locator("#set-mark")).to_have_attribute("aria-valuenow", str(across - by))
        expect(page.locator("#set-mark")).to_be_focused()
        self.assertNotIn("across=", page.url, "the browser did not send the form by itself")

    def test_the_hours_drawn_are_the_cores(self) -> None:
        """The level of fuel, the refills and the hours, read off the drawing."""
        page = self.open()
        requested = document(4)
        requested["supply"] |= {"tank_l": 4.0}
        requested["conditions"] = dict(requested.get("conditions", {}), target_hours=12)
        owner = SavedSetup.objects.first().owner
        saved = repository.store(owner, judging.judge(requested))
        found = lasting(prepare(read_setup(requested)), step_s=60.0)
        fuel_h, refills = found.endurance.fuel_h, found.endurance.refill_at_h
        self.assertTrue(fuel_h and refills)
        self.at(page, f"/hours/{saved.pk}/")
        expect(page.locator("#hours [role=status]")).to_contain_text(f"{fuel_h:.1f} h")
        words = page.locator("svg.hours-axis .words").filter(has_text="refill 1")
        first_h = float(words.get_attribute("x") or "nan") / 720.0 * 12.0
        self.assertAlmostEqual(first_h, refills[0], delta=0.02)
        drawn = page.locator("svg.hours-axis path.volts").get_attribute("d") or ""
        points = [tuple(map(float, p.split())) for p in drawn.lstrip("M").split("L")]
        self.assertGreater(len(points), 100)
        litres = np.cumsum(found.series["fuel_l_per_h"]) / 60.0
        for x, y in points:
            at = min(round(x / 720.0 * (len(litres) - 1)), len(litres) - 1)
            left = 1.0 - (litres[at] / 4.0) % 1.0
            self.assertAlmostEqual(1.0 - y / 150.0, left, delta=0.005)

    def test_a_meter_s_strip_is_drawn_and_a_start_kept(self) -> None:
        page = self.open()
        saved = self.stored(page, 5)
        now = timezone.now().timestamp()
        rows = [
            [now + n / 10, 120.0, 0.0, 4.0 + n / 10, 0.0, 60.0, 480.0, 2500.0] for n in range(99)
        ]
        caught = {
            "at": "2026-07-04T14:05:09+00:00", "what": "start", "before_a": 4.0, "peak_a": 52.0,
            "lowest_v": 108.0, "after_a": 13.0, "after_v": 118.0, "outcome": "starts",
        }  # fmt: skip
        Meter.objects.create(
            setup=saved, host="simulated", state="live", readings=rows, caught=[caught]
        )
        self.at(page, f"/meter/{saved.pk}/")
        expect(page.locator('[data-shows="3"]')).to_have_text("13.8")
        expect(page.locator("#strip-amps")).to_have_attribute("d", re.compile(r"^M.*560\.0 "))
        row = page.locator("#caught li")
        expect(row).to_contain_text("52.0 A at most, 108 V at the dip, 13.0 A after")
        row.get_by_role("button", name="Save this start").click()
        expect(page.get_by_text("Saved.")).to_be_visible()
        self.assertEqual(LogEntry.objects.get(setup=saved).document["peak_a"], 52.0)

    def test_a_drill_by_keyboard(self) -> None:
        page = self.open(elsewhere=True)
        self.at(page, "/drills/?theme=path&difficulty=easy")
        page.get_by_role("radio", name="fails").press("Space")
        page.get_by_role("button", name="Answer").press("Enter")
        expect(page.get_by_role("link", name="The next one")).to_be_visible()
        self.assertEqual(self.errors, [])
