"""What the bench and its dialogs say and show: names, limits, lanes of all that moves, small windows."""

import re

import numpy as np
from playwright.sync_api import expect

from handful.studio.shots.models import Shot
from tests.browser.test_bench import OnBench


class Lanes(OnBench):
    def test_everything_that_moves_has_a_lane_and_keeps_its_handle(self) -> None:
        """A mask's width, a lobe's radius and a step on the result go by keys: each has a lane with its
        key, and the mask's handle sets one where it is dragged."""
        page = self.page
        page.get_by_role("button", name="Limit this layer").click()
        page.get_by_role("menuitem", name="Ellipse").click()
        for opener, lane in (("width of the limit:", "ellipse: width"), ("radius of lobe 1:", "glow: lobe 1, radius")):  # fmt: skip
            page.get_by_role("button", name=opener).click()
            page.get_by_role("radio", name="Keys").click()
            page.keyboard.press("Escape")
            page.get_by_role("button", name=f"More for the lane of {lane}").wait_for()
            page.get_by_role("button", name=re.compile(f"^Key of {lane} at frame")).wait_for()
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("Home")
        handle = page.get_by_role("button", name="Handle of width")
        page.get_by_role("region", name="Limits of the layer").click(position={"x": 4, "y": 4})
        handle.wait_for()
        page.get_by_text("Saved", exact=True).wait_for()
        self.drag(handle, 40)
        self.saved(page)
        keys = Shot.objects.get().recipe["layers"][0]["limits"][0]["width"]["keys"]
        self.assertEqual(len(keys), 2)
        self.assertEqual(keys[0]["frame"], 1001)
        self.assertGreater(keys[0]["value"], keys[1]["value"])
        page.get_by_role("button", name="Result", exact=True).first.click()
        self.pick("a step", "Exposure")
        page.get_by_role("button", name=re.compile("^stops:")).click()
        page.get_by_role("radio", name="Keys").click()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="More for the lane of exposure: stops").wait_for()

    def test_a_key_on_the_last_frame_can_be_had(self) -> None:
        """The lane's menu stands beside the lane and not on it."""
        page = self.page
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("End")
        page.get_by_role("button", name="width:").first.click()
        page.get_by_role("radio", name="Keys").click()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Key of width at frame 1050").click()
        page.get_by_role("dialog", name="Key of width at frame 1050").wait_for()

    def test_a_formula_shows_what_it_gives(self) -> None:
        page = self.page
        page.get_by_role("button", name="wander:").click()
        page.get_by_role("radio", name="Formula").click()
        field = page.get_by_label("Formula of t, f, fps")
        field.fill("still + 0 * 1750 * cos(3.75 - 1.2 * t) + 5")
        field.press("Enter")
        page.keyboard.press("Escape")
        value = page.get_by_role("button", name="wander: 21°, moves by formula")
        value.wait_for()
        self.assertIn("cos(3.75 - 1.2 * t)", value.get_attribute("title") or "")


class Alone(OnBench):
    def test_a_matter_of_the_bench(self) -> None:
        """Looked at alone, with a badge: neither saved nor kept over a reload; the render shows all and
        says what is switched off."""
        page = self.page
        self.pick("a layer", "Flare")
        page.get_by_role("button", name="More for Flare").wait_for()
        self.saved(page)
        saved = Shot.objects.get().recipe
        page.get_by_role("img", name="Picture of Flare").wait_for()  # it follows the result
        both = self.settled(self.frame)
        page.get_by_role("button", name="More for Bolt").click()
        page.get_by_role("menuitem", name="Show alone").click()
        page.get_by_text("alone", exact=True).wait_for()
        self.changes(both)
        page.get_by_role("button", name="More for Flare").click()
        page.get_by_role("menuitem", name="Switch off").click()
        page.get_by_role("button", name="Render…").click()
        page.get_by_text("Left out, as it is switched off: Flare.").wait_for()
        page.get_by_text("The render shows all layers").wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Undo").click()
        self.saved(page)
        self.assertEqual(Shot.objects.get().recipe["layers"], saved["layers"])
        page.reload()
        page.get_by_text("Strikes from").wait_for()
        self.assertEqual(page.get_by_text("alone", exact=True).count(), 0)


