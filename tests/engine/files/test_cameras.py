"""Solved cameras as files: what is read, what is told, and that one sees as it says."""

import math
import tempfile
from contextlib import redirect_stdout
from io import StringIO
from pathlib import Path
from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine import load_recipe, read_recipe, render_frame
from handful.engine.cli import main
from handful.engine.files import brought_in, read_camera
from handful.engine.recipe import RecipeError
from handful.engine.render import Resolver
from tests.engine.recipes import small

SOLVED = """frame,x,y,z,pan,tilt,roll,lens
1,0,0,0,0,0,0,400
2,1.5,-2,10,3,-1,5,400
3,3,-4,25,7,-2,12,420
"""


def _keyed(camera: dict[str, Any], name: str) -> list[tuple[float, float]]:
    return [(key["frame"], key["value"]) for key in camera[name]["keys"]]


def _refused(text: str) -> list[tuple[str, str]]:
    try:
        brought_in({"version": 3, "name": "R"}, text, "eye")
    except RecipeError as error:
        return [(problem.path, problem.says) for problem in error.problems]
    raise AssertionError("it was read")


class Cameras(TestCase):
    def test_read(self) -> None:
        """Columns in any order, as they are called; what points the other way is turned; an empty cell is a gap."""
        found = read_camera(
            "lens, UP,frame,back\r\n900,1,5,-2\r\n900,,6,-3\r\n900,4,7,-8\r\n", "eye"
        )
        self.assertEqual(found["lens"], 900)
        self.assertEqual(_keyed(found, "down"), [(5, -1), (7, -4)])
        self.assertEqual(_keyed(found, "forward"), [(5, 2), (6, 3), (7, 8)])
        self.assertEqual(found.keys(), {"name", "lens", "down", "forward"})

    def test_the_shorter_way_round(self) -> None:
        found = read_camera("frame,pan\n1,170\n2,-170\n3,-150\n", "eye")
        self.assertEqual(_keyed(found, "pan"), [(1, 170), (2, 190), (3, 210)])

    def test_what_stays_needs_no_key(self) -> None:
        """And is as it was on every frame."""
        told = [0, 0, 0, 0, 5, 6, 6, 6, 6, 2]
        text = "frame,x\n" + "".join(f"{frame},{x}\n" for frame, x in enumerate(told))
        found = read_camera(text, "eye")
        self.assertEqual([frame for frame, _ in _keyed(found, "aside")], [0, 3, 4, 5, 8, 9])
        resolver = Resolver(read_recipe({"version": 3, "name": "R", "cameras": [found]}))
        self.assertEqual([resolver.camera("eye", frame).aside for frame in range(10)], told)

    def test_rubbish(self) -> None:
        for text, where, says in (
            ("frame,pan\n1,2\n2,left\n", "line 3, column 2", "'left' is no pan"),
            ("frame,pan\n1,1e400\n", "line 2, column 2", "'1e400' is no pan"),
            ("frame,pan\nnan,1\n", "line 2, column 1", "is no frame"),
            ("frame,pan,focus\n1,2,3\n", "line 1, column 3", "'focus' is no column of a camera"),
            ("pan,tilt\n1,2\n", "line 1", "No column is called frame"),
            ("frame,up,y,pan\n1,2,3,4\n", "line 1, column 3", "y says what up says already"),
            ("frame,pan\n1,2\n1,3\n", "line 3", "Frame 1 stands there twice"),
            ("frame,pan\n1,2,3\n", "line 2", "3 columns, not 2"),
            ("frame,pan\n,3\n", "line 2", "no frame"),
            ("frame,pan\n", "", "no line"),
            (
                "frame,pan\n" + "".join(f"{i},{i % 7}\n" for i in range(2001)),
                "",
                "2000 can be read",
            ),
            ("frame,lens\n1,3\n", "cameras[0].lens", "3.0 is less than 50"),
        ):
            with self.subTest(text=text[:40]):
                path, sentence = _refused(text)[0]
                self.assertEqual(path, where)
                self.assertIn(says, sentence)

    def test_as_long_as_it_may_be(self) -> None:
        text = "frame,pan\n" + "".join(f"{i},{i % 7}\n" for i in range(2000))
        made, names = brought_in({"version": 3, "name": "R"}, text, "eye")
        self.assertEqual(names, ["eye"])
        self.assertEqual(len(made["cameras"][0]["pan"]["keys"]), 2000)

    def test_into_a_recipe_and_out(self) -> None:
        """It comes out on each frame of the shot as it went in."""
        with tempfile.TemporaryDirectory() as folder, redirect_stdout(StringIO()):
            recipe, solved, out = (Path(folder) / n for n in ("r.json", "eye.csv", "o.csv"))
            recipe.write_text('{"version": 3, "name": "R", "canvas": {"first": 1, "last": 3}}')
            solved.write_text(SOLVED)
            for _ in range(2):
                self.assertEqual(main(["import", str(solved), "--into", str(recipe)]), 0)
            self.assertEqual([each.name for each in load_recipe(recipe).cameras], ["eye", "eye 2"])
            self.assertEqual(main(["export", str(recipe), "eye", "--out", str(out)]), 0)
            self.assertEqual(out.read_text(), SOLVED)

    def test_one_sees_through_it(self) -> None:
        """The middle of a card is seen on each frame where OpenCV projects the place at which it stands, through the camera
        that the file tells of."""
        far, at = 700.0, [220.0, 60.0]
        eye = read_camera(SOLVED, "eye") | {"unit": 2}
        view = 2 * math.degrees(math.atan(160 / far))
        source = {"kind": "noise", "comes_as": "cover", "brightness": 100, "colour": "#ffffff"}
        limit = {"kind": "rectangle", "centre": at, "width": 8, "height": 8, "feather": 0}
        card = {
            "kind": "card",
            "id": "card",
            "pivot": at,
            "swing": 0,
            "view": view,
            "camera": "eye",
        }
        layers: list[dict[str, Any]] = [
            {"id": "m", "name": "M", "on": False, "source": source, "limits": [limit]},
            {"id": "c", "name": "C", "source": {"kind": "copy", "of": "m"}, "steps": [card]},
        ]
        recipe = small(*layers, cameras=[eye])
        rows, columns = np.mgrid[:180, :320] + 0.5
        solved = np.genfromtxt(StringIO(SOLVED), delimiter=",")[1:]
        for frame, x, y, z, pan, tilt, roll, lens in solved:
            axes = ((0, 0, -roll), (-tilt, 0, 0), (0, -pan, 0))
            turn = np.linalg.multi_dot([cv2.Rodrigues(np.radians(axis))[0] for axis in axes])
            inside = np.array([[lens, 0, 160], [0, lens, 90], [0, 0, 1]])
            there = np.array([at[0] - 160, at[1] - 90, far]) - 2 * np.array([x, y, z])
            wanted = cv2.projectPoints(
                there[None], cv2.Rodrigues(turn)[0], np.zeros(3), inside, np.zeros(4)
            )[0].ravel()
            light = render_frame(recipe, int(frame))[..., 3]
            seen = np.array([(light * columns).sum(), (light * rows).sum()]) / light.sum()
            with self.subTest(frame=frame):
                np.testing.assert_allclose(seen, wanted, atol=0.1)
