"""The light that a layer sheds on what is around it, and what follows how bright it is."""

import os
from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.picture import MOST_LIGHT, Region, Tile, luminance
from handful.engine.recipe import RecipeError
from handful.engine.sources.spill import on_a_wall
from handful.engine.steps.light.lit_by import LitBy
from tests.engine.recipes import as_it_comes, small

LAMP: dict[str, Any] = {
    "id": "lamp", "name": "Lamp", "on": False, "source": {"kind": "noise", "comes_as": "light", "brightness": 100, "contrast": 0, "light": 2},
    "limits": [{"kind": "rectangle", "centre": [160, 90], "width": 32, "height": 16, "feather": 0}],
}  # fmt: skip


class OnePlate:
    """The same plate on every frame."""

    mark = "one"

    def __init__(self, levels: np.ndarray) -> None:
        self.levels = levels

    def plate(self, frame: int) -> "OnePlate":
        return self

    def read(self, width: int, height: int) -> np.ndarray:
        return self.levels


def recipe(lamp: dict[str, Any] | None = None, **settings: Any) -> Recipe:
    source = {"kind": "spill", "of": "lamp", "behind": 40, "gain": 0, "reaches": 400, **settings}
    spill = {"id": "spill", "name": "Spill", "source": source, "steps": [], "blend": "add"}
    return small(spill, {**LAMP, **(lamp or {})})


class Wall(TestCase):
    def test_all_of_it_comes(self) -> None:
        """What comes to all places together is what the lamp sheds; there and at no place below nothing."""
        for behind, reaches in ((2.0, 40), (30.0, 200), (300.0, 150)):
            found = on_a_wall(behind, reaches)
            self.assertAlmostEqual(float(found.sum()), 1, places=4)
            self.assertTrue((found >= 0).all())

    def test_falls_as_light_does(self) -> None:
        """By the inverse square of the way and the cosine at the wall: cos³ of the angle (Lambert 1760)."""
        found = on_a_wall(50.0, 200)
        for r in (10, 50, 120):
            cosine = 50 / np.hypot(50, r)
            self.assertAlmostEqual(
                float(found[200, 200 + r] / found[200, 200]), cosine**3, places=4
            )
            self.assertAlmostEqual(float(found[200 + r, 200]), float(found[200, 200 + r]), places=9)

    def test_nothing_beyond_its_reach(self) -> None:
        found = on_a_wall(50.0, 20)
        self.assertEqual(found[0, 0], 0)
        self.assertGreater(found[20, 0], 0)


