"""Compiling: what is told of it, and that shares of it make the whole."""

from __future__ import annotations

import tempfile
from pathlib import Path
from types import ModuleType
from unittest import TestCase, mock

import numpy as np
from numba import config

from handful.engine import everything
from handful.engine.kernels.compiled import compiling_told
from handful.engine.recipe import Recipe
from tests.loading import module_at

KERNEL = """
from handful.engine.kernels.compiled import compiled

@compiled
def twice(x):
    return 2 * x
"""


class Told(TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        cache = str(self.folder / "cache")
        self.enterContext(mock.patch.object(config, "CACHE_DIR", cache))

    def _module(self) -> ModuleType:
        path = self.folder / "kernel_of_a_test.py"
        path.write_text(KERNEL)
        return module_at(path)

    def test_what_is_compiled_and_not_what_is_loaded(self) -> None:
        heard: list[int] = []
        module = self._module()
        with compiling_told(heard.append):
            self.assertEqual(module.twice(3), 6)
            self.assertEqual(module.twice(4), 8)
            self.assertEqual(heard, [1])
            self.assertEqual(module.twice(0.5), 1)
        self.assertEqual(heard, [1, 2])
        module.twice(np.float32(1))
        self.assertEqual(heard, [1, 2], "it is over")
        again = self._module()
        with compiling_told(heard.append):
            self.assertEqual(again.twice(3), 6)
        self.assertEqual(heard, [1, 2], "it is in the cache")


class Shares(TestCase):
    def test_all_of_them_are_everything(self) -> None:
        """Of three processes each sees another third of the layers, with all that they name."""
        seen: list[str] = []
        told: list[tuple[int, int]] = []

        def note(recipe: Recipe) -> None:
            shown = [layer for layer in recipe.layers if layer.on]
            seen.append(f"{len(recipe.elements)} {shown[-1].id}")
            self.assertTrue(all(layer.within == shown[-1].id for layer in shown[:-1]))

        with (
            mock.patch.object(everything, "_seen", note),
            mock.patch.object(everything, "warm_up") as whole,
        ):
            for turn in range(3):
                everything.compile_some(turn, 3, lambda done, of: told.append((done, of)))
        wanted = [
            layer.id for recipe in everything.everything() for layer in recipe.layers if layer.on
        ]
        self.assertEqual(sorted(name.split(" ", 1)[1] for name in seen), sorted(wanted))
        whole.assert_called_once()
        self.assertEqual(sum(done == of for done, of in told), 3)
