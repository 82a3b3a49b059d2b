"""The real interface in headless Chromium: fill the page, see the verdict change, save, reload;
keyboard, touch, axe-core.
"""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Route, expect

from tests.browser.case import BrowserCase
from tests.shared import document, path_of
from web.setups import judging, repository
from web.setups.demo import load_demo
from web.setups.models import SavedSetup


class Work(BrowserCase):
    def test_fill_see_the_verdict_change_save_and_reload(self) -> None:
        page = self.open(elsewhere=True)
        self.new(page)
        word = page.locator("#verdict-word")
        expect(word).to_have_text("Fails")
        page.get_by_label("Running power").fill("3600")
        page.get_by_label("Starting power").fill("4400")
        page.get_by_label("Starting power").press("Tab")
        expect(word).to_have_text("Holds")
        self.assertEqual(
            page.evaluate("document.activeElement.name"), "supply.fuel"
        )  # the focus is not lost to the answer
        page.get_by_label("Name of this setup").fill("Mine")
        page.get_by_role("button", name="Save", exact=True).click()
        page.wait_for_url(re.compile(r"/setups/\d+/"))
        expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        page.reload()
        expect(word).to_have_text("Holds")
        self.assertEqual(page.get_by_label("Starting power").input_value(), "4400")
        saved = SavedSetup.objects.get(name="Mine")
        self.assertEqual(
            (repository.compose(saved)["supply"]["starting_w"], saved.verdict), (4400, "holds")
        )
        self.assertEqual(self.errors, [])

    def test_the_figures_on_the_page_are_the_cores(self) -> None:
        page = self.open()
        pk = int(re.search(r"/(\d+)/", page.url)[1])
        checked = judging.judge(repository.compose(SavedSetup.objects.get(pk=pk))).checked
        from ironmargin.verdict.stations import stations

        for station in stations(checked):
            cell = page.locator(f'#stations [data-key="{station.key}"]')
            self.assertAlmostEqual(
                float(cell.get_attribute("data-margin")), station.margin, places=3
            )
            self.assertEqual(cell.get_attribute("data-state"), station.state)
            marks = page.locator(f'[data-mark="{station.key}"]').count()
            self.assertEqual(marks, 0 if station.state == "holds" else 2, station.key)
        expect(page.locator("#remedy")).to_contain_text("Leave Water heater off")
        expect(page.locator("#remedy")).to_contain_text("+14 %")

    def test_leaving_the_heater_off_makes_it_hold(self) -> None:
        page = self.open()
        page.locator("#inputs").get_by_label("Water heater", exact=True).uncheck()
        expect(page.locator("#verdict-word")).not_to_have_text("Fails")
        expect(page.locator("#iron-margin")).to_have_text("+14 %")

    def test_a_bad_figure_is_named_beside_its_field_and_kept(self) -> None:
        page = self.open(elsewhere=True)
        self.new(page)
        field = page.get_by_label("Starting power")
        field.fill("sixty")
        field.press("Tab")
        expect(page.locator("#station")).to_contain_text("No verdict")
        expect(page.locator('[data-fault-for="supply.starting_w"]')).to_contain_text(
            "must be a number"
        )
        self.assertEqual(
            (field.input_value(), field.get_attribute("aria-invalid")), ("sixty", "true")
        )
        field.fill("2200")
        field.press("Tab")
        expect(page.locator("#verdict-word")).to_be_visible()
        expect(page.locator('[data-fault-for="supply.starting_w"]')).to_be_empty()
        self.assertIsNone(field.get_attribute("aria-invalid"))

    def test_a_soft_starter_brings_its_own_fields(self) -> None:
        page = self.open(elsewhere=True)
        self.new(page)
        page.get_by_label("Start gear").select_option("soft-start")
        expect(page.get_by_label("Soft-start peak")).to_be_visible()
        page.get_by_label("Starting power").fill("3200")
        page.get_by_label("Running power").fill("2800")
        page.get_by_label("Running power").press("Tab")
        expect(page.locator("#verdict-word")).not_to_have_text("Fails")

    def test_typical_ones_units_and_taking_out(self) -> None:
        page = self.open()
        self.new(page)
        page.get_by_label("Use a typical one").select_option(
            label="inverter generator, 4.5 kW class"
        )
        expect(page.get_by_label("Starting power")).to_have_value("4500")
        page.get_by_label("Add a load: what it is, then its size").select_option(
            label="microwave oven, 1,000 W cooking"
        )
        expect(page.get_by_label("Microwave oven, 1,000 W cooking", exact=True)).to_be_checked()
        expect(page.get_by_label("Outdoor heat")).to_have_value("95")
        page.get_by_role("button", name="show °C and meters").click()
        expect(page.get_by_label("Outdoor heat")).to_have_value("35")
        expect(page.get_by_label("Starting power")).to_have_value("4500")
        page.get_by_role("button", name="remove Microwave oven, 1,000 W cooking").click()
        expect(page.get_by_label("Microwave oven, 1,000 W cooking", exact=True)).to_have_count(0)
        self.assertEqual(self.errors, [])

    def test_nothing_is_lost_to_an_answer_still_on_its_way(self) -> None:
        page = self.open(elsewhere=True)
        self.new(page)
        held: list[Route] = []

        def hold(route: Route) -> None:
            if held:
                route.continue_()
            else:
                held.append(route)

        loads = page.locator("#inputs [name=remove_load]").count()
        page.route("**/setups/preview/", hold)
        add = page.get_by_label("Add a load: what it is, then its size")
        microwave = "microwave oven, 1,000 W cooking"
        with page.expect_request("**/setups/preview/"):
            add.select_option(label=microwave)
        add.select_option(label="water heater, 6 gal, electric")
        page.get_by_label("Starting power").fill("4400")
        page.get_by_label("Starting power").press("Tab")
        page.get_by_label("Name of this setup").fill("Typed meanwhile")
        held[0].continue_()
        expect(page.get_by_label("Microwave oven, 1,000 W cooking", exact=True)).to_be_checked()
        expect(page.get_by_label("Water heater, 6 gal, electric", exact=True)).to_be_checked()
        expect(page.get_by_label("Starting power")).to_have_value("4400")
        expect(page.get_by_label("Name of this setup")).to_have_value("Typed meanwhile")
        page.get_by_role("button", name="Save", exact=True).dblclick()
        page.wait_for_url(re.compile(r"/setups/\d+/"))
        saved = SavedSetup.objects.get(name="Typed meanwhile")
        self.assertEqual(len(saved.rig.document["loads"]), loads + 2)
        self.assertEqual(repository.compose(saved)["supply"]["starting_w"], 4400)
        self.assertEqual(self.errors, [])

    def test_what_is_typed_never_lands_in_another_row(self) -> None:
        page = self.open()
        names = page.locator("#inputs [name=remove_load]").evaluate_all(
            "all => all.map(button => button.getAttribute('aria-label').slice(7))"
        )
        gone, stored = names[0], names[2]
        held: list[Route] = []
        page.route("**/setups/preview/", lambda r: r.continue_() if held else held.append(r))
        with page.expect_request("**/setups/preview/"):
            page.get_by_role("button", name=f"remove {gone}", exact=True).click()
        figures = page.locator("#inputs [name^='rig.loads[1]'][inputmode=decimal]")
        figures.first.fill("7.77")
        wanted = page.get_by_label(stored, exact=True)
        wanted.set_checked(not (before := wanted.is_checked()))
        page.get_by_label("Outdoor heat").fill("88")
        held[0].continue_()
        expect(page.get_by_label(gone, exact=True)).to_have_count(0)
        expect(wanted).to_be_checked(checked=not before)
        expect(page.get_by_label("Outdoor heat")).to_have_value("88")
        for figure in figures.all():
            self.assertNotEqual(figure.input_value(), "7.77")
        self.assertEqual(self.errors, [])

    def test_what_is_typed_before_the_scripts_come_is_judged(self) -> None:
        page = self.open()
        heat = page.get_by_label("Outdoor heat")
        name = heat.get_attribute("name")
        page.add_init_script(
            "document.addEventListener('readystatechange', () => {"
            f"  const heat = document.querySelector('[name=\"{name}\"]');"
            "  if (heat && document.readyState === 'interactive') heat.value = '91';"
            "})"
        )
        with page.expect_request("**/setups/preview/") as requested:
            page.reload()
        self.assertEqual(requested.value.post_data_json[name], "91")
        expect(heat).to_have_value("91")
        self.assertEqual(self.errors, [])

    def test_a_request_that_fails_is_said_on_any_page(self) -> None:
        page = self.open()
        page.route("**/setups/preview/", lambda route: route.fulfill(status=500))
        page.get_by_label("Outdoor heat").fill("91")
        page.get_by_label("Outdoor heat").press("Tab")
        said = page.get_by_role("alert").filter(has_text="The server could not do that")
        expect(said).to_be_visible()
        expect(page.get_by_label("Outdoor heat")).to_have_value("91")
        page.unroute("**/setups/preview/")
        page.get_by_label("Outdoor heat").fill("92")
        page.get_by_label("Outdoor heat").press("Tab")
        expect(said).to_be_hidden()
        expect(page.locator("#said")).to_contain_text("%")
        page.goto(f"{self.live_server_url}/rigs/")
        page.evaluate("htmx.ajax('GET', '/nowhere/', '#main')")
        expect(said).to_be_visible()

    def test_keys_can_be_turned_off(self) -> None:
        page = self.open()
        page.keyboard.press("?")
        page.get_by_role("button", name="Turn the keys off").click()
        expect(page.get_by_role("button", name="Turn the keys on")).to_be_visible()
        page.get_by_role("button", name="Close").last.click()
        page.keyboard.press("1")
        page.keyboard.press("?")
        expect(page.locator("#help")).to_be_hidden()
        self.assertIn("/setups/", page.url)
        page.get_by_role("button", name="? keys and words").click()
        page.get_by_role("button", name="Turn the keys on").click()
        page.get_by_role("button", name="Close").last.click()
        page.keyboard.press("1")
        page.wait_for_url("**/board/")

    def test_a_save_stays_where_it_was_pressed(self) -> None:
        page = self.open()
        page.get_by_label("Outdoor heat").fill("90")
        page.get_by_label("Outdoor heat").press("Tab")
        save = page.get_by_role("button", name="Save", exact=True)
        save.scroll_into_view_if_needed()
        rail = page.locator(".rail")
        before = rail.evaluate("rail => rail.scrollTop")
        self.assertGreater(before, 300)
        save.click()
        expect(page.locator("#save-answer")).to_contain_text("Saved “Clay wagon")
        self.assertAlmostEqual(rail.evaluate("rail => rail.scrollTop"), before, delta=60)

    def test_a_change_is_undone_step_by_step(self) -> None:
        page = self.open()
        heat = page.get_by_label("Outdoor heat")
        expect(heat).to_have_value("95")
        page.locator("#inputs").get_by_label("Water heater", exact=True).uncheck()
        expect(page.locator("#iron-margin")).to_have_text("+14 %")
        page.get_by_label("Front unit", exact=True).uncheck()
        expect(page.locator("#iron-margin")).not_to_have_text("+14 %")
        heat.fill("96")
        heat.press("Tab")
        expect(page.locator("#document")).to_have_value(re.compile('"outdoor_c": 35.5'))
        page.get_by_role("button", name="Undo").click()
        expect(heat).to_have_value("95")
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("#iron-margin")).to_have_text("+14 %")
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("#inputs").get_by_label("Water heater", exact=True)).to_be_checked()
        expect(page.locator("#verdict-word")).to_have_text("Fails")
        expect(page.locator("#rail-saved")).to_contain_text("saved")
        expect(page.get_by_role("button", name="Undo")).to_have_count(0)
        self.assertEqual(self.errors, [])

    def test_a_fix_is_tried_and_goes_along_to_every_station(self) -> None:
        page = self.open()
        page.get_by_role("button", name="Try it", exact=True).click()
        expect(page.locator("#verdict-word")).to_have_text("Thin")
        expect(page.locator("#inputs").get_by_label("Water heater", exact=True)).not_to_be_checked()
        for name in ("Order", "Hours", "Log", "Steps", "Bench"):  # Reach computes long here
            page.get_by_role("link", name=name, exact=True).first.click()
            expect(page.locator("#rail-saved")).to_contain_text("not saved")
            expect(
                page.locator("#inputs").get_by_label("Water heater", exact=True)
            ).not_to_be_checked()
        page.get_by_role("button", name="Back to saved").click()
        expect(page.locator("#verdict-word")).to_have_text("Fails")
        self.assertEqual(self.errors, [])

    def test_the_rail_is_a_sheet_on_a_phone(self) -> None:
        page = self.open(phone=True)
        heater = page.locator("#inputs").get_by_label("Water heater", exact=True)
        handle = page.get_by_role("button", name=re.compile("Loads and supply"))
        expect(handle).to_have_attribute("aria-expanded", "false")
        expect(handle).to_contain_text("of 24 A")
        handle.click()
        heater.uncheck()
        expect(handle).not_to_contain_text("32.5")
        page.keyboard.press("Escape")
        expect(handle).to_have_attribute("aria-expanded", "false")
        expect(page.locator("#iron-margin")).to_have_text("+14 %")
        self.assertEqual(self.errors, [])

    def test_the_cursor_reads_by_keys_mouse_and_touch(self) -> None:
        page = self.open()
        plot = page.locator("#plot")
        plot.focus()
        reading = page.locator("#plot-reading")
        page.keyboard.press("Home")
        expect(reading).to_contain_text("-0.30 s")
        page.keyboard.press("End")
        rows = json.loads(plot.get_attribute("data-series"))
        expect(reading).to_have_text(
            f"{rows[-1][1]:.2f} s  {rows[-1][2]:.1f} A  {rows[-1][3]:.1f} V"
        )
        box = plot.bounding_box()
        page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + 80)
        expect(reading).not_to_have_text(
            f"{rows[-1][1]:.2f} s  {rows[-1][2]:.1f} A  {rows[-1][3]:.1f} V"
        )
        self.assertIn("A", plot.get_attribute("aria-valuetext"))
        phone = self.open(phone=True)
        phone.locator("#plot").scroll_into_view_if_needed()
        phone.locator("#plot").tap()
        expect(phone.locator("#plot-reading")).to_contain_text(" s ")

    def test_delete_and_take_back(self) -> None:
        page = self.open(elsewhere=True)
        page.goto(f"{self.live_server_url}/setups/")
        name = "Clay wagon, 3.4 kW generator at 1,600 m"
        page.get_by_label(f"More for {name}").click()
        page.get_by_role("button", name=f"Delete {name}").click()
        expect(page.get_by_role("link", name=name, exact=True)).to_have_count(0)
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("link", name=name, exact=True)).to_be_visible()

    def test_files_out_and_in(self) -> None:
        page = self.open()
        with page.expect_download() as caught:
            page.get_by_role("link", name="Export").click()
        exported = json.loads(Path(caught.value.path()).read_text())
        self.assertEqual(exported["format"], "iron-margin/setup")
        page.goto(f"{self.live_server_url}/setups/")
        page.get_by_label("Import a setup file").set_input_files(path_of(1))
        page.get_by_role("button", name="Import it").click()
        page.wait_for_url(re.compile(r"/setups/\d+/"))
        expect(page.locator("#verdict-word")).to_have_text("Holds")
        page.goto(f"{self.live_server_url}/setups/")
        page.get_by_label("Import a setup file").set_input_files(path_of(12))
        page.get_by_role("button", name="Import it").click()
        expect(page.get_by_role("alert")).to_contain_text("unknown field")

    def test_two_pages_of_one_setup(self) -> None:
        first, second = self.open(), None
        second = first.context.new_page()
        second.goto(first.url)
        first.get_by_label("Name of this setup").fill("Theirs")
        first.get_by_role("button", name="Save", exact=True).click()
        expect(first.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        second.get_by_label("Name of this setup").fill("Mine too")
        second.get_by_role("button", name="Save", exact=True).click()
        expect(second.locator("#save-answer")).to_contain_text("saved from another page")
        self.assertEqual(second.get_by_label("Name of this setup").input_value(), "Mine too")
        second.get_by_role("button", name="Save as a variant", exact=True).click()
        second.wait_for_url(lambda url: url != first.url)
        self.assertTrue(SavedSetup.objects.filter(name="Mine too").exists())

    def test_an_expired_session_loses_nothing(self) -> None:
        page = self.open()
        page.get_by_label("Name of this setup").fill("Typed before")
        page.context.clear_cookies(name="sessionid")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.locator("#save-answer")).to_contain_text("signed out")
        self.assertEqual(page.get_by_label("Name of this setup").input_value(), "Typed before")

    def test_shortcuts(self) -> None:
        page = self.open()
        page.keyboard.press("?")
        expect(page.locator("#help")).to_be_visible()
        page.keyboard.press("Escape")
        page.keyboard.press("d")
        self.assertEqual(page.evaluate("document.documentElement.dataset.theme"), "night")
        page.keyboard.press("4")
        page.wait_for_url(re.compile(r"/setups/$"))

    def test_the_reasons_behind_a_station(self) -> None:
        page = self.open()
        page.locator("#stations button").first.click()
        expect(page.locator("[popover]:popover-open")).to_contain_text("margin = 1")
        page.keyboard.press("Escape")
        expect(page.locator("[popover]:popover-open")).to_have_count(0)


