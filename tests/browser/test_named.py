"""What a recipe names: renamed, removed, grouped and moved in time on the bench."""

import re

from playwright.sync_api import FilePayload

from handful.studio.shots.models import Shot
from handful.studio.shots.service import save_recipe
from tests.browser.test_time import OnTime


class Named(OnTime):
    def _open(self) -> None:
        page = self.page
        page.keyboard.press("/")
        page.get_by_label("Search actions and settings").fill("tracks")
        page.keyboard.press("Enter")
        page.get_by_role("heading", name="What has a name").wait_for()

    def _bring_in(self, text: str) -> None:
        file = FilePayload(name="crane.csv", mimeType="text/csv", buffer=text.encode())
        self.page.get_by_label("File to bring in").set_input_files(file)

    def test_a_point_under_another_name(self) -> None:
        """What follows it follows it still; a name that is taken gets a number."""
        page = self.page
        self._open()
        name = page.get_by_label("Name of from", exact=True)
        name.fill("mast")
        name.press("Enter")
        page.get_by_label("Name of mast", exact=True).wait_for()
        page.keyboard.press("Escape")
        recipe = self.recipe()
        self.assertEqual([point["name"] for point in recipe["points"]], ["mast", "to"])
        follows = {"moves": "follow", "point": "mast"}
        self.assertEqual(recipe["layers"][0]["source"]["start"], follows)
        self._open()
        name = page.get_by_label("Name of to", exact=True)
        name.fill("mast")
        name.press("Tab")
        page.get_by_label("Name of mast 2", exact=True).wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Point mast 2").wait_for()

    def test_a_point_removed(self) -> None:
        """In the list and on its handle; what followed it stays where it was, and undo brings it back."""
        page = self.page
        before = self.recipe()["points"]
        page.get_by_role("button", name="Point from").focus()
        page.keyboard.press("Delete")
        page.get_by_role("button", name="Point from").wait_for(state="detached")
        recipe = self.recipe()
        self.assertEqual(recipe["points"], before[1:])
        self.assertEqual(recipe["layers"][0]["source"]["start"], before[0]["at"])
        self._open()
        page.get_by_role("button", name="Remove to").click()
        page.get_by_text("This shot has none yet.").wait_for()
        page.keyboard.press("Escape")
        self.assertEqual(self.recipe()["layers"][0]["source"]["end"], before[1]["at"])
        page.keyboard.press("Control+z")
        page.get_by_role("button", name="Point to").wait_for()
        page.keyboard.press("Control+z")
        page.get_by_role("button", name="Point from").wait_for()
        self.assertEqual(self.recipe()["points"], before)

    def test_a_track_removed(self) -> None:
        """What followed it stays where the track was on the frame that is shown."""
        track = {"name": "lamp", "marks": [[1001, 100, 200], [1051, 600, 200]]}
        recipe = self.recipe()
        layer = recipe["layers"][0]
        source = layer["source"] | {"start": {"moves": "follow", "track": "lamp"}}
        shot = Shot.objects.get()
        changed = recipe | {"tracks": [track], "layers": [layer | {"source": source}]}
        save_recipe(shot.owner, shot.id, shot.saves, changed)
        self.page.reload()
        self.go_to(1026)
        self._open()
        self.page.get_by_role("button", name="Remove lamp").click()
        self.page.get_by_role("button", name="Remove lamp").wait_for(state="detached")
        self.page.keyboard.press("Escape")
        recipe = self.recipe()
        self.assertFalse(recipe.get("tracks"))
        self.assertEqual(recipe["layers"][0]["source"]["start"], [350, 200])

    def test_a_solved_camera_from_a_file(self) -> None:
        """What is wrong with a file is told with its place and changes nothing, nor does one while nobody answers; a right one comes in, a step looks through
        it, and its card has its values."""
        page = self.page
        before = self.recipe()
        self._open()
        for text, says in (
            ("frame,pan\n1001,here\n", "line 2, column 2: 'here' is no pan."),
            ("", "There is no line with a frame, x and y in it."),
        ):
            self._bring_in(text)
            page.get_by_text(says).wait_for()
        self.context.set_offline(True)
        self._bring_in("frame,x,y\n1001,10,20\n1051,30,40\n")
        page.get_by_text("Bring the file in again once it does.").wait_for()
        self.context.set_offline(False)
        page.keyboard.press("Escape")
        self.assertEqual(self.recipe(), before)
        self.complaints = [
            each for each in self.complaints if "422" not in each and "ERR_" not in each
        ]
        self._open()
        self._bring_in("frame,x,pan,lens\n1001,0,0,2000\n1051,100,8,2000\n")
        page.get_by_text("crane: brought in from crane.csv.").wait_for()
        page.get_by_label("Name of crane", exact=True).wait_for()
        page.keyboard.press("Escape")
        self.pick("a step", "Card")
        page.get_by_label("camera", exact=True).select_option("crane")
        shared = page.get_by_role("region", name="Shared: crane")
        shared.get_by_role("button", name=re.compile("lens: 2000 px")).wait_for()
        recipe = self.recipe()
        self.assertEqual(recipe["layers"][0]["steps"][-1]["camera"], "crane")
        self.assertEqual([key["value"] for key in recipe["cameras"][0]["pan"]["keys"]], [0, 8])
        page.get_by_label("camera", exact=True).select_option("a new one")
        page.get_by_role("region", name="Shared: camera").wait_for()
        self.assertEqual([each["name"] for each in self.recipe()["cameras"]], ["crane", "camera"])

    def test_everything_later(self) -> None:
        """The shot begins at another frame, and a layer's first frame and keys with it."""
        page = self.page
        self.go_to(1011)
        page.keyboard.press("b")
        self.assertEqual(self.recipe()["layers"][0]["first"], 1011)
        page.get_by_role("button", name="Settings of the shot").click()
        page.get_by_label("Or everything begins at").fill("101")
        page.get_by_role("button", name="Move all of it").click()
        page.keyboard.press("Escape")
        self.wait_until(lambda: self.recipe()["canvas"]["first"] == 101, "the move")
        recipe = self.recipe()
        self.assertEqual(recipe["canvas"]["last"], 150)
        self.assertEqual(recipe["layers"][0]["first"], 111)
        self.assertEqual(page.get_by_label("Go to frame").input_value(), "111")
        page.keyboard.press("Control+z")
        self.assertEqual(self.recipe()["canvas"]["first"], 1001)
        self.assertEqual(page.get_by_label("Go to frame").input_value(), "1011")


class Together(OnTime):
    def test_two_layers_in_a_group(self) -> None:
        """Picked with Shift they go into one group, where the first of them stood."""
        page = self.page
        self.pick("a layer", "Beam")
        page.get_by_role("button", name=re.compile("Picture of Beam")).wait_for()
        page.get_by_role("button", name="Picture of Bolt").click(modifiers=["Shift"])
        page.get_by_role("button", name="More for Bolt").click()
        page.get_by_role("menuitem", name="Group these 2").click()
        inside = page.get_by_role("group", name="Layers in Group")
        inside.get_by_role("img", name="Picture of Beam").wait_for()
        layers = self.recipe()["layers"]
        self.assertEqual(
            [(layer["id"], layer.get("within")) for layer in layers],
            [("group", None), ("bolt", "group"), ("beam", "group")],
        )
        page.get_by_role("button", name="More for Beam").click()
        page.get_by_role("menuitem", name="Into a group of its own").click()
        page.get_by_role("group", name="Layers in Group 2").wait_for()
        self.assertEqual(self.recipe()["layers"][-1]["within"], "group-2")
