"""The whole way: sign in, open the demo shot, change it, play it, render it, and look at the files."""

import io
import json
import zipfile
from functools import partial
from pathlib import Path
from unittest import mock

import numpy as np
import OpenEXR
from django.contrib.auth.models import User
from django.core.management import call_command
from playwright.sync_api import Route

from handful.studio.demo.management.commands import load_demo
from handful.studio.demo.tasks import shoot_plate
from handful.studio.shots.models import Revision, Shot
from handful.studio.shots.service import save_recipe
from handful.studio.starters.service import begin_from
from tests.browser.base import BrowserTest


class Journey(BrowserTest):
    looks_ahead = True

    lasts = True

    def setUp(self) -> None:
        super().setUp()
        self._load_short_demo()
        self.sign_in()

    def _load_short_demo(self) -> None:
        """The demo shot, cut to a dozen frames around the strike."""
        recipe = json.loads((load_demo.RECIPES / "mast-strike.json").read_text())
        recipe["canvas"] |= {"first": 1006, "last": 1017}
        recipes = self.folder / "recipes"
        recipes.mkdir()
        (recipes / "mast-strike.json").write_text(json.dumps(recipe))
        real, load_demo.RECIPES = load_demo.RECIPES, recipes
        self.addCleanup(setattr, load_demo, "RECIPES", real)
        at_once = partial(shoot_plate, mock.Mock(should_abort=lambda: False))
        with mock.patch.object(load_demo, "shoot_plate", mock.Mock(defer=at_once)):
            call_command("load_demo")

    def test_from_sign_in_to_files(self) -> None:
        page = self.page
        page.get_by_role("link", name="Open Mast strike").click()
        frame = page.get_by_role("img", name="Frame of Mast strike")
        self.wait_until(lambda: self.pixels(frame).max() > 240, "the strike to show")

        page.get_by_role("radio", name="Black").click()
        self.wait_until(lambda: np.median(self.pixels(frame)[-60:]) < 12, "the plate to go")
        before = self.pixels(frame)
        point = page.get_by_role("button", name="Point mast", exact=True)
        box = point.bounding_box()
        assert box is not None
        self.drag(point, 100, 120)
        moved = point.bounding_box()
        assert moved is not None
        self.assertAlmostEqual(moved["x"] - box["x"], 100, delta=1)
        self.wait_until(
            lambda: np.abs(self.pixels(frame) - before).mean() > 1, "the strike to follow"
        )

        width = page.get_by_role("button", name="width: 2.5 px")
        width.click()
        page.get_by_label("Value").fill("9")
        page.get_by_label("Value").press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="width: 9 px").wait_for()
        self.saved(page)
        shot = Shot.objects.get()
        self.assertEqual(shot.recipe["layers"][0]["source"]["width"], 9)
        start = shot.recipe["points"][1]["at"]["start"]
        box = frame.bounding_box()
        assert box is not None
        self.assertAlmostEqual(start[0], 1312 + 100 * 1920 / box["width"], delta=3)
        self.assertGreaterEqual(Revision.objects.filter(shot=shot).count(), 2)

        computed = page.get_by_test_id("computed")
        self.wait_until(lambda: computed.text_content() == "12 of 12 computed", "all frames")
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("Home")
        page.keyboard.press("Space")
        number = page.get_by_label("Go to frame")
        self.wait_until(lambda: int(number.input_value()) >= 1010, "frames to play")
        page.get_by_role("button", name="Stop", exact=True).click()

        page.get_by_role("button", name="Render…").click()
        page.get_by_label("First frame").fill("1010")
        page.get_by_label("Last frame").fill("1012")
        page.get_by_label("Last frame").press("Enter")
        page.get_by_role("button", name="Render 3 frames").click()
        card = page.get_by_role("listitem", name="Render of Mast strike")
        card.get_by_text("Waiting for a worker").wait_for()
        self.worker()
        card.get_by_role("status").filter(has_text="Done").wait_for(timeout=self.STARTS_WITHIN)
        page.get_by_role("img", name="Rendered frame 1010").wait_for()
        with page.expect_download() as download:
            card.get_by_role("link", name="Download").click()
        self._check_files(Path(download.value.path()).read_bytes())

    def _check_files(self, archive: bytes) -> None:
        """Size, cover and light of the downloaded frames."""
        with zipfile.ZipFile(io.BytesIO(archive)) as files:
            names = [f"mast-strike.{frame}.exr" for frame in (1010, 1011, 1012)]
            self.assertEqual(files.namelist(), names)
            files.extractall(self.folder / "download")
        for name in names:
            with OpenEXR.File(str(self.folder / "download" / name)) as file:
                pixels = file.channels()["RGBA"].pixels.astype(np.float32)
                self.assertEqual(file.header()["framesPerSecond"], 25)
            self.assertEqual(pixels.shape, (1080, 1920, 4))
            light, cover = pixels[..., :3].max(axis=2), pixels[..., 3]
            self.assertGreater(light.max(), 8, "the core is brighter than white")
            self.assertLess(np.median(light), 0.2, "most of the canvas is dark")
            self.assertLessEqual(cover.max(), 1)
            np.testing.assert_array_less(np.minimum(light, 1) - 2e-3, cover)


