"""What is taken hold of on the picture: shapes, places that snap, and motion frame by frame."""

from typing import Any

import numpy as np

from handful.studio.shots.models import Shot
from tests.browser.test_bench import OnBench


class Handles(OnBench):
    def layer(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe["layers"][0]

    def px(self) -> float:
        """Px of the screen for one of the canvas."""
        box = self.frame.bounding_box()
        assert box is not None
        return box["width"] / 1920

    def go_to(self, frame: int) -> None:
        self.page.get_by_label("Go to frame").fill(str(frame))
        self.page.get_by_label("Go to frame").press("Enter")

    def test_an_ellipse(self) -> None:
        """Its width grows by twice the way that the handle goes; centre, turn and feather follow."""
        page = self.page
        page.get_by_role("button", name="Limit this layer").click()
        page.get_by_role("menuitem", name="Ellipse").click()
        page.get_by_text("in ellipse").wait_for()
        self.drag(page.get_by_role("button", name="Handle of width"), 100 * self.px())
        self.drag(page.get_by_role("button", name="Handle of feather"), 0, -76 * self.px())
        self.drag(page.get_by_role("button", name="Point centre"), -200 * self.px(), 0)
        turn = page.get_by_role("button", name="Handle of turn")
        turn.focus()
        for _ in range(4):
            page.keyboard.press("Shift+ArrowDown")
        limit = self.layer()["limits"][0]
        self.assertAlmostEqual(limit["width"], 1000, delta=4)
        self.assertAlmostEqual(limit["feather"], 100, delta=2)
        self.assertAlmostEqual(limit["centre"][0], 760, delta=2)
        self.assertAlmostEqual(limit["turn"], 14, delta=0.5)  # atan(40 / 160) = 14.04 degrees

    def test_only_those_of_the_chosen_card(self) -> None:
        """A step's handles are there while its card is held, and no longer."""
        page = self.page
        self.pick("a step", "Vignette")
        card = page.get_by_role("region", name="Vignette")
        handle = page.get_by_role("button", name="Handle of radius")
        card.get_by_role("heading").click()
        handle.wait_for()
        page.get_by_role("region", name="Bolt").get_by_role("heading").click()
        handle.wait_for(state="detached")

    def test_snapping_to_a_point(self) -> None:
        """Dragged near another point a place lands on it exactly; with Ctrl it does not."""
        page = self.page
        self.value("start").click()
        page.get_by_role("radio", name="Still").click()
        page.keyboard.press("Escape")
        start = page.get_by_role("button", name="Point start")
        across, down = 600 * self.px() + 5, 840 * self.px() - 4
        self.drag(start, across, down)
        self.assertEqual(self.layer()["source"]["start"], [1240, 930])
        page.keyboard.press("Control+z")
        page.keyboard.down("Control")
        self.drag(start, across, down)
        page.keyboard.up("Control")
        self.assertNotEqual(self.layer()["source"]["start"], [1240, 930])

    def test_pieces(self) -> None:
        """A peg of a cloth that is added has a handle of its own, and is held where that is let go; it goes away with
        the peg."""
        page = self.page
        self.pick("a layer", "Cloth")
        card = page.get_by_role("region", name="Cloth")
        card.get_by_role("button", name="Change the number of pegs").click()
        page.get_by_role("menuitem", name="Add a peg").click()
        peg = page.get_by_role("button", name="Point peg 1")
        peg.wait_for()
        self.drag(peg, 150 * self.px(), 300 * self.px())
        self.saved(page)
        (held,) = Shot.objects.get().recipe["layers"][1]["source"]["pegs"]
        np.testing.assert_allclose(held["at"], (1110, 490), atol=3)
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+z")
        peg.wait_for(state="detached")

    def test_frame_by_frame(self) -> None:
        """A place that goes by keys gets one where it is dragged; with Alt all of them move."""
        page = self.page
        self.go_to(1010)
        self.value("start").click()
        page.get_by_role("radio", name="Still").click()
        page.get_by_role("radio", name="Keys").click()
        page.keyboard.press("Escape")
        # Its lane takes room from the picture.
        page.get_by_role("button", name="Key of start at frame 1010").wait_for()
        self.go_to(1030)
        start = page.get_by_role("button", name="Point start")
        start.wait_for()
        self.drag(start, 100 * self.px(), 0)
        keys = self.layer()["source"]["start"]["keys"]
        self.assertEqual([key["frame"] for key in keys], [1010, 1030])
        self.assertEqual(keys[0]["value"], [640, 90])
        self.assertAlmostEqual(keys[1]["value"][0], 740, delta=2)
        there = start.bounding_box()
        self.go_to(1020)
        self.wait_until(
            lambda: start.bounding_box() != there, "the handle at its place of this frame"
        )
        page.keyboard.down("Alt")
        self.drag(start, 0, 50 * self.px())
        page.keyboard.up("Alt")
        keys = self.layer()["source"]["start"]["keys"]
        self.assertEqual([key["frame"] for key in keys], [1010, 1030])
        self.assertAlmostEqual(keys[0]["value"][1], 140, delta=2)


class Warnings(OnBench):
    def canvas(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe["canvas"]

    def test_a_glow_that_is_cut_off(self) -> None:
        """It is said which edge cuts it off; one press adds overscan, and another takes it back."""
        page = self.page
        page.get_by_role("button", name="Point from").focus()
        for _ in range(8):
            page.keyboard.press("Shift+ArrowUp")
        page.get_by_text("Cut off at the top edge").wait_for()
        before = self.frame.bounding_box()
        page.get_by_role("button", name="Add 120 px of overscan").click()
        self.assertEqual(self.canvas()["overscan"], 120)
        after = self.frame.bounding_box()
        assert before and after
        self.assertAlmostEqual(after["width"] / after["height"], 2160 / 1320, delta=0.01)
        page.keyboard.press("Control+z")
        self.assertFalse(self.canvas().get("overscan"))

    def test_light_that_clips(self) -> None:
        """It is striped where it clips; looked at darker there is none, and the recipe stays."""
        page = self.page

        def amber() -> int:
            away = np.abs(self.pixels(self.frame) - [240, 180, 90]).max(axis=2)
            return int((away < 30).sum())

        self.assertLess(amber(), 20)
        page.get_by_role("button", name="% clips").click()
        self.wait_until(lambda: amber() > 50, "the stripes")
        page.get_by_role("button", name="Look at").click()
        self.wait_until(lambda: amber() < 20, "no stripes")
        self.saved(page)
        self.assertEqual(Shot.objects.get().revision, 1)
