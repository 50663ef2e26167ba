"""The light of a flash over time, against measured lightning."""

from unittest import TestCase

import numpy as np

from handful.engine.kernels.chance.hash import key_for
from handful.engine.kernels.forms.strokes import STEADY, Stroke, stroke_at

INTERVAL = (0.040, 0.060)
"""Seconds between strokes (Rakov and Uman, "Lightning", 2003: about 60 ms, commonly 40 to 60)."""


def _flash(seed: int, seconds: float, count: int = 4, afterglow: float = 0.002) -> Stroke:
    return stroke_at(key_for(seed), seconds, count, 0.05, 0.02, afterglow)


class Flash(TestCase):
    def _peaks(self, seed: int) -> tuple[np.ndarray, np.ndarray]:
        """Times and lights of the strokes, found where the light jumps up."""
        times = np.arange(0.02, 0.4, 0.0005)
        light = np.array([_flash(seed, time).channel for time in times])
        rises = np.nonzero(np.diff(light) > 0.2)[0] + 1
        return times[np.r_[0, rises]], light[np.r_[0, rises]]

    def test_strokes_are_as_far_apart_as_measured(self) -> None:
        """Rakov and Uman 2003: some 40 to 60 ms, over twenty flashes of four strokes."""
        for seed in range(20):
            times, _ = self._peaks(seed)
            self.assertEqual(len(times), 4)
            gaps = np.diff(times)
            self.assertGreaterEqual(float(gaps.min()), INTERVAL[0] - 0.001)
            self.assertLessEqual(float(gaps.max()), INTERVAL[1] + 0.001)

    def test_first_is_the_brightest(self) -> None:
        """Rakov and Uman 2003: 30 kA at first, 10 to 15 kA after it."""
        for seed in range(20):
            _, lights = self._peaks(seed)
            self.assertAlmostEqual(lights[0], 1.0, delta=0.01)
            self.assertTrue(((lights[1:] > 0.25) & (lights[1:] < 0.51)).all())

    def test_leader_comes_down_dimly(self) -> None:
        """Before the first stroke a dim leader grows; nothing is there before it sets out."""
        self.assertEqual(_flash(1, -0.001), Stroke(0.0, 0.0, 0.0))
        grown = [_flash(1, time).grown for time in (0.001, 0.008, 0.0199, 0.02)]
        self.assertEqual(sorted(grown), grown)
        self.assertEqual(grown[-1], 1.0)
        self.assertLess(_flash(1, 0.019).channel, 0.2)

    def test_afterglow(self) -> None:
        """Definition: within the afterglow the light of a stroke goes down to 1 / e."""
        later = stroke_at(key_for(1), 0.12, 1, 0.05, 0.02, 0.1)
        self.assertAlmostEqual(later.channel, float(np.exp(-1)), places=6)
        self.assertLess(later.branches, later.channel)

    def test_none_is_steady(self) -> None:
        """Without strokes it burns as it is, at any time."""
        self.assertEqual(_flash(1, 7.0, count=0), STEADY)
