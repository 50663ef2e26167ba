"""The starters, and the page that is written from the declarations."""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from types import ModuleType
from typing import NamedTuple
from unittest import TestCase

import numpy as np

from handful.engine import Cache, load_recipe, render_frame
from handful.engine.kinds import limits, sources, steps
from handful.engine.kinds.memory import Stateful
from handful.engine.recipe import spans
from tests.loading import module_at

STRIKING = {"beams", "flares", "streams", "strikes"}
"""Families of what comes and goes within its shot; all else may go on from its first frame to its last."""

ROOT = Path(__file__).parents[2]


class Starters(TestCase):
    lasts = True

    def test_each_lives(self) -> None:
        """It is read, shows in the middle, or soon after it begins where each frame rests on all before, and moves; what
        strikes is nothing on its first and last frame."""
        starters = sorted((ROOT / "starters").glob("*/*.json"))
        self.assertGreaterEqual(len(starters), 12)
        with ThreadPoolExecutor(2) as pool:
            for path, seen in zip(starters, pool.map(_looked_at, starters), strict=True):
                with self.subTest(starter=path.stem):
                    self.assertGreater(float(seen.near.max()), 0.3)
                    self.assertFalse(np.array_equal(seen.near, seen.next))
                    for picture in seen.ends:
                        self.assertLess(float(picture.max()), 1e-3)


class Seen(NamedTuple):
    """A starter on a frame and the next, and on its first and last if it strikes."""

    near: np.ndarray
    next: np.ndarray
    ends: list[np.ndarray]


def _looked_at(path: Path) -> Seen:
    recipe, cache = load_recipe(path), Cache(1 << 28)
    first, last = recipe.canvas.first, recipe.canvas.last
    shown = [spans(recipe, layer) for layer in recipe.layers if layer.on]
    begins = max(first, min(a for a, _ in shown))
    ends = max(b for _, b in shown)
    remembers = any(issubclass(sources()[layer.source.kind], Stateful) for layer in recipe.layers)
    middle = begins + (ends - begins) // (24 if remembers else 2)
    strikes = path.parent.name in STRIKING
    near, after, *rest = (
        render_frame(recipe, frame, 0.2, cache)
        for frame in (middle, middle + 1, *((first, last) if strikes else ()))
    )
    return Seen(near, after, rest)


class Page(TestCase):
    def _writer(self) -> ModuleType:
        return module_at(ROOT / "docs" / "write_recipe_page.py")

    def test_current(self) -> None:
        """The page and the schema beside it are what the declarations say now."""
        writer = self._writer()
        told = "write it again: ./handful python docs/write_recipe_page.py"
        self.assertEqual((ROOT / "docs" / "recipe.md").read_text(), writer.page(), told)
        self.assertEqual(
            (ROOT / "docs" / "recipe.schema.json").read_text(), writer.schema_text(), told
        )

    def test_names_everything(self) -> None:
        """No kind and no setting is left out."""
        page = self._writer().page()
        for kind in [*sources().values(), *steps().values(), *limits().values()]:
            self.assertIn(f"#### {kind.name}\n", page)
            for setting in kind.settings:
                self.assertIn(f"`{setting.name}`", page)
