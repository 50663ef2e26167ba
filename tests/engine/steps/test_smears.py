"""Blurs along lines, zooms, turns, directions and apertures, against references and sums."""

import math
import tracemalloc
from unittest import TestCase

import numpy as np
from scipy.ndimage import affine_transform, gaussian_filter, uniform_filter1d
from scipy.signal import fftconvolve

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.pixels.smear import smeared
from handful.engine.kernels.pixels.ways import Along, Around, Away
from handful.engine.kinds import At, Step
from handful.engine.kinds.setting import LayerId
from handful.engine.picture import Region, Tile, blank
from handful.engine.steps.blur.defocus import Defocus, aperture
from handful.engine.steps.blur.directional import Directional
from handful.engine.steps.blur.flow import Flow
from handful.engine.steps.blur.sharpen import Sharpen
from handful.engine.steps.blur.spin import Spin
from handful.engine.steps.blur.zoom import Zoom
from handful.engine.steps.light.rays import Rays
from handful.engine.values import Point

FIELD = Region(0, 0, 200, 160)
MIDDLE = Point(100, 80)


def _soft(seed: int = 5, margin: int = 45) -> Tile:
    """Soft blobs in the middle of the field, and nothing near its edges."""
    picture = blank(FIELD)
    random = np.random.default_rng(seed)
    inner = picture[margin:-margin, margin:-margin]
    inner[...] = random.random((*inner.shape[:2], 1)) > 0.97
    for channel in range(4):
        picture[..., channel] = gaussian_filter(picture[..., channel], 2.5) * (channel + 1)
    return Tile(picture, FIELD)


def _applied(step: Step, tile: Tile, scale: float = 1.0, *others: Tile) -> np.ndarray:
    wanted = tile.region
    return step.apply(tile, At(wanted, scale, (), wanted), *others).within(wanted)


class Lines(TestCase):
    def test_as_scipy(self) -> None:
        """scipy.ndimage.uniform_filter1d along rows and columns, for odd whole lengths."""
        tile = _soft()
        for length in (5, 31, 75):
            for direction, axis in ((0.0, 1), (90.0, 0)):
                got = _applied(Directional(length=float(length), direction=direction), tile)
                wanted = uniform_filter1d(tile.pixels, length, axis=axis, mode="constant")
                error = np.abs(got - wanted).max() / wanted.max()
                self.assertLess(float(error), 0.03)

    def test_beyond_what_was_drawn(self) -> None:
        """A line px of light far from the edges of what is wanted is as long as the blur, to both sides."""
        small = Region(98, 78, 102, 82)
        tile = Tile(np.full((4, 4, 4), 1, np.float32), small)
        found = (
            Directional(length=60.0, direction=0.0)
            .apply(tile, At(FIELD, 1.0, (), FIELD))
            .within(FIELD)
        )
        lit = np.flatnonzero(found[80, :, 0] > 0.005)
        self.assertAlmostEqual(int(lit.min()), 68, delta=1)
        self.assertAlmostEqual(int(lit.max()), 131, delta=1)
        self.assertAlmostEqual(float(found[80, :, 0].sum()), 4, delta=0.01)

    def test_nothing_is_lost(self) -> None:
        """Closed form: a mean keeps the sum, at any angle and length, and its place."""
        tile = _soft()
        y, x = np.mgrid[:160, :200] + 0.5
        for length, direction in ((3.0, 10.0), (40.0, 57.0), (60.0, -130.0)):
            got = _applied(Directional(length=length, direction=direction), tile)[..., 0]
            before = tile.pixels[..., 0]
            self.assertAlmostEqual(float(got.sum() / before.sum()), 1, delta=2e-3)
            for places in (x, y):
                moved = (got * places).sum() / got.sum() - (before * places).sum() / before.sum()
                self.assertLess(abs(float(moved)), 0.35)

    def test_spread(self) -> None:
        """Closed form: the variance of an even line of length L is L squared / 12."""
        picture = blank(FIELD)
        picture[80, 100] = 1
        got = _applied(Directional(length=60.0, direction=0.0), Tile(picture, FIELD))[..., 0]
        x = np.arange(200) + 0.5
        share = got.sum(0) / got.sum()
        variance = (share * x**2).sum() - (share * x).sum() ** 2
        self.assertAlmostEqual(float(variance) / (60**2 / 12), 1, delta=0.02)


