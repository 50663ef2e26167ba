"""Drops as a layer: born and carried as particles are, seen as one surface."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.render.cache import Cache
from handful.engine.sources.drops import Drops
from tests.engine.counted import Counted
from tests.engine.recipes import small


def recipe(*more: dict[str, Any], **settings: Any) -> Recipe:
    source = {
        "kind": "drops", "at": [160, 90], "born": "in a box", "width": 200, "height": 100, "rate": 10, "life": 3,
        "gravity": [0, 30], "speed": 20, "cone": 360, "size": 50, "preroll": 1, **settings,
    }  # fmt: skip
    return small({"id": "d", "name": "D", "source": source, "steps": []}, *more)


class Memory(TestCase):
    def test_looks_find_the_state(self) -> None:
        """What is of the look moves nothing again, and changes the picture."""
        cache = Cache(1 << 28)
        before = render_frame(recipe(stir=60), 9, 1.0, cache)
        own = [known for known in Drops.settings if known.name in Drops.__annotations__]
        self.assertGreater(len(own), 15)
        heat = {"kelvin", "cools"}
        for known in own:
            self.assertTrue(known.look, known.name)
            if known.name == "comes_as":  # what it makes is another kind of picture
                continue
            value: Any = (
                known.choices[1] if known.choices else "#40ff10" if known.type == "colour" else (known.usual or (0, 93))[1]
            )  # fmt: skip
            more = {"glows": "by its heat, not in"} if known.name in heat else {}
            if known.name == "hides":
                value = 10
            then = render_frame(recipe(stir=60, **more), 9, 1.0, cache) if more else before
            with self.subTest(setting=known.name), Counted(Drops) as again:
                after = render_frame(recipe(stir=60, **more, **{known.name: value}), 9, 1.0, cache)
                self.assertFalse(np.array_equal(after, then))
            self.assertEqual(again.frames, 0)

    def test_where_particles_are(self) -> None:
        """The same birth and flight: where small bright spots are there are small drops."""
        settings = {"rate": 4, "size": 12, "merges": 0, "goes": 0, "comes": 0, "size_uneven": 0}
        drops = render_frame(recipe(**settings, gleams=-12), 20)[..., 3]
        spots = small({"id": "d", "name": "D", "source": {
            "kind": "particles", "at": [160, 90], "born": "in a box", "width": 200, "height": 100, "rate": 4, "life": 3,
            "gravity": [0, 30], "speed": 20, "cone": 360, "preroll": 1, "size": 12, "size_end": 100, "size_uneven": 0, "light_uneven": 0,
            "look": "a disc", "goes": 0, "comes": 0, "streak": 0, "light": 0, "colour": "#ffffff", "colour_end": "#ffffff",
        }, "steps": []})  # fmt: skip
        light = render_frame(spots, 20)[..., 0]
        self.assertGreater(float(light.sum()), 300)
        self.assertLess(int(((drops > 0.9) != (light > 0.9)).sum()), 5)

    def test_a_height_in_px_of_the_full_size(self) -> None:
        made = recipe(comes_as="height", flat=40)
        full, half = render_frame(made, 12), render_frame(made, 12, 0.5)
        self.assertAlmostEqual(float(full.max()) / float(half.max()), 1, delta=0.02)
        self.assertGreater(float(full.max()), 6)

    def test_none_at_all(self) -> None:
        """Before any is born, and when all are too small, there is nothing."""
        for settings in ({"rate": 0}, {"size": 0.5, "size_end": 0, "goes": 100}):
            self.assertEqual(float(render_frame(recipe(**settings), 3, 0.1).max()), 0)
