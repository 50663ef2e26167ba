"""Blends and cover against Porter and Duff 1984."""

from unittest import TestCase

import numpy as np

from handful.engine.mix import Part, mixed, with_cover
from handful.engine.picture import Region, Tile


def _mixed(below: np.ndarray, above: np.ndarray, blend: str, opacity: float = 1.0) -> np.ndarray:
    region = Region(0, 0, below.shape[1], below.shape[0])
    under, over = Tile(below, region), Tile(above, region)
    return mixed([Part(under, "normal", 1.0), Part(over, blend, opacity)], region).pixels


class Blends(TestCase):
    def setUp(self) -> None:
        random = np.random.default_rng(4)
        cover = random.random((2, 40, 50, 1), np.float32)
        light = random.random((2, 40, 50, 3), np.float32) * cover
        self.below, self.above = np.concatenate([light, cover], axis=3)

    def test_over(self) -> None:
        """Porter and Duff, table: A over B is F_A = 1, F_B = 1 - alpha_A, premultiplied."""
        wanted = self.above + self.below * (1 - self.above[..., 3:])
        np.testing.assert_allclose(_mixed(self.below, self.above, "normal"), wanted, atol=1e-6)

    def test_plus(self) -> None:
        """Porter and Duff, table: A plus B is F_A = F_B = 1; cover ends at 1, light does not."""
        wanted = self.above + self.below
        wanted[..., 3] = np.minimum(wanted[..., 3], 1)
        np.testing.assert_allclose(_mixed(self.below, self.above, "add"), wanted, atol=1e-6)

    def test_opacity_is_dissolve(self) -> None:
        """Porter and Duff: dissolve multiplies all four by the amount before the blend."""
        for blend in ("normal", "add"):
            whole = _mixed(self.below, self.above * np.float32(0.3), blend)
            part = _mixed(self.below, self.above, blend, 0.3)
            np.testing.assert_allclose(part, whole, atol=1e-6)

    def test_only_where_the_layer_is(self) -> None:
        """A layer on a part of the canvas leaves the rest to the bit."""
        region, corner = Region(0, 0, 50, 40), Region(40, 30, 70, 60)
        part = Part(Tile(np.ones((30, 30, 4), np.float32), corner), "normal", 1.0)
        pixels = mixed([Part(Tile(self.below, region), "normal", 1.0), part], region).pixels
        np.testing.assert_array_equal(pixels[:30], self.below[:30])
        np.testing.assert_array_equal(pixels[30:, 40:], 1)


class Cover(TestCase):
    def test_rules(self) -> None:
        """Definitions: at least the brightest channel up to 1; 1 on black; as it is."""
        picture = np.array([[[0.2, 0.7, 0.1, 0.3], [3, 1, 0, 0], [0, 0, 0, 0.4]]], np.float32)
        covers = with_cover(picture, "from light")[0, :, 3]
        np.testing.assert_allclose(covers, [0.7, 1.0, 0.4])
        np.testing.assert_array_equal(with_cover(picture, "solid")[0, :, 3], 1)
        self.assertIs(with_cover(picture, "as drawn"), picture)
        np.testing.assert_array_equal(with_cover(picture, "from light")[..., :3], picture[..., :3])
