"""Layers and steps picked by their pictures, and what is edited as a picture itself."""

from typing import Any

from playwright.sync_api import Locator, expect

from handful.studio.shots.models import Shot
from tests.browser.test_bench import OnBench


class Picking(OnBench):
    def recipe(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe

    def picture_of(self, title: str) -> str:
        """The address of a pick's picture, once it is there."""
        picture = (
            self.page.get_by_role("dialog").get_by_role("button", name=title).locator("img").first
        )
        picture.scroll_into_view_if_needed()
        self.wait_until(
            lambda: bool(picture.evaluate("each => each.complete && each.naturalWidth > 100")),
            f"the picture of {title}",
        )
        return picture.get_attribute("src") or ""

    def test_a_step_by_what_it_does_to_this_layer(self) -> None:
        """Each step has a picture of its own; typing finds one, and Enter adds it as it was shown."""
        page = self.page
        page.get_by_role("button", name="Add a step").click()
        pictures = {self.picture_of(title) for title in ("Blur", "Directional", "Hue", "Tiles")}
        self.assertEqual(len(pictures), 4)
        page.get_by_label("Search for a step").fill("hu")
        page.keyboard.press("Enter")
        page.get_by_role("region", name="Hue").wait_for()
        step = self.recipe()["layers"][0]["steps"][-1]
        self.assertEqual(step, {"kind": "hue", "id": "hue", "turn": 120})

    def test_a_source_by_keyboard(self) -> None:
        """The arrow keys walk from the search to the pictures; Enter adds the layer."""
        page = self.page
        page.get_by_role("button", name="New layer").focus()
        page.keyboard.press("Enter")
        self.picture_of("Beam")
        page.keyboard.press("ArrowDown")
        stream = page.get_by_role("region", name="energy", exact=True).get_by_role(
            "button", name="Stream"
        )
        for _ in range(2):
            expect(stream).not_to_be_focused()
            page.keyboard.press("ArrowRight")
        expect(stream).to_be_focused()
        page.keyboard.press("Enter")
        page.get_by_role("region", name="Stream").wait_for()
        self.assertEqual([layer["id"] for layer in self.recipe()["layers"]], ["bolt", "stream"])

    def test_all_of_a_starter(self) -> None:
        """A starter's layers come in a group, its points with other names than those here."""
        page = self.page
        page.get_by_role("button", name="New layer").click()
        page.get_by_label("Search for a layer").fill("stays")
        page.get_by_role("button", name="Stays of a mast").click()
        page.get_by_role("heading", name="Group").wait_for()
        recipe = self.recipe()
        group = recipe["layers"][1]
        self.assertEqual(group["source"], {"kind": "group"})
        inside = [layer for layer in recipe["layers"] if layer.get("within") == group["id"]]
        self.assertGreaterEqual(len(inside), 1)
        names = [point["name"] for point in recipe["points"]]
        self.assertEqual(len(names), len(set(names)))
        page.keyboard.press("Control+z")
        self.wait_until(lambda: len(self.recipe()["layers"]) == 1, "one step back")

    def test_named_and_repeated_in_the_strip(self) -> None:
        """A layer is renamed in place, by the menu or on its name; a repeat takes its place."""
        page = self.page
        page.get_by_role("button", name="More for Bolt").click()
        page.get_by_role("menuitem", name="Rename").click()
        page.get_by_label("Name of Bolt").fill("Main")
        page.keyboard.press("Enter")
        page.get_by_title("Main", exact=True).dblclick()
        page.get_by_label("Name of Main").fill("Not this")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="More for Main").click()
        page.get_by_role("menuitem", name="Repeat").click()
        page.get_by_role("region", name="Repeat").wait_for()
        main, repeat = self.recipe()["layers"]
        self.assertEqual((main["name"], main["on"]), ("Main", False))
        self.assertEqual(repeat["source"]["of"], "bolt")

    def test_steps_take_places_by_drag(self) -> None:
        """A step dragged by its title onto another takes that one's place."""
        page = self.page
        self.pick("a step", "Blur")
        title = page.get_by_role("region", name="Blur", exact=True).get_by_role("heading")
        title.drag_to(page.get_by_role("region", name="Glow").get_by_role("heading"))
        self.wait_until(
            lambda: [s["kind"] for s in self.recipe()["layers"][0]["steps"]] == ["blur", "glow"],
            "the steps to change places",
        )


