"""The curves that a person sees are what the pictures are made with."""

from unittest import TestCase

import numpy as np

from handful.engine import read_recipe
from handful.engine.render import PlanError, curves
from handful.engine.render.resolve import Resolver, Take
from tests.engine.recipes import bolt_layer, small


class Curves(TestCase):
    def _recipe(self) -> object:
        glow = {
            "kind": "glow",
            "id": "g",
            "threshold": {"moves": "rate", "start": 0, "per_second": 5},
        }
        layer = bolt_layer(
            steps=[glow],
            boil={"moves": "jitter", "value": 0, "amount": 1, "per_second": 25},
            clock=0,
            width={"moves": "keys", "keys": [{"frame": 10, "value": 2, "ease": "linear"},
                                             {"frame": 20, "value": 12}]},
            end={"moves": "follow", "point": "far"},
            edge={"moves": "life", "start": "#000000", "end": "#ffffff"},
        )  # fmt: skip
        layer["opacity"] = {"moves": "pulse", "value": 50, "amount": 30, "period": 0.4}
        layer["life"] = {"rise": 10}
        point = {"name": "far", "at": {"moves": "rate", "start": [100, 50], "per_second": [25, 0]}}
        return small(layer, points=[point])

    def test_each_moving_setting_has_one(self) -> None:
        found = {(curve.of, curve.setting): curve for curve in curves(self._recipe(), "bolt")}
        self.assertEqual(
            set(found),
            {("source", "boil"), ("source", "width"), ("source", "end"), ("source", "edge"), ("g", "threshold"),
             ("layer", "opacity")},
        )  # fmt: skip
        width = found["source", "width"]
        self.assertEqual(width.frames, [float(frame) for frame in range(1, 51)])
        values = np.array(width.values)[:, 0]
        np.testing.assert_allclose(values[[0, 9, 14, 19, 49]], [2, 2, 7, 12, 12])
        self.assertEqual(found["source", "end"].values[10], (110.0, 50.0))
        np.testing.assert_allclose(found["source", "edge"].values[9], (0.9, 0.9, 0.9))
        self.assertAlmostEqual(found["g", "threshold"].values[10][0], 2)

    def test_opacity_without_the_life(self) -> None:
        """The layer's own opacity, in percent, as it is written and edited."""
        curve = next(c for c in curves(self._recipe(), "bolt") if c.setting == "opacity")
        values = [value for (value,) in curve.values]
        self.assertAlmostEqual(max(values), 80, delta=2)
        self.assertAlmostEqual(min(values), 20, delta=2)

    def test_they_are_what_the_source_gets(self) -> None:
        recipe = self._recipe()
        width = next(c for c in curves(recipe, "bolt") if c.setting == "width")
        shaken = next(c for c in curves(recipe, "bolt") if c.setting == "boil")
        resolver = Resolver(recipe)
        for frame in (3, 13, 33):
            source = resolver.source(recipe.layers[0], Take.of(frame))
            self.assertAlmostEqual(source.width, width.values[frame - 1][0])
            self.assertAlmostEqual(source.boil, shaken.values[frame - 1][0])
        self.assertGreater(len({value for (value,) in shaken.values}), 20)

    def test_a_long_shot_is_thinned(self) -> None:
        data = {
            "version": 2, "name": "Long", "canvas": {"first": 1, "last": 6000},
            "layers": [{"id": "a", "name": "A", "source": {"kind": "bolt"}}],
        }  # fmt: skip
        for curve in curves(read_recipe(data), "a"):
            self.assertEqual(len(curve.frames), 600)

    def test_no_such_layer(self) -> None:
        with self.assertRaises(PlanError):
            curves(self._recipe(), "none")
