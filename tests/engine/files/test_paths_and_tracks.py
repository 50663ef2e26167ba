"""Tracks as CSV and paths from SVG: read, written, and refused with the line."""

import json
import math
import tempfile
import time
from contextlib import redirect_stderr, redirect_stdout
from io import StringIO
from pathlib import Path
from unittest import TestCase, mock

from handful.engine import RecipeError, load_recipe
from handful.engine.cli import main
from handful.engine.files import read_paths, read_track, track_text
from handful.engine.files.paths import MOST_PATHS

SVG = '<svg xmlns="http://www.w3.org/2000/svg">{}</svg>'


def _refused(read: object, text: str) -> tuple[str, str]:
    """Path and sentence of the first problem."""
    try:
        read(text, "x")  # type: ignore[operator]
    except RecipeError as error:
        return error.problems[0].path, error.problems[0].says
    raise AssertionError("it was read")


class Tracks(TestCase):
    def test_read_and_written(self) -> None:
        """With and without a header and confidence; empty places are gaps; written text reads back."""
        text = "frame,x,y,confidence\r\n1,10,20,1\r\n2,,,0\r\n3, 30.5 ,-4,0.75\r\n"
        track = read_track(text, "hand")
        self.assertEqual(
            [tuple(mark) for mark in track.marks], [(1, 10, 20, 1), (3, 30.5, -4, 0.75)]
        )
        self.assertEqual(read_track(track_text(track), "hand"), track)
        plain = read_track("1,2,3\n2,3,4\n", "plain")
        self.assertEqual(track_text(plain), "frame,x,y\n1,2,3\n2,3,4\n")

    def test_rubbish(self) -> None:
        """The line, the column where there is one, and what is wrong."""
        for text, where, says in (
            ("frame,x,y\n1,2,3\n2,left,3\n", "line 3, column 2", "'left' is no x"),
            ("1,2\n", "line 1", "2 columns"),
            ("1,2,3\n1,4,5\n", "", "frame 1 has two marks"),
            ("", "", "no line"),
            ("1,2,inf\n", "", "finite number"),
            ("\x00\x01", "line 1", "columns"),
        ):
            path, sentence = _refused(read_track, text)
            self.assertEqual(path, where)
            self.assertIn(says, sentence)


class Paths(TestCase):
    def test_path_data(self) -> None:
        """SVG 1.1, 8.3: lines, cubics, quadratics raised to cubics, relative and closed."""
        data = "M10,10 C20,0 40,0 50,10 l0,40 Q30,80 10,50 Z"
        (path,) = read_paths(SVG.format(f'<path id="door" d="{data}"/>'), "x")
        self.assertEqual((path["name"], path["closed"]), ("door", True))
        first, second, third, fourth = path["vertices"]
        self.assertEqual(first, {"at": [10, 10], "leaving": [10, -10]})
        self.assertEqual(second, {"at": [50, 10], "arriving": [-10, -10]})
        self.assertEqual(third["leaving"], [-13.3333, 20])
        self.assertEqual(fourth, {"at": [10, 50], "arriving": [13.3333, 20]})

    def test_as_many_as_may_be(self) -> None:
        """So many paths are read, and one more is refused with how many may be."""
        for count, allowed in ((MOST_PATHS, True), (MOST_PATHS + 1, False)):
            svg = (
                "<svg xmlns='http://www.w3.org/2000/svg'>"
                + "<path d='M0 0L9 9'/>" * count
                + "</svg>"
            )
            if allowed:
                self.assertEqual(len(read_paths(svg, "many")), count)
            else:
                with self.assertRaisesRegex(RecipeError, f"{MOST_PATHS} paths"):
                    read_paths(svg, "many")

    def test_shapes_and_transforms(self) -> None:
        """A moved circle lies on its circle; a rectangle has its corners; each has a name of its own."""
        inner = '<g transform="translate(100 0)"><circle cx="5" cy="6" r="30"/></g><rect width="3" height="4"/>'
        circle, box = read_paths(SVG.format(inner), "shape")
        self.assertEqual((circle["name"], box["name"]), ("shape", "shape 2"))
        for vertex in circle["vertices"]:
            self.assertAlmostEqual(math.dist(vertex["at"], (105, 6)), 30, places=3)
        self.assertEqual(
            [vertex["at"] for vertex in box["vertices"]], [[0, 0], [3, 0], [3, 4], [0, 4]]
        )

    def test_rubbish(self) -> None:
        """Line and column where it is no XML; a sentence for anything else."""
        self.assertEqual(_refused(read_paths, "<svg>\n<path</svg>")[0], "line 2, column 6")
        self.assertEqual(_refused(read_paths, "")[0], "line 1, column 1")
        for inner in ("", '<path d="nothing"/>', '<path d="M1,2 L"/>', '<path d="M1e999,0 L1,1"/>'):
            path, says = _refused(read_paths, SVG.format(inner))
            self.assertEqual(path, "")
            self.assertRegex(says, "no path|cannot be read")


