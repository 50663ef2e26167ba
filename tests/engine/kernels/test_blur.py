"""The wide blur against SciPy's Gaussian filter."""

from unittest import TestCase

import numpy as np
from scipy.ndimage import gaussian_filter

from handful.engine.kernels.pixels.blur import gaussian, reach_of
from handful.engine.kernels.pixels.spline import reduced
from handful.engine.picture import Region, Tile, blank


def _by_scipy(plane: np.ndarray, deviation: float) -> np.ndarray:
    return gaussian_filter(plane.astype(np.float64), deviation, mode="constant", truncate=6)


class Gaussian(TestCase):
    def test_impulse_and_step(self) -> None:
        """scipy.ndimage.gaussian_filter: within 1 % of the peak at every deviation and place."""
        for deviation in (0.8, 2.0, 4.9, 12.0, 37.0, 100.0):
            with self.subTest(deviation=deviation):
                size = int(9 * deviation) + 40
                picture = np.zeros((size, size, 4), np.float32)
                picture[size // 2 + 3, size // 2 - 2] = (1, 0.5, 0.25, 1)
                picture[:, : size // 3, 3] = 1
                blurred = gaussian(picture, deviation)
                for channel in (0, 3):
                    wanted = _by_scipy(picture[..., channel], deviation)
                    error = np.abs(blurred[..., channel] - wanted).max()
                    self.assertLess(error, 0.01 * wanted.max())

    def test_energy(self) -> None:
        """Closed form: a normal curve integrates to 1, so the sum stays, within 0.1 %."""
        for deviation in (1.0, 7.3, 20.0):
            picture = np.zeros((400, 400, 4), np.float32)
            picture[190:200, 203:207] = 2.5
            sums = gaussian(picture, deviation).sum((0, 1)) / picture.sum((0, 1))
            np.testing.assert_allclose(sums, 1, atol=1e-3)

    def test_ends_at_nothing(self) -> None:
        """Never cut off square: at the reach that is planned for, the curve has come to zero."""
        deviation = 24.0
        size = 2 * reach_of(deviation) + 21
        picture = np.zeros((size, size, 4), np.float32)
        picture[size // 2, size // 2] = 1000
        blurred = gaussian(picture, deviation)
        for edge in (blurred[0], blurred[-1], blurred[:, 0], blurred[:, -1]):
            self.assertEqual(float(edge.max()), 0.0)
        falls = blurred[size // 2, size // 2 :, 0]
        self.assertTrue((np.diff(falls) <= 1e-6 * falls[0]).all())

    def test_grid_belongs_to_the_canvas(self) -> None:
        """The same px give the same result however much of the clear canvas around was computed."""
        region = Region(-5, 3, 60, 50)
        picture = blank(region)
        picture[20:30, 17:40] = np.random.default_rng(1).random((10, 23, 4), np.float32)
        inner = Region(9, 18, 41, 40)
        whole = reduced(Tile(picture, region), 8)
        part = reduced(Tile(np.ascontiguousarray(Tile(picture, region).within(inner)), inner), 8)
        np.testing.assert_array_equal(whole.within(part.region), part.pixels)
