"""What axe-core finds on every screen, and that nothing runs out of the window."""

import re
from pathlib import Path

from django.contrib.auth.models import User

from handful.studio.starters.service import begin_from
from tests.browser.base import BrowserTest

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
"""Deque's axe-core: WCAG 2.2 A and AA as far as a program can tell."""

EQUIVALENT = "data-arrows"
"""Handles on times and pictures stand where their values are, close together if need be; 2.5.8 asks
for no size where the same can be done elsewhere on the page, here in the sentences."""

RULES = "{runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']}"


class Access(BrowserTest):
    lasts = True

    def found(self) -> list[str]:
        """What axe calls serious or critical, with the first place of each."""
        self.page.evaluate(AXE.read_text())
        result = self.page.evaluate(f"axe.run(document, {RULES})")
        return [
            f"{each['id']}: {node['html'][:160]}"
            for each in result["violations"]
            for node in each["nodes"]
            if each["impact"] in ("serious", "critical")
            and not (each["id"] == "target-size" and EQUIVALENT in node["html"])
        ]

    def clear(self, what: str) -> None:
        with self.subTest(screen=what):
            self.assertEqual(self.found(), [])

    def runs_out(self) -> float:
        """By how many px the page is wider than its window."""
        return float(self.page.evaluate("document.documentElement.scrollWidth - window.innerWidth"))

    def test_every_screen(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Continue as the demo artist").wait_for()
        self.clear("sign in")
        self.sign_in()
        page.get_by_text("Static threads").wait_for()
        self.clear("shots")
        page.get_by_role("button", name="Coiled stream").click()
        page.get_by_role("img", name="Picture of Coil").click()
        page.get_by_role("button", name=re.compile("^Key of reach to")).first.wait_for()
        self.clear("bench")
        page.get_by_role("button", name=re.compile("^Key of reach to")).first.click()
        page.get_by_role("radio", name="Own").click()
        self.clear("a key and its easing")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="strand width:").click()
        self.clear("a value")
        page.keyboard.press("Escape")
        for opener, screen in (("Add a step", "a step"), ("New layer", "a layer")):
            page.get_by_role("button", name=opener).click()
            page.get_by_label(f"Search for {screen}").wait_for()
            page.wait_for_timeout(1500)
            self.clear(f"choosing {screen}")
            page.keyboard.press("Escape")
        for step, list_of in (("Ramp", "stops: 5 points"), ("Curves", "master: 3 points")):
            self.pick("a step", step)
            page.get_by_role("button", name=list_of).click()
            page.get_by_role("button", name="Take it out").wait_for()
            self.clear(step)
            page.keyboard.press("Escape")
        page.get_by_role("button", name="Mark", exact=True).click()
        page.get_by_role("button", name="Seam", exact=True).click()
        page.get_by_text("between frames in a row").wait_for()
        self.clear("a loop")
        page.keyboard.press("Escape")
        for name in ("Settings of the shot", "Revisions", "Search", "Shortcuts", "Render…"):
            page.get_by_role("button", name=re.compile(f"^{name}")).first.click()
            page.get_by_role("dialog").wait_for()
            self.clear(name)
            page.keyboard.press("Escape")
        page.get_by_role("link", name="Renders").click()
        page.get_by_role("heading", name="Renders").wait_for()
        self.clear("renders")

    def test_windows_of_three_sizes(self) -> None:
        """Nothing is beyond the window's edge, and the last button of the bench is in it."""
        self.sign_in()
        shot = begin_from(User.objects.get(), "coiled-stream")
        for width, height in ((1024, 700), (1280, 800), (1920, 1080)):
            with self.subTest(width=width):
                self.page.set_viewport_size({"width": width, "height": height})
                self.page.goto(f"{self.live_server_url}/shots/{shot.id}")
                render = self.page.get_by_role("button", name="Render…")
                render.wait_for()
                self.assertLessEqual(self.runs_out(), 0)
                box = render.bounding_box()
                assert box is not None
                self.assertLessEqual(box["x"] + box["width"], width)

    def test_compare_with_a_kept_picture(self) -> None:
        """A frame is kept; the wipe shows it at the left, and the difference to itself is black."""
        self.sign_in()
        page = self.page
        page.get_by_role("button", name="New shot").first.click()
        frame = page.get_by_role("img", name="Frame of Strike 1")
        self.wait_until(lambda: self.pixels(frame).max() > 200, "the first picture")
        page.get_by_role("button", name="Keep", exact=True).click()
        page.get_by_role("radio", name="Difference").click()
        kept = page.get_by_role("img", name=re.compile("^Kept frame"))
        kept.wait_for()
        self.wait_until(lambda: self.pixels(frame).mean() < 1.5, "no difference to be left")
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("Shift+ArrowRight")
        self.wait_until(lambda: self.pixels(frame).max() > 100, "another frame to differ")
        page.get_by_role("radio", name="Wipe").click()
        wipe = page.get_by_role("slider", name="Wipe between")
        wipe.focus()
        for _ in range(5):
            page.keyboard.press("ArrowRight")
        self.assertEqual(wipe.get_attribute("aria-valuenow"), "60")
