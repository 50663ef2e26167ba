"""The plates have the motion that the recipes count on."""

import json
import tempfile
from pathlib import Path
from unittest import TestCase

import cv2
import numpy as np

from demo.camera import SCENES, shoot
from demo.scenes.harbour import HORIZON, MAST_TOP
from demo.scenes.lighthouse import LANTERN
from demo.scenes.tide_hall import HUB, MOUTH
from handful.engine import load_recipe, render_frame
from tests.engine.recipes import GRADED

RECIPES = Path(__file__).parents[2] / "demo" / "recipes"
CANVAS: dict[str, float] = {"width": 1920, "height": 1080, "rate": 25, "first": 1001, "last": 1003}


def _grey(folder: Path, frame: int) -> np.ndarray:
    levels = cv2.imread(str(folder / f"mast-strike.{frame}.jpg"), cv2.IMREAD_GRAYSCALE)
    assert levels is not None
    return levels.astype(np.float32)


GOES_ON = {
    "burning-chart",
    "depth-bell",
    "divers-bubble",
    "first-gather",
    "flue-haze",
    "furnace-mouth",
    "grinding-wheel",
    "loft-dust",
    "out-of-the-fog",
    "storm-sail",
    "tar-barrel",
}
"""Shots of what burns, drifts and rises from the first frame to the last."""


class Camera(TestCase):
    folder: Path
    frames: list[int]

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        cls.frames = list(shoot("mast-strike", CANVAS | {"rate": 1}, cls.folder))

    def test_pan_is_the_one_stated(self) -> None:
        """OpenCV's phase correlation of the land between frames a second apart: within 0.1 px."""
        land = slice(0, int(HORIZON * 1080) - 20)
        (across, down), _ = cv2.phaseCorrelate(
            _grey(self.folder, 1001)[land], _grey(self.folder, 1002)[land]
        )
        wanted = SCENES["mast-strike"].pan
        self.assertAlmostEqual(across, wanted[0], delta=0.1)
        self.assertAlmostEqual(down, wanted[1], delta=0.1)

    def test_mast_is_where_it_is_stated(self) -> None:
        """The thin dark mast stands below its stated top, and sky above it, on the first frame."""
        grey = cv2.GaussianBlur(_grey(self.folder, 1001), (0, 0), 1.5)
        x, y = (int(part) for part in MAST_TOP)
        mast, beside = grey[y + 60, x - 1 : x + 2].min(), grey[y + 60, x - 40 : x - 20].mean()
        self.assertLess(mast, beside - 3)
        self.assertLess(abs(float(grey[y - 40, x]) - float(grey[y - 40, x - 30])), 3)

    def test_grain_moves(self) -> None:
        """Two frames differ in their grain even where nothing else moves."""
        first, second = _grey(self.folder, 1001), _grey(self.folder, 1002)
        self.assertGreater(float(np.abs(first - second).mean()), 0.2)

    def test_names_and_sizes(self) -> None:
        names = sorted(path.name for path in self.folder.iterdir())
        self.assertEqual(self.frames, [1001, 1002, 1003])
        self.assertEqual(names, [f"mast-strike.{frame}.jpg" for frame in self.frames])
        self.assertEqual(_grey(self.folder, 1003).shape, (1080, 1920))


class Recipes(TestCase):
    lasts = True

    def test_points_follow_the_pan(self) -> None:
        """Each recipe's points move as its camera does, and lie on what they are named for."""
        places = {
            "mast-strike": {"mast": MAST_TOP},
            "lamp-sweep": {"lamp": LANTERN},
            "tide-feed": {"hub": HUB, "mouth": MOUTH},
        }
        for scene, wanted in places.items():
            points = json.loads((RECIPES / f"{scene}.json").read_text())["points"]
            for point in points:
                self.assertEqual(tuple(point["at"]["per_second"]), SCENES[scene].pan)
            found = {point["name"]: tuple(point["at"]["start"]) for point in points}
            self.assertEqual(found | wanted, found)

    def test_begin_and_end_dark(self) -> None:
        """Common practice: no element pops on its first or its last frame; what goes on may be there."""
        for path in sorted(RECIPES.glob("*.json")):
            recipe = load_recipe(path)
            first, last = recipe.canvas.first, recipe.canvas.last
            shown = first + (last - first) // (8 if path.stem in GOES_ON else 2)
            picture = render_frame(recipe, shown, 0.125, media=GRADED)
            self.assertGreater(float(picture[..., :3].max()), 0.05)
            if path.stem in GOES_ON:
                continue
            for frame in (first, last):
                self.assertLess(float(render_frame(recipe, frame, 0.125)[..., :3].max()), 1e-3)

    def test_mast_strike_strikes(self) -> None:
        """Common practice: a dim leader, then the brightest within 3 frames, then slowly to nothing."""
        recipe = load_recipe(RECIPES / "mast-strike.json")
        light = {
            frame: float(render_frame(recipe, frame, 0.125)[..., :3].sum())
            for frame in (1001, 1005, 1007, 1009, 1010, 1011, 1030, 1055, 1057, 1075)
        }
        for frame in (1001, 1005, 1057, 1075):
            self.assertEqual(light[frame], 0)
        brightest = max(light.values())
        self.assertEqual(brightest, max(light[1009], light[1010], light[1011]))
        self.assertLess(light[1007], 0.1 * brightest)
        self.assertLess(light[1030], 0.5 * brightest)
        self.assertLess(light[1055], 0.02 * brightest)
