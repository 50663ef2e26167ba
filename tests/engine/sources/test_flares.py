"""Flares against the optics they stand for."""

from typing import Any
from unittest import TestCase

import numpy as np
from scipy.special import j1

from handful.engine import Recipe, read_recipe, render_frame
from handful.engine.kernels.drawing.aperture import diffracted, opening, star
from tests.engine.recipes import small

SIZE = 320


def _flare(*layers: dict[str, Any], **settings: object) -> Recipe:
    source = {
        "kind": "flare", "at": [160, 160], "light": 2, "hot": 0, "halo_light": -20, "across": 0,
        "down": 0, "ring_light": -20, "star_light": -20, "ghosts": 0, "dirt": -20, "turn": 0,
    } | settings  # fmt: skip
    canvas = {"width": SIZE, "height": SIZE, "first": 1, "last": 3}
    all_layers = [{"id": "flare", "name": "Flare", "source": source}, *layers]
    return read_recipe({"version": 3, "name": "A", "canvas": canvas, "layers": all_layers})


def _around(light: np.ndarray, near: float, far: float) -> np.ndarray:
    """Mean light between two radii in each of 720 directions."""
    middle = light.shape[0] // 2
    angles = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    radii = np.linspace(near, far, 200)
    x = np.rint(middle + radii[:, None] * np.cos(angles)).astype(int)
    y = np.rint(middle + radii[:, None] * np.sin(angles)).astype(int)
    return light[y, x].mean(axis=0)


def _spikes(light: np.ndarray, near: float, far: float) -> int:
    smooth = _around(light, near, far)
    smooth = np.convolve(np.r_[smooth[-3:], smooth, smooth[:3]], np.ones(7) / 7, "valid")
    high = smooth > 0.35 * smooth.max()
    return int(np.count_nonzero(high & ~np.roll(high, 1)))


