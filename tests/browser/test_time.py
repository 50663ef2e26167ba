"""Time on the bench: keys and their easing, a layer's life, and revisions."""

import re
from typing import Any

from handful.engine import read_recipe, render_frame
from handful.studio.shots.models import Shot
from tests.browser.base import BrowserTest


class OnTime(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.open_new_shot()
        self.page.get_by_text("Strikes from").wait_for()
        self.frame = self.page.get_by_role("img", name="Frame of Strike 1")
        self.wait_until(lambda: self.pixels(self.frame).max() > 200, "the first picture")

    def recipe(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe

    def light(self, frame: int) -> float:
        return float(render_frame(read_recipe(self.recipe()), frame, 0.125)[..., :3].sum())

    def go_to(self, frame: int) -> None:
        self.page.get_by_label("Go to frame").fill(str(frame))
        self.page.get_by_label("Go to frame").press("Enter")


class Keys(OnTime):
    def setUp(self) -> None:
        """The width goes by keys: 2.5 px at 1010, 20 px at 1030."""
        super().setUp()
        page = self.page
        self.go_to(1010)
        page.get_by_role("button", name="width: 2.5 px").click()
        page.get_by_role("radio", name="Keys").click()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Key of width at frame 1010").wait_for()
        self.go_to(1030)
        self.lane("Set a key here")
        page.get_by_role("button", name="Key of width at frame 1030").click()
        page.get_by_label("Value").fill("8*2.5")
        page.get_by_label("Value").press("Enter")
        page.keyboard.press("Escape")

    def lane(self, action: str) -> None:
        self.page.get_by_role("button", name="More for the lane of width").click()
        self.page.get_by_role("menuitem", name=action).click()

    def keys(self) -> list[dict[str, Any]]:
        return self.recipe()["layers"][0]["source"]["width"]["keys"]

    def test_set_moved_eased_and_seen_in_the_numbers(self) -> None:
        """Keys are set and typed with a sum; easing and place change the rendered light between."""
        page = self.page
        self.assertEqual(
            [(key["frame"], key["value"]) for key in self.keys()], [(1010, 2.5), (1030, 20)]
        )
        smooth = self.light(1014)
        self.assertGreater(self.light(1030), 3 * self.light(1010))

        page.get_by_role("button", name="Key of width at frame 1010").click()
        page.get_by_role("radio", name="Linear").click()
        page.keyboard.press("Escape")
        linear = self.light(1014)
        self.assertGreater(linear, 1.05 * smooth)

        key = page.get_by_role("button", name="Key of width at frame 1030")
        track = page.get_by_role("slider", name="Frame").bounding_box()
        assert track is not None
        self.drag(key, -10 * track["width"] / 50, 0)
        self.assertEqual([key["frame"] for key in self.keys()], [1010, 1020])
        self.assertGreater(self.light(1014), 1.05 * linear)

    def test_own_easing_by_its_handles(self) -> None:
        page = self.page
        page.get_by_role("button", name="Key of width at frame 1010").click()
        page.get_by_role("radio", name="Own").click()
        page.get_by_role("slider", name="Leaving this key").focus()
        for _ in range(4):
            page.keyboard.press("ArrowUp")
        page.keyboard.press("Escape")
        ease = self.keys()[0]["ease"]
        self.assertEqual(ease, [0.42, 0.2, 0.58, 1])

    def test_by_keyboard(self) -> None:
        """Keys are walked, gone to and taken out without a pointer."""
        page = self.page
        page.get_by_role("button", name="Key of width at frame 1030").focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Shift+ArrowRight")
        self.assertEqual([key["frame"] for key in self.keys()], [1010, 1041])
        page.locator("body").focus()
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("Alt+ArrowLeft")
        self.wait_until(
            lambda: page.get_by_label("Go to frame").input_value() == "1010", "the key before"
        )
        page.get_by_role("button", name="Key of width at frame 1041").focus()
        page.keyboard.press("Delete")
        self.assertEqual([key["frame"] for key in self.keys()], [1010])

    def test_copied_and_stretched(self) -> None:
        page = self.page
        self.lane("Copy the keys")
        self.go_to(1035)
        self.lane("Paste keys from here on")
        self.assertEqual([key["frame"] for key in self.keys()], [1010, 1030, 1035, 1055])
        page.get_by_role("button", name="Key of width at frame 1010").click()
        page.get_by_label("All keys last").fill("90")
        page.get_by_label("All keys last").press("Enter")
        page.keyboard.press("Escape")
        self.assertEqual([key["frame"] for key in self.keys()], [1010, 1050, 1060, 1100])


class Life(OnTime):
    def test_dragged_in_the_ribbon(self) -> None:
        """The layer's beginning and its rise are set in the ribbon, and the light follows."""
        page = self.page
        before = self.light(1003)
        beginning = page.get_by_role("button", name=re.compile("^beginning of Bolt"))
        beginning.focus()
        page.keyboard.press("ArrowRight")
        track = page.get_by_role("slider", name="Frame").bounding_box()
        assert track is not None
        rise = page.get_by_role("button", name=re.compile("^rise of Bolt"))
        rise.focus()
        page.keyboard.press("Shift+ArrowRight")
        layer = self.recipe()["layers"][0]
        self.assertEqual((layer["first"], layer["life"]["rise"]), (1002, 10))
        self.assertLess(self.light(1003), 0.3 * before)
        self.drag(
            page.get_by_role("button", name=re.compile("^fall of Bolt")), -track["width"] / 5, 0
        )
        self.assertEqual(self.recipe()["layers"][0]["life"]["fall"], 10)
        page.get_by_role("button", name="Undo").click()
        self.assertEqual(self.recipe()["layers"][0]["life"].get("fall", 0), 0)


class Steps(OnTime):
    def test_undo_goes_on_after_a_reload(self) -> None:
        page = self.page
        page.get_by_role("button", name="branches:").focus()
        page.keyboard.press("ArrowUp")
        self.assertEqual(self.recipe()["layers"][0]["source"]["branches"], 8)
        page.reload()
        page.get_by_text("Strikes from").wait_for()
        page.get_by_role("button", name="Undo").click()
        self.assertNotEqual(self.recipe()["layers"][0]["source"].get("branches"), 8)

    def test_going_back_to_what_was_saved(self) -> None:
        """A revision is brought back as a new one, and can be undone."""
        page = self.page
        page.get_by_role("button", name="branches:").focus()
        page.keyboard.press("ArrowUp")
        self.saved(page)
        page.get_by_role("button", name="Revisions").click()
        page.get_by_role("button", name=re.compile("Revision 1 ?")).click()
        self.assertNotIn("branches", self.recipe()["layers"][0]["source"])
        self.assertEqual(Shot.objects.get().revision, 3)
        page.get_by_role("button", name="Undo").click()
        self.assertEqual(self.recipe()["layers"][0]["source"]["branches"], 8)

    def test_compared_with_what_was_saved(self) -> None:
        """A revision's picture is kept beside the present one; where they are alike is black."""
        page = self.page
        page.get_by_role("button", name="width: 2.5 px").focus()
        page.keyboard.type("30")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.saved(page)
        page.get_by_role("button", name="Revisions").click()
        page.get_by_role("button", name="Compare with revision 1").click()
        page.get_by_role("img", name="Kept revision 1").wait_for()
        page.get_by_role("radio", name="Difference").click()
        self.wait_until(lambda: self.pixels(self.frame).max() > 150, "a difference")
        page.get_by_role("button", name="Undo").click()
        self.wait_until(lambda: self.pixels(self.frame).mean() < 1.5, "no difference to be left")

    def test_settings_of_the_shot(self) -> None:
        page = self.page
        page.get_by_role("button", name="Settings of the shot").click()
        page.get_by_label("Width", exact=True).fill("1920/2")
        page.get_by_label("Width", exact=True).press("Enter")
        page.get_by_label("Frames a second").select_option("29.97")
        page.get_by_label("Last frame").fill("1020")
        page.get_by_label("Last frame").press("Enter")
        page.keyboard.press("Escape")
        canvas = self.recipe()["canvas"]
        self.assertEqual((canvas["width"], canvas["rate"], canvas["last"]), (960, 29.97, 1020))
        page.get_by_text("960 × 1080 · 29.97 fps · 20 frames").wait_for()

    def test_search(self) -> None:
        """Slash opens the search; a setting is found and reached, an action is done."""
        page = self.page
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("/")
        page.get_by_role("combobox", name="Search actions and settings").fill("dying")
        page.keyboard.press("Enter")
        self.wait_until(
            lambda: (page.evaluate("document.activeElement.ariaLabel") or "").startswith("dying"),
            "the setting to have the focus",
        )
        page.get_by_role("button", name="Search").click()
        page.get_by_role("combobox", name="Search actions and settings").fill("add blur")
        page.keyboard.press("Enter")
        page.get_by_role("region", name="Blur").wait_for()
        self.assertEqual(self.recipe()["layers"][0]["steps"][-1]["kind"], "blur")

    def test_steps_move_and_are_pasted_on_the_result(self) -> None:
        page = self.page
        self.pick("a step", "Exposure")
        page.get_by_role("button", name="More for Exposure").click()
        page.get_by_role("menuitem", name="Move up").click()
        page.get_by_role("button", name="More for Exposure").click()
        page.get_by_role("menuitem", name="Copy").click()
        page.get_by_role("img", name="Result").click()
        self.pick("a step", "Paste Exposure")
        recipe = self.recipe()
        kinds = [step["kind"] for step in recipe["layers"][0]["steps"]]
        self.assertEqual(kinds, ["exposure", "glow"])
        self.assertEqual([step["kind"] for step in recipe["finish"]], ["exposure"])

    def test_px_under_the_pointer_and_true_size(self) -> None:
        page = self.page
        box = self.frame.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.get_by_text(re.compile(r"^960, 540 px · light")).wait_for()
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("1")
        self.wait_until(
            lambda: abs((self.frame.bounding_box() or {"width": 0})["width"] - 1920) < 1,
            "the true px",
        )
        page.keyboard.press("0")
        self.wait_until(
            lambda: (self.frame.bounding_box() or {"width": 0})["width"] < 1000, "the whole picture"
        )


class Groups(OnTime):
    def test_into_a_group_that_closes(self) -> None:
        """A layer goes into a group by its menu, is shown in it, and hidden when it is closed."""
        page = self.page
        self.pick("a layer", "Group")
        page.get_by_role("button", name="More for Bolt").click()
        page.get_by_role("menuitem", name="Into Group").click()
        inside = page.get_by_role("group", name="Layers in Group")
        inside.get_by_role("img", name="Picture of Bolt").wait_for()
        layers = self.recipe()["layers"]
        self.assertEqual([layer.get("within") for layer in layers], ["group", None])
        page.get_by_role("button", name="More for Group").click()
        page.get_by_role("menuitem", name="Close the group").click()
        inside.wait_for(state="detached")
        page.get_by_text("1 inside").wait_for()
        page.get_by_role("button", name="More for Group").click()
        page.get_by_role("menuitem", name="Open the group").click()
        page.get_by_role("button", name="More for Bolt").click()
        page.get_by_role("menuitem", name="Out of its group").click()
        self.assertEqual([layer.get("within") for layer in self.recipe()["layers"]], [None, None])

    def test_a_point_of_its_own(self) -> None:
        """A setting that follows gets a new point where it is, and nothing moves on the picture."""
        page = self.page
        page.get_by_role("button", name=re.compile("^end: to")).click()
        page.get_by_role("button", name="A new point here").click()
        page.keyboard.press("Escape")
        recipe = self.recipe()
        self.assertEqual(recipe["points"][-1], {"name": "point", "at": [1240, 930]})
        self.assertEqual(
            recipe["layers"][0]["source"]["end"], {"moves": "follow", "point": "point"}
        )


class Colours(OnTime):
    def test_by_temperature_and_by_hue(self) -> None:
        """Light of 2856 K is taken as a colour; the hue is then walked by keyboard."""
        page = self.page
        page.get_by_role("button", name=re.compile("^edge: #")).click()
        page.get_by_label("Light of").fill("2856")
        page.get_by_label("Light of").press("Enter")
        page.get_by_role("button", name=re.compile("^edge: #ff")).wait_for()
        warm = self.recipe()["layers"][0]["source"]["edge"]
        red, green, blue = (int(warm[i : i + 2], 16) for i in (1, 3, 5))
        self.assertTrue(red > green > blue)
        page.get_by_role("slider", name="Hue").focus()
        for _ in range(3):
            page.keyboard.press("Shift+ArrowRight")
        self.assertNotEqual(self.recipe()["layers"][0]["source"]["edge"], warm)
