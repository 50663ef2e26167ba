"""Dielectric breakdown against its paper."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine.kernels.chance.hash import key_for
from handful.engine.kernels.forms.breakdown import breakdown, breakdown_tree
from handful.engine.kernels.forms.strokes import STEADY

DIMENSION = 1.75
"""Fractal dimension for eta = 1 in the plane (Niemeyer, Pietronero and Wiesmann 1984)."""

RADIUS = 200


def _boxes(sites: np.ndarray, size: int) -> float:
    """Boxes of a size that hold a site, the mean over four ways to lay them."""
    shifts = range(0, size, max(1, size // 4))
    return float(np.mean([len(np.unique((sites + shift) // size, axis=0)) for shift in shifts]))


class Paper(TestCase):
    sites: list[np.ndarray]

    @classmethod
    def setUpClass(cls) -> None:
        cls.sites = [breakdown(key_for(seed), RADIUS, 1.0, 0.0).sites for seed in range(2)]

    def test_dimension_by_counting_boxes(self) -> None:
        """The paper's 1.75; boxes of 8 to 64 sites on a figure of 200, which cuts large ones short."""
        sizes = [8, 16, 32, 64]
        for sites in self.sites:
            counts = [_boxes(sites, size) for size in sizes]
            slope = -np.polyfit(np.log(sizes), np.log(counts), 1)[0]
            self.assertAlmostEqual(slope, DIMENSION, delta=0.08)

    def test_dimension_by_growth(self) -> None:
        """The paper's own way: sites within a radius go with its power."""
        radii = np.geomspace(8, 0.7 * RADIUS, 8)
        for sites in self.sites:
            away = np.hypot(*sites.T)
            counts = [np.count_nonzero(away < radius) for radius in radii]
            slope = np.polyfit(np.log(radii), np.log(counts), 1)[0]
            self.assertAlmostEqual(slope, DIMENSION, delta=0.06)

    def test_higher_exponent_is_sparser(self) -> None:
        """The paper's figures for 0.5, 1 and 2: the higher eta, the fewer sites."""
        counts = [len(breakdown(key_for(3), 48, eta, 0.0).sites) for eta in (0.5, 1.0, 2.0)]
        self.assertGreater(counts[0], 1.15 * counts[1])
        self.assertGreater(counts[1], 1.15 * counts[2])

    def test_one_piece(self) -> None:
        """Definition: every site grew from a neighbour that was there before, and none twice."""
        figure = breakdown(key_for(5), 48, 1.0, 2.0)
        steps = figure.sites[1:] - figure.sites[figure.parents[1:]]
        self.assertTrue((np.abs(steps).sum(axis=1) == 1).all())
        self.assertTrue((figure.parents[1:] < np.arange(1, len(figure.sites))).all())
        self.assertEqual(len(np.unique(figure.sites, axis=0)), len(figure.sites))


class Tree(TestCase):
    def _tree(self, **more: object) -> np.ndarray:
        way = np.array([[100.0, 100.0], [500.0, 400.0]])
        plain: dict[str, Any] = {
            "key": key_for(1), "eta": 1.5, "aimed": 0.5, "way": way,
            "along": np.array([0.0, 500.0]), "crooked": 1.0, "phase": 0.3, "widths": (4.0, 2.0),
            "dying": 0.8, "stroke": STEADY,
        }  # fmt: skip
        return breakdown_tree(**(plain | more))

    def test_touches_both_ends(self) -> None:
        """Definition: it begins at the first place and reaches the last, to a hundredth of a px."""
        tree = self._tree()
        np.testing.assert_allclose(tree[0, :2], (100, 100), atol=0.01)
        self.assertLess(float(np.hypot(tree[:, 4] - 500, tree[:, 5] - 400).min()), 0.01)

    def test_grows_from_its_start(self) -> None:
        """Half grown is the beginning of the whole figure."""
        whole, half = self._tree(), self._tree(stroke=STEADY._replace(grown=0.5))
        self.assertAlmostEqual(len(half) / len(whole), 0.5, delta=0.02)
        np.testing.assert_array_equal(half, whole[: len(half)])
