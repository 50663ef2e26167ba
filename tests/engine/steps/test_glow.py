"""Glow against closed forms of the normal curve."""

import math
from unittest import TestCase

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kinds import At
from handful.engine.picture import Region, Tile, blank
from handful.engine.steps.light.glow import Glow, GlowLobe

WHITE = Colour(1.0, 1.0, 1.0)


def _lobe(radius: float = 20.0, gain: float = 0.0, tint: Colour = WHITE) -> GlowLobe:
    return GlowLobe(radius=radius, gain=gain, tint=tint)


def _glow(*lobes: GlowLobe, **settings: float) -> Glow:
    """A glow of one lobe, unless told otherwise."""
    return Glow(lobes=lobes or (_lobe(),), **({"threshold": 0.0, "knee": 0.0} | settings))


def _spot(size: int = 401, light: float = 5.0) -> Tile:
    region = Region(0, 0, size, size)
    picture = blank(region)
    picture[size // 2, size // 2] = (light, light, light, 1)
    return Tile(picture, region)


def _applied(glow: Glow, tile: Tile, scale: float = 1.0) -> np.ndarray:
    return glow.apply(tile, At(tile.region, scale, ())).within(tile.region)


class Lobes(TestCase):
    def test_energy(self) -> None:
        """Closed form: each lobe adds the light it spreads, times its gain and tint, within 0.1 %."""
        glow = _glow(
            _lobe(gain=1.0, tint=Colour(1.0, 0.5, 0.25)), _lobe(40.0, -1.0), _lobe(3.0, -2.0)
        )
        tile = _spot()
        added = (_applied(glow, tile) - tile.pixels).sum((0, 1))
        wanted = [5 * (2 * tint + 0.75) for tint in (1.0, 0.5, 0.25)]
        np.testing.assert_allclose(added[:3], wanted, rtol=1e-3)

    def test_radius_holds_half(self) -> None:
        """Closed form: within r = sqrt(2 ln 2) deviations lies half of a normal lobe's energy."""
        tile = _spot()
        for radius in (3.0, 10.0, 35.0):
            lobe = (_applied(_glow(_lobe(radius)), tile) - tile.pixels)[..., 0]
            y, x = np.mgrid[:401, :401] - 200
            within = lobe[x**2 + y**2 <= radius**2].sum() / lobe.sum()
            self.assertAlmostEqual(within, 0.5, delta=0.03)

    def test_peak(self) -> None:
        """Closed form: the middle of a normal lobe of deviation s is 1 / (2 pi s^2)."""
        tile = _spot()
        deviation = 20 / math.sqrt(2 * math.log(2))
        lobe = (_applied(_glow(), tile) - tile.pixels)[..., 1]
        beside = lobe[200, 201] * math.exp(0.5 / deviation**2)
        self.assertAlmostEqual(beside * 2 * math.pi * deviation**2 / 5, 1, delta=0.012)

    def test_smallest_and_largest(self) -> None:
        """Radius 1 and 500 px both work, and neither makes light from nothing."""
        tile = _spot()
        for radius in (1.0, 500.0):
            added = _applied(_glow(_lobe(radius)), tile) - tile.pixels
            self.assertTrue(np.isfinite(added).all())
            self.assertGreater(float(added[..., 0].sum()), 0)
            self.assertLessEqual(float(added[..., 0].sum()), 5.01)


class Light(TestCase):
    def test_cover_stays(self) -> None:
        """Definition: glow is light; it hides nothing."""
        tile = _spot()
        np.testing.assert_array_equal(_applied(_glow(), tile)[..., 3], tile.pixels[..., 3])

    def test_threshold(self) -> None:
        """Only light above the threshold glows, and only by what it is above."""
        tile = _spot(light=3.0)
        np.testing.assert_array_equal(_applied(_glow(threshold=4.0), tile), tile.pixels)
        added = (_applied(_glow(threshold=1.0), tile) - tile.pixels)[..., 0].sum()
        self.assertAlmostEqual(float(added), 2.0, delta=0.01)

    def test_knee(self) -> None:
        """Closed form: a parabola from 0 half a knee below the threshold, that joins the line half
        a knee above: at the threshold itself it is an eighth of the knee."""
        glow = _glow(threshold=2.0, knee=1.0)
        for light, wanted in ((1.5, 0.0), (2.0, 0.125), (2.25, 0.28125), (2.5, 0.5), (4.0, 2.0)):
            tile = _spot(light=light)
            added = (_applied(glow, tile) - tile.pixels)[..., 0].sum()
            self.assertAlmostEqual(float(added), wanted, delta=0.003)

    def test_scale(self) -> None:
        """A radius is in px of the full canvas: at half scale it spreads half as many px."""
        tile = _spot()
        half = _applied(_glow(_lobe(20.0)), tile, scale=0.5)
        same = _applied(_glow(_lobe(10.0)), tile)
        np.testing.assert_allclose(half, same, atol=1e-7)

    def test_input_is_left_alone(self) -> None:
        """A step may not write into what it was given: others hold it in their cache."""
        tile = _spot()
        tile.pixels.flags.writeable = False
        before = tile.pixels.copy()
        _applied(_glow(), tile)
        np.testing.assert_array_equal(tile.pixels, before)