class Hostile(TestCase):
    def test_drawings(self) -> None:
        """What would take minutes or all memory is told at once, with what can be read."""
        nested = "".join(
            f'<g id="g{i}"><use href="#g{i - 1}"/><use href="#g{i - 1}"/></g>' for i in range(1, 40)
        )
        cases = {
            "a path of 2000 vertices": f'<path d="M0 0{" L1 1" * 100_000}"/>',
            "2000 vertices can be read": f'<path d="M0 0{" a1 1 0 0 0 1 1" * 3000}"/>',
            "5000 elements": f'<g id="g0"><path d="M0 0L1 1"/></g>{nested}',
            "elements can be read": '<path d="M0 0L1 1"/>' * 20_000,
            "signs of style": f"<style>{'.a{fill:red}' * 20_000}</style><path d='M0 0L1 1'/>",
            "nested deeper than 100": "<g>" * 500 + "</g>" * 500,
            "declares entities": '<!DOCTYPE x [<!ENTITY a "b">]><path d="M0 0L1 1"/>',
        }
        for word, inside in cases.items():
            begun = time.monotonic()
            with self.subTest(word=word):
                self.assertIn(word, _refused(read_paths, SVG.format(inside))[1])
                self.assertLess(time.monotonic() - begun, 3)

    def test_used_once_is_read(self) -> None:
        drawing = '<defs><path id="a" d="M0 0L9 9"/></defs><use href="#a"/>'
        self.assertGreaterEqual(len(read_paths(SVG.format(drawing), "x")), 1)

    def test_as_large_as_it_may_be(self) -> None:
        """A track of just so many bytes is read, and one more is too many."""
        text = "frame,x,y\n1,2,3\n"
        with mock.patch("handful.engine.files.rows.MOST_BYTES", len(text)):
            self.assertEqual(len(read_track(text, "t").marks), 1)
            self.assertIn("larger", _refused(read_track, text + " ")[1])

    def test_fields(self) -> None:
        """A field longer than the module reads is told with its line."""
        where, says = _refused(read_track, f"frame,x,y\n1,2,3\n2,{'9' * 140_000},4\n")
        self.assertEqual(where, "line 3")
        self.assertIn("field larger than", says)


class Commands(TestCase):
    def _run(self, *words: object) -> tuple[int, str]:
        told = StringIO()
        with redirect_stdout(told), redirect_stderr(told):
            code = main([str(word) for word in words])
        return code, told.getvalue()

    def test_into_a_recipe_and_out(self) -> None:
        """A track and a path come into a recipe; the track comes out as it went in."""
        with tempfile.TemporaryDirectory() as folder:
            recipe, csv, svg, out = (
                Path(folder) / n for n in ("r.json", "hand.csv", "s.svg", "o.csv")
            )
            recipe.write_text(json.dumps({"version": 3, "name": "R"}))
            csv.write_text("frame,x,y\n1001,5,6\n1002,7,8\n")
            svg.write_text(SVG.format('<path id="door" d="M0,0 L9,0 L9,9 Z"/>'))
            self.assertEqual(self._run("import", csv, "--into", recipe)[0], 0)
            self.assertEqual(self._run("import", svg, "--into", recipe)[0], 0)
            read = load_recipe(recipe)
            self.assertEqual((read.tracks[0].name, read.paths[0].name), ("hand", "door"))
            self.assertEqual(self._run("export", recipe, "hand", "--out", out)[0], 0)
            self.assertEqual(out.read_text(), csv.read_text())
            code, told = self._run("import", csv, "--into", recipe)
            self.assertEqual((code, told), (0, "R has hand 2 now.\n"))
            both = load_recipe(recipe).tracks
            self.assertEqual((both[0], both[1].name), (read.tracks[0], "hand 2"))
            before = recipe.read_text()
            csv.write_text("1001,left,6\n")
            self.assertEqual(self._run("import", csv, "--into", recipe)[0], 2)
            self.assertEqual(recipe.read_text(), before)
            self.assertEqual(self._run("export", recipe, "foot", "--out", out)[0], 2)
            self.assertEqual(self._run("import", Path(folder) / "no.csv", "--into", recipe)[0], 2)
