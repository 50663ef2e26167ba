"""The bench by hand and by keyboard, and what it shows when something goes wrong."""

import re
from typing import Any

import numpy as np
from playwright.sync_api import Locator, Route, expect

from handful.studio.shots.models import Shot
from tests.browser.base import BrowserTest


class OnBench(BrowserTest):
    """On the bench of a new shot, its first picture there."""

    def setUp(self) -> None:
        super().setUp()
        self.open_new_shot()
        self.frame = self.page.get_by_role("img", name="Frame of Strike 1")
        self.wait_until(lambda: self.pixels(self.frame).max() > 240, "the first picture")

    def source(self) -> dict[str, Any]:
        """The saved source of the first layer."""
        self.saved(self.page)
        return Shot.objects.get().recipe["layers"][0]["source"]

    def value(self, name: str) -> Locator:
        """A value in a sentence, by the setting's name."""
        return self.page.get_by_role("button", name=f"{name}:", exact=False).first

    def changes(self, before: np.ndarray) -> None:
        """Wait until the picture differs from what it was."""
        self.wait_until(lambda: np.abs(self.pixels(self.frame) - before).mean() > 0.3, "a change")


class Looking(OnBench):
    def test_backgrounds_channels_exposure(self) -> None:
        """Each changes the picture and none the recipe."""
        page = self.page

        def corner() -> np.ndarray:
            return self.pixels(self.frame)[-40:-20, 20:40].reshape(-1, 3).mean(0)

        page.get_by_role("radio", name="Grey").click()
        self.wait_until(lambda: 110 < corner()[0] < 126, "middle grey")
        page.get_by_role("radio", name="Check").click()
        self.wait_until(lambda: np.ptp(self.pixels(self.frame)[-60:-20, 20:60]) > 30, "the check")
        page.get_by_role("radio", name="Cover").click()
        self.wait_until(lambda: corner().max() < 12, "the cover")
        cover = self.pixels(self.frame)[150:300]
        self.assertLess(int(np.ptp(cover, axis=2).max()), 12, "cover is grey")
        page.get_by_role("radio", name="Light").click()
        self.wait_until(lambda: np.ptp(self.pixels(self.frame), axis=2).max() > 60, "colour")
        dim = self.pixels(self.frame)
        for _ in range(4):
            page.get_by_role("button", name="Brighter by half a stop").click()
        self.wait_until(lambda: self.pixels(self.frame).mean() > 1.3 * dim.mean(), "two stops")
        page.get_by_role("button", name="+2 stops").click()
        page.get_by_text("± 0 stops").wait_for()
        self.saved(page)
        self.assertEqual(Shot.objects.get().revision, 1)

    def test_keys(self) -> None:
        """Frames by keys, a layer's span by B and E, undone by Ctrl Z."""
        page = self.page
        number = page.get_by_label("Go to frame")
        page.keyboard.press("Home")
        expect(number).to_have_value("1001")
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Shift+ArrowRight")
        expect(number).to_have_value("1012")
        page.keyboard.press("b")
        page.get_by_text("frames 1012–1050").wait_for()
        page.keyboard.press("End")
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("e")
        page.get_by_text("frames 1012–1049").wait_for()
        self.source()
        layer = Shot.objects.get().recipe["layers"][0]
        self.assertEqual((layer["first"], layer["last"]), (1012, 1049))
        page.keyboard.press("g")
        page.keyboard.type("1020")
        page.keyboard.press("Enter")
        expect(number).to_have_value("1020")
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+z")
        page.get_by_text("frames 1001–1050").wait_for()
        page.keyboard.press("?")
        page.get_by_role("dialog", name="Shortcuts").wait_for()