class Access(BrowserCase):
    def test_axe_finds_nothing_in_either_theme_or_size(self) -> None:
        """The other way round than on every page: by night at the desk, by day on the phone."""
        for phone, theme in ((False, "night"), (True, "day")):
            page = self.open(phone=phone, theme=theme)
            where = f"{'phone' if phone else 'desk'} {theme}"
            expect(page.locator("#remedy")).to_contain_text("Leave")
            self.clean(page, f"verdict {where}")
            page.locator("#stations button").first.click()
            self.clean(page, f"reasons {where}")

    def test_axe_finds_nothing_among_faults(self) -> None:
        page = self.open()
        saved = repository.store(SavedSetup.objects.first().owner, judging.judge(document(8)))
        page.goto(f"{self.live_server_url}/setups/{saved.pk}/")
        self.clean(page, "two legs, same leg")
        page.locator("#f-supply-breaker-a").fill("-1")
        page.locator("#f-supply-breaker-a").press("Tab")
        expect(page.locator("#station")).to_contain_text("No verdict")
        self.clean(page, "faults")

    def test_the_demo_is_one_press_away(self) -> None:
        load_demo()
        page = self.browser.new_page()
        self.addCleanup(page.close)
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Open the demo").click()
        page.wait_for_url(re.compile(r"/setups/\d+/"))
        expect(page.locator("#verdict-word")).to_have_text("Fails")

    def test_the_verdict_needs_no_scrolling_at_the_desk(self) -> None:
        page = self.open()
        for selector in ("#verdict-word", "#sentence", "#stations", "#plot"):
            box = page.locator(selector).bounding_box()
            self.assertLessEqual(box["y"] + box["height"], 800, selector)

    def test_thumbs_can_hit_the_stations(self) -> None:
        page = self.open(phone=True)
        for box in (b.bounding_box() for b in page.locator("#stations li > button").all()):
            self.assertGreaterEqual(box["height"], 44)
