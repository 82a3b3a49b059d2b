"""Takes one PNG of each main view from a running demo: python tools/screenshots.py [--base URL]
[--out DIR].
"""

from __future__ import annotations

import argparse
import re
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
CHROMIUM = "/usr/bin/chromium-headless-shell"
"""Debian's Chromium without its windows: the same pages, a third sooner than with them hidden."""
ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def shoot(page: Page, base: str, out: Path, name: str, theme: str, *, whole: bool = False) -> None:
    """One view in one theme."""
    page.context.add_cookies([{"name": "theme", "value": theme, "url": base}])
    page.reload()
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=out / f"{name}.png", full_page=whole)


PATIENCE_MS = 120_000
"""A loaded machine computes what Now may need on a device for a minute."""
ONE_ROUND_MS = 200_000
"""The simulated meter switches something on within so long."""


def settle(page: Page) -> None:
    """Back to the day, with everything that loads by itself there."""
    root = page.url.split("/setups/")[0]
    page.context.add_cookies([{"name": "theme", "value": "day", "url": root}])
    page.reload()
    page.wait_for_load_state("networkidle")


def log_view(page: Page, base: str, out: Path, pk: str) -> None:
    """The log with a start heard: the one the check expects, made audible."""
    page.goto(f"{base}/log/{pk}/?kind=start")
    load = page.locator("[aria-labelledby='log-form'] [name='entry.load']").input_value()
    sound = page.request.get(f"{base}/log/{pk}/sound.wav?load={load}").body()
    page.locator("#senses summary").click()
    file = {"name": "start.wav", "mimeType": "audio/wav", "buffer": sound}
    page.locator("[name='sound']").set_input_files([file])  # type: ignore[list-item]
    page.locator("#listen").click()
    page.locator("#sensed figcaption").wait_for()
    page.evaluate("document.fonts.ready")
    page.evaluate("window.scrollTo(0, 0)")
    page.screenshot(path=out / "log-desk.png")


def order_views(page: Page, base: str, out: Path, size: str) -> None:
    """The running order, whole and by day; on the phone what is on now, and a step list."""
    page.goto(f"{base}/setups/?q=school")
    page.get_by_role("link", name=re.compile("^Clay wagon, school")).first.click()
    page.wait_for_url(re.compile(r"/setups/\d+/"))
    pk = page.url.rstrip("/").split("/")[-1]
    if size == "phone":
        page.goto(f"{base}/now/{pk}/")
        for name in ("Front unit", "Rear unit"):
            chip = page.locator(".now-may button").filter(has_text=name)
            if chip.count():
                chip.first.click()
                page.locator(".now-on button").filter(has_text=name).first.wait_for()
        page.wait_for_load_state("networkidle")
        page.screenshot(path=out / "now-phone.png")
        page.goto(f"{base}/steps/{pk}/?all=1")
        page.get_by_role("button", name="Hook up").click()
        page.locator("text=1 of").wait_for()
        page.screenshot(path=out / "steps-phone.png")
        return
    log_view(page, base, out, pk)
    bench_view(page, base, out, pk)
    page.goto(f"{base}/setups/?q=3.4")
    page.get_by_role("link", name=re.compile("^Clay wagon, 3.4")).first.click()
    page.wait_for_url(re.compile(r"/setups/\d+/"))
    page.goto(page.url.replace("/setups/", "/hours/") + "?days=5&litres=9&allowed=12")
    shoot(page, base, out, "hours-desk", "day")
    page.goto(f"{base}/setups/?q=fairground")
    page.get_by_role("link", name=re.compile("^Clay wagon, two")).first.click()
    page.get_by_role("link", name="Order", exact=True).first.click()
    page.locator("#steps li").first.wait_for()
    page.screenshot(path=out / "order-desk.png")
    page.locator("#plan").click()
    page.locator("#timeline").wait_for()
    page.evaluate("window.scrollTo(0, document.querySelector('#day').offsetTop - 70)")
    page.screenshot(path=out / "day-desk.png")


