"""States on disk: gone on from by whoever comes next, and never trusted when they are damaged."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase, mock

import numpy as np

from handful.engine import Cache, render_frame
from handful.engine.render import Lasting
from handful.engine.sources.fire import Fire
from tests.engine.counted import Counted
from tests.engine.sources.test_fire import recipe_of

ROOM = 1 << 28


class OnDisk(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def _cache(self, most: int = ROOM) -> Cache:
        return Cache(ROOM, Lasting(self.folder, most))

    def test_another_goes_on_from_the_nearest(self) -> None:
        """Of 24 frames every tenth was kept: another cache brings on the four after the second, to the bit."""
        recipe = recipe_of()
        with Counted(Fire) as first:
            wanted = render_frame(recipe, 1020, 0.5, self._cache())
        self.assertEqual(first.frames, 24)
        self.assertEqual(len(list(self.folder.glob("*.npz"))), 2)
        with Counted(Fire) as again:
            found = render_frame(recipe, 1020, 0.5, self._cache())
        self.assertEqual(again.frames, 4)
        np.testing.assert_array_equal(found, wanted)
        with Counted(Fire) as earlier:
            render_frame(recipe, 1012, 0.5, self._cache())
        self.assertEqual(earlier.frames, 6)

    def test_another_process(self) -> None:
        """What one process kept another takes up."""
        render_frame(recipe_of(), 1020, 0.5, self._cache())
        script = (
            "import sys; from pathlib import Path; from handful.engine import Cache, render_frame;"
            "from handful.engine.render import Lasting;"
            "from handful.engine.sources.fire import Fire;"
            "from tests.engine.counted import Counted;"
            "from tests.engine.sources.test_fire import recipe_of\n"
            "with Counted(Fire) as c: render_frame(recipe_of(), 1020, 0.5, Cache(1 << 28, Lasting(Path(sys.argv[1]), 1 << 28)))\n"
            "print(c.frames)"
        )
        done = subprocess.run(
            [sys.executable, "-c", script, str(self.folder)],
            capture_output=True,
            text=True,
            env=os.environ,
        )
        self.assertEqual(done.stdout.strip(), "4", done.stderr)

    def test_damaged_ones_are_made_again(self) -> None:
        """Cut off, emptied, or something else altogether: the picture is the same, and they are whole again."""
        recipe = recipe_of()
        wanted = render_frame(recipe, 1020, 0.5, self._cache())
        first, second = sorted(self.folder.glob("*.npz"), key=lambda path: path.stat().st_mtime_ns)
        whole = second.read_bytes()
        for damage in (whole[: len(whole) // 2], b"", b"no state at all" * 99):
            second.write_bytes(damage)
            first.write_bytes(damage)
            with Counted(Fire) as counted:
                found = render_frame(recipe, 1020, 0.5, self._cache())
            self.assertEqual(counted.frames, 24)
            np.testing.assert_array_equal(found, wanted)
            self.assertEqual(len(second.read_bytes()), len(whole))

    def test_those_not_used_for_longest_go_first(self) -> None:
        lasting = Lasting(self.folder, 9000)
        state = (np.zeros(1000, np.float32),)
        for turn, key in enumerate("abc"):
            lasting.put(key, state)
            os.utime(self.folder / f"{key}.npz", (turn, turn))
        self.assertIsNotNone(lasting.get("a"))
        lasting.clean()
        self.assertEqual({path.stem for path in self.folder.glob("*.npz")}, {"a", "c"})

    def test_it_cleans_as_it_keeps(self) -> None:
        """From time to time, beginning with the first, so that what others left goes as well."""
        state = (np.zeros(1000, np.float32),)
        for turn, key in enumerate("abcde"):
            Lasting(self.folder, 10**9).put(key, state)
            os.utime(self.folder / f"{key}.npz", (turn, turn))
        Lasting(self.folder, 9000).put("f", state)
        self.assertEqual({path.stem for path in self.folder.glob("*.npz")}, {"e", "f"})

    def test_a_full_disk_keeps_nothing(self) -> None:
        with mock.patch("numpy.savez", side_effect=OSError(28, "No space left on device")):
            picture = render_frame(recipe_of(), 1020, 0.5, self._cache())
        self.assertGreater(float(picture.max()), 0)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_pictures_are_not_kept(self) -> None:
        recipe = recipe_of(feed=0)
        render_frame(recipe, 1002, 0.5, self._cache())
        self.assertEqual(list(self.folder.glob("*")), [])
