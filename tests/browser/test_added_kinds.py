"""Kinds that the front end has never heard of work in it as they are declared."""

import os
import socket
import subprocess
import sys
import time

from handful.studio.shots.models import Shot
from tests.browser.base import BrowserTest
from tests.studio.base import database_url


class Added(BrowserTest):
    def _server(self) -> str:
        """The address of a server that knows more kinds."""
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
        env = os.environ | {
            "HANDFUL_DATABASE_URL": database_url(),
            "HANDFUL_DEMO": "1",
            "HANDFUL_KINDS": "tests.browser.added_kinds",
        }
        server = subprocess.Popen(
            [sys.executable, "-m", "handful.studio.serve", str(port)],
            env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self.addCleanup(server.wait)
        self.addCleanup(server.kill)
        for _ in range(900):
            with socket.socket() as trying:
                if trying.connect_ex(("127.0.0.1", port)) == 0:
                    return f"http://127.0.0.1:{port}"
            time.sleep(0.1)
        raise AssertionError("the server did not start")

    def test_a_source_a_step_a_limit_a_move_and_a_blend(self) -> None:
        """Picked by their names, told in their sentences, changed, limited, moved, saved and seen."""
        page = self.page
        self.sign_in(self._server())
        page.get_by_role("button", name="New shot").first.click()
        frame = page.get_by_role("img", name="Frame of Strike 1")
        self.pick("a layer", "Slab")
        slab = page.get_by_role("region", name="Slab")
        slab.get_by_text("Fills").wait_for()

        def light(x: float, y: float) -> float:
            pixels = self.pixels(frame)
            height, width = pixels.shape[:2]
            return float(pixels[int(y * height), int(x * width)].mean())

        self.wait_until(lambda: light(0.1, 0.9) > 250, "the slab on the left")
        self.assertLess(light(0.97, 0.9), 60)
        slab.get_by_role("button", name="share: 50 %").focus()
        page.keyboard.type("100")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.wait_until(lambda: light(0.97, 0.9) > 250, "the slab everywhere")
        self.pick("a step", "Halve")
        page.get_by_role("button", name="times: 2").wait_for()
        self.wait_until(lambda: 100 < light(0.97, 0.9) < 160, "a quarter of the light")
        page.get_by_role("region", name="Halve").get_by_role(
            "button", name="Limit this step"
        ).click()
        page.get_by_role("menuitem", name="Upper half").click()
        self.wait_until(lambda: light(0.97, 0.9) > 250, "the lower half as it was")
        self.assertLess(light(0.97, 0.1), 160)

        slab.get_by_role("button", name="share: 100 %").click()
        page.get_by_role("radio", name="Steps").click()
        page.get_by_label("Starts from").fill("40")
        page.get_by_label("More each second").fill("30")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        slab.get_by_role("button", name="share: 40 % and 30, moves by steps").wait_for()
        self.wait_until(lambda: light(0.5, 0.9) < 60, "its first two fifths at the first frame")
        page.get_by_role("slider", name="Frame").focus()
        for _ in range(3):
            page.keyboard.press("Shift+ArrowRight")
        self.wait_until(lambda: light(0.5, 0.9) > 250, "seven tenths a second later")
        self.assertLess(light(0.8, 0.9), 60)

        page.get_by_role("button", name="How Slab mixes: add, 100 %").click()
        page.get_by_label("Blend", exact=True).select_option("replace")
        page.keyboard.press("Escape")
        self.saved(page)
        layer = Shot.objects.get().recipe["layers"][1]
        self.assertEqual(
            layer["source"], {"kind": "slab", "share": {"moves": "steps", "start": 40, "each": 30}}
        )
        self.assertEqual(layer["blend"], "replace")
        self.assertEqual([step["kind"] for step in layer["steps"]], ["halve"])
        self.assertEqual(layer["steps"][0]["limits"], [{"kind": "upper half"}])