def bench_view(page: Page, base: str, out: Path, pk: str) -> None:
    """The bench after a start."""
    page.goto(f"{base}/bench/{pk}/?new=1")
    page.get_by_role("button", name="Start cold, everything off").click()
    page.get_by_role("button", name="Turn the supply on").click()
    page.get_by_role("button", name="Turn the supply off").wait_for()
    for load in ("heater", "front"):
        page.locator(f"#load-{load}").click()
        page.locator(f'#load-{load}[aria-pressed="true"]').wait_for()
    page.get_by_role("button", name="Skip to the next event").click()
    page.locator(".event-started", has_text="Front unit").wait_for()
    page.screenshot(path=out / "bench-desk.png")


def desk_views(page: Page, base: str, out: Path) -> None:
    """The views kept at desk size only."""
    page.goto(f"{base}/setups/?q=3.4")
    page.get_by_role("link", name=re.compile("^Clay wagon, 3.4")).first.click()
    page.get_by_role("link", name="Reach", exact=True).first.click()
    page.locator("[data-reach] .here").wait_for()
    page.goto(f"{page.url}?x=outdoor_c&y=base_load_w&cool=60&hot=95")
    page.locator("[data-reach] .here").wait_for()
    page.get_by_role("heading", name="What size would hold").wait_for()
    page.locator("caption").first.wait_for(state="attached")
    shoot(page, base, out, "reach-desk", "day")
    page.goto(f"{base}/setups/?q=school")
    page.get_by_role("link", name=re.compile("^Clay wagon, school")).first.click()
    page.wait_for_url(re.compile(r"/setups/\d+/"))
    page.goto(page.url.replace("/setups/", "/meter/"))
    page.locator('#meter[data-state="live"]').wait_for()
    page.locator("#caught li").first.wait_for(timeout=ONE_ROUND_MS)
    page.screenshot(path=out / "meter-desk.png")
    page.goto(f"{base}/supplies/")
    page.get_by_role("link", name="3.1 kW generator, propane", exact=True).click()
    page.get_by_label("Altitude, ft").fill("5250")
    page.get_by_label("Altitude, ft").blur()
    page.locator("svg text", has_text="at 5,250 ft").wait_for()
    page.screenshot(path=out / "supply-desk.png")
    page.goto(f"{base}/setups/")
    shoot(page, base, out, "setups-desk", "day")
    for box in page.get_by_role("checkbox").all()[1:4]:
        box.check()
    page.get_by_role("button", name="Side by side").click()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=out / "compare-desk.png")
    page.goto(f"{base}/setups/?q=pair")
    page.get_by_role("link", name=re.compile("^Clay wagon, pair")).click()
    page.wait_for_load_state("networkidle")
    shoot(page, base, out, "stall-desk", "day")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--base", default="http://127.0.0.1:8000")
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=ARGS)
        for size, viewport in (("desk", DESK), ("phone", PHONE)):
            page = browser.new_context(viewport=viewport).new_page()
            page.set_default_timeout(PATIENCE_MS)
            page.goto(args.base)
            page.get_by_role("button", name="Open the demo").click()
            page.wait_for_url(re.compile(r"/setups/\d+/"))
            if size == "desk":
                shoot(page, args.base, args.out, "verdict-desk-day", "day")
            shoot(page, args.base, args.out, f"verdict-{size}-night", "night")
            settle(page)
            if size == "desk":
                for name in ("board", "rigs"):
                    page.goto(f"{args.base}/{name}/")
                    page.wait_for_load_state("networkidle")
                    page.screenshot(path=args.out / f"{name}-desk.png")
                page.get_by_role("link", name="Alder Creek house", exact=True).click()
                shoot(page, args.base, args.out, "rig-desk", "day")
            order_views(page, args.base, args.out, size)
            if size == "desk":
                desk_views(page, args.base, args.out)
        browser.close()


if __name__ == "__main__":
    main()
