"""A mask drawn by hand on the picture, and changed by its vertices."""

from typing import Any

import numpy as np
from playwright.sync_api import Locator, Position

from handful.studio.shots.models import Shot
from tests.browser.base import BrowserTest

CORNERS = ((300, 20), (1700, 20), (1700, 500), (300, 500))


class Masks(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.open_new_shot()
        page = self.page
        self.frame = page.get_by_role("img", name="Frame of Strike 1")
        self.wait_until(lambda: self.pixels(self.frame).max() > 200, "the first picture")
        page.get_by_role("radio", name="Cover").click()
        self.wait_until(lambda: self.lower() > 0.004, "the cover of the whole strike")

    def lower(self) -> float:
        """The share of px well below the mask that are covered; the points' labels are some."""
        shown = self.pixels(self.frame)
        return float((shown[int(0.6 * len(shown)) :] > 60).mean())

    def recipe(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe

    def vertices(self) -> list[dict[str, Any]]:
        return self.recipe()["paths"][0]["vertices"]

    def _draw(self) -> None:
        page = self.page
        page.get_by_role("button", name="Limit this layer").click()
        page.get_by_role("menuitem", name="Draw a mask").click()
        area: Locator = page.get_by_role("button", name="Press the corners of the mask")
        box = area.bounding_box()
        assert box is not None
        for x, y in CORNERS:
            at: Position = {"x": x / 1920 * box["width"], "y": y / 1080 * box["height"]}
            area.click(position=at)
        page.get_by_role("button", name="Done").click()

    def test_drawn_and_seen_in_the_cover(self) -> None:
        """What covered below the mask is gone; its corners are where they were pressed, within a px."""
        before = self.lower()
        self._draw()
        self.wait_until(lambda: self.lower() < 0.5 * before, "the lower half to be kept out")
        recipe = self.recipe()
        self.assertEqual(recipe["layers"][0]["limits"], [{"kind": "outline", "path": "Mask"}])
        corners = [vertex["at"] for vertex in recipe["paths"][0]["vertices"]]
        np.testing.assert_allclose(corners, CORNERS, atol=3)

    def test_changed_by_its_vertices(self) -> None:
        """Dragged, walked, added, turned, and taken out; and undone."""
        self._draw()
        page = self.page
        third = page.get_by_role("button", name="Vertex Mask 3")
        before = self.vertices()[2]["at"]
        third.focus()
        page.keyboard.press("Shift+ArrowDown")
        self.assertEqual(self.vertices()[2]["at"], [before[0], before[1] + 10])
        self.drag(third, 0, 100)
        moved = self.vertices()[2]["at"]
        self.assertGreater(moved[1], before[1] + 150)
        third.focus()
        page.keyboard.press("c")
        self.assertIn("leaving", self.vertices()[2])
        page.get_by_role("button", name="Curve leaving at Mask 3").wait_for()
        third.focus()
        page.keyboard.press("Enter")
        self.assertEqual(len(self.vertices()), 5)
        page.get_by_role("button", name="Vertex Mask 4").focus()
        page.keyboard.press("Delete")
        self.assertEqual(len(self.vertices()), 4)
        page.get_by_role("button", name="Undo").click()
        self.assertEqual(len(self.vertices()), 5)

    def test_drawn_by_keyboard(self) -> None:
        """The arrow keys move the place, Enter sets it; three corners make a mask."""
        page = self.page
        page.get_by_role("button", name="Limit this layer").click()
        page.get_by_role("menuitem", name="Draw a mask").click()
        page.get_by_role("button", name="Press the corners of the mask").focus()
        for keys in ("Shift+ArrowLeft", "Shift+ArrowUp", "ArrowRight"):
            page.keyboard.press(keys)
            page.keyboard.press("Enter")
        page.get_by_role("button", name="Done").focus()
        page.keyboard.press("Enter")
        corners = [vertex["at"] for vertex in self.vertices()]
        self.assertEqual(corners, [[860, 540], [860, 440], [870, 440]])
