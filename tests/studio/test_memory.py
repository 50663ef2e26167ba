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

    def test_enough_is_enough(self) -> None:
        self.assertEqual(self.asked(6_000_000_000), ["the same"])