class Editing(OnBench):
    def test_every_type_of_value(self) -> None:
        """A colour, a choice, a whole number, a hidden setting and the opacity are changed and kept."""
        page, before = self.page, self.pixels(self.frame)
        self.value("edge").click()
        page.get_by_label("sRGB").fill("#ff2200")
        page.get_by_label("sRGB").press("Tab")
        page.keyboard.press("Escape")
        self.value("far end").click()
        page.get_by_role("radio", name="free").click()
        page.keyboard.press("Escape")
        self.value("branches").focus()
        page.keyboard.type("12")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name=re.compile("more settings")).click()
        self.value("forks").focus()
        page.keyboard.press("ArrowDown")
        self.value("opacity").focus()
        page.keyboard.press("Shift+ArrowDown")
        self.changes(before)
        source = self.source()
        self.assertEqual((source["edge"], source["far_end"]), ("#ff2200", "free"))
        self.assertEqual(source["branches"], 12)
        self.assertEqual(source["forks"], 1)
        self.assertEqual(Shot.objects.get().recipe["layers"][0]["opacity"], 99)

    def test_a_life_of_its_own(self) -> None:
        """A rise set in the life's sentence is kept, and darkens the picture on the rise's frames."""
        page = self.page
        page.keyboard.press("Home")
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(800)
        before = self.pixels(self.frame)
        rise = page.get_by_role("region", name="Life").get_by_role("button", name="rise: 0 frames")
        rise.focus()
        page.keyboard.type("12")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.wait_until(lambda: self.pixels(self.frame).mean() < 0.6 * before.mean(), "the rise")
        self.source()
        self.assertEqual(Shot.objects.get().recipe["layers"][0]["life"], {"rise": 12})

    def test_a_shake_and_a_flicker(self) -> None:
        """A jitter and a pulse are chosen, set and kept in the words of the recipe."""
        page = self.page
        self.value("wander").click()
        page.get_by_role("radio", name="Jitter").click()
        page.get_by_label("By up to").fill("5")
        page.get_by_label("By up to").press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="wander: 16° ± 5, moves by jitter").wait_for()
        self.value("opacity").click()
        page.get_by_role("radio", name="Pulse").click()
        page.get_by_label("Shape").select_option("random")
        page.get_by_label("Every").fill("0.04")
        page.get_by_label("Every").press("Enter")
        page.keyboard.press("Escape")
        self.assertEqual(
            self.source()["wander"], {"moves": "jitter", "value": 16, "amount": 5, "per_second": 10}
        )
        opacity = Shot.objects.get().recipe["layers"][0]["opacity"]
        self.assertEqual((opacity["shape"], opacity["period"]), ("random", 0.04))

    def test_another_lobe(self) -> None:
        """Another lobe is added to the glow, made wide, and taken out again."""
        page = self.page
        glow = page.get_by_role("region", name="Glow")
        glow.get_by_role("button", name="Change the number of lobes").click()
        page.get_by_role("menuitem", name="Add a lobe").click()
        radius = glow.get_by_role("button", name="radius of lobe 4:")
        radius.focus()
        page.keyboard.type("300")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.source()
        lobes = Shot.objects.get().recipe["layers"][0]["steps"][0]["lobes"]
        self.assertEqual([lobe["radius"] for lobe in lobes], [7, 34, 190, 300])
        glow.get_by_role("button", name="Change the number of lobes").click()
        page.get_by_role("menuitem", name="Remove the last lobe").click()
        self.source()
        self.assertEqual(len(Shot.objects.get().recipe["layers"][0]["steps"][0]["lobes"]), 3)

    def test_a_limited_step(self) -> None:
        """A step acts only within an ellipse: the picture changes there, and comes back without."""
        page = self.page
        before = self.settled(self.frame)
        self.pick("a step", "Exposure")
        self.changes(before)
        self.source()
        before = self.settled(self.frame)
        step = page.get_by_role("region", name="Exposure")
        step.get_by_role("button", name="Limit this step").click()
        page.get_by_role("menuitem", name="Ellipse").click()
        self.changes(before)
        self.source()
        limits = Shot.objects.get().recipe["layers"][0]["steps"][1]["limits"]
        self.assertEqual(limits, [{"kind": "ellipse"}])
        step.get_by_role("button", name="Remove the limit Ellipse").click()
        self.wait_until(
            lambda: np.abs(self.pixels(self.frame) - before).mean() < 0.3, "the whole step"
        )

    def test_a_linked_copy(self) -> None:
        """A copy follows what changes in its original, and can be shown alone."""
        page = self.page
        page.get_by_role("button", name="More for Bolt").click()
        page.get_by_role("menuitem", name="Linked copy").click()
        page.get_by_role("region", name="Copy").get_by_label("of", exact=True).wait_for()
        page.wait_for_timeout(800)
        copy = page.get_by_label("Picture of Copy of Bolt")
        before = self.pixels(copy)
        page.get_by_label("Picture of Bolt", exact=True).click()
        self.value("width").focus()
        page.keyboard.type("40")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.wait_until(
            lambda: np.abs(self.pixels(copy) - before).mean() > 0.3, "a change of the copy"
        )
        self.source()
        self.assertEqual(
            Shot.objects.get().recipe["layers"][1]["source"], {"kind": "copy", "of": "bolt"}
        )

    def test_which_point_a_repeat_takes(self) -> None:
        """The name of the point that spots stand in for is typed in its value."""
        page = self.page
        self.pick("a layer", "Repeat")
        page.get_by_role("region", name="Repeat").get_by_label("of", exact=True).select_option(
            "bolt"
        )
        self.value("takes").click()
        field = page.get_by_label("Name", exact=True)
        field.fill("start")
        field.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="takes: start").wait_for()
        self.source()
        repeat = Shot.objects.get().recipe["layers"][1]["source"]
        self.assertEqual((repeat["of"], repeat["takes"]), ("bolt", "start"))

    def test_a_formula_and_its_mistake(self) -> None:
        """A formula that cannot be read is told with its column, and kept as a draft until it is mended."""
        page = self.page
        self.value("opacity").click()
        page.get_by_role("radio", name="Formula").click()
        field = page.get_by_label("Formula of t, f, fps, n, seed, life and still")
        field.fill("still * sine(t)")
        field.press("Enter")
        told = "Bolt, opacity: At column 9: there is no 'sine'"
        page.get_by_role("alert").get_by_text(told).wait_for()
        page.get_by_role("dialog").get_by_text("At column 9: there is no 'sine'").wait_for()
        page.get_by_role("status").get_by_text("Kept as a draft.").wait_for()
        self.complaints.clear()
        field = page.get_by_label("Formula of t, f, fps, n, seed, life and still")
        field.fill("60 + 40*sin(t)")
        field.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role(
            "button", name=re.compile(r"^opacity: [\d.]+ %, moves by formula")
        ).wait_for()
        page.get_by_role("alert").wait_for(state="detached")
        self.source()
        opacity = Shot.objects.get().recipe["layers"][0]["opacity"]
        self.assertEqual(opacity, {"moves": "formula", "value": 100, "formula": "60 + 40*sin(t)"})

    def test_a_point_by_keyboard(self) -> None:
        """Arrow keys move a point by a px, with Shift by ten."""
        page = self.page
        page.get_by_role("button", name="Point to").focus()
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("Shift+ArrowDown")
        self.source()
        self.assertEqual(Shot.objects.get().recipe["points"][1]["at"], [1239, 940])

    def test_an_end_of_its_own(self) -> None:
        """An end that no longer follows a point gets a handle of its own."""
        page = self.page
        self.value("start").click()
        page.get_by_role("radio", name="Still").click()
        page.keyboard.press("Escape")
        self.drag(page.get_by_role("button", name="Point start"), 40)
        start = self.source()["start"]
        self.assertGreater(start[0], 640 + 60)
        self.assertAlmostEqual(start[1], 90, delta=0.2)

    def test_what_cannot_be_read_is_not_taken(self) -> None:
        """Nonsense and what is out of range are said to be so, and change nothing."""
        page = self.page
        self.value("width").click()
        page.get_by_label("Value").fill("wide")
        page.get_by_label("Value").press("Enter")
        page.get_by_text("Write a number, as 12.5, or a sum").wait_for()
        page.get_by_label("Value").fill("99999")
        page.get_by_label("Value").press("Enter")
        page.get_by_text("The most is 200.").wait_for()
        page.get_by_label("Value").fill("2 * 15")
        page.get_by_label("Value").press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="width: 30 px").wait_for()
        self.assertEqual(self.source()["width"], 30)


