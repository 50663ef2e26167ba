"""A square that repeats, laid on a picture: against SciPy's splines, and where it shrinks against finer pictures."""

from __future__ import annotations

import os
from unittest import TestCase, mock

import numpy as np
from scipy.ndimage import gaussian_filter, map_coordinates

from handful.engine.kernels.pixels.repeated import Rows, laid_on_rows, passing
from handful.engine.picture import Picture, Region, blank


def _square(side: int) -> Picture:
    return np.random.default_rng(side).random((side, side, 4), np.float32)


def _rows(high: int, begins: tuple[float, float], beside: tuple[float, float], below: tuple[float, float], strong: float = 1) -> Rows:  # fmt: skip
    """Rows of a picture that lies flat on a square."""
    n, same = np.arange(float(high)), np.ones(high)
    return Rows(
        begins[0] + n * below[0], begins[1] + n * below[1], same * beside[0], same * beside[1],
        same * below[0], same * below[1], 0 * same, 0 * same, same * strong,
    )  # fmt: skip


def _laid(square: Picture, rows: Rows, width: int) -> Picture:
    result = blank(Region(0, 0, width, len(rows.across))) + np.float32(7)
    laid_on_rows(square, rows, result)
    return result


class Between(TestCase):
    def test_as_scipy(self) -> None:
        """Along its rows and across them, round its edges many times, from tiny squares to large: what
        `scipy.ndimage.map_coordinates` gives of third order on a grid that repeats."""
        x = np.arange(150)
        for side in (4, 64, 256):
            square = _square(side)
            for beside, below in (
                ((0.45, 0.0), (0.0, 0.7)),
                ((0.4, 0.3), (-0.3, 0.4)),
                ((-0.6, -0.8), (0.8, -0.6)),
            ):
                rows = _rows(90, (-770.3, 1201.9), beside, below, 0.5)
                u, v = (
                    start[:, None] + x * by[:, None] - 0.5
                    for start, by in ((rows.across, rows.across_beside), (rows.down, rows.down_beside))
                )  # fmt: skip
                found = _laid(square, rows, len(x))
                for channel in range(4):
                    plane = square[..., channel].astype(float)
                    wanted = map_coordinates(
                        plane, [v, u], order=3, mode="grid-wrap", prefilter=False
                    )
                    with self.subTest(side=side, beside=beside, channel=channel):
                        np.testing.assert_allclose(found[..., channel], 0.5 * wanted, atol=1e-5)

    def test_through_what_is_there(self) -> None:
        """Divided by what passes, it goes through a square: on its places to the bit of a float, and between them as SciPy's
        interpolating spline."""
        square = _square(64)
        through = square.copy()
        for channel in range(4):
            waves = np.fft.fft2(square[..., channel]) / passing(64)
            through[..., channel] = np.fft.ifft2(waves).real
        found = _laid(through, _rows(64, (0.5, 0.5), (1.0, 0.0), (0.0, 1.0)), 64)
        np.testing.assert_allclose(found, square, atol=1e-5)
        found = _laid(through, _rows(64, (0.85, 0.7), (1.0, 0.0), (0.0, 1.0)), 64)
        place = np.arange(64)
        wanted = map_coordinates(
            square[..., 0].astype(float), np.meshgrid(place + 0.2, place + 0.35, indexing="ij"),
            order=3, mode="grid-wrap",
        )  # fmt: skip
        np.testing.assert_allclose(found[..., 0], wanted, atol=1e-4)

    def test_what_is_not_strong_is_clear(self) -> None:
        self.assertEqual(np.abs(_laid(_square(8), _rows(5, (0, 0), (1, 0), (0, 1), 0), 9)).max(), 0)

    def test_on_any_number_of_threads(self) -> None:
        rows = _rows(200, (0.3, 0.2), (1.7, 0.4), (-0.4, 3.9))
        found = []
        for threads in ("1", "3"):
            with mock.patch.dict(os.environ, HANDFUL_THREADS=threads):
                found.append(_laid(_square(128), rows, 100))
        np.testing.assert_array_equal(found[0], found[1])


class Shrunk(TestCase):
    def test_as_the_mean_of_a_finer_picture(self) -> None:
        """Shrunk both ways, or one way only and askew, it is near the mean of a picture that is drawn so much finer; and as
        bright all in all."""
        square = np.stack(
            [gaussian_filter(_square(256)[..., c], 1.2, mode="wrap") for c in range(4)], axis=2
        )
        for beside, below in (
            ((3.0, 0.0), (0.0, 3.0)),
            ((1.0, 0.0), (0.0, 6.0)),
            ((0.9, 0.4), (1.5, 4.0)),
        ):
            high, wide, finer = 64, 64, 8
            found = _laid(square, _rows(high, (0.5, 0.5), beside, below), wide)
            aside, under = ((a / finer, b / finer) for a, b in (beside, below))
            back = [0.5 - (finer - 1) / 2 * (a + b) for a, b in zip(aside, under, strict=True)]
            rows = _rows(high * finer, (back[0], back[1]), aside, under)
            fine = _laid(square, rows, wide * finer)
            mean = fine.reshape(high, finer, wide, finer, 4).mean(axis=(1, 3))
            with self.subTest(beside=beside, below=below):
                self.assertLess(float(np.abs(found - mean).mean()), 0.35 * float(mean.std()))
                self.assertGreater(np.corrcoef(found.ravel(), mean.ravel())[0, 1], 0.9)
                self.assertAlmostEqual(float(found.mean()), float(square.mean()), delta=0.004)

    def test_far_away_it_is_even(self) -> None:
        found = _laid(_square(64), _rows(20, (0, 0), (900.0, 0.0), (0.0, 900.0)), 30)
        np.testing.assert_allclose(
            found, np.broadcast_to(_square(64).mean(axis=(0, 1)), found.shape), rtol=1e-4
        )

    def test_nothing_is_below_nothing(self) -> None:
        """A single bright place never goes dark beside it, however much it shrinks."""
        square = np.zeros((64, 64, 4), np.float32)
        square[20, 30] = 65_000
        for by in (0.2, 1.0, 1.6, 5.0):
            found = _laid(square, _rows(40, (17.2, 14.9), (by, 0.0), (0.0, by)), 60)
            self.assertGreaterEqual(float(found.min()), 0)
            self.assertGreater(float(found.max()), 0)
