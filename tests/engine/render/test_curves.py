"""The curves that a person sees are what the pictures are made with."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, read_recipe
from handful.engine.render import PlanError, curves
from handful.engine.render.resolve import Resolver, Take
from tests.engine.recipes import bolt_layer, small


class Curves(TestCase):
    def _recipe(self) -> Recipe:
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
        found = {curve.where[2:]: curve for curve in curves(self._recipe(), "bolt")}
        self.assertEqual(
            set(found),
            {("source", "boil"), ("source", "width"), ("source", "end"), ("source", "edge"),
             ("steps", "g", "threshold"), ("opacity",), ("at",)},
        )  # fmt: skip
        self.assertEqual(found[("at",)].where, ("points", "far", "at"))
        width = found["source", "width"]
        self.assertEqual(width.frames, [float(frame) for frame in range(1, 51)])
        values = np.array(width.values)[:, 0]
        np.testing.assert_allclose(values[[0, 9, 14, 19, 49]], [2, 2, 7, 12, 12])
        self.assertEqual(found["source", "end"].values[10], (110.0, 50.0))
        np.testing.assert_allclose(found["source", "edge"].values[9], (0.9, 0.9, 0.9))
        self.assertAlmostEqual(found["steps", "g", "threshold"].values[10][0], 2)

    def test_opacity_without_the_life(self) -> None:
        """The layer's own opacity, in percent, as it is written and edited."""
        curve = next(c for c in curves(self._recipe(), "bolt") if c.where[-1] == "opacity")
        values = [value for (value,) in curve.values]
        self.assertAlmostEqual(max(values), 80, delta=2)
        self.assertAlmostEqual(min(values), 20, delta=2)

    def test_they_are_what_the_source_gets(self) -> None:
        recipe = self._recipe()
        width = next(c for c in curves(recipe, "bolt") if c.where[-1] == "width")
        shaken = next(c for c in curves(recipe, "bolt") if c.where[-1] == "boil")
        resolver = Resolver(recipe)
        for frame in (3, 13, 33):
            source: Any = resolver.source(recipe.layers[0], Take.of(frame))
            self.assertAlmostEqual(source.width, width.values[frame - 1][0])
            self.assertAlmostEqual(source.boil, shaken.values[frame - 1][0])
        self.assertGreater(len({value for (value,) in shaken.values}), 20)

    def test_a_long_shot_is_thinned(self) -> None:
        data = {
            "version": 3, "name": "Long", "canvas": {"first": 1, "last": 6000},
            "layers": [{"id": "a", "name": "A", "source": {"kind": "bolt"}}],
        }  # fmt: skip
        for curve in curves(read_recipe(data), "a"):
            self.assertEqual(len(curve.frames), 600)

    def test_wherever_it_is(self) -> None:
        """In limits of layers and of steps, in several alike, in the finish, and in what is named: a
        lane each, with the numbers that the picture is made with."""
        ramp = {"moves": "rate", "start": 10, "per_second": 25}
        place = {"moves": "rate", "start": [0, 0], "per_second": [25, 0]}
        limit = {"kind": "ellipse", "width": ramp}
        glow = {
            "kind": "glow",
            "id": "g",
            "lobes": [{"radius": 3}, {"radius": ramp}],
            "limits": [limit],
        }
        sway = {
            "name": "wind",
            "amount": ramp,
            "pins": [{"at": {"moves": "follow", "point": "pin"}}],
        }
        path = {"name": "way", "vertices": [{"at": [0, 0]}, {"at": place}]}
        layer = bolt_layer(steps=[glow], sway="wind", path="way") | {"limits": [limit]}
        recipe = small(
            layer, sways=[sway], paths=[path], points=[{"name": "pin", "at": place}],
            finish=[{"kind": "exposure", "id": "e", "stops": {"moves": "rate", "start": 0, "per_second": 1}}],
        )  # fmt: skip
        found = {
            curve.where: curve for curve in curves(recipe, "bolt") if curve.where[-1] != "boil"
        }
        self.assertEqual(
            list(found)[1:],
            [("layers", "bolt", "steps", "g", "lobes", 1, "radius"),
             ("layers", "bolt", "steps", "g", "limits", 0, "width"), ("layers", "bolt", "limits", 0, "width"),
             ("paths", "way", "vertices", 1, "at"), ("sways", "wind", "amount"), ("sways", "wind", "pins", 0, "at"), ("points", "pin", "at")],
        )  # fmt: skip
        for where, curve in list(found.items())[1:]:
            self.assertEqual(curve.values[25][0], 25 + (10 if where[-1] != "at" else 0), where)
        says = found["layers", "bolt", "steps", "g", "lobes", 1, "radius"].says
        self.assertEqual(says, "glow: lobe 2, radius")
        [lifted] = curves(recipe, None)
        self.assertEqual((lifted.where, lifted.values[25]), (("finish", "e", "stops"), (1.0,)))

    def test_no_such_layer(self) -> None:
        with self.assertRaises(PlanError):
            curves(self._recipe(), "none")