class Said(OnBench):
    def test_numbers_with_units_and_limits(self) -> None:
        """A unit may be typed; what is too much is told with the most there is, and nothing changes."""
        page = self.page
        page.get_by_role("button", name="width:").first.press("Enter")
        field = page.get_by_label("Value", exact=True)
        expect(field).to_be_focused()
        field.fill("10 px")
        field.press("Enter")
        page.get_by_role("button", name="width: 10 px").wait_for()
        field.fill("1e99")
        field.press("Enter")
        page.get_by_text("The most is 200.").wait_for()
        field.fill("many")
        field.press("Enter")
        page.get_by_text("Write a number").wait_for()
        page.keyboard.press("Escape")
        self.assertEqual(self.source()["width"], 10)
        value = page.get_by_role("button", name="width: 10 px")
        value.focus()
        page.keyboard.press("ArrowUp")
        page.get_by_role("button", name="width: 10.1 px").wait_for()

    def test_every_dialog_and_value_has_a_name_of_its_own(self) -> None:
        page = self.page
        for number in (1, 2, 3):
            self.assertEqual(
                page.get_by_role("button", name=f"radius of lobe {number}:").count(), 1
            )
        page.get_by_role("button", name="Glow is on").wait_for()
        page.get_by_role("button", name="radius of lobe 2:").click()
        page.get_by_role("dialog", name="Change radius of lobe 2").wait_for()
        page.keyboard.press("Escape")

    def test_popovers_stay_within_a_low_window(self) -> None:
        """What does not fit is scrolled to, not cut off."""
        page = self.page
        page.set_viewport_size({"width": 1280, "height": 420})
        page.get_by_role("button", name=re.compile("^core:")).click()
        dialog = page.get_by_role("dialog")
        box = dialog.bounding_box()
        assert box is not None
        self.assertGreaterEqual(box["y"], 0)
        self.assertLessEqual(box["y"] + box["height"], 420)
        reset = dialog.get_by_role("button", name="Reset")
        reset.scroll_into_view_if_needed()
        reset.click()

    def test_the_shot_settings_refuse_what_cannot_be(self) -> None:
        """The last frame before the first, and frames beyond the most there are, are told and not taken."""
        page = self.page
        page.get_by_role("button", name=re.compile("^Settings of the shot")).click()
        last = page.get_by_label("Last frame")
        for text, says in (("900", "The least is 1001."), ("9999999", "The most is 101000.")):
            last.fill(text)
            last.press("Enter")
            page.get_by_text(says).wait_for()
        page.keyboard.press("Escape")
        self.saved(page)
        self.assertEqual(Shot.objects.get().recipe["canvas"]["last"], 1050)
        name = page.get_by_label("Name of the shot")
        name.fill("   ")
        self.saved(page)
        self.assertEqual(Shot.objects.get().name, "Strike 1")

    def test_places_are_fitted_to_a_smaller_canvas(self) -> None:
        page = self.page
        page.get_by_role("button", name=re.compile("^Settings of the shot")).click()
        width = page.get_by_role("textbox", name="Width")
        width.fill("960")
        width.press("Enter")
        page.get_by_role("button", name="Fit places").click()
        page.get_by_text("fit all places from").wait_for(state="detached")
        page.keyboard.press("Escape")
        self.saved(page)
        places = {point["name"]: point["at"] for point in Shot.objects.get().recipe["points"]}
        self.assertEqual(places, {"from": [320, 90], "to": [620, 930]})

    def test_labels_do_not_lie_on_one_another(self) -> None:
        page = self.page
        shot = Shot.objects.get()
        shot.recipe["points"][1]["at"] = [644, 92]
        shot.save()
        page.reload()
        boxes = []
        for name in ("from", "to"):
            label = (
                page.get_by_role("button", name=f"Point {name}", exact=True).locator("span").last
            )
            label.wait_for()
            box = label.bounding_box()
            assert box is not None
            boxes.append(box)
        self.assertGreaterEqual(boxes[1]["y"], boxes[0]["y"] + boxes[0]["height"] - 1)


