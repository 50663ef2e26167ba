"""Open water: what it mirrors and where, as optics has it; the same at any scale and after it returns."""

import math
from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.kernels.drawing.sea import mirrored, sizes_of
from handful.engine.sources.water import Water
from tests.engine.recipes import small

CALM = {"steep": 0, "mist": 0, "lamp_wide": 1.0}


def recipe(**settings: Any) -> Recipe:
    source = {
        "kind": "water", "at": [160, 70], "lens": 300, "lamp_at": [110, 40], "lamp_light": 6, **settings,
    }  # fmt: skip
    return small({"id": "w", "name": "W", "source": source})


def luminance(picture: np.ndarray) -> np.ndarray:
    return picture[..., :3] @ np.array([0.2126, 0.7152, 0.0722], np.float32)


class Optics(TestCase):
    def test_what_is_reflected(self) -> None:
        """Fresnel's equations for water, which Schlick's is within 0.06 of up to 85 degrees; with waves too
        small to be seen less of what comes from far aside (Bruneton, Neyret and Holzschuch 2010)."""
        n = 1.333
        for degrees in (0, 20, 40, 60, 75, 85):
            turn = math.radians(degrees)
            within = math.sqrt(1 - (math.sin(turn) / n) ** 2)
            across = ((math.cos(turn) - n * within) / (math.cos(turn) + n * within)) ** 2
            along = ((within - n * math.cos(turn)) / (within + n * math.cos(turn))) ** 2
            self.assertAlmostEqual(mirrored(math.cos(turn), 0.0), (across + along) / 2, delta=0.06)
        self.assertLess(mirrored(0.05, 0.2), 0.6 * mirrored(0.05, 0.0))
        self.assertAlmostEqual(mirrored(1.0, 0.2), mirrored(1.0, 0.0), delta=0.002)

    def test_still_water_is_a_mirror(self) -> None:
        """A lamp is seen as far below the horizon as it stands above, and straight below itself."""
        for lamp in ((110, 40), (230, 20), (160, 55)):
            light = luminance(render_frame(recipe(**CALM, lamp_at=list(lamp)), 1))
            y, x = np.unravel_index(np.argmax(light), light.shape)
            self.assertAlmostEqual(float(x), lamp[0] - 0.5, delta=1.5)
            self.assertAlmostEqual(float(y), 140 - lamp[1] - 0.5, delta=2.5)

    def test_waves_draw_the_lamp_out(self) -> None:
        """The steeper, the longer the way of glitter towards the eye; all its light is below the horizon."""
        heights = []
        for steep in (2, 6, 12):
            dark = {"sky_light": -16, "body_light": -16, "mist": 0}
            light = luminance(render_frame(recipe(**dark, steep=steep), 1))
            rows = np.minimum(light, 4).sum(axis=1)
            self.assertLess(float(rows[:69].sum()), 1e-6)
            down = np.arange(len(rows))
            middle = float((rows * down).sum() / rows.sum())
            heights.append(math.sqrt(float((rows * (down - middle) ** 2).sum() / rows.sum())))
        self.assertLess(heights[0], heights[1])
        self.assertLess(heights[1], heights[2])

    def test_the_sky_in_it(self) -> None:
        """Far away still water is as bright as the sky low down, near by it shows its own colour."""
        settings = CALM | {"lamp_light": -20, "sky_low": "#ffffff", "sky_high": "#ffffff", "sky_light": 0, "body": "#00ff00", "body_light": 0, "lens": 60}  # fmt: skip
        picture = render_frame(recipe(**settings), 1)
        for row in (71, 90, 179):
            facing = math.sin(math.atan2(row + 0.5 - 70, 60))
            with self.subTest(row=row):
                self.assertAlmostEqual(
                    float(picture[row, 160, 0]), mirrored(facing, 0.0), delta=0.02
                )
                self.assertAlmostEqual(float(picture[row, 160, 1]), 1, delta=0.02)


class Whole(TestCase):
    def test_slopes_lose_what_they_say(self) -> None:
        """Of the mean square of all slopes each size keeps a part, and says how much it does not."""
        slopes = np.random.default_rng(2).normal(0, 0.1, (64, 64, 2)).astype(np.float32)
        sizes = sizes_of(slopes)
        self.assertEqual(list(sizes.sides), [64, 32, 16, 8, 4, 2, 1])
        whole = float((slopes**2).mean(axis=(0, 1)).sum() / 2)
        for start, side, lost in zip(sizes.starts, sizes.sides, sizes.lost, strict=True):
            kept = sizes.slopes[start : start + (side + 1) ** 2].reshape(side + 1, side + 1, 2)
            np.testing.assert_array_equal(kept[-1], kept[0])
            np.testing.assert_array_equal(kept[:, -1], kept[:, 0])
            square = (kept[:-1, :-1].astype(float) ** 2).mean(axis=(0, 1)).sum() / 2
            self.assertAlmostEqual(float(square) + float(lost), whole, places=6)
        self.assertEqual(float(sizes.lost[0]), 0)

    def test_it_returns(self) -> None:
        """After as long as is said all is as it was, to the bit; before that it is not."""
        made = recipe(returns=1)
        first = render_frame(made, 1)
        np.testing.assert_array_equal(render_frame(made, 26), first)
        self.assertGreater(float(np.abs(render_frame(made, 13) - first).max()), 0.05)

    def test_below_its_horizon(self) -> None:
        """Covered there to the px's part, clear above; none where the horizon is below the picture."""
        cover = render_frame(recipe(at=[160, 70.25]), 1)[..., 3]
        self.assertEqual(float(cover[:69].max()), 0)
        self.assertEqual(float(cover[72:].min()), 1)
        self.assertEqual(render_frame(recipe(at=[160, 400]), 1).max(), 0)
        self.assertEqual(float(render_frame(recipe(at=[160, -60]), 1)[..., 3].min()), 1)

    def test_at_its_bounds(self) -> None:
        """At each end of each setting there is finite light, never below nothing."""
        for known in Water.settings:
            if known.type not in ("number", "whole"):
                continue
            for value in (known.least, known.most):
                with self.subTest(setting=known.name, value=value):
                    light = render_frame(recipe(**{known.name: value}), 2, 0.5)
                    self.assertTrue(np.isfinite(light).all())
                    self.assertGreaterEqual(float(light.min()), 0)
