"""What is compiled is out of date when what it builds on is."""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

from handful.engine import kernels
from handful.engine.kernels.stamped import built_on

HERE = Path(kernels.__file__).parent

LOWER = """
from handful.engine.kernels.compiled import compiled
TIMES = {times}
@compiled
def more(count: int) -> int:
    return count + {more}
"""

UPPER = """
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.rooms.lower import TIMES, more
@compiled
def most(count: int) -> int:
    return TIMES * more(count)
"""


class OutOfDate(TestCase):
    def test_by_what_it_builds_on(self) -> None:
        """A kernel that was kept is compiled anew once another file's kernel or constant in it has changed, and not before."""
        with tempfile.TemporaryDirectory() as folder:
            package = Path(folder, "handful", "engine", "kernels")
            (package / "rooms").mkdir(parents=True)
            for name in ("__init__.py", "compiled.py", "stamped.py"):
                shutil.copy(HERE / name, package / name)
            lower, upper = package / "rooms" / "lower.py", package / "rooms" / "upper.py"
            upper.write_text(UPPER)
            says = "from handful.engine.kernels.rooms.upper import most as m; print(m(5), sum(m.stats.cache_hits.values()))"

            def run(times: int, more: int) -> str:
                text = LOWER.format(times=times, more=more)
                if not lower.exists() or lower.read_text() != text:
                    lower.write_text(text)
                    os.utime(lower, (1e9 + 100 * times + more,) * 2)
                run = subprocess.run(
                    [sys.executable, "-c", says], cwd=folder, text=True, check=True, stdout=subprocess.PIPE,
                    env={**os.environ, "PYTHONPATH": folder, "NUMBA_CACHE_DIR": folder},
                )  # fmt: skip
                return run.stdout.strip()

            self.assertEqual(run(1, 1), "6 0")
            self.assertEqual(run(1, 1), "6 1")
            self.assertEqual(run(1, 2), "7 0")
            self.assertEqual(run(3, 2), "21 0")

    def test_what_a_sea_builds_on(self) -> None:
        sea = HERE / "drawing" / "sea"
        files = built_on(sea / "draw.py")
        for path in (sea / "draw.py", sea / "squares.py", HERE / "fading.py", HERE / "compiled.py"):
            self.assertIn(path, files)
        self.assertNotIn(HERE / "fluid" / "water.py", files)