class Falls(TestCase):
    def test_where_and_how_much(self) -> None:
        """Brightest behind the lamp, the same to all sides, and together about what it sheds on the canvas."""
        picture = render_frame(recipe(), 3)
        light = picture[..., 1]
        self.assertAlmostEqual(float(light[88:92, 156:164].mean() / light.max()), 1, delta=0.02)
        np.testing.assert_allclose(light, light[::-1], atol=2e-3 * light.max())
        np.testing.assert_allclose(light, light[:, ::-1], atol=2e-3 * light.max())
        self.assertEqual(float(picture[..., 3].max()), 0)
        shed = render_frame(small({**LAMP, "on": True}), 3)[..., 1].sum()
        lit = render_frame(recipe(behind=8, reaches=60), 3)[..., 1].sum()
        self.assertAlmostEqual(float(lit / shed), 1, delta=0.03)

    def test_the_farther_the_wider(self) -> None:
        near, far = (render_frame(recipe(behind=b), 3)[..., 1] for b in (20, 90))
        self.assertGreater(near.max(), 3 * far.max())
        self.assertGreater(far[5, 5], near[5, 5])

    def test_at_any_scale(self) -> None:
        """Half and a quarter size show the same (40 dB)."""
        whole = render_frame(recipe(), 3)[..., :3]
        for by in (2, 4):
            small_one = render_frame(recipe(), 3, 1 / by)[..., :3]
            means = whole.reshape(180 // by, by, 320 // by, by, 3).mean(axis=(1, 3))
            error = np.sqrt(((small_one - means) ** 2).mean()) / means.max()
            self.assertLess(20 * np.log10(error), -40)

    def test_a_brighter_lamp_and_a_stop(self) -> None:
        """In proportion, over the whole range of light; a stop is twice as much."""
        once = render_frame(recipe(), 3)
        np.testing.assert_allclose(render_frame(recipe(gain=1), 3), 2 * once, rtol=1e-4, atol=1e-7)
        bright = {**LAMP["source"], "light": 12}
        np.testing.assert_allclose(
            render_frame(recipe({"source": bright}), 3), 1024 * once, rtol=2e-3, atol=0.05
        )

    def test_in_the_brightest_light(self) -> None:
        """At the end of every setting there is light that a file can hold, and no more."""
        bright = {"source": {**LAMP["source"], "light": 12}}
        for settings in (
            {"gain": 16, "behind": 8},
            {"gain": 16, "behind": 20_000, "reaches": 20_000},
        ):
            found = render_frame(recipe(bright, **settings), 3)
            self.assertTrue(np.isfinite(found).all())
            self.assertLessEqual(float(found.max()), MOST_LIGHT)

    def test_on_the_plate(self) -> None:
        """Each place sends back as much of it as it is bright itself; without a plate nothing is there."""
        alike = render_frame(recipe(), 3)
        self.assertEqual(float(render_frame(recipe(falls_on="the plate"), 3).max()), 0)
        levels = np.zeros((180, 320, 3), np.uint8)
        levels[:, 160:] = 188
        lit = render_frame(recipe(falls_on="the plate"), 3, media=OnePlate(levels))
        self.assertEqual(float(lit[:, :160].max()), 0)
        share = ((188 / 255 + 0.055) / 1.055) ** 2.4
        np.testing.assert_allclose(lit[:, 160:], alike[:, 160:] * share, rtol=1e-3, atol=1e-6)

    def test_as_much_as_shows(self) -> None:
        """Half a lamp sheds half, and none does before it is lit; that it is off is for others to look at it."""
        whole = render_frame(recipe(), 3)
        np.testing.assert_allclose(render_frame(recipe({"opacity": 50}), 3), whole / 2, atol=1e-6)
        self.assertEqual(float(render_frame(recipe({"first": 4}), 3).max()), 0)
        np.testing.assert_array_equal(render_frame(recipe({"first": 3}), 3), whole)

    def test_of_nothing(self) -> None:
        self.assertEqual(float(render_frame(recipe(of=""), 3).max()), 0)
        dark = {"limits": [{"kind": "rectangle", "centre": [-900, 90], "width": 4, "height": 4, "feather": 0}]}  # fmt: skip
        self.assertEqual(float(render_frame(recipe(dark), 3).max()), 0)

    def test_the_same_on_any_threads(self) -> None:
        many = render_frame(recipe(), 3)
        with mock.patch.dict(os.environ, HANDFUL_THREADS="1"):
            np.testing.assert_array_equal(render_frame(recipe(), 3), many)


class Follows(TestCase):
    def lit(self, frame: float = 3, scale: float = 1.0, lamp: Any = None, **settings: Any) -> float:
        step = {"kind": "lit by", "id": "lit", "layer": "lamp", **settings}
        even = {"kind": "noise", "comes_as": "light", "brightness": 100, "contrast": 0}
        made = small(
            {"id": "tint", "name": "Tint", "source": even, "steps": [step], "blend": "add"},
            {**LAMP, **(lamp or {})},
        )
        return float(render_frame(made, frame, scale)[3, 3, 1])

    def mean(self) -> float:
        """Of the lamp, 32 by 16 px that are four eighths and two eighths of a small px wide."""
        return float(luminance(render_frame(small({**LAMP, "on": True}), 3)).sum()) / (320 * 184)

    def test_in_proportion(self) -> None:
        """As bright as the other is in the mean, of what is said; the same at any scale."""
        plain, mean = self.lit(amount=0), self.mean()
        for level in (2.0, 20.0):
            expected = plain * mean / (level / 100)
            for scale in (1.0, 0.5):
                self.assertAlmostEqual(self.lit(scale=scale, level=level) / expected, 1, delta=0.01)

    def test_in_the_mean_over_the_canvas(self) -> None:
        """However small the other's picture is: of what it is drawn on alone the mean would be many times as much."""
        spot = {
            "kind": "particles", "burst": 1, "rate": 0, "at": [80, 60], "speed": 0, "look": "a disc", "size": 24,
            "size_uneven": 0, "size_end": 100, "gravity": [0, 0], "light": 4, "light_uneven": 0, "comes": 0, "goes": 0,
        }  # fmt: skip
        lamp = {"source": spot, "limits": []}
        shed = luminance(render_frame(small({**LAMP, **lamp, "on": True}), 3)).sum() / (320 * 184)
        expected = self.lit(amount=0) * float(shed) / 0.02
        self.assertAlmostEqual(self.lit(lamp=lamp) / expected, 1, delta=0.03)

    def test_how_much(self) -> None:
        """Half as many stops, or twice as many; and no more than said."""
        plain, by = self.lit(amount=0), self.mean() / 0.02
        self.assertAlmostEqual(self.lit(amount=50) / plain, by**0.5, delta=0.01 * by)
        self.assertAlmostEqual(
            self.lit(amount=200, level=20) / plain, (by / 10) ** 2, delta=0.01 * by
        )
        self.assertAlmostEqual(self.lit(level=0.001, most=1) / plain, 2, delta=1e-3)

    def test_as_it_flickers(self) -> None:
        """A lamp that moves takes it along; where the lamp is out, there is nothing."""
        moving = {
            "source": {**LAMP["source"], "light": {"moves": "rate", "start": 0, "per_second": 25}}
        }
        early, late = self.lit(3, lamp=moving), self.lit(4, lamp=moving)
        self.assertAlmostEqual(late / early, 2, delta=0.02)
        self.assertEqual(self.lit(3, lamp={"last": 2}), 0)

    def test_how_much_of_it_shows(self) -> None:
        """Cover goes with it, never above what it is."""
        made = as_it_comes(LitBy, layer="lamp", follows="it shows", level=10.0)
        tile = Tile(np.full((4, 4, 4), 0.5, np.float32), Region(0, 0, 4, 4))
        for light, share in ((0.05, 0.5), (0.1, 1.0), (5.0, 1.0)):
            lamp = np.zeros((9, 9, 4), np.float32)
            lamp[..., :3] = light
            found = made.apply(tile, None, Tile(lamp, Region(0, 0, 9, 9)))  # type: ignore[arg-type]
            np.testing.assert_allclose(found.pixels, 0.5 * share, rtol=1e-5)

    def test_not_itself(self) -> None:
        with self.assertRaises(RecipeError):
            small({"id": "a", "name": "A", "source": {"kind": "flash"}, "steps": [{"kind": "lit by", "id": "l", "layer": "a"}]})  # fmt: skip
