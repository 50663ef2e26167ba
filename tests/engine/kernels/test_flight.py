"""Flight and spots of light against mechanics, an integrator, and what light adds up to."""

import math
from itertools import pairwise
from typing import Any
from unittest import TestCase

import numpy as np
from scipy.integrate import solve_ivp

from handful.engine.kernels.drawing.spots import draw_spots
from handful.engine.kernels.forms.flight import fly, gone, pace
from handful.engine.picture import Region

FIELD = Region(0, 0, 200, 160)


def flown(
    t: float,
    start: tuple[float, float] = (0.0, 0.0),
    speed: tuple[float, float] = (300.0, -400.0),
    **settings: Any,
) -> np.ndarray:
    plain: dict[str, Any] = {
        "gravity": (0.0, 900.0), "wind": (0.0, 0.0), "drag": 0.0, "floor": np.inf, "bounce": 0.5, "slide": 1.0,
    } | settings  # fmt: skip
    places = np.empty((1, 2))
    fly(np.array([start]), np.array([speed]), np.array([t]), **plain, places=places)
    return places[0]


class Mechanics(TestCase):
    def test_a_throw(self) -> None:
        """Without air: s = v t + g t² / 2 (textbook mechanics)."""
        for t in (0.0, 0.1, 1.0, 5.0):
            np.testing.assert_allclose(flown(t), [300 * t, -400 * t + 450 * t * t], atol=1e-6)

    def test_drag_by_an_integrator(self) -> None:
        """Linear drag in a wind against scipy's Runge-Kutta of order 8."""
        for drag in (1e-6, 0.02, 0.7, 9.0):

            def change(_t: float, s: np.ndarray, drag: float = drag) -> list[float]:
                return [s[2], s[3], -drag * (s[2] - 50), 900 - drag * (s[3] + 20)]

            found = solve_ivp(
                change, (0, 3), [0, 0, 300, -400], method="DOP853", rtol=1e-10, atol=1e-8
            )
            with self.subTest(drag=drag):
                place = flown(3.0, drag=drag, wind=(50.0, -20.0))
                np.testing.assert_allclose(place, found.y[:2, -1], rtol=1e-6, atol=1e-3)

    def test_terminal_speed(self) -> None:
        """It falls at g / d in the end, whatever it was thrown with, and as the wind goes along."""
        for speed in (-2000.0, 0.0, 2000.0):
            self.assertAlmostEqual(pace(speed, 900.0, 3.0, 0.0, 30.0), 300.0, places=6)
            self.assertAlmostEqual(pace(speed, 0.0, 3.0, 120.0, 30.0), 120.0, places=6)
        self.assertAlmostEqual(
            gone(0, 0, 900.0, 3.0, 0.0, 11) - gone(0, 0, 900.0, 3.0, 0.0, 10), 300, 3
        )

    def test_bounces(self) -> None:
        """From a height h a thing comes back up to e² h, and e⁴ h after that (restitution, textbook
        mechanics); it never goes below the floor, and lies in the end."""
        h, e, g = 200.0, 0.6, 900.0
        falls = math.sqrt(2 * h / g)
        up = e * math.sqrt(2 * g * h) / g
        settings: dict[str, Any] = {
            "floor": 0.0,
            "bounce": e,
            "start": (0.0, -h),
            "speed": (0.0, 0.0),
        }
        self.assertAlmostEqual(flown(falls + up, **settings)[1], -e * e * h, delta=0.01)
        third = falls + 2 * up + e * up
        self.assertAlmostEqual(flown(third, **settings)[1], -(e**4) * h, delta=0.01)
        heights = [flown(t, **settings)[1] for t in np.linspace(0, 9, 300)]
        self.assertLessEqual(max(heights), 1e-9)
        self.assertEqual(heights[-1], 0)

    def test_a_floor_is_met_however_slowly(self) -> None:
        """What floats down in strong drag lands when it should, and slides no farther than it rolls."""
        settings: dict[str, Any] = {
            "floor": 100.0,
            "bounce": 0.0,
            "slide": 0.5,
            "drag": 6.0,
            "speed": (400.0, 0.0),
        }
        lands = [flown(t, **settings) for t in np.linspace(0, 4, 200)]
        self.assertAlmostEqual(lands[-1][1], 100, places=9)
        along = [place[0] for place in lands]
        self.assertTrue(all(b >= a - 1e-9 for a, b in pairwise(along)))
        self.assertAlmostEqual(along[-1], along[-20], delta=0.5)


class Light(TestCase):
    def test_it_is_kept(self) -> None:
        """A spot of any size, anywhere between px, still or drawn out, has the light of the smooth one:
        π R² / 4 for the bump (1 - r²)³, π r² for a disc."""
        for radius in (0.05, 0.4, 1.0, 2.5, 7.0, 20.0):
            for x, y in ((80.0, 70.0), (80.5, 70.5), (80.13, 70.77)):
                for dx, dy in ((0.0, 0.0), (0.6, 0.3), (14.0, -9.0), (41.3, 30.1)):
                    spot = np.array([[x, y, x + dx, y + dy, radius, 2, 1, 0.5, 0]], np.float32)
                    for hard in (False, True):
                        whole = math.pi * radius**2 * (1 if hard else 0.25)
                        tile = draw_spots(spot, FIELD, hard, False)
                        light = tile.pixels.astype(float).sum(axis=(0, 1))
                        with self.subTest(radius=radius, at=(x, y), moved=(dx, dy), hard=hard):
                            np.testing.assert_allclose(
                                light[:3], np.array([2, 1, 0.5]) * whole, rtol=0.025
                            )

    def test_a_streak_is_the_mean_of_stills(self) -> None:
        """Drawn out it is what 400 moments of the shutter give on the mean: no beads."""
        streak = np.array([[60.2, 50.1, 112.6, 81.3, 5, 1, 1, 1, 0]], np.float32)
        drawn = draw_spots(streak, FIELD, False, False).within(FIELD)[..., 0]
        stills = np.repeat(streak, 400, axis=0)
        share = ((np.arange(400) + 0.5) / 400)[:, None]
        stills[:, :2] = streak[:, :2] + share * (streak[:, 2:4] - streak[:, :2])
        stills[:, 2:4] = stills[:, :2]
        stills[:, 5:8] /= 400
        mean = draw_spots(stills, FIELD, False, False).within(FIELD)[..., 0]
        np.testing.assert_allclose(drawn, mean, atol=2e-3 * mean.max())

    def test_over_and_parts(self) -> None:
        """A later spot covers an earlier one; a part of the picture is that part of the whole."""
        two = np.array(
            [[50, 50, 50, 50, 8, 1, 0, 0, 1], [54, 50, 54, 50, 8, 0, 1, 0, 1]], np.float32
        )
        over = draw_spots(two, FIELD, True, True).within(FIELD)
        self.assertEqual(over[50, 53].tolist(), [0, 1, 0, 1])
        self.assertEqual(over[50, 44].tolist(), [1, 0, 0, 1])
        random = np.random.default_rng(3)
        sizes = np.array([200, 160, 200, 160, 6, 1, 1, 1, 0.5])
        many = (random.random((300, 9)) * sizes).astype(np.float32)
        many[:, 2:4] = many[:, :2] + random.normal(0, 9, (300, 2))
        part = Region(60, 30, 140, 111)
        for hard in (False, True):
            whole = draw_spots(many, FIELD, hard, True).within(part)
            np.testing.assert_array_equal(draw_spots(many, part, hard, True).within(part), whole)