class Star(TestCase):
    def test_spikes_of_an_aperture(self) -> None:
        """Fraunhofer diffraction: n straight blades make n spikes for even n, 2n for odd n."""
        for blades in (3, 4, 5, 6, 7, 8, 10):
            with self.subTest(blades=blades):
                wanted = blades if blades % 2 == 0 else 2 * blades
                one = diffracted(opening(blades, 1024, 96))
                self.assertEqual(_spikes(one, 40, 200), wanted)
                self.assertEqual(_spikes(star(blades)[..., 1], 40, 200), wanted)

    def test_spikes_lie_along_the_normals_of_the_blades(self) -> None:
        """A corner points right, so the first blade's normal is half a blade's angle round."""
        around = _around(star(6)[..., 1], 40, 200)
        self.assertAlmostEqual(float(around[:120].argmax()) / 2, 30, delta=1)

    def test_round_aperture_makes_airys_pattern(self) -> None:
        """Airy 1835: (2 J1(x) / x)^2 with its first dark ring at x = 3.8317; many blades are round."""
        radius, size = 60.0, 1024
        light = diffracted(opening(64, size, radius))
        row = light[size // 2, size // 2 :]
        x = 2 * np.pi * radius * np.arange(size // 2) / size
        wanted = np.ones_like(x)
        wanted[1:] = (2 * j1(x[1:]) / x[1:]) ** 2
        np.testing.assert_allclose(row[:40], wanted[:40], atol=0.004)

    def test_red_reaches_farther_than_blue(self) -> None:
        """Diffraction goes with the wavelength."""
        table = star(6)
        middle = table.shape[0] // 2
        y, x = np.mgrid[: table.shape[0], : table.shape[1]] - middle
        spread = [(table[..., c] * np.hypot(x, y)).sum() / table[..., c].sum() for c in range(3)]
        self.assertGreater(spread[0], spread[1])
        self.assertGreater(spread[1], spread[2])

    def test_in_a_picture(self) -> None:
        """The star of the aperture asked for is what the flare shows."""
        for blades, wanted in ((5, 10), (6, 6)):
            picture = render_frame(_flare(blades=blades, star=150, star_light=6), 1)
            self.assertEqual(_spikes(picture[..., 1], 24, 110), wanted)


class Parts(TestCase):
    def test_streak_runs_across_or_down(self) -> None:
        for name, axis in (("across", 1), ("down", 0)):
            picture = render_frame(_flare(**{name: 200, "streak_light": 0}), 1)[..., 2]
            lit = picture > 0.01
            self.assertGreater(int(lit.any(axis=1 - axis).sum()), 100)
            self.assertLess(int(lit.any(axis=axis).sum()), 30)

    def test_ring_has_its_radius(self) -> None:
        """Definition: brightest at its radius, and red outside blue by the dispersion."""
        picture = render_frame(_flare(ring=90, ring_width=4, ring_light=0, dispersion=10), 1)
        row = picture[160, 160:]
        self.assertAlmostEqual(int(row[:, 1].argmax()), 90, delta=1)
        self.assertAlmostEqual(int(row[:, 0].argmax()), 99, delta=1)
        self.assertAlmostEqual(int(row[:, 2].argmax()), 81, delta=1)

    def test_ghosts_lie_on_the_line_through_the_middle(self) -> None:
        """Images of the aperture fall on the line from the point through the optical axis."""
        at = [60, 110]
        picture = render_frame(_flare(at=at, ghosts=5, ghost_size=14, ghost_light=0), 1)[..., 1]
        y, x = np.nonzero(picture > 0.05)
        along = np.array([160 - at[0], 160 - at[1]]) / np.hypot(160 - at[0], 160 - at[1])
        off = np.abs((x + 0.5 - 160) * along[1] - (y + 0.5 - 160) * along[0])
        self.assertGreater(len(off), 100)
        self.assertLess(float(off.max()), 14 * 1.2)

    def test_covers_nothing(self) -> None:
        """It is light: cover is nothing anywhere."""
        recipe = _flare(hot=10, halo_light=-3, star_light=4, ghosts=4)
        picture = render_frame(recipe, 1)
        self.assertEqual(float(picture[..., 3].max()), 0)
        self.assertGreater(float(picture[160, 160, :3].min()), 2)

    def test_a_stop_is_a_factor_of_two(self) -> None:
        dim, bright = (render_frame(_flare(hot=10, light=stops), 1) for stops in (1, 2))
        np.testing.assert_allclose(bright, 2 * dim, rtol=1e-5)


class Hiding(TestCase):
    def _seen(self, x: float) -> float:
        """The flare's light when a wall covers all to the right of x."""
        wall = {
            "id": "wall", "name": "Wall", "on": False,
            "source": {"kind": "beam", "start": [x + 200, -50], "end": [x + 200, 400], "width": 400,
                       "far_width": 400, "feather": 0, "sheath_light": -12, "uneven": 0, "rough": 0},
        }  # fmt: skip
        return float(render_frame(_flare(wall, hot=10, behind="wall"), 1)[..., :3].sum())

    def test_hides_behind_a_matte(self) -> None:
        """All of it shows beside the wall, half at its edge, and nothing behind it."""
        whole = float(render_frame(_flare(hot=10), 1)[..., :3].sum())
        self.assertAlmostEqual(self._seen(200) / whole, 1.0, places=4)
        self.assertAlmostEqual(self._seen(160) / whole, 0.5, delta=0.04)
        self.assertEqual(self._seen(100), 0)


class Flash(TestCase):
    def test_half_at_its_radius(self) -> None:
        """Definition; and the fall beyond is that of a point over a plane, (1 + r^2)^(-3/2)."""
        source = {"kind": "flash", "at": [160, 160], "everywhere": -20, "near": 0, "radius": 50,
                  "colour": "#ffffff"}  # fmt: skip
        recipe = _flare()
        layer = recipe.layers[0].model_copy(
            update={"source": read_recipe({"version": 3, "name": "F", "layers": [
                {"id": "f", "name": "F", "source": source}]}).layers[0].source}
        )  # fmt: skip
        picture = render_frame(recipe.model_copy(update={"layers": [layer]}), 1)
        row = np.interp([160, 210, 260], np.arange(SIZE) + 0.5, picture[160, :, 1])
        reach = 50 / np.sqrt(2 ** (2 / 3) - 1)
        wanted = [(1 + (r / reach) ** 2) ** -1.5 for r in (0, 50, 100)]
        np.testing.assert_allclose(row, wanted, atol=0.003)
        self.assertAlmostEqual(wanted[1], 0.5)
        self.assertEqual(float(picture[..., 3].max()), 0)

    def test_patches_only_darken(self) -> None:
        """Uneven by so much, no place is darker than that leaves, some come near it, and none is brighter."""
        for uneven in (0, 30, 100):
            source = {"kind": "flash", "at": [160, 90], "everywhere": 0, "near": -20, "colour": "#ffffff",
                      "uneven": uneven, "size": 30, "boil": 0.4}  # fmt: skip
            layer = {"id": "f", "name": "F", "source": source, "steps": []}
            light = render_frame(small(layer), 1)[..., 1]
            with self.subTest(uneven=uneven):
                self.assertAlmostEqual(float(light.max()), 1, delta=0.001)
                self.assertAlmostEqual(float(light.min()), 1 - uneven / 100, delta=0.06)