class Undo(BrowserTest):
    def test_back_and_forth(self) -> None:
        """A drag is one step back; undo and redo bring the value back and forth, and are saved."""
        self.sign_in()
        page = self.page
        page.get_by_role("button", name="New shot").first.click()
        value = page.get_by_role("button", name="branch reach:")
        self.assertIn("35 %", value.get_attribute("aria-label") or "")
        self.drag(value, 80)
        page.get_by_role("button", name="branch reach: 55 %").wait_for()
        value.focus()
        page.keyboard.press("Shift+ArrowUp")
        page.get_by_role("button", name="branch reach: 56 %").wait_for()
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+z")
        page.get_by_role("button", name="branch reach: 35 %").wait_for()
        page.keyboard.press("Shift+Control+z")
        page.get_by_role("button", name="branch reach: 55 %").wait_for()
        self.saved(page)
        self.assertEqual(Shot.objects.get().recipe["layers"][0]["source"]["branch_reach"], 55)

    def test_a_value_that_moves(self) -> None:
        """A value set to a rate says so, and the recipe holds the rate."""
        self.sign_in()
        page = self.page
        page.get_by_role("button", name="New shot").first.click()
        page.get_by_role("button", name="width:").first.click()
        page.get_by_role("radio", name="Rate").click()
        page.get_by_label("Changes by").fill("3")
        page.get_by_label("Changes by").press("Enter")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="width: 3 px/s, moves by rate").wait_for()
        self.saved(page)
        self.assertEqual(
            Shot.objects.get().recipe["layers"][0]["source"]["width"],
            {"moves": "rate", "start": 2.5, "per_second": 3},
        )


