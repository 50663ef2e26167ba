"""Open water: what it mirrors and where, as optics has it; the same at any scale and after it returns."""

import math
from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.kernels.drawing.sea.draw import sea_offsets
from handful.engine.kernels.drawing.sea.light import mirrored
from handful.engine.kernels.drawing.sea.looks import Water as Square
from handful.engine.kernels.drawing.sea.squares import Eye, sizes_of
from handful.engine.kernels.drawing.sea.standing import heights_of
from handful.engine.picture import Region
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


class White(TestCase):
    DARK: dict[str, Any] = {"sky_light": -16, "body_light": -16, "lamp_light": -20, "mist": 0,
                            "foam_colour": "#ffffff", "foam_light": 0}  # fmt: skip

    def test_as_much_as_is_said(self) -> None:
        """Near by and far away, at full size and small, new foam covers as much of the water as is said: in the mean over
        moments far apart. What is left of it comes to that."""
        for foam in (2, 20):
            made = recipe(
                **self.DARK, foam=foam, foam_lasts=0, steep=10, longest=4, lens=200, eye=3
            )
            for scale in (1.0, 0.5):
                pictures = [render_frame(made, frame, scale)[..., 0] for frame in (1, 17, 33, 49)]
                whole = np.mean(pictures, axis=0)
                rows = len(whole)
                for part in (
                    slice(int(0.42 * rows), int(0.6 * rows)),
                    slice(int(0.6 * rows), rows),
                ):
                    with self.subTest(foam=foam, scale=scale, part=part):
                        found = 100 * float(whole[part].mean())
                        self.assertAlmostEqual(found / foam, 1, delta=0.45)

    def test_none(self) -> None:
        """Without foam, or on still water with little of it, there is none; it hides what is mirrored."""
        self.assertLess(render_frame(recipe(**self.DARK), 1)[..., 0].max(), 1e-3)
        self.assertLess(render_frame(recipe(**self.DARK, foam=1, steep=0), 1)[..., 0].max(), 1e-3)
        bright = {"sky_light": 3, "sky_low": "#ffffff", "sky_high": "#ffffff", "mist": 0, "steep": 20, "longest": 4}  # fmt: skip
        black = {"foam_light": -16, "foam_lasts": 0}
        water, foamy = (
            render_frame(recipe(**bright, **black, foam=foam), 5)[100:, :, 0] for foam in (0, 40)
        )
        self.assertLess(foamy.mean(), 0.75 * water.mean())
        self.assertGreaterEqual(foamy.min(), 0)

    def test_as_little_as_a_move_comes_to(self) -> None:
        """What rises from nothing passes the smallest numbers that there are: no foam is seen then, and at its most it is."""
        for foam in (5e-324, 1e-17, 1e-12, 1e-6):
            made = recipe(**self.DARK, foam=foam, steep=10)
            self.assertLess(render_frame(made, 1)[..., 0].max(), 0.05)
        most = render_frame(recipe(**self.DARK, foam=60, steep=10), 1)
        self.assertTrue(np.isfinite(most).all())
        self.assertGreater(most[100:, :, 0].mean(), 0.3)

    def test_it_stays_behind_a_crest(self) -> None:
        """What lasts longer is more alike a while later, and more of it is seen; with a shot that returns it is the same
        again."""
        alike = []
        for lasts in (0.1, 4.0):
            made = recipe(**self.DARK, foam=10, foam_lasts=lasts, steep=12, longest=3, eye=4)
            first, later = (render_frame(made, frame)[90:, :, 0].ravel() for frame in (20, 32))
            alike.append(np.corrcoef(first, later)[0, 1])
        self.assertGreater(alike[1], alike[0] + 0.1)
        made = recipe(**self.DARK, foam=10, foam_lasts=0.7, steep=12, longest=3, eye=4, returns=1)
        first, half, again = (render_frame(made, frame)[..., 0] for frame in (1, 13, 26))
        np.testing.assert_allclose(again, first, atol=1e-5)
        self.assertGreater(np.abs(half - first).max(), 0.1)


class Moves(TestCase):
    def test_as_rays_are_thrown_back(self) -> None:
        """By vectors, d - 2 (d · n) n: on an even slope each px's ray meets the far off picture where that says, and on
        none where still water has it."""
        eye = Eye(160.0, 70.0, 300.0, 2.0, 12.0)
        region = Region(0, 0, 320, 180)
        level = heights_of(np.zeros((64, 64), np.float32))
        for slope, ripples in (((0.0, 0.0), 0.0), ((0.04, 0.0), 0.0), ((0.0, 0.05), 0.0), ((-0.02, 0.03), 1.0)):  # fmt: skip
            square = np.broadcast_to(np.array(slope, np.float32), (64, 64, 2)).copy()
            turned = complex(*slope) * complex(math.cos(1.1), -math.sin(1.1))
            sx, sz = 0.8 * np.array(slope) + 0.6 * np.array([turned.real, turned.imag])
            found = sea_offsets(Square(sizes_of(square), level, ripples), eye, 1.0, region)
            normal = np.array([-sx, 1, -sz]) / math.sqrt(1 + sx * sx + sz * sz)
            for x, y in ((160, 100), (20, 150), (300, 90)):
                ray = np.array([x + 0.5 - 160, -(y + 0.5 - 70), 300.0])
                met = ray - 2 * (ray @ normal) * normal
                wanted = 300 * met[:2] / met[2] - (ray[0], -ray[1])
                with self.subTest(slope=slope, at=(x, y)):
                    moved = found.within(region)[y, x]
                    np.testing.assert_allclose(moved, (wanted[0], -wanted[1]), atol=0.02)

    def test_half_as_large(self) -> None:
        """At half size the same in px of the full one; nothing above the horizon."""
        made = recipe(comes_as="offsets", steep=6, longest=12, finest=2)
        whole, half = (render_frame(made, 9, scale) for scale in (1.0, 0.5))
        self.assertEqual(whole.shape, (180, 320, 2))
        self.assertEqual(np.abs(whole[:69]).max(), 0)
        small = cv2.resize(whole, (160, 90), interpolation=cv2.INTER_AREA)
        near = slice(60, 90)
        self.assertGreater(np.corrcoef(half[near].ravel(), small[near].ravel())[0, 1], 0.97)


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
            self.assertAlmostEqual(float(square) + float(lost.mean()), whole, places=6)
        self.assertEqual(float(sizes.lost[0].max()), 0)

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
