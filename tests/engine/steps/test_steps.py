"""Single steps against reference libraries and closed forms."""

from unittest import TestCase

import numpy as np
from scipy.ndimage import gaussian_filter

from handful.engine.colour.transfer import Colour
from handful.engine.kinds import At
from handful.engine.picture import Region, Tile, blank
from handful.engine.steps.blur.blur import Blur
from handful.engine.steps.colour.exposure import Exposure
from handful.engine.steps.matte.light_from_cover import LightFromCover


def _tile() -> Tile:
    region = Region(-20, 10, 70, 80)
    picture = blank(region)
    picture[25:45, 30:60] = np.random.default_rng(2).random((20, 30, 4), np.float32)
    return Tile(picture, region)


class Blurring(TestCase):
    def test_as_scipy(self) -> None:
        """scipy.ndimage.gaussian_filter of light and cover alike, at a place off the corner."""
        tile = _tile()
        for deviation in (0.7, 3.0, 7.5):
            result = Blur(deviation=deviation).apply(tile, At(tile.region, 1.0, ()))
            for channel in range(4):
                plane = tile.pixels[..., channel].astype(float)
                wanted = gaussian_filter(plane, deviation, mode="constant", truncate=6)
                got = result.within(tile.region)[..., channel]
                self.assertLess(float(np.abs(got - wanted).max()), 0.01 * wanted.max())

    def test_spills_over_its_tile(self) -> None:
        """What is asked for around the tile holds the light that spilled there."""
        tile = _tile()
        wide = tile.region.grown(40)
        result = Blur(deviation=8.0).apply(tile, At(wide, 1.0, ()))
        self.assertAlmostEqual(float(result.pixels.sum() / tile.pixels.sum()), 1, delta=1e-3)

    def test_nothing_to_do(self) -> None:
        """No deviation is no change, and no margin."""
        tile = _tile()
        self.assertIs(Blur(deviation=0.0).apply(tile, At(tile.region, 1.0, ())), tile)
        self.assertEqual(Blur(deviation=0.0).reach(), 0)


class Exposing(TestCase):
    def test_stops(self) -> None:
        """Definition: one stop doubles the light; cover stays; minus one undoes it to the bit."""
        tile = _tile()
        at = At(tile.region, 1.0, ())
        brighter = Exposure(stops=1.0).apply(tile, at)
        np.testing.assert_array_equal(brighter.pixels[..., :3], 2 * tile.pixels[..., :3])
        np.testing.assert_array_equal(brighter.pixels[..., 3], tile.pixels[..., 3])
        back = Exposure(stops=-1.0).apply(brighter, at)
        np.testing.assert_array_equal(back.pixels, tile.pixels)


class Covering(TestCase):
    def test_light_from_cover(self) -> None:
        """Each channel is that of the colour, times the light and the cover; what was there of light is gone."""
        step = LightFromCover(colour=Colour(0.5, 0.25, 0.125), light=1.0)
        region = Region(0, 0, 4, 1)
        rows = np.full((1, 4, 4), 7.0, np.float32)
        rows[0, :, 3] = (0.0, 0.25, 0.5, 1.0)
        found = step.apply(Tile(rows, region), At(region, 1.0, ("seed",))).pixels
        expected = rows[..., 3:] * np.array([1.0, 0.5, 0.25], np.float32)
        np.testing.assert_allclose(found[..., :3], expected, rtol=1e-6)
        np.testing.assert_array_equal(found[..., 3], rows[..., 3])