class Shots(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.sign_in()
        self.page.get_by_role("button", name="New shot").first.click()
        self.page.get_by_text("Strikes from").wait_for()
        self.page.get_by_role("link", name="Shots").click()
        self.page.get_by_role("link", name="Open Strike 1").wait_for()

    def test_duplicate_delete_undo(self) -> None:
        page = self.page
        page.get_by_role("button", name="More for Strike 1").click()
        page.get_by_role("menuitem", name="Duplicate").click()
        page.get_by_role("link", name="Open Strike 1 copy").wait_for()
        page.get_by_role("button", name="More for Strike 1 copy").click()
        page.get_by_role("menuitem", name="Delete").click()
        page.get_by_text("Deleted Strike 1 copy.").wait_for()
        page.get_by_role("link", name="Open Strike 1 copy").wait_for(state="detached")
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("link", name="Open Strike 1 copy").wait_for()

    def test_two_tabs_at_once(self) -> None:
        """What each changes comes to the other; of one value the later holds, and it is told. Undo has the rest."""
        other = self.new_page()
        for page in (self.page, other):
            page.goto(f"{self.live_server_url}/shots/{Shot.objects.get().id}")
            page.get_by_text("Strikes from").wait_for()
        before = self.page.get_by_role("button", name="branches:").inner_text()
        self.page.get_by_role("button", name="branches:").focus()
        self.page.keyboard.press("ArrowUp")
        after = self.page.get_by_role("button", name="branches:").inner_text()
        self.assertNotEqual(before, after)
        other.get_by_role("button", name=f"branches: {after}").wait_for()
        other.get_by_text("What was changed elsewhere is here now.").wait_for()
        held: list[Route] = []
        is_held = True

        def hold(route: Route) -> None:
            if is_held:
                held.append(route)
            else:
                route.continue_()

        other.route("**/api/v1/shots/*", hold)
        self.page.get_by_role("button", name="branches:").focus()
        self.page.keyboard.press("ArrowUp")
        self.saved(self.page)
        for value, key in (("finest:", "ArrowUp"), ("branches:", "ArrowDown")):
            other.get_by_role("button", name=value).focus()
            other.keyboard.press(key)
        self.wait_until(lambda: any(each.request.method == "PUT" for each in held), "a save")
        is_held = False
        for route in held:
            route.continue_()
        other.get_by_text("Set in both places, and yours holds: Bolt, branches").wait_for()
        for page in (self.page, other):
            self.saved(page)
        source = Shot.objects.get().recipe["layers"][0]["source"]
        self.assertIn("finest", source)
        for page in (self.page, other):
            page.get_by_role("button", name=f"branches: {source['branches']}").wait_for()
            page.get_by_role("button", name=f"finest: {source['finest']}").wait_for()
        self.assertGreaterEqual(Revision.objects.count(), 4)
        other.keyboard.press("Control+z")
        self.saved(other)

    def test_layers_and_steps(self) -> None:
        """A layer and a step are added from the catalogue, switched off, and mixed by a blend."""
        page = self.page
        page.get_by_role("link", name="Open Strike 1").click()
        self.pick("a layer", "Bolt")
        page.get_by_role("img", name="Picture of Bolt 2").wait_for()
        page.get_by_role("button", name="How Bolt 2 mixes: add").click()
        page.get_by_label("Blend", exact=True).select_option("screen")
        page.keyboard.press("Escape")
        self.pick("a step", "Glow")
        page.get_by_role("region", name="Glow").nth(1).get_by_role(
            "button", name="Glow is on"
        ).click()
        self.saved(page)
        layer = Shot.objects.get().recipe["layers"][1]
        self.assertEqual((layer["blend"], len(layer["steps"])), ("screen", 2))
        self.assertFalse(layer["steps"][1]["on"])

    def test_begin_from_a_starter(self) -> None:
        """A press on a starter opens a new shot with it, which moves."""
        page = self.page
        page.get_by_role("button", name="Arc between electrodes").click()
        page.get_by_role("img", name="Picture of Left foot").wait_for()
        frame = page.get_by_role("img", name="Frame of Arc between electrodes")
        for _ in range(6):
            page.keyboard.press("ArrowRight")
        self.wait_until(lambda: self.pixels(frame).max() > 240, "the arc to burn")
        self.assertEqual(Shot.objects.count(), 2)

    def test_place_another_shot(self) -> None:
        """Another shot is placed as it is now; a newer revision of it is used only when asked."""
        begin_from(User.objects.get(), "contact-flare")
        page = self.page
        page.get_by_role("link", name="Open Strike 1").click()
        self.pick("a layer", "Element")
        page.get_by_role("button", name="Contact flare").click()
        page.get_by_text("Contact flare as it was at revision 1.").wait_for()
        self.saved(page)
        placed = Shot.objects.get(name="Strike 1").recipe
        self.assertEqual(placed["elements"][0]["revision"], 1)
        self.assertEqual(placed["layers"][1]["source"]["of"], "Contact flare")

        flare = Shot.objects.get(name="Contact flare")
        save_recipe(flare.owner, flare.id, 1, flare.recipe | {"seed": 99})
        page.reload()
        page.get_by_role("img", name="Picture of Contact flare").click()
        page.get_by_role("button", name="Use that one").click()
        page.get_by_text("Contact flare as it was at revision 2.").wait_for()
        self.saved(page)
        placed = Shot.objects.get(name="Strike 1").recipe
        self.assertEqual(placed["elements"][0]["recipe"]["seed"], 99)
