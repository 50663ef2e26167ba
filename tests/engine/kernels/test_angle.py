"""Angles in plain arithmetic, against the library's."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np

from handful.engine.kernels.angle import angle_of, cosine_of


class Angles(TestCase):
    def test_it_is_the_librarys_over_twelve_decades_and_all_quarters(self) -> None:
        """`math.atan2` of the C library."""
        choose = np.random.default_rng(5)
        down, across = choose.normal(size=(2, 20_000)) * 10.0 ** choose.uniform(-6, 6, (2, 20_000))
        for y, x in zip(down, across, strict=True):
            self.assertAlmostEqual(angle_of(y, x), math.atan2(y, x), delta=1e-15)

    def test_along_the_axes_and_the_diagonals_it_is_whole_eighths_of_a_turn(self) -> None:
        for eighth in range(-3, 5):
            x, y = round(math.cos(eighth * math.pi / 4)), round(math.sin(eighth * math.pi / 4))
            with self.subTest(eighth=eighth):
                self.assertAlmostEqual(
                    angle_of(float(y), float(x)), eighth * math.pi / 4, delta=1e-15
                )

    def test_a_place_upon_the_other_has_the_angle_0(self) -> None:
        self.assertEqual(angle_of(0.0, 0.0), 0.0)


class Cosines(TestCase):
    def test_it_is_the_librarys(self) -> None:
        """`math.cos` of the C library, through several turns to both sides, whole quarters among them."""
        for turns in np.linspace(-3, 3, 4801, dtype=np.float32):
            wanted = math.cos(2 * math.pi * float(turns))
            self.assertAlmostEqual(float(cosine_of(turns)), wanted, delta=1e-5)
