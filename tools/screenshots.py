"""Takes one PNG of each main view from a running demo: python tools/screenshots.py [--base URL] [--out DIR]."""

from __future__ import annotations

import argparse
import re
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
ARGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"]


def shoot(page: Page, base: str, out: Path, name: str, theme: str, *, whole: bool = False) -> None:
    """One view in one theme."""
    page.context.add_cookies([{"name": "theme", "value": theme, "url": base}])
    page.reload()
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=out / f"{name}.png", full_page=whole)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--base", default="http://127.0.0.1:8000")
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        for size, viewport in (("desk", DESK), ("phone", PHONE)):
            page = browser.new_context(viewport=viewport).new_page()
            page.goto(args.base)
            page.get_by_role("button", name="Open the demo").click()
            page.wait_for_url(re.compile(r"/setups/\d+/"))
            shoot(page, args.base, args.out, f"verdict-{size}-day", "day")
            shoot(page, args.base, args.out, f"verdict-{size}-night", "night")
            page.locator("#inputs").scroll_into_view_if_needed()
            page.evaluate("window.scrollTo(0, document.querySelector('#inputs').offsetTop - 60)")
            page.screenshot(path=args.out / f"inputs-{size}.png")
            page.goto(f"{args.base}/setups/")
            shoot(page, args.base, args.out, f"setups-{size}", "day")
            page.goto(f"{args.base}/setups/?q=pair")
            page.get_by_role("link", name=re.compile("^Clay wagon, pair")).click()
            page.wait_for_url(re.compile(r"/setups/\d+/"))
            shoot(page, args.base, args.out, f"stall-{size}", "day")
        browser.close()


if __name__ == "__main__":
    main()
