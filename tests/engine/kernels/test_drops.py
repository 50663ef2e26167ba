"""Drops that run together: one alone is a ball, and several have one surface."""

import math
import os
from typing import Any
from unittest import TestCase, mock

import cv2
import numpy as np

from handful.engine.kernels.drawing.drops import (
    Surface,
    draw_surface,
    heights_of,
    reach_for,
    surface_of,
)
from handful.engine.picture import Region

CANVAS = Region(0, 0, 240, 160)
DULL = Surface(
    high=1.0, deep=0.0, way=(0.0, -0.6, 0.8), gleams=0.0, narrow=100.0, around=(0.0, 0.0, 0.0),
    mirrors=0.0, hides=1.0,
)  # fmt: skip


def balls(*places: tuple[float, float, float], colours: tuple[float, ...] = ()) -> np.ndarray:
    shades = colours or (1.0,) * len(places)
    return np.array(
        [(*place, c, c, c) for place, c in zip(places, shades, strict=True)], np.float32
    )


def heights(made: np.ndarray, merges: float = 0.5, high: float = 1.0) -> np.ndarray:
    surface, region = surface_of(made, merges, CANVAS)
    found = np.zeros((CANVAS.height, CANVAS.width), np.float32)
    found[region.top : region.bottom, region.left : region.right] = heights_of(surface, high)
    return found


def bodies(found: np.ndarray) -> int:
    return int(cv2.connectedComponents((found > 0).astype(np.uint8))[0]) - 1


class Balls(TestCase):
    def test_one_alone_is_a_ball(self) -> None:
        """√(a² - r²), wherever between px it lies and however readily it would merge."""
        across, down = np.arange(240) + 0.5, np.arange(160)[:, None] + 0.5
        for x, y in ((120.0, 80.0), (97.3, 61.8)):
            square = 40**2 - (across - x) ** 2 - (down - y) ** 2
            wanted = np.sqrt(np.maximum(0, square))
            for merges in (0.0, 0.5, 1.0):
                found = heights(balls((x, y, 40)), merges)
                # Near the rim it is steep, so its square is compared.
                np.testing.assert_allclose(found**2, wanted**2, atol=0.02 * 40**2 / 10)
        np.testing.assert_allclose(heights(balls((120, 80, 40)), 0.5, 0.25), heights(balls((120, 80, 40))) / 4)  # fmt: skip

    def test_its_cover_is_its_area(self) -> None:
        for radius in (3.0, 17.4, 60.0):
            surface, region = surface_of(balls((120.3, 80.7, radius)), 0.5, CANVAS)
            cover = draw_surface(surface, DULL, region).pixels[..., 3]
            self.assertAlmostEqual(float(cover.sum()) / (math.pi * radius**2), 1, delta=0.02)

    def test_they_run_together_and_part(self) -> None:
        """Two are one body while they are near, and two when they are not; from farther off the more readily they
        merge."""
        for apart, merges, count in (
            (60, 0.5, 1), (85, 0.0, 2), (85, 0.8, 1), (200, 0.0, 2), (2 * 40 * reach_for(1.0) + 1, 1.0, 2),
        ):  # fmt: skip
            pair = balls((120 - apart / 2, 80, 40), (120 + apart / 2, 80, 40))
            surface, _ = surface_of(pair, merges, Region(-200, 0, 440, 160))
            self.assertEqual(bodies(heights_of(surface, 1)), count, (apart, merges))

    def test_no_farther_than_they_reach(self) -> None:
        """What is beyond the reach of a ball is as if it were not there."""
        first = balls((60, 80, 30))
        far = balls((60, 80, 30), (60 + 60 * reach_for(0.5) + 2, 80, 30))
        alone, both = heights(first), heights(far)
        np.testing.assert_array_equal(alone[:, : int(60 + 30 * reach_for(0.5))], both[:, : int(60 + 30 * reach_for(0.5))])  # fmt: skip

    def test_colours_go_over_into_one_another(self) -> None:
        surface, region = surface_of(
            balls((100, 80, 40), (140, 80, 40), colours=(0.2, 1.0)), 0.5, CANVAS
        )
        row = draw_surface(surface, DULL, region).pixels[80 - region.top, :, 0]
        left, right = row[72 - region.left], row[168 - region.left]
        self.assertAlmostEqual(float(row[120 - region.left]), 0.6, delta=0.02)
        self.assertLess(float(left), 0.3)
        self.assertGreater(float(right), 0.9)

    def test_on_any_number_of_threads_and_in_parts(self) -> None:
        made = balls((60, 80, 40), (140, 60, 30), (100, 120, 25))
        whole = heights(made)
        for threads in ("1", "5"):
            with mock.patch.dict(os.environ, HANDFUL_THREADS=threads):
                np.testing.assert_array_equal(heights(made), whole)
        part, region = surface_of(made, 0.5, Region(70, 40, 150, 100))
        np.testing.assert_array_equal(
            heights_of(part, 1), whole[region.top : region.bottom, region.left : region.right]
        )


class Seen(TestCase):
    def picture(self, **how: Any) -> np.ndarray:
        surface, region = surface_of(balls((120, 80, 60)), 0.5, CANVAS)
        return draw_surface(surface, DULL._replace(**how), region).within(CANVAS)

    def test_gleams_towards_the_lamp(self) -> None:
        """The brightest place is where it is turned half way between the lamp and the eye: from memory, Blinn
        1977; for a lamp at sine 0.6 aside that is at sin(atan(0.6 / 0.8) / 2) of its radius."""
        aside = 60 * math.sin(math.atan(0.6 / 0.8) / 2)
        for way, place in (
            ((0.0, -0.6, 0.8), (120, 80 - aside)),
            ((0.6, 0.0, 0.8), (120 + aside, 80)),
        ):
            light = self.picture(gleams=8.0, way=way)[..., 0] - self.picture()[..., 0]
            y, x = np.unravel_index(int(light.argmax()), light.shape)
            self.assertAlmostEqual(x + 0.5, place[0], delta=1.5)
            self.assertAlmostEqual(y + 0.5, place[1], delta=1.5)
            self.assertAlmostEqual(float(light.max()), 8, delta=0.2)

    def test_mirrors_at_its_rim(self) -> None:
        """Schlick 1994: from what it mirrors straight ahead to all at its rim."""
        picture = self.picture(around=(1.0, 1.0, 1.0), mirrors=0.04, hides=0.0)
        self.assertAlmostEqual(float(picture[80, 120, 3]), 0.04, delta=0.002)
        aside = 1 - math.sqrt(1 - (45.5 / 60) ** 2)
        self.assertAlmostEqual(float(picture[80, 165, 3]), 0.04 + 0.96 * aside**5, delta=0.01)
        self.assertGreater(float(picture[80, 178, 3]), 0.3)

    def test_darker_away_from_the_lamp(self) -> None:
        picture = self.picture(deep=0.8)
        for y, down in ((50, -29.5 / 60), (110, 30.5 / 60)):
            ahead = math.sqrt(1 - down**2)
            turned = (1 + 0.6 * down - 0.8 * ahead) / 2
            wanted = 1 - 0.8 * (turned + (1 - ahead) / 2)
            self.assertAlmostEqual(float(picture[y, 120, 0]), wanted, delta=0.01)
