"""The inventory in headless Chromium: editing the table by keys, pasting, dragging, the path
drawing, imports, two tabs, a newcomer on a phone.
"""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.case import BrowserCase
from web.rigs.models import Rig
from web.setups.models import SavedSetup

PASTE = """(text) => { const data = new DataTransfer(); data.setData('text/plain', text);
  const how = {clipboardData: data, bubbles: true, cancelable: true};
  document.activeElement.dispatchEvent(new ClipboardEvent('paste', how)); }"""


class Inventory(BrowserCase):
    def wagon(self, page: Page) -> Rig:
        """The clay wagon's page."""
        rig = Rig.objects.get(name="Clay wagon")
        page.goto(f"{self.live_server_url}/rigs/{rig.pk}/")
        return rig

    def stored(self, page: Page) -> None:
        expect(page.locator("#rig-answer")).to_contain_text("Saved.")

    def test_on_a_phone_a_load_is_unfolded_and_stays_so_over_an_answer(self) -> None:
        page = self.open(phone=True, elsewhere=True)
        self.wagon(page)
        needed = page.get_by_label("How badly Water heater is needed")
        expect(page.get_by_label("Draw of Water heater")).to_be_visible()
        expect(needed).to_be_hidden()
        unfold = page.get_by_label("Kind, start gear and breaker of Water heater")
        unfold.tap()
        expect(unfold).to_have_attribute("aria-expanded", "true")
        needed.select_option("want")
        needed.blur()
        self.stored(page)
        page.get_by_label("Draw of Extractor").fill("1.2")
        page.get_by_label("Draw of Extractor").blur()
        expect(page.get_by_label("Draw of Extractor")).not_to_have_attribute("aria-invalid", "true")
        expect(needed).to_be_visible()
        expect(page.get_by_label("How badly Extractor is needed")).to_be_hidden()
        page.get_by_role("button", name="12 V side").tap()
        expect(page.locator("#twelve")).to_be_visible()
        unfold.tap()
        expect(needed).to_be_hidden()
        self.assertEqual(self.errors, [])

    def test_the_table_by_keyboard(self) -> None:
        page = self.open(elsewhere=True)
        rig = self.wagon(page)
        cell = page.get_by_label("Draw of Water heater")
        cell.focus()
        cell.fill("1000")
        page.keyboard.press("Enter")
        self.stored(page)
        expect(page.locator('[data-leg="L1"]')).not_to_have_text("")
        rig.refresh_from_db()
        self.assertEqual(
            next(x for x in rig.document["loads"] if x["id"] == "heater")["watts"], 1000
        )
        self.assertNotEqual(
            page.evaluate("document.activeElement.getAttribute('aria-label')"),
            "Draw of Water heater",
        )  # Enter went down
        page.keyboard.press("ArrowUp")
        self.assertEqual(
            page.evaluate("document.activeElement.getAttribute('aria-label')"),
            "Draw of Water heater",
        )
        cell.fill("77")
        page.keyboard.press("Escape")
        expect(cell).to_have_value("1000")
        cell.fill("sixty")
        page.keyboard.press("Tab")
        expect(page.locator("#rig-answer")).to_contain_text("must be a number")
        self.assertEqual(
            (cell.input_value(), cell.get_attribute("aria-invalid")), ("sixty", "true")
        )
        self.assertEqual([e for e in self.errors if "422" not in e], [])

    def test_an_unknown_load_is_asked_what_it_is_where_it_was_typed(self) -> None:
        page = self.open(elsewhere=True)
        self.wagon(page)
        page.get_by_label("Name of a load to add").fill("Garden pump")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.locator("#add-said")).to_contain_text('Is "Garden pump" like this')
        what = page.get_by_label("What it is, then its size")
        expect(what).to_be_focused()
        expect(what).not_to_have_value("")
        page.get_by_label("Name of a load to add").fill("Mystery box")
        expect(what).to_have_value("")  # what was guessed of one name is nothing of the next
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.locator("#add-said")).to_contain_text("What is")
        page.get_by_label("Name of a load to add").fill("Garden pump")
        what.select_option(label="Motor or pump, 3/4 hp, 120 V")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_label("Draw of Garden pump")).to_have_value("13.8")
        expect(page.locator("#add-said")).to_have_text("")
        self.assertEqual([e for e in self.errors if "422" not in e], [])

    def test_pasting_moving_dragging_and_undo(self) -> None:
        page = self.open(elsewhere=True)
        rig = self.wagon(page)
        page.get_by_label("Draw of Water heater").focus()
        page.evaluate(PASTE, "1200\tW\n140\tW")
        expect(page.locator("#rig-answer")).to_contain_text("Pasted.")
        expect(page.get_by_label("Draw of Water heater")).to_have_value("1200")
        expect(page.get_by_label("Draw of Refrigerator")).to_have_value("140")
        page.get_by_label("Draw of Water heater").focus()
        page.keyboard.press("Alt+ArrowDown")
        expect(page.locator('tbody[data-place="L2"] [data-load="heater"]')).to_have_count(1)
        self.assertEqual(
            page.evaluate("document.activeElement.getAttribute('aria-label')"),
            "Draw of Water heater",
        )
        page.locator('[data-load="heater"] .handle').drag_to(
            page.locator('tbody[data-place="L1"] > tr').first
        )
        expect(page.locator('tbody[data-place="L1"] [data-load="heater"]')).to_have_count(1)
        page.get_by_role("button", name="Remove Extractor").click()
        expect(page.locator('[data-load="extractor"]')).to_have_count(0)
        page.get_by_role("button", name="Undo").click()
        expect(page.locator('[data-load="extractor"]')).to_have_count(1)
        page.get_by_label("Name of a load to add").fill("Kettle lamp")
        page.get_by_label("What it is, then its size").select_option("unknown")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_label("Draw of Kettle lamp")).to_be_visible()
        rig.refresh_from_db()
        self.assertEqual(len(rig.document["loads"]), 9)
        self.assertEqual(self.errors, [])

    def test_two_tabs_of_one_rig(self) -> None:
        first = self.open(elsewhere=True)
        rig = self.wagon(first)
        second = first.context.new_page()
        second.goto(first.url)
        first.get_by_label("Draw of Water heater").fill("900")
        first.keyboard.press("Enter")
        self.stored(first)
        second.get_by_label("Draw of Water heater").fill("950")
        second.keyboard.press("Tab")
        expect(second.locator("#rig-answer")).to_contain_text("changed from another page")
        expect(second.locator("#rig-answer")).to_contain_text("Water heater watts from 1440 to 900")
        expect(second.get_by_label("Draw of Water heater")).to_have_value("950")
        second.get_by_role("button", name="Keep mine too").click()
        expect(second.get_by_label("Draw of Water heater")).to_have_value("950")
        expect(second.locator("#rig-answer")).to_be_empty()
        rig.refresh_from_db()
        self.assertEqual(
            next(x for x in rig.document["loads"] if x["id"] == "heater")["watts"], 950
        )

    def test_the_parts_of_the_path_are_edited_in_the_rail(self) -> None:
        page = self.open()
        names = page.locator("#path [data-part]")
        expect(names).to_have_count(2)
        page.locator('#path [data-gap="1"]').click()
        page.locator("#part-kind").select_option(label="30 A guard")
        page.get_by_role("button", name="Put it in").click()
        expect(names).to_have_count(3)
        expect(names.nth(1)).to_have_attribute("data-name", "30 A guard")
        names.nth(1).focus()
        page.keyboard.press("Alt+ArrowUp")
        expect(names.nth(0)).to_have_attribute("data-name", "30 A guard")
        names.nth(0).focus()
        page.keyboard.press("Enter")
        page.locator("#part-kind").select_option(label="30 A travel-trailer outlet")
        page.get_by_role("button", name="Replace it").click()
        expect(names.nth(0)).to_have_attribute("data-name", "30 A travel-trailer outlet")
        names.nth(0).focus()
        page.keyboard.press("Delete")
        expect(names).to_have_count(2)
        names.nth(1).scroll_into_view_if_needed()
        first, second = names.nth(0).bounding_box(), names.nth(1).bounding_box()
        page.mouse.move(first["x"] + 50, first["y"] + 15)
        page.mouse.down()
        page.mouse.move(second["x"] + 50, second["y"] + 15, steps=4)
        page.mouse.up()
        expect(names.nth(0)).to_have_attribute("data-name", "50 A cord")
        self.assertEqual(self.errors, [])

    def test_a_newcomer_on_a_phone(self) -> None:
        """Empty account, own trailer, own generator, verdict."""
        page = self.open(phone=True)
        page.goto("about:blank")  # what the old page still asks for ends with it, not with a 401
        page.context.clear_cookies(name="sessionid")
        page.goto(f"{self.live_server_url}/account/sign-up/")
        page.get_by_label("Username").fill("newcomer")
        page.get_by_label("Password", exact=True).fill("a-long-enough-word")
        page.get_by_label("Password confirmation").fill("a-long-enough-word")
        page.get_by_role("button", name="Make an account").click()
        page.get_by_role("link", name="Rigs").click()
        page.get_by_label("Name", exact=True).fill("My trailer")
        page.get_by_role("button", name="Add the rig").click()
        page.get_by_label("Name of a load to add").fill("rooftop unit, 13,500 Btu/h")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_label("Draw of Rooftop unit, 13,500 Btu/h")).to_have_value("11.5")
        page.get_by_role("link", name="Supplies").click()
        page.get_by_label("Start from").select_option(label="inverter generator, 2.2 kW class")
        page.get_by_role("button", name="Add the supply").click()
        page.get_by_role("link", name="New setup").click()
        expect(page.locator("#verdict-word")).to_have_text("Fails")
        page.locator(".rail-handle").click()
        page.get_by_label("Name of this setup").fill("Mine")
        page.get_by_role("button", name="Save", exact=True).click()
        page.wait_for_url(re.compile(r"/setups/\d+/"))
        saved = SavedSetup.objects.get(name="Mine")
        self.assertEqual(
            (saved.rig.name, saved.supply.document["starting_w"]), ("My trailer", 2200)
        )
        self.assertEqual(self.errors, [])

    def test_the_marks_of_setups_lie_on_their_axis_on_a_phone_too(self) -> None:
        page = self.open(phone=True, elsewhere=True)
        page.goto(f"{self.live_server_url}/setups/")
        drawing = page.locator(".margins").bounding_box()
        marks = page.locator(".margins a")
        assert drawing is not None
        self.assertGreater(marks.count(), 2)
        for at in range(marks.count()):
            mark = marks.nth(at).bounding_box()
            assert mark is not None
            self.assertLess(
                abs(mark["x"] - drawing["x"] - drawing["width"] / 2), drawing["width"] / 2
            )
            self.assertLess(mark["y"] - drawing["y"], drawing["height"])
            self.assertGreaterEqual(min(mark["width"], mark["height"]), 24)

    def test_files_and_a_supply(self) -> None:
        page = self.open(elsewhere=True)
        rig = self.wagon(page)
        with page.expect_download() as caught:
            page.get_by_role("link", name="Loads as CSV").click()
        text = Path(caught.value.path()).read_text()
        page.get_by_label("Import loads from a CSV").set_input_files(
            {
                "name": "a.csv",
                "mimeType": "text/csv",
                "buffer": (text + "x,Bad,resistive\r\n").encode(),
            }
        )
        page.get_by_role("button", name="Import them").click()
        expect(page.get_by_role("alert")).to_contain_text("line 10")
        page.get_by_role("button", name="Import the good rows").click()
        page.wait_for_url(re.compile(rf"/rigs/{rig.pk}/"))
        page.goto(f"{self.live_server_url}/supplies/?q=on propane")
        page.goto(f"{self.live_server_url}/supplies/")
        page.get_by_role("link", name="3.1 kW generator, propane", exact=True).click()
        page.wait_for_url(re.compile(r"/supplies/\d+/"))
        page.wait_for_load_state()  # with its scripts: they look again at each change
        page.get_by_label("Altitude, ft").fill("5000")
        page.get_by_label("Altitude, ft").press("Tab")
        expect(page.locator("main figure svg[role=img]")).to_have_attribute(
            "aria-label", re.compile("at 5,000 ft")
        )
        page.get_by_label("Running power").first.fill("3000")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        self.assertEqual(self.errors, [])
