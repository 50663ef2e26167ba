"""What a process may take: more fails by itself, is told in words, and lets it go on."""

import subprocess
import sys
from unittest import TestCase

_ASKS = """
import sys
sys.path[:0] = {path!r}
import numpy as np
from handful.engine import read_recipe, render_frame
from handful.engine.render import PlanError
from handful.studio.memory import hold_memory

layer = {{"id": "n", "name": "N", "source": {{"kind": "noise"}}}}
recipe = read_recipe({{"version": 3, "name": "Held", "layers": [layer]}})
whole = render_frame(recipe, 1001, 0.1)
has = next(line for line in open("/proc/self/status") if line.startswith("VmData"))
hold_memory(int(has.split()[1]) * 1024 + {more})
try:
    render_frame(recipe, 1001, 4.0)
except PlanError as error:
    print(error)
again = render_frame(recipe, 1001, 0.1)
print("the same" if np.array_equal(again, whole) else "another")
"""

_KEEPS = """
import sys
sys.path[:0] = {path!r}
from handful.engine import Cache, read_recipe, render_frame
from handful.studio.memory import hold_memory

layer = {{"id": "n", "name": "N", "source": {{"kind": "noise"}}}}
recipe = read_recipe({{"version": 3, "name": "Kept", "layers": [layer]}})
cache = Cache(8 << 30)
render_frame(recipe, 1001, 1.0, cache)
has = next(line for line in open("/proc/self/status") if line.startswith("VmData"))
hold_memory(int(has.split()[1]) * 1024 + 300_000_000)
for frame in range(1002, 1014):
    render_frame(recipe, frame, 1.0, cache)
print(cache.held > 0)
"""


class Held(TestCase):
    def asked(self, more: int) -> list[str]:
        """What a process that may take so much more says of a picture of 7,680 x 4,320, and of a small one after."""
        code = _ASKS.format(path=sys.path, more=more)
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, timeout=120
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout.splitlines()

    def test_too_much_is_told_and_it_goes_on(self) -> None:
        told, after = self.asked(300_000_000)
        self.assertIn("needs more memory than there is", told)
        self.assertEqual(after, "the same")

    def test_what_is_only_kept_makes_room(self) -> None:
        """Pictures that are kept are let go where another one has no room: none fails for them."""
        code = _KEEPS.format(path=sys.path)
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, timeout=120
        )
        self.assertEqual((done.returncode, done.stdout), (0, "True\n"), done.stderr)

    def test_enough_is_enough(self) -> None:
        self.assertEqual(self.asked(6_000_000_000), ["the same"])
