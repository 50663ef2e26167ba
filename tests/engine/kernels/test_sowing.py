"""Places taken from a picture: evenly by area, along its edge, by its light."""

from unittest import TestCase

import numpy as np
from scipy.stats import chisquare

from handful.engine.kernels.forms.sowing import Sown, sow
from handful.engine.picture import Region, Tile

REGION = Region(-10, 5, 150, 125)
ACROSS, DOWN = np.meshgrid(np.arange(-10, 150) + 0.5, np.arange(5, 125) + 0.5)
FAR = np.hypot(ACROSS - 70, DOWN - 65)
SCALE = 0.5


def picture(cover: np.ndarray, light: np.ndarray | float = 0.0) -> Tile:
    pixels = np.zeros((*cover.shape, 4), np.float32)
    pixels[..., :3], pixels[..., 3] = np.asarray(light)[..., None], cover
    return Tile(pixels, REGION)


def taken(sown: Sown, count: int = 20_000) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    chance = np.random.default_rng(3)
    return sown.at(chance.random(count), chance.random(count))


class Places(TestCase):
    def test_even_by_area(self) -> None:
        """On a disc: radii squared and angles are even (chi-square at 1 %), and none is outside."""
        places, _, _ = taken(sow(picture((FAR < 40).astype(float)), SCALE, "cover"))
        away = (places - (140, 130)) / 80
        far, angle = np.hypot(*away.T), np.arctan2(away[:, 1], away[:, 0])
        self.assertLess(far.max(), 1.02)
        for share in (far**2 / 1.001, angle / 2 / np.pi + 0.5):
            counts, _ = np.histogram(np.minimum(share, 0.9999), 12, (0, 1))
            self.assertGreater(chisquare(counts).pvalue, 0.01)

    def test_along_an_edge(self) -> None:
        """Within two and a half px of it, all round alike, and outwards is away from the middle."""
        places, outward, _ = taken(sow(picture(np.clip(40.5 - FAR, 0, 1)), SCALE, "edge"))
        away = places - (140, 130)
        np.testing.assert_allclose(np.hypot(*away.T), 80, atol=5)
        angle = np.arctan2(away[:, 1], away[:, 0])
        counts, _ = np.histogram(angle, 8, (-np.pi, np.pi))
        self.assertLess(counts.max() / counts.min(), 1.15)
        apart = np.angle(np.exp(1j * (outward - angle)))
        self.assertLess(np.percentile(np.abs(apart), 98), 0.12)

    def test_by_light(self) -> None:
        """Where it is four times as bright, four times as many; what has no light but cover has none."""
        light = np.where(ACROSS < 70, 8.0, 2.0) * (FAR < 40)
        places, _, _ = taken(sow(picture((FAR < 60).astype(float), light), SCALE, "light"))
        left = float((places[:, 0] < 140).mean())
        self.assertAlmostEqual(left, 0.8, delta=0.01)
        self.assertLess(np.hypot(*(places - (140, 130)).T).max(), 82)

    def test_light_of_any_strength(self) -> None:
        """Up to 65,000 of it are places; it counts no more than 64 times white."""
        light = np.where(ACROSS < 70, 65_000.0, 64.0) * (FAR < 40)
        places, _, _ = taken(sow(picture(np.zeros(FAR.shape), light), SCALE, "light"))
        self.assertAlmostEqual(float((places[:, 0] < 140).mean()), 0.5, delta=0.01)

    def test_colours(self) -> None:
        """As what covers a place is, however thin it is there; light that covers nothing is as bright as it is."""
        picture = np.zeros((4, 8, 4), np.float32)
        picture[:, :4] = np.array([3.0, 1.0, 0.0, 1.0], np.float32) * 0.25
        picture[:, 4:] = (0.0, 20.0, 5.0, 0.0)
        sown = sow(Tile(picture, Region(0, 0, 8, 4)), 1.0, "cover")
        shares = (np.arange(100) + 0.5) / 100
        places, _, colours = sown.at(shares, shares)
        left = places[:, 0] < 4
        np.testing.assert_allclose(colours[left], [[1, 1 / 3, 0]] * left.sum(), atol=1e-6)
        np.testing.assert_allclose(colours[~left], [[0, 20, 5]] * (~left).sum(), atol=1e-5)

    def test_nothing_to_take(self) -> None:
        nothing = sow(picture(np.zeros(FAR.shape)), SCALE, "cover")
        self.assertEqual(len(nothing.places), 0)
        empty = Tile(np.zeros((0, 0, 4), np.float32), Region(0, 0, 0, 0))
        self.assertEqual(len(sow(empty, SCALE, "edge").places), 0)
