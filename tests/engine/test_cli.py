"""The command line as a person runs it."""

import io
import json
import subprocess
import sys
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase

import cv2
import numpy as np
import OpenEXR

from handful.engine.cli import main
from tests.engine.recipes import DEMO, demo_data


def _run_apart(*words: object) -> subprocess.CompletedProcess[str]:
    """In a process of its own, as it is called."""
    command = [sys.executable, "-m", "handful.engine.cli", *map(str, words)]
    return subprocess.run(command, capture_output=True, text=True)


def _run(*words: object) -> subprocess.CompletedProcess[str]:
    """The same in this process, which has all loaded."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        try:
            code = main([str(word) for word in words])
        except SystemExit as left:
            code = int(left.code or 0)
    return subprocess.CompletedProcess([], code, out.getvalue(), err.getvalue())


class Commands(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def _recipe(self, **changes: object) -> Path:
        path = self.folder / "recipe.json"
        path.write_text(json.dumps(demo_data() | changes))
        return path

    def test_render(self) -> None:
        """Files of the frames asked for, at the scale asked for, with the recipe's rate."""
        done = _run_apart(
            "render", DEMO, "--out", self.folder, "--frames", "1011-1013", "--scale", 0.25
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        names = [f"mast-strike.{frame}.exr" for frame in (1011, 1012, 1013)]
        self.assertEqual(sorted(path.name for path in self.folder.iterdir()), names)
        with OpenEXR.File(str(self.folder / names[0])) as file:
            pixels = file.channels()["RGBA"].pixels
            self.assertEqual(pixels.shape, (270, 480, 4))
            self.assertEqual(file.header()["framesPerSecond"], 25)
            self.assertGreater(float(pixels[..., :3].max()), 1)

    def test_render_a_pass(self) -> None:
        """One layer alone, named for it: here only what is lit, without the strike."""
        about = ("--out", self.folder, "--frames", "1010", "--scale", 0.25)
        done = _run("render", DEMO, *about, "--layer", "lit")
        self.assertEqual(done.returncode, 0, done.stderr)
        names = ["mast-strike-lit.1010.exr"]
        self.assertEqual([path.name for path in self.folder.iterdir()], names)
        with OpenEXR.File(str(self.folder / names[0])) as file:
            brightest = float(file.channels()["RGBA"].pixels[..., :3].max())
        self.assertTrue(0 < brightest < 0.2)
        gone = _run("render", DEMO, *about, "--layer", "lid")
        self.assertEqual((gone.returncode, gone.stderr), (2, "There is no layer 'lid'.\n"))

    def test_render_with_a_plate(self) -> None:
        """Any still of it names it; what is none is told."""
        still = self.folder / "pier.0007.jpg"
        cv2.imwrite(str(still), np.full((36, 64, 3), 118, np.uint8))
        layer = {"id": "plate", "name": "Plate", "source": {"kind": "plate"}}
        canvas = {"width": 64, "height": 36, "first": 1001, "last": 1002}
        path = self._recipe(name="Pier", canvas=canvas, layers=[layer], cover="as drawn", finish=[])
        about = ("--out", self.folder, "--frames", "1001")
        done = _run("render", path, *about, "--plate", still)
        self.assertEqual(done.returncode, 0, done.stderr)
        with OpenEXR.File(str(self.folder / "pier.1001.exr")) as file:
            self.assertAlmostEqual(
                float(file.channels()["RGBA"].pixels[9, 9, 0]), 0.181, delta=0.01
            )
        wrong = _run("render", path, *about, "--plate", path)
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("is no still of a plate; give one such as pier.1001.jpg", wrong.stderr)

    def test_render_needs_no_database(self) -> None:
        """Neither Django nor anything of the studio is loaded."""
        script = (
            "import sys; from handful.engine.cli import main; main(['check', sys.argv[1]]);"
            "print(sorted(m for m in sys.modules if m.split('.')[0] in ('django', 'psycopg')"
            " or m.startswith('handful.studio')))"
        )
        done = subprocess.run([sys.executable, "-c", script, DEMO], capture_output=True, text=True)
        self.assertEqual(done.stdout.splitlines()[-1], "[]")

    def test_problems(self) -> None:
        """Exit 2, each problem with its path on a line of its own, and no file written."""
        path = self._recipe(seed=-4, cover="guess")
        out = self.folder / "out"
        done = _run("render", path, "--out", out)
        self.assertEqual(done.returncode, 2)
        self.assertIn("seed: -4 is less than 0.", done.stderr)
        self.assertIn("cover: ", done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        self.assertFalse(out.exists())

    def test_bad_words(self) -> None:
        """Frames and scales that cannot be are refused with exit 2."""
        for words, says in (
            (("--frames", "1011-2000"), "not within 1001 to 1075"),
            (("--frames", "1013-1011"), "ends before it begins"),
            (("--frames", "all"), "write 1001-1010"),
            (("--scale", "900"), "Scale 900"),
            (("--format", "bmp"), "invalid choice"),
        ):
            done = _run("render", DEMO, "--out", self.folder, *words)
            self.assertEqual(done.returncode, 2, words)
            self.assertIn(says, done.stderr.replace("\n", " "))

    def test_unwritable_folder(self) -> None:
        """Exit 1 with the reason."""
        (self.folder / "out").write_text("in the way")
        done = _run(
            "render", DEMO, "--out", self.folder / "out", "--frames", "1011", "--scale", 0.1
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("could not be written", done.stderr.replace("\n", " "))

    def test_documents(self) -> None:
        """Schema and catalogue are JSON; check says that all is well."""
        self.assertIn("properties", json.loads(_run("schema").stdout))
        self.assertIn("sources", json.loads(_run("catalogue").stdout))
        self.assertIn("no problems", _run("check", DEMO).stdout)
        looping = _run("check", self._recipe(loop=12)).stdout
        self.assertRegex(looping, r"No seam shows: .* changes by \d+\.\d+ %")