class Pictured(OnBench):
    def add(self, title: str) -> None:
        self.pick("a step", title)
        self.page.get_by_role("region", name=title).wait_for()

    def step(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe["layers"][0]["steps"][-1]

    def at(self, box: Locator, x: float, y: float) -> None:
        """Press at shares of a box."""
        area = box.bounding_box()
        assert area is not None
        self.page.mouse.click(area["x"] + x * area["width"], area["y"] + y * area["height"])

    def test_a_ramp(self) -> None:
        """A stop is added where one presses, walked by the arrow keys, coloured and taken out."""
        page = self.page
        self.add("Ramp")
        page.get_by_role("button", name="stops: 5 points").click()
        stop = page.get_by_role("button", name="Stop of stops at")
        expect(stop).to_have_count(5)
        before = self.pixels(self.frame)
        bar = stop.first.locator("xpath=..").locator("div").first
        self.at(bar, 0.6, 0.5)
        added = page.get_by_role("button", name="Stop of stops at 60 %")
        added.focus()
        page.keyboard.press("Shift+ArrowLeft")
        moved = page.get_by_role("button", name="Stop of stops at 50 %")
        moved.focus()
        colour = page.get_by_role("dialog").get_by_role("button", name="colour:")
        colour.click()
        page.get_by_label("sRGB").fill("#00ff40")
        page.keyboard.press("Enter")
        page.get_by_label("sRGB").blur()
        self.changes(before)
        stops = self.step()["stops"]
        self.assertEqual(len(stops), 6)
        self.assertEqual((stops[5]["level"], stops[5]["colour"]), (50, "#00ff40"))
        page.keyboard.press("Escape")
        expect(colour).to_be_focused()
        moved.focus()
        page.keyboard.press("Delete")
        expect(stop).to_have_count(5)

    def test_a_curve(self) -> None:
        """A point is dragged up; what was in the middle becomes brighter, and the recipe says so."""
        page = self.page
        self.add("Curves")
        page.get_by_role("button", name="master: 3 points").click()
        point = page.get_by_role("button", name="Point of master: 50 to 45 %")
        before = self.pixels(self.frame)
        self.drag(point, 0, -56)
        self.changes(before)
        levels = [(each["level"], each["becomes"]) for each in self.step()["master"]]
        self.assertEqual(levels[0::2], [(0, 0), (100, 100)])
        self.assertAlmostEqual(levels[1][1], 70, delta=2)
        self.assertAlmostEqual(levels[1][0], 50, delta=2)

    def test_a_colour_that_moves(self) -> None:
        """A colour goes by keys, each with its hex; its lane shows the colours between."""
        page = self.page
        self.value("edge").click()
        page.get_by_role("radio", name="Life").click()
        page.get_by_label("At full life").fill("#ff8000")
        page.keyboard.press("Escape")
        edge = self.source()["edge"]
        self.assertEqual((edge["moves"], edge["end"]), ("life", "#ff8000"))
        page.get_by_role("button", name="More for the lane of edge").click()
        page.get_by_role("menuitem", name="Make it go by keys").click()
        page.get_by_role("button", name="Key of edge at frame").wait_for()
        self.assertRegex(self.source()["edge"]["keys"][0]["value"], "^#[0-9a-f]{6}$")


class Shared(OnBench):
    def recipe(self) -> dict[str, Any]:
        self.saved(self.page)
        return Shot.objects.get().recipe

    def test_a_path_drawn_for_a_bolt(self) -> None:
        """Chosen in the sentence, drawn on the picture, it is the way that the bolt takes."""
        page = self.page
        before = self.pixels(self.frame)
        page.get_by_role("button", name="more settings").first.click()
        page.get_by_label("path", exact=True).select_option(label="draw one …")
        area = page.get_by_role("button", name="Press where the path goes")
        box = area.bounding_box()
        assert box is not None
        for x, y in ((0.1, 0.9), (0.5, 0.2), (0.9, 0.9)):
            area.click(position={"x": x * box["width"], "y": y * box["height"]})
        page.get_by_role("button", name="Done").click()
        self.changes(before)
        recipe = self.recipe()
        self.assertEqual(recipe["layers"][0]["source"]["path"], "Path")
        self.assertFalse(recipe["paths"][0]["closed"])
        page.get_by_role("button", name="Vertex Path 2").wait_for()

    def test_a_sway_of_its_own(self) -> None:
        """A new sway is named by the step, has a card of its own, and pushes what names it."""
        page = self.page
        self.pick("a step", "Warp")
        card = page.get_by_role("region", name="Warp")
        card.get_by_label("sway", exact=True).select_option(label="a new one")
        sway = page.get_by_role("region", name="Shared: sway")
        sway.wait_for()
        page.wait_for_timeout(800)
        before = self.pixels(self.frame)
        sway.get_by_role("button", name="amount:").focus()
        page.keyboard.type("200")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        self.changes(before)
        recipe = self.recipe()
        self.assertEqual(recipe["sways"], [{"name": "sway", "amount": 200}])
        self.assertEqual(recipe["layers"][0]["steps"][-1]["sway"], "sway")

    def test_a_shutter(self) -> None:
        """A frame that is open for a whole turn blurs what moves on it."""
        page = self.page
        shutter = page.get_by_role("region", name="Shutter")
        shutter.get_by_role("button", name="angle:").focus()
        page.keyboard.type("360")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="angle: 360").wait_for()
        self.assertEqual(self.recipe()["layers"][0]["shutter"], {"angle": 360})
