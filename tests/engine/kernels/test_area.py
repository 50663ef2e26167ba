"""Outlines filled and softened, against closed forms and reference libraries."""

import math
from unittest import TestCase

import numpy as np
from PIL import Image, ImageDraw
from scipy.ndimage import gaussian_filter
from scipy.special import ndtr

from handful.engine.kernels.pixels.area import filled, softened
from handful.engine.picture import Region

FIELD = Region(0, 0, 120, 90)


def _star(points: int = 7) -> np.ndarray:
    angles = np.arange(2 * points) * math.pi / points
    radius = np.where(np.arange(2 * points) % 2, 17.3, 41.7)
    return np.stack([60.2 + radius * np.cos(angles), 44.9 + radius * np.sin(angles)], axis=1)


class Filling(TestCase):
    def test_area(self) -> None:
        """Closed form: the shoelace formula, for outlines wound either way."""
        for outline in (
            _star(),
            _star()[::-1],
            np.array([(3.25, 7.5), (80.1, 20.7), (33.3, 71.9)]),
        ):
            x, y = outline.T
            area = abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2
            self.assertAlmostEqual(
                float(filled(outline, FIELD).sum(dtype=float)) / area, 1, places=6
            )

    def test_as_pillow(self) -> None:
        """Pillow's polygon, 64 times finer and averaged: the same within its own coarseness."""
        finer = 64
        fine = Image.new("L", (FIELD.width * finer, FIELD.height * finer))
        places = [tuple(place * finer - 0.5) for place in _star()]
        ImageDraw.Draw(fine).polygon(places, fill=255)
        levels = np.asarray(fine, np.float64).reshape(FIELD.height, finer, FIELD.width, finer)
        wanted = levels.mean((1, 3)) / 255
        self.assertLess(float(np.abs(filled(_star(), FIELD) - wanted).max()), 0.04)

    def test_half_plane(self) -> None:
        """Closed form: an upright edge at x covers 1, x's fraction, or 0 of a px."""
        outline = np.array([(-50.0, -50.0), (30.3, -50.0), (30.3, 200.0), (-50.0, 200.0)])
        row = filled(outline, FIELD)[40]
        np.testing.assert_allclose(row[[0, 29, 30, 31]], [1, 1, 0.3, 0], atol=1e-6)

    def test_off_the_corner(self) -> None:
        """A region elsewhere shows the same px, also where the outline leaves it on all sides."""
        whole = filled(_star(), FIELD)
        part = filled(_star(), Region(30, 20, 90, 70))
        np.testing.assert_allclose(part, whole[20:70, 30:90], atol=1e-6)

    def test_wound_twice(self) -> None:
        """What an outline goes around twice is covered once."""
        square = np.array([(10.0, 10.0), (40.0, 10.0), (40.0, 40.0), (10.0, 40.0)])
        twice = filled(np.concatenate([square, square[:1], square]), FIELD)
        self.assertLessEqual(float(twice.max()), 1)
        self.assertAlmostEqual(float(twice.sum()), 900, places=3)


class Softening(TestCase):
    def test_as_scipy(self) -> None:
        """scipy.ndimage.gaussian_filter, narrow and wide, within one percent."""
        matte = filled(_star(), FIELD)
        for deviation in (0.8, 2.5, 6.0, 11.0):
            wanted = gaussian_filter(matte.astype(float), deviation, mode="nearest", truncate=6)
            self.assertLess(float(np.abs(softened(matte, deviation) - wanted).max()), 0.01)

    def test_edge(self) -> None:
        """Closed form: a straight edge becomes the normal distribution, without a step anywhere."""
        outline = np.array([(-900.0, -900.0), (128.0, -900.0), (128.0, 900.0), (-900.0, 900.0)])
        matte = filled(outline, Region(0, 0, 256, 64))
        for deviation in (5.0, 20.0):
            row = softened(matte, deviation)[32]
            wanted = ndtr((128 - np.arange(256) - 0.5) / deviation)
            self.assertLess(float(np.abs(row - wanted).max()), 0.004)
            self.assertLess(float(np.diff(row).max()), 1e-4)
