"""What lies so far off that it is only seen blurred is made from a coarser picture."""

from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Recipe
from handful.engine.kernels.pixels.surround import surrounded
from handful.engine.picture import Region, Tile
from handful.engine.render import evaluate, plan
from handful.engine.render.cache import Cache
from handful.engine.render.nodes import Node
from handful.engine.steps.light.glow import Glow
from tests.engine.recipes import bolt_layer, small

GLOW = {
    "kind": "glow", "id": "glow", "lobes": [{"radius": 2}, {"radius": 60, "tint": "#4f86ff"}],
    "threshold": 0.5,
}  # fmt: skip


def _glowing(**more: Any) -> Recipe:
    noise = {"kind": "noise", "size": 60, "contrast": 90}
    return small({"id": "noise", "name": "noise", "source": noise, "steps": [GLOW]}, **more)


def _picture(node: Node) -> np.ndarray:
    return evaluate(node, Cache(0)).pixels


def _count(node: Node) -> int:
    return 1 + sum(_count(before) for before in node.inputs)


class Surrounded(TestCase):
    def test_each_px_is_that_of_the_coarse_one_over_it(self) -> None:
        """Against NumPy's `repeat`, on a region that begins before the canvas, with what is near in it."""
        chance = np.random.default_rng(1)
        far = Tile(chance.random((7, 9, 4), np.float32), Region(-3, -2, 6, 5))
        inner = Region(-5, 1, 11, 9)
        near = Tile(chance.random((6, 10, 4), np.float32), Region(-2, 2, 8, 8))
        region = Region(-10, -6, 21, 17)
        found = surrounded(near, inner, far, region, 4)
        enlarged = far.pixels.repeat(4, axis=0).repeat(4, axis=1)
        expected = Tile(enlarged, Region(-12, -8, 24, 20)).within(region).copy()
        Tile(expected, region).within(inner)[...] = near.within(inner)
        self.assertEqual(found.region, region)
        np.testing.assert_array_equal(found.pixels, expected)


class Margins(TestCase):
    def test_a_glow_hardly_tells(self) -> None:
        """At every scale within 60 dB of the picture whose margin is as fine as the rest; the margin is
        coarse there, or the two would be alike to the bit."""
        recipe = _glowing()
        for scale in (1.0, 0.5, 2.0):
            found = plan(recipe, 5, scale)
            with mock.patch.object(Glow, "coarser", return_value=(0, 1)):
                fine = plan(recipe, 5, scale)
            self.assertGreater(_count(found), _count(fine))
            one, other = _picture(found), _picture(fine)
            self.assertGreater(np.abs(one - other).max(), 0)
            error = np.sqrt(np.mean((one - other) ** 2))
            self.assertLess(20 * np.log10(error / other.max()), -60)

    def test_only_what_has_no_end(self) -> None:
        """A bolt costs by its length, not by the px that are asked for: it is not drawn twice."""
        found = plan(small(bolt_layer(steps=[GLOW])), 5)
        with mock.patch.object(Glow, "coarser", return_value=(0, 1)):
            self.assertEqual(plan(small(bolt_layer(steps=[GLOW])), 5).key, found.key)

    def test_a_wider_glow_leaves_what_is_near(self) -> None:
        """The source is asked for the same px while a narrow radius is dragged."""

        def near(radius: float) -> set[str]:
            lobes = [{"radius": radius}, {"radius": 60}]
            noise = {"kind": "noise", "size": 60}
            steps = [{"kind": "glow", "id": "glow", "lobes": lobes}]
            layer = {"id": "noise", "name": "noise", "source": noise, "steps": steps}
            return set(_keys(plan(small(layer), 5)))

        self.assertEqual(len(near(1.4) & near(1.8)), 5)


def _keys(node: Node) -> list[str]:
    return [node.key, *(key for before in node.inputs for key in _keys(before))]
