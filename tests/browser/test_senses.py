"""The senses in the real browser: a start from a microphone that is a file, a display from a
picture file, a plug's page; keyboard, small screens and axe-core with them.
"""

from __future__ import annotations

import io
import os
import tempfile
from pathlib import Path

from django.test import tag
from PIL import Image
from playwright.sync_api import expect

from benchmarks.displays import made
from ironmargin.sensing.sonify import Scene
from tests.browser.case import PATIENCE_MS, BrowserCase
from tests.core.test_sensing import coming_up, recorded
from tools.screenshots import ARGS, CHROMIUM
from web.logbook.hearing import as_wav
from web.setups.models import SavedSetup

RATE, LONG_S, BEGINS_S = 48_000, 16.0, 4.0


@tag("browser")
class ByEyeAndEar(BrowserCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.browser.close()
        scene = Scene(rate=RATE, seconds=LONG_S, begins_s=BEGINS_S)
        handle, name = tempfile.mkstemp(suffix=".wav")
        os.close(handle)
        cls.sound = Path(name)
        cls.sound.write_bytes(as_wav(recorded(coming_up(0.8), 20.0, scene), RATE))
        microphone = [
            "--use-fake-device-for-media-stream",
            "--use-fake-ui-for-media-stream",
            f"--use-file-for-fake-audio-capture={name}%noloop",
        ]
        cls.browser = cls.play.chromium.launch(executable_path=CHROMIUM, args=[*ARGS, *microphone])

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        cls.sound.unlink()

    def test_a_start_is_recorded_and_heard(self) -> None:
        page = self.open(phone=True)
        pk = SavedSetup.objects.latest("pk").pk
        page.goto(f"{self.live_server_url}/log/{pk}/?kind=start")
        page.locator("#senses summary").click()
        page.locator("[name='entry.peak_a']").fill("61.5")
        page.get_by_role("button", name="Record 10 s").click()
        expect(page.locator("#recording")).to_contain_text("s left")
        heard = page.locator("#sensed figcaption")
        expect(heard).to_contain_text("up to speed after", timeout=3 * PATIENCE_MS)
        self.assertEqual(page.locator("[name='entry.peak_a']").input_value(), "61.5")
        self.assertAlmostEqual(
            float(page.locator("[name='entry.seconds']").input_value()), 0.8, delta=0.15
        )
        self.clean(page, "heard")

    def test_a_display_is_photographed_kept_and_a_plug_felt(self) -> None:
        page = self.open()
        pk = SavedSetup.objects.latest("pk").pk
        page.goto(f"{self.live_server_url}/log/{pk}/?kind=start")
        page.locator("#senses summary").press("Enter")
        one = next(d for d in (made(n, hard=False) for n in range(60)) if d.unit == "A")
        file = {"name": "d.jpg", "mimeType": "image/jpeg", "buffer": one.raw}
        page.locator("[name='display']").set_input_files([file])  # type: ignore[list-item]
        page.get_by_role("button", name="Read it", exact=True).click()
        seen = page.locator("#sensed figcaption").first
        expect(seen).to_contain_text("Read:")
        use = page.locator("#sensed [data-fill]")
        if use.count():
            use.click()
        page.locator("[name=keep]").check()
        page.locator("[aria-labelledby='log-form'] button.btn-main").click()
        expect(page.get_by_alt_text("The photograph kept with it")).to_be_visible()
        self.clean(page, "kept")
        page.goto(f"{self.live_server_url}/log/{pk}/plug/")
        page.get_by_label("Amps").fill("24")
        page.get_by_label("Air in the shade").fill("86")
        for n, typed in enumerate(("86", "115", "133", "139")):
            page.locator(f"[name='entry.readings[{n}].surface_c']").fill(typed)
        page.get_by_role("button", name="What does it say?").press("Enter")
        expect(page.locator("[aria-labelledby='plug-says']")).to_contain_text("Worn")
        self.clean(page, "plug")

    def test_a_large_photograph_is_made_small_before_it_is_sent(self) -> None:
        page = self.open(phone=True)
        pk = SavedSetup.objects.latest("pk").pk
        page.goto(f"{self.live_server_url}/log/{pk}/?kind=start")
        page.locator("#senses summary").click()
        out = io.BytesIO()
        Image.effect_noise((4000, 3000), 80).convert("RGB").save(out, "JPEG", quality=60)
        file = {"name": "d.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}
        page.locator("[name='display']").set_input_files([file])  # type: ignore[list-item]
        expect(page.get_by_role("button", name="Read it", exact=True)).to_be_enabled()
        size = page.locator("[name='display']").evaluate("one => one.files[0].size")
        self.assertLess(size, len(out.getvalue()) / 2)
        self.assertEqual(self.errors, [])

    def test_a_photograph_waits_on_the_device_until_it_is_read(self) -> None:
        page = self.open(worker=True, phone=True)
        pk = SavedSetup.objects.latest("pk").pk
        page.goto(f"{self.live_server_url}/log/{pk}/?kind=run")
        page.locator("#senses summary").click()
        one = next(d for d in (made(n, hard=False) for n in range(60)) if d.unit == "A")
        file = {"name": "d.jpg", "mimeType": "image/jpeg", "buffer": one.raw}
        page.locator("[name='entry.volts']").fill("117")
        page.locator("[name='display']").set_input_files([file])  # type: ignore[list-item]
        page.context.set_offline(True)
        page.get_by_role("button", name="Read it", exact=True).click()
        stored = page.locator("#photographs")
        expect(stored).to_contain_text("No network: kept.")
        self.assertEqual(page.locator("[name='entry.volts']").input_value(), "117")
        self.assertEqual(page.locator("[name='display']").evaluate("one => one.files.length"), 0)
        page.context.set_offline(False)
        self.assertTrue(all("INTERNET_DISCONNECTED" in e for e in self.errors), self.errors)
        self.errors.clear()
        self.clean(page, "waits")
        # Another kind of entry, and any other page, lead to it; another person sees nothing of it.
        page.goto(f"{self.live_server_url}/log/{pk}/?kind=start")
        expect(stored.get_by_role("button", name="Read it now")).to_have_count(0)
        page.goto(f"{self.live_server_url}/board/")
        stored.get_by_role("link", name="Go to it").click()
        page.evaluate(
            "document.body.dataset.who = 'somebody else'; dispatchEvent(new Event('pageshow'))"
        )
        expect(stored).to_be_hidden()
        page.reload()
        stored.get_by_role("button", name="Read it now").click()
        expect(page.locator("#sensed figcaption").first).to_contain_text("Read:")
        expect(stored).to_be_hidden()
        self.assertEqual(page.locator("[name='entry.volts']").input_value(), "117")
        self.assertEqual(self.errors, [])
