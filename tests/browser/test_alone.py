"""The whole way by keyboard alone, and a server that goes away in the middle of work."""

import os
import socket
import subprocess
import sys
import time
import urllib.request

from django.db import connection
from playwright.sync_api import expect

from handful.studio.renders.models import Render
from handful.studio.shots.models import Shot
from tests.browser.base import MOST_WAIT, BrowserTest

MOST_TABS = 120


class KeyboardAlone(BrowserTest):
    def reach(self, name: str) -> None:
        """Press Tab until something of that name has the focus, and see that the focus is seen."""
        page = self.page
        for _ in range(MOST_TABS):
            page.keyboard.press("Tab")
            if self.focused().startswith(name):
                outline = page.evaluate("getComputedStyle(document.activeElement).outlineStyle")
                self.assertNotEqual(outline, "none", f"{name} shows no focus")
                return
        self.fail(f"Tab never came to {name!r}")

    def focused(self) -> str:
        """The name of what has the focus."""
        return str(
            self.page.evaluate(
                "(at => at.ariaLabel || at.labels?.[0]?.textContent || at.textContent || '')"
                "(document.activeElement)"
            )
        )

    def test_from_sign_in_to_a_render(self) -> None:
        """A strike is made, changed, timed and rendered without a pointer."""
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Continue as the demo artist").wait_for()
        self.reach("Continue as the demo artist")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="New shot").first.wait_for()
        self.reach("New shot")
        page.keyboard.press("Enter")
        page.get_by_text("Strikes from").wait_for()

        # a value by typing, with a sum; a key on another frame
        self.reach("width: 2.5 px")
        page.keyboard.type("2*4")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="width: 8 px").wait_for()
        self.reach("wander")
        page.keyboard.press("Enter")
        page.get_by_role("radio", name="Keys").focus()
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Key of wander").wait_for()

        # a step by search, a layer by its picture, a marker
        self.reach("Add a step")
        page.keyboard.press("Enter")
        page.keyboard.type("blur")
        page.keyboard.press("Enter")
        page.get_by_role("region", name="Blur", exact=True).wait_for()
        page.locator("body").press("/")
        page.keyboard.type("add flare")
        page.keyboard.press("Enter")
        page.get_by_role("region", name="Flare").wait_for()
        self.reach("Mark")
        page.keyboard.press("Enter")

        # a point on the picture, by arrow keys
        self.reach("Point to")
        page.keyboard.press("Shift+ArrowLeft")

        self.saved(page)
        recipe = Shot.objects.get().recipe
        bolt, flare = recipe["layers"]
        self.assertEqual(bolt["source"]["width"], 8)
        self.assertEqual(bolt["source"]["wander"]["moves"], "keys")
        self.assertEqual([step["kind"] for step in bolt["steps"]], ["glow", "blur"])
        self.assertEqual(flare["source"]["kind"], "flare")
        self.assertEqual(len(recipe["markers"]), 1)
        self.assertEqual(recipe["points"][1]["at"], [1230, 930])

        self.reach("Render…")
        page.keyboard.press("Enter")
        page.get_by_role("dialog", name="Render").wait_for()
        self.reach("Render")
        page.keyboard.press("Enter")
        self.wait_until(lambda: Render.objects.exists(), "the render in the queue")


class ServerRestart(BrowserTest):
    def tearDown(self) -> None:
        away = ("Failed to load", "ERR_CONNECTION_REFUSED")
        self.complaints = [c for c in self.complaints if not any(word in c for word in away)]
        super().tearDown()

    def serve(self, port: int) -> subprocess.Popen[bytes]:
        """The server as it is shipped, on the test's database."""
        facts = connection.settings_dict
        url = "postgresql://{USER}:{PASSWORD}@{HOST}:{PORT}/{NAME}".format(**facts)
        env = os.environ | {"HANDFUL_DATABASE_URL": url, "HANDFUL_DEMO": "1"}
        server = subprocess.Popen(
            [sys.executable, "-m", "handful.studio.serve", str(port)], env=env
        )

        def stop() -> None:
            server.kill()
            server.wait()

        self.addCleanup(stop)
        for _ in range(1200):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/api/v1/alive", timeout=30)
                return server
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not start")

    def test_nothing_is_lost(self) -> None:
        """Killed while one works and started again, it has all that was done in between."""
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        server = self.serve(port)
        page = self.page
        page.goto(f"http://127.0.0.1:{port}")
        page.get_by_role("button", name="Continue as the demo artist").click()
        page.get_by_role("button", name="New shot").first.click()
        frame = page.get_by_role("img", name="Frame of Strike 1")
        self.wait_until(lambda: self.pixels(frame).max() > 200, "the first picture")
        self.saved(page)
        before = self.pixels(frame)

        server.kill()
        server.wait()
        page.get_by_role("button", name="width: 2.5 px").focus()
        page.keyboard.type("30")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_text("Not saved.").wait_for()
        page.get_by_role("button", name="branches").first.focus()
        page.keyboard.press("ArrowUp")
        page.wait_for_timeout(500)

        self.serve(port)
        self.saved(page)
        source = Shot.objects.get().recipe["layers"][0]["source"]
        self.assertEqual((source["width"], source["branches"]), (30, 8))
        # What is told lies over the picture.
        expect(page.get_by_role("alert")).to_have_text([], timeout=1000 * MOST_WAIT)
        self.wait_until(
            lambda: self.pixels(frame).mean() > 1.3 * before.mean(), "the new picture by itself"
        )
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+z")
        self.wait_until(
            lambda: Shot.objects.get().recipe["layers"][0]["source"].get("width") in (None, 2.5),
            "both steps back to be saved",
        )
