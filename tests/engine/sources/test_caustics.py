"""Caustics: the light that is there, where it lies, and what a change computes again."""

from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Cache, render_frame
from handful.engine.recipe import Recipe
from handful.engine.sources import caustics
from tests.engine.recipes import small

PLAIN: dict[str, Any] = {"even": 0, "light": 0, "colour": "#ffffff"}


def recipe(**settings: Any) -> Recipe:
    source = {"kind": "caustics", "metre": 60, "at": [160, 90], **settings}
    return small({"id": "c", "name": "C", "source": source, "steps": []})


class Light(TestCase):
    def test_as_much_as_under_still_water(self) -> None:
        """Its mean over a square of water is 1, in each colour; with all even light left out it is less,
        and nowhere below nothing."""
        side = 6 * 0.5 * 60
        picture = render_frame(recipe(longest=0.5, finest=0.1, **PLAIN), 1)
        square = picture[:, 70 : 70 + round(side), :3]
        np.testing.assert_allclose(square.mean(axis=(0, 1)), 1, atol=0.04)
        without = render_frame(recipe(longest=0.5, finest=0.1, **PLAIN | {"even": 100}), 1)
        self.assertLess(without[..., 1].mean(), 0.8)
        self.assertEqual(without.min(), 0)
        self.assertEqual(without[..., 3].max(), 0)

    def test_blue_is_bent_more(self) -> None:
        """Apart only where they are spread; and a wider light is softer."""
        even = render_frame(recipe(spread=0, **PLAIN), 1)
        np.testing.assert_array_equal(even[..., 0], even[..., 2])
        spread = render_frame(recipe(spread=10, **PLAIN), 1)
        self.assertGreater(np.abs(spread[..., 0] - spread[..., 2]).mean(), 0.02)
        wide = render_frame(recipe(spread=0, wide=8, **PLAIN), 1)
        self.assertLess(wide[..., 0].std(), 0.7 * even[..., 0].std())

    def test_on_the_ground(self) -> None:
        """Nothing is above a horizon, nor below that of a ceiling."""
        for near, beyond in ((200, slice(0, 60)), (-200, slice(60, 180))):
            picture = render_frame(
                recipe(laid="on the ground", at=[160, 60], near=near, **PLAIN), 1
            )
            self.assertEqual(np.abs(picture[beyond]).max(), 0)
            self.assertGreater(picture.max(), 0.5)

    def test_it_returns(self) -> None:
        """After its time it is the same to the eye, and half way there it is not."""
        made = recipe(returns=1, **PLAIN)
        first, half, later = (render_frame(made, frame)[..., 1] for frame in (3, 16, 28))
        np.testing.assert_allclose(later, first, atol=1e-3)
        self.assertGreater(np.abs(half - first).mean(), 0.05)


class Height(TestCase):
    def test_as_high_as_they_are(self) -> None:
        """In px of the canvas, in proportion to a metre and the rise, and signed about nothing."""
        low = render_frame(recipe(comes_as="height"), 5)
        high = render_frame(recipe(comes_as="height", rise=300), 5)
        self.assertEqual(low.ndim, 2)
        np.testing.assert_allclose(high, 3 * low, rtol=1e-5, atol=1e-6)
        self.assertLess(low.min(), 0)
        self.assertGreater(low.max(), 0)


class Again(TestCase):
    def test_another_look_throws_no_ray_again(self) -> None:
        cache = Cache(1 << 28)
        render_frame(recipe(), 1, 1.0, cache)
        with mock.patch.object(caustics, "light_below", side_effect=AssertionError("again")):
            looks: list[dict[str, Any]] = [
                {"colour": "#ff0000"}, {"light": 2}, {"even": 10}, {"metre": 90}, {"at": [9, 9]},
            ]  # fmt: skip
            for look in looks:
                render_frame(recipe(**look), 1, 1.0, cache)
            with self.assertRaisesRegex(AssertionError, "again"):
                render_frame(recipe(depth=2), 1, 1.0, cache)
