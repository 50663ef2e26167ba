"""Lines of light against their analytic integrals and a brute-force reference."""

import math
from itertools import pairwise
from unittest import TestCase

import numpy as np

from handful.engine.kernels.drawing.line import RADIUS_FOR_WIDTH, held_by_grid, splat_lines
from handful.engine.kernels.drawing.lit import finer_at, planes_of, together, with_radius
from handful.engine.picture import Region


def _drawn(width: float, angle: float, length: float = 150.0, offset: float = 0.3) -> np.ndarray:
    radius, light = held_by_grid(np.array([width * RADIUS_FOR_WIDTH]), np.ones(1))
    middle, half = 120 + offset, length / 2
    dx, dy = half * math.cos(angle), half * math.sin(angle)
    end = [radius[0], light[0]]
    line = np.array([[middle - dx, middle - dy, *end, middle + dx, middle + dy, *end]], np.float32)
    plane = np.zeros((240, 240), np.float32)
    splat_lines(line, plane)
    return plane


def _energy(width: float, length: float) -> float:
    """The integral of (1 - (d/R)^2)^3 over a line with round ends, for the true radius.

    Closed form: across, R B(1/2, 4) = 32 R / 35 times the length; the two half discs at the ends
    hold pi R^2 / 4 together. Where the grid widens a line, its ends are as wide, its sides keep
    their light.
    """
    true = width * RADIUS_FOR_WIDTH
    widened = float(held_by_grid(np.array([true]), np.ones(1))[0][0])
    return 32 / 35 * true * length + math.pi * true * widened / 4


class Energy(TestCase):
    def test_any_width_and_angle(self) -> None:
        """Within 1 % of the closed form, from a quarter of a px to forty, at any angle and place."""
        for width in (0.25, 1.0, 2.0, 5.0, 40.0):
            for degrees in (0, 13, 45, 90, 118):
                for offset in (0.0, 0.5):
                    with self.subTest(width=width, degrees=degrees, offset=offset):
                        plane = _drawn(width, math.radians(degrees), offset=offset)
                        self.assertAlmostEqual(plane.sum() / _energy(width, 150.0), 1.0, delta=0.01)

    def test_half_width(self) -> None:
        """Definition: at half its width from the middle a line has half its light."""
        plane = _drawn(20.0, 0.0, offset=0.5)
        column = plane[:, 120] / plane[:, 120].max()
        self.assertAlmostEqual(
            float(np.interp(130.5, np.arange(240) + 0.5, column)), 0.5, delta=0.01
        )

    def test_no_beads_where_pieces_join(self) -> None:
        """A line in ten pieces is the line in one: the brighter wins, nothing adds up."""
        whole = np.zeros((60, 200), np.float32)
        pieces = np.zeros_like(whole)
        splat_lines(np.array([[20.0, 30.2, 4, 1, 180, 30.2, 4, 1]], np.float32), whole)
        stops = np.linspace(20, 180, 11)
        rows = [[a, 30.2, 4, 1, b, 30.2, 4, 1] for a, b in pairwise(stops)]
        splat_lines(np.array(rows, np.float32), pieces)
        np.testing.assert_allclose(pieces, whole, atol=1e-5)

    def test_thin_lines_stay_smooth(self) -> None:
        """Along a slanted line of 1 px the light of each column varies by less than 2 %."""
        plane = _drawn(1.0, math.radians(9))
        columns = plane[:, 60:180].sum(0)
        self.assertLess(float(columns.std() / columns.mean()), 0.02)


def _brute_force(line: np.ndarray, scale: float, part: Region, samples: int = 12) -> np.ndarray:
    """Every px of a part as the mean of `samples` x `samples` looks at the true profile."""
    ax, ay, width, _, bx, by = line[:6] * scale
    radius = width * RADIUS_FOR_WIDTH
    places = (np.arange(max(part[2:]) * samples) + 0.5) / samples
    x = places[None, part.left * samples : part.right * samples] - ax
    y = places[part.top * samples : part.bottom * samples, None] - ay
    dx, dy = bx - ax, by - ay
    t = np.clip((x * dx + y * dy) / (dx * dx + dy * dy), 0, 1)
    away = ((x - t * dx) ** 2 + (y - t * dy) ** 2) / radius**2
    light = np.maximum(0, 1 - away) ** 3
    return light.reshape(part.height, samples, part.width, samples).mean(axis=(1, 3))


class BruteForce(TestCase):
    def test_energy_at_any_width_angle_and_scale(self) -> None:
        """Supersampled 144 times a px: the light of a drawn line within 1 %, and where it lies."""
        for width in (0.5, 1.0, 2.5, 9.0, 24.0):
            for degrees in (0, 21, 45, 77):
                for scale in (1.0, 0.5, 0.25):
                    with self.subTest(width=width, degrees=degrees, scale=scale):
                        angle, size = math.radians(degrees), int(360 * scale)
                        dx, dy = 140 * math.cos(angle), 140 * math.sin(angle)
                        line = np.array(
                            [180 - dx, 180 - dy, width, 1, 180 + dx, 180 + dy, width, 1]
                        )
                        finer = finer_at(scale)
                        region = Region(0, 0, size, size)
                        lines = with_radius(line[None], scale * finer)
                        drawn = together(planes_of(lines, region, finer), region)
                        middle = int(0.4 * size), int(0.6 * size)
                        part = Region(middle[0], 0, middle[1], size)
                        if degrees > 45:
                            part = Region(0, middle[0], size, middle[1])
                        wanted = _brute_force(line, scale, part).sum()
                        inside = drawn[part.top : part.bottom, part.left : part.right]
                        self.assertAlmostEqual(float(inside.sum() / wanted), 1.0, delta=0.01)