def _mean_of(tile: Tile, matrices: list[np.ndarray]) -> np.ndarray:
    """The mean of a picture after many turns or sizes about the middle, by scipy."""
    centre = np.array([MIDDLE.y - 0.5, MIDDLE.x - 0.5])
    plane = tile.pixels[..., 0].astype(float)
    return np.mean(
        [affine_transform(plane, m, centre - m @ centre, order=3) for m in matrices], axis=0
    )


class AboutAPoint(TestCase):
    def test_zoom(self) -> None:
        """scipy.ndimage.affine_transform at 101 sizes, averaged."""
        tile = _soft()
        half = math.asinh(0.3 / 2)
        wanted = _mean_of(tile, [np.eye(2) * math.exp(t) for t in np.linspace(-half, half, 101)])
        got = _applied(Zoom(amount=30.0, centre=MIDDLE), tile)[..., 0]
        self.assertLess(float(np.abs(got - wanted).max() / wanted.max()), 0.06)

    def test_spin(self) -> None:
        """The same at 101 angles."""
        tile = _soft()
        angles = np.radians(np.linspace(-12, 12, 101))
        turns = [
            np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]]) for a in angles
        ]
        got = _applied(Spin(angle=24.0, centre=MIDDLE), tile)[..., 0]
        wanted = _mean_of(tile, turns)
        self.assertLess(float(np.abs(got - wanted).max() / wanted.max()), 0.06)

    def test_the_point_stays(self) -> None:
        """What lies at the centre is as it was."""
        tile = _soft(margin=20)
        tile.pixels[77:83, 97:103] = 3
        for step in (Zoom(amount=20.0, centre=MIDDLE), Spin(angle=10.0, centre=MIDDLE)):
            np.testing.assert_allclose(_applied(step, tile)[80, 100], 3, rtol=1e-3)

    def test_what_they_look_at(self) -> None:
        """Rays at their centre, at any scale; a zoom at all that it brings in, from both sides."""
        wanted = Region(10, 20, 60, 50)
        rays = Rays(
            centre=Point(400, 300),
            length=80.0,
            fade=3.0,
            gain=0.0,
            tint=Colour(1, 1, 1),
            threshold=0.0,
        )
        for scale in (1.0, 0.25):
            needed = rays.needs(wanted, At(wanted, scale, ()))
            self.assertEqual((needed.left, needed.top), (10, 20))
            self.assertEqual((needed.right, needed.bottom), (400 * scale + 2, 300 * scale + 2))
        by = math.exp(math.asinh(0.3 / 2))
        needed = Zoom(amount=30.0, centre=Point(0, 30)).needs(wanted, At(wanted, 1.0, ()))
        for side, exact in zip(needed, (10 / by, 30 - 10 * by, 60 * by, 30 + 20 * by), strict=True):
            self.assertAlmostEqual(side, exact, delta=3)

    def test_rays(self) -> None:
        """A ray goes away from the point and fades; nothing goes towards it or aside."""
        picture = blank(FIELD)
        picture[78:83, 120:125, :3] = 5
        rays = Rays(
            centre=MIDDLE, length=80.0, fade=3.0, gain=0.0, tint=Colour(1, 1, 1), threshold=0.0
        )
        added = (_applied(rays, Tile(picture, FIELD)) - picture)[..., 1]
        along = added[80, 128:]
        self.assertGreater(float(along[2]), 0.05)
        self.assertTrue((np.diff(along) <= 0.01 * along[:-1]).all())
        self.assertLess(float(added[:, :99].max()), 1e-6)
        self.assertLess(float(added[20, 120:].max()), 1e-6)


