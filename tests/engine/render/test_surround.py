"""What lies so far off that it is only seen blurred is made from a coarser picture."""

from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Recipe
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

        self.assertEqual(len(near(1.4) & near(1.8)), 4)


def _keys(node: Node) -> list[str]:
    return [node.key, *(key for before in node.inputs for key in _keys(before))]