class Trouble(OnBench):
    def tearDown(self) -> None:
        self.complaints = [line for line in self.complaints if "Failed to load" not in line]
        super().tearDown()

    def test_server_away_and_back(self) -> None:
        """While the server is away the bench says so and keeps the work; then it saves by itself."""
        page = self.page

        def away(route: Route) -> None:
            route.abort()

        page.route("**/api/v1/**", away)
        self.value("branches").focus()
        page.keyboard.press("ArrowUp")
        page.get_by_text("Not saved.").wait_for()
        page.get_by_text("The server does not answer").first.wait_for()
        self.assertNotIn("branches", Shot.objects.get().recipe["layers"][0]["source"])
        page.unroute("**/api/v1/**", away)
        self.assertEqual(self.source()["branches"], 8)
        page.get_by_role("alert").wait_for(state="detached")

    def test_signed_out_elsewhere(self) -> None:
        """A session that has ended leads to the sign-in screen."""
        self.context.clear_cookies()
        self.value("branches").focus()
        self.page.keyboard.press("ArrowUp")
        self.page.get_by_role("link", name="Shots").click()
        self.page.get_by_role("button", name="Continue as the demo artist").wait_for()


class Renders(OnBench):
    def test_cancel_and_try_again(self) -> None:
        """A render that waits is cancelled, tried again, and then worked off."""
        page = self.page
        page.get_by_role("button", name="Render…").click()
        page.get_by_label("Last frame").fill("1002")
        page.get_by_label("Last frame").press("Enter")
        page.get_by_label("Size").select_option("0.25")
        page.get_by_label("Format").select_option("png")
        page.get_by_role("button", name="Render 2 frames").click()
        card = page.get_by_role("listitem", name="Render of Strike 1")
        card.get_by_role("button", name="Cancel").click()
        card.get_by_text("Cancelled").wait_for()
        card.get_by_role("button", name="Try again").click()
        card.get_by_text("Waiting for a worker").wait_for()
        self.worker()
        card.get_by_text("Done", exact=True).wait_for(timeout=self.STARTS_WITHIN)
        card.get_by_text("2 of 2 frames").wait_for()
        shown = page.get_by_role("img", name="Rendered frame")
        self.wait_until(lambda: self.pixels(shown).max() > 200, "the rendered frame")
        page.get_by_role("radio", name="Check").click()
        self.wait_until(lambda: np.median(self.pixels(shown)) > 60, "the check behind it")