class FarWays(TestCase):
    """Ways that lead far beyond the picture: the mean is as it would be if all of them were gone along."""

    def test_as_gone_along_whole(self) -> None:
        """By hand, a sample for each other px of the whole way, each by scipy's spline of the first order."""
        tile = _soft(margin=20)
        fade = 1.7
        for way, length in (
            (Away(-3000.0, 70.0, 1.5), 3400.0),
            (Away(140.0, 5000.0, -2.5), 4500.0),
            (Around(-2500.0, -900.0, 2.0), 5700.0),
            (Around(90.0, 4000.0, -6.2), 25_000.0),
            (Along(1500.0, -700.0), 1655.0),
        ):
            for fades in (0.0, fade):
                count = round(length / 2)
                places = (np.arange(count) + 0.5) / count - (0.0 if fades else 0.5)
                weights = np.exp(-fades * places)
                wanted = np.zeros(tile.pixels.shape[:2])
                for place, weight in zip(places, weights / weights.sum(), strict=True):
                    a, b, c, d, e, f = way.at(place)
                    shift = [f + (d + e) / 2 - 0.5, c + (a + b) / 2 - 0.5]
                    middle = (a * 100 + b * 80 + c - 100, d * 100 + e * 80 + f - 80)
                    if math.hypot(*middle) > 300 * max(1, abs(a) + abs(b)):
                        continue  # nothing of the picture is there
                    wanted += weight * affine_transform(
                        tile.pixels[..., 0], [[e, d], [b, a]], shift, order=1, mode="constant"
                    )
                found = smeared(tile, way, length, FIELD, fades).within(FIELD)[..., 0]
                with self.subTest(way=way, fades=fades):
                    self.assertAlmostEqual(float(found.sum() / wanted.sum()), 1, delta=0.02)
                    self.assertLess(float(np.abs(found - wanted).max()), 0.06 * float(wanted.max()))

    def test_nothing_beyond_the_picture_is_looked_at(self) -> None:
        """Ways so short that floats take the last row for the one beyond it: what lies there in memory is no number."""
        held = np.full((161, 201, 4), np.nan, np.float32)
        picture = held.reshape(-1)[: 160 * 200 * 4].reshape(160, 200, 4)
        picture[:] = 1
        for small in (1e-9, 1e-8, 1e-7, 1e-6, 1e-5, -1e-7, -1e-5):
            for way in (
                Away(100.3, 80.7, small),
                Away(-900.0, 2000.0, small),
                Around(100.0, 80.0, small),
            ):
                found = smeared(Tile(picture, FIELD), way, 70.0, FIELD).within(FIELD)
                self.assertTrue(np.isfinite(found).all(), way)
                np.testing.assert_allclose(found[2:-2, 2:-2], 1, atol=1e-4)
        quarter = Around(100.0, 80.0, math.pi)
        self.assertTrue(
            np.isfinite(smeared(Tile(picture, FIELD), quarter, 400.0, FIELD).pixels).all()
        )

    def test_no_more_memory_than_the_picture_asks_for(self) -> None:
        """However far off the place is that a way leads from."""
        tile = _soft()
        for way in (
            Away(-6e5, 1e5, -0.9),
            Around(7e5, -2e5, 6.0),
            Away(1e7, 1e7, 3.0),
            Along(4e6, 10.0),
        ):
            tracemalloc.start()
            smeared(tile, way, 1e6, FIELD)
            _, peak = tracemalloc.get_traced_memory()
            tracemalloc.stop()
            self.assertLess(peak, 60 * tile.pixels.nbytes)