class AllSizes(OnBench):
    def test_reflow(self) -> None:
        """WCAG 2.2, 1.4.10: nothing runs out sideways down to 320 px, and the picture is in the window
        wherever one has scrolled to."""
        page = self.page
        for width, height in ((960, 540), (640, 400), (320, 256)):
            page.set_viewport_size({"width": width, "height": height})
            page.wait_for_timeout(300)
            with self.subTest(width=width):
                wide = "document.documentElement.scrollWidth - window.innerWidth"
                self.assertLessEqual(page.evaluate(wide), 0)
                last = page.get_by_role("region", name="Shutter")
                for part in (page.get_by_label("Name of the shot"), last):
                    part.scroll_into_view_if_needed()
                    box = self.frame.bounding_box()
                    assert box is not None
                    self.assertGreater(box["height"], 60)
                    self.assertGreaterEqual(box["y"], -1)
                    self.assertLessEqual(box["y"] + box["height"], height + 1)

    def test_a_dialog_is_on_top(self) -> None:
        """Also of the picture, which stays in a small window: what is read at each part of a dialog is the dialog."""
        page = self.page
        for width, height in ((1280, 800), (320, 256)):
            page.set_viewport_size({"width": width, "height": height})
            page.keyboard.press("/")
            page.get_by_label("Search actions and settings").fill("has a name")
            page.keyboard.press("Enter")
            dialog = page.get_by_role("dialog", name="What has a name")
            dialog.wait_for()
            over = dialog.evaluate("""dialog => {
                const { left, top, right, bottom } = dialog.getBoundingClientRect()
                const at = share => document.elementFromPoint((left + right) / 2, top + share * (bottom - top))
                return [0.02, 0.25, 0.5, 0.75, 0.98].filter(share => !dialog.contains(at(share)))
            }""")
            with self.subTest(width=width):
                self.assertEqual(over, [])
            page.keyboard.press("Escape")
            dialog.wait_for(state="detached")

    def test_a_sideways_swipe_does_not_leave(self) -> None:
        """Scrolled past its beginning, neither the strip nor the ribbon hands the swipe on to the browser."""
        for selector in ("html", "body"):
            style = f"getComputedStyle(document.querySelector('{selector}')).overscrollBehaviorX"
            self.assertEqual(self.page.evaluate(style), "none")

    def test_forced_colours(self) -> None:
        """What is chosen, the swatches, Play and the slider are seen where the system sets all colours."""
        page = self.page
        page.emulate_media(forced_colors="active")
        chosen, other = (
            page.get_by_role("radio", name=name, exact=True) for name in ("Picture", "Cover")
        )
        background = "element => getComputedStyle(element).backgroundColor"
        self.assertNotEqual(chosen.evaluate(background), other.evaluate(background))
        swatch = page.get_by_role("button", name=re.compile("^edge:"))
        self.assertGreater(int(np.ptp(self.pixels(swatch), axis=2).max()), 40)
        self.assertGreater(
            self.pixels(page.get_by_role("button", name="Play", exact=True)).std(), 10
        )


class SignedOut(OnBench):
    def tearDown(self) -> None:
        # Pictures that were on their way as the person signed out are refused.
        self.complaints = [each for each in self.complaints if "401 (Unauthorized)" not in each]
        super().tearDown()

    def test_signing_out_shows_the_sign_in(self) -> None:
        page = self.page
        page.get_by_role("link", name="Shots").click()
        page.get_by_role("button", name="Demo artist").click()
        page.get_by_role("menuitem", name="Sign out").click()
        page.get_by_role("button", name="Continue as the demo artist").wait_for()
        self.assertEqual(page.get_by_text("Strike 1").count(), 0)
