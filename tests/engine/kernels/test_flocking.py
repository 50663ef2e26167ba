"""Things that heed those near them."""

import math
import os
from unittest import TestCase, mock

import numpy as np

from handful.engine.kernels.forms.flocking import Heeds, heeded

HOW = Heeds(near=80.0, together=300.0, alike=2.0, apart=700.0)


def by_hand(places: np.ndarray, speeds: np.ndarray, how: Heeds) -> np.ndarray:
    """Reynolds' three wishes, every pair looked at."""
    found = np.zeros_like(places)
    for n in range(len(places)):
        way = places - places[n]
        far = np.hypot(*way.T)
        is_near = (far < how.near) & (np.arange(len(places)) != n)
        if not is_near.any():
            continue
        found[n] += how.together * way[is_near].mean(axis=0) / how.near
        found[n] += how.alike * (speeds[is_near].mean(axis=0) - speeds[n])
        close = is_near & (far < how.near / 2) & (far > 0)
        strong = 1 - far[close] / (how.near / 2)
        found[n] -= how.apart * (way[close] / far[close, None] * strong[:, None]).sum(axis=0)
    return found


class Wishes(TestCase):
    def test_of_every_pair(self) -> None:
        """As when all pairs are looked at, whatever the threads; also far from the corner and below it."""
        chance = np.random.default_rng(4)
        for corner in ((0, 0), (-700, 9e5)):
            places = chance.random((300, 2)) * 900 + corner
            speeds = chance.normal(size=(300, 2)) * 50
            expected = by_hand(places, speeds, HOW)
            np.testing.assert_allclose(heeded(places, speeds, HOW), expected, atol=1e-6)
            with mock.patch.dict(os.environ, HANDFUL_THREADS="1"):
                np.testing.assert_allclose(heeded(places, speeds, HOW), expected, atol=1e-6)

    def test_what_is_beside_a_row_is_not_near(self) -> None:
        """The last in one row of cells and the first in the next are far from each other."""
        places = np.array([[0.0, 100.0], [790.0, 20.0], [0.0, 20.0], [790.0, 100.0]])
        for apart in (159.0, 200.0):
            spread = np.array([[0.0, 0.0], [800.0, 0.0], [0.0, apart], [800.0, apart]])
            np.testing.assert_array_equal(heeded(spread, np.ones_like(spread), HOW), 0)
        found = heeded(places, np.zeros_like(places), HOW._replace(near=81.0))
        self.assertLess(found[0, 1], 0)
        np.testing.assert_array_equal(found[:, 0], 0)

    def test_a_pair(self) -> None:
        """Two at a distance d: drawn with d / near, driven apart with 1 - d / (near / 2)."""
        for far in (10.0, 35.0, 60.0, 79.0, 81.0):
            places = np.array([[0.0, 0.0], [0.6 * far, 0.8 * far]])
            found = heeded(places, np.zeros((2, 2)), HOW)
            strong = (300 * far / 80 - 700 * max(0, 1 - far / 40)) * (far < 80)
            np.testing.assert_allclose(found[0], np.array([0.6, 0.8]) * strong, atol=1e-9)
            np.testing.assert_allclose(found[0], -found[1], atol=1e-9)

    def test_crowds_are_judged_by_some(self) -> None:
        """Of very many some stand for all: what they wish for is about the same, and no cost without end."""
        chance = np.random.default_rng(5)
        places, speeds = chance.random((6000, 2)) * 160, chance.normal(size=(6000, 2))
        how = HOW._replace(alike=0.0, apart=0.0)
        some, all_of = heeded(places, speeds, how), by_hand(places, speeds, how)
        # The mean of n places with a deviation of half the distance is off by that over the root of n (textbook
        # statistics); of three times 48 in nine cells so many are within the circle.
        looked_at = 3 * 48 * math.pi / 9
        off = 0.8 * how.near / 2 / math.sqrt(looked_at) * how.together / how.near
        self.assertLess(np.abs(some - all_of).mean(), off)
        self.assertGreater(np.abs(all_of).mean(), 2 * off)

    def test_nobody_and_one(self) -> None:
        for count in (0, 1):
            found = heeded(np.zeros((count, 2)), np.zeros((count, 2)), HOW)
            self.assertEqual(found.shape, (count, 2))
            self.assertFalse(found.any())

    def test_all_in_one_place(self) -> None:
        found = heeded(np.full((50, 2), 7.0), np.zeros((50, 2)), HOW)
        self.assertTrue(np.isfinite(found).all())
        self.assertEqual(math.fsum(np.abs(found).ravel()), 0)
