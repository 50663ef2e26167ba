"""Refresh docs/screenshots from a running, fresh demo: `./handful python docs/take_screenshots.py`."""

from __future__ import annotations

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

sys.path.insert(0, str(Path(__file__).parents[1]))

from launcher.installing import CHROMIUM

ADDRESS = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8420"
FOLDER = Path(__file__).parent / "screenshots"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]


def main() -> None:
    """Walk through the main views, keeping a picture of each."""
    with sync_playwright() as player:
        browser = player.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page(
            viewport={"width": 1280, "height": 800},
            bypass_csp=True,  # what it waits for is said in the page
        )
        page.goto(ADDRESS)
        page.get_by_role("button", name="Continue as the demo artist").wait_for()
        _keep(page, "sign-in")
        page.get_by_role("button", name="Continue as the demo artist").click()
        page.get_by_role("link", name="Open Mast strike").wait_for()
        _wait_for_images(page)
        _keep(page, "shots")
        page.get_by_role("link", name="Open Mast strike").click()
        page.get_by_text("75 of 75 computed").wait_for(timeout=120_000)
        _keep(page, "bench")
        page.get_by_role("radio", name="Black").click()
        page.get_by_role("button", name="wander:").click()
        page.wait_for_timeout(3000)
        _keep(page, "bench-value")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Add a step").click()
        page.wait_for_timeout(5000)
        _keep(page, "bench-steps")
        page.get_by_label("Search for a step").fill("Ramp")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="stops: 5 points").click()
        page.wait_for_timeout(3000)
        _keep(page, "bench-ramp")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="Seam").click()
        page.get_by_role("button", name="Make it loop").click()
        page.get_by_text("No seam shows.").wait_for()
        _keep(page, "bench-loop")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Undo").click()
        _open(page, "Storm sail", 1036)
        _keep(page, "storm-sail")
        _open(page, "Out of the fog", 1036)
        page.get_by_role("img", name="Picture of Low fog on the water", exact=True).click()
        page.wait_for_timeout(4000)
        _keep(page, "out-of-the-fog")
        _open(page, "First gather", 1030)
        page.get_by_role("img", name="Picture of Melt", exact=True).click()
        page.wait_for_timeout(4000)
        _keep(page, "first-gather")
        _open(page, "Furnace mouth", 1012)
        page.get_by_role("img", name="Picture of Light on the bricks", exact=True).click()
        page.wait_for_timeout(4000)
        _keep(page, "furnace-mouth")
        _open(page, "Burning chart", 1030)
        page.get_by_role("img", name="Picture of Charred chart", exact=True).click()
        page.wait_for_timeout(4000)
        _keep(page, "burning-chart")
        _open(page, "Tide feed", 1040)
        _keep(page, "tide-feed")
        page.get_by_role("img", name="Picture of Stream", exact=True).click()
        page.get_by_role("button", name="Key of reach to at frame 1012").click()
        page.get_by_role("radio", name="Own").click()
        page.wait_for_timeout(4000)
        _keep(page, "bench-keys")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="Revisions").click()
        page.wait_for_timeout(4000)
        _keep(page, "revisions")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="New layer").click()
        _wait_for_images(page)
        page.wait_for_timeout(3000)
        _keep(page, "bench-layers")
        page.get_by_label("Search for a layer").fill("Element")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Mast strike").wait_for()
        _wait_for_images(page)
        _keep(page, "element")
        page.keyboard.press("Escape")
        _open(page, "Mast strike", 1012)
        page.get_by_role("button", name="Render…").click()
        page.get_by_label("First frame").fill("1008")
        page.get_by_label("Last frame").fill("1024")
        page.get_by_label("Last frame").press("Enter")
        page.wait_for_timeout(500)
        _keep(page, "render")
        page.get_by_role("button", name="Render 17 frames").click()
        page.get_by_text("of 17 frames").first.wait_for()
        page.get_by_role("button", name="Cancel").wait_for(state="detached")
        _wait_for_images(page)
        _keep(page, "renders")
        browser.close()


def _open(page: Page, shot: str, frame: int) -> None:
    """Open a shot from the list and go to one of its frames."""
    page.get_by_role("link", name="Shots").click()
    page.get_by_role("link", name=f"Open {shot}").click()
    page.get_by_label("Go to frame").fill(str(frame))
    page.get_by_label("Go to frame").press("Enter")
    page.get_by_text(re.compile(r"of (100|75|60|50) computed")).wait_for()
    page.wait_for_timeout(20_000)


def _wait_for_images(page: Page) -> None:
    """Until those in sight are there; others are fetched when they come into it."""
    page.wait_for_function(
        "[...document.images].every((image) => (image.complete && image.naturalWidth > 0)"
        " || image.getBoundingClientRect().top > innerHeight)",
        timeout=120_000,
    )


def _keep(page: Page, name: str) -> None:
    page.screenshot(path=FOLDER / f"{name}.png")


if __name__ == "__main__":
    main()