class Directions(TestCase):
    def test_even_flow_is_a_line(self) -> None:
        """Along one direction everywhere it is the blur along that line."""
        tile = _soft()
        field = blank(FIELD)
        field[..., 0] = 1
        got = _applied(Flow(by=LayerId("x"), length=30.0), tile, 1.0, Tile(field, FIELD))
        wanted = uniform_filter1d(tile.pixels, 31, axis=1, mode="constant")
        self.assertLess(float(np.abs(got - wanted).max() / wanted.max()), 0.12)

    def test_no_direction_no_blur(self) -> None:
        """Where the directions are nothing, the picture is as it was."""
        tile = _soft()
        got = _applied(Flow(by=LayerId("x"), length=30.0), tile, 1.0, Tile(blank(FIELD), FIELD))
        np.testing.assert_allclose(got, tile.pixels, atol=1e-5)


class Apertures(TestCase):
    def test_as_scipy(self) -> None:
        """scipy.signal.fftconvolve with the same aperture, in double precision."""
        tile = _soft()
        shape = aperture(9.0, 6, 0.2, 15.0)
        got = _applied(Defocus(radius=9.0, blades=6, roundness=20.0, turn=15.0), tile)
        for channel in range(4):
            wanted = fftconvolve(tile.pixels[..., channel].astype(float), shape, mode="same")
            np.testing.assert_allclose(got[..., channel], wanted, atol=2e-5)

    def test_wide_ones(self) -> None:
        """A wide one, worked out at half size, is scipy's at full size within two percent."""
        wide = Region(0, 0, 420, 400)
        picture = blank(wide)
        picture[180:220, 190:231] = gaussian_filter(np.full((40, 41), 3.0), 2)[..., None]
        got = Defocus(radius=70.0, blades=6, roundness=20.0, turn=15.0).apply(
            Tile(picture, wide), At(wide, 1.0, (), wide)
        )
        shape = aperture(70.0, 6, 0.2, 15.0).astype(float)
        wanted = fftconvolve(picture[..., 0].astype(float), shape, mode="same")
        error = np.abs(got.within(wide)[..., 0] - wanted).max()
        self.assertLess(float(error), 0.02 * wanted.max())
        self.assertAlmostEqual(
            float(got.pixels[..., 0].sum() / picture[..., 0].sum()), 1, delta=2e-3
        )

    def test_area(self) -> None:
        """Closed form: n r^2 sin(2 pi / n) / 2 for n straight sides, pi r^2 for round ones."""
        for blades in (3, 6, 9):
            area = 1 / aperture(40.0, blades, 0.0, 0.0).max()
            wanted = blades * 40**2 * math.sin(2 * math.pi / blades) / 2
            self.assertAlmostEqual(float(area) / wanted, 1, delta=0.01)
        round_area = 1 / aperture(40.0, 5, 1.0, 0.0).max()
        self.assertAlmostEqual(float(round_area) / (math.pi * 40**2), 1, delta=0.01)

    def test_symmetry(self) -> None:
        """A turn by one side leaves it the same."""
        np.testing.assert_allclose(
            aperture(20.0, 6, 0.3, 0.0), aperture(20.0, 6, 0.3, 60.0), atol=1e-6
        )


class Sharpening(TestCase):
    def test_formula(self) -> None:
        """Definition: p + amount (p - blurred p), and nothing below 0; blurred by scipy."""
        tile = _soft()
        tile.pixels[..., 3] = np.minimum(tile.pixels[..., 3], 0.5)
        got = _applied(Sharpen(size=3.0, amount=80.0), tile)
        before = tile.pixels.astype(float)
        blurred = gaussian_filter(before, (3, 3, 0), mode="constant", truncate=6)
        wanted = np.maximum(before + 0.8 * (before - blurred), 0)
        np.testing.assert_allclose(got[..., :3], wanted[..., :3], atol=0.01 * wanted.max())
        self.assertLessEqual(float(got[..., 3].max()), 1)
