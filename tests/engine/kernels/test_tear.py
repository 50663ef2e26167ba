"""A tear in a sheet: where it is, what it cuts, and how each side goes on."""

import itertools
import math
from unittest import TestCase

import numpy as np

from handful.engine.kernels.drawing.folds import Rent, Stuff, draw_folds
from handful.engine.kernels.forms.sheet import TIES
from handful.engine.kernels.forms.tear import each_side, tear_along, ties_left
from handful.engine.picture import Region
from tests.engine.kernels.test_sheet import Hung, flat

SIDE, CELL = 25, 10.0
BENT = np.array([(118.0, -20.0), (118.0, 77.0), (161.0, 133.0), (93.0, 260.0)])


def _round(x: float, y: float, radius: float, count: int = 90) -> np.ndarray:
    turns = np.linspace(0, 2 * math.pi, count + 1)
    found = np.stack([x + radius * np.cos(turns), y + radius * np.sin(turns)], axis=1)
    found[-1] = found[0]
    return found


def _meet(a: np.ndarray, b: np.ndarray, line: np.ndarray) -> bool:
    """Whether a line comes between two points, and does not come back: two straight pieces meet where each has the other's
    ends on both sides."""

    def side(p: np.ndarray, q: np.ndarray, r: np.ndarray) -> float:
        return float((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]))

    met = [
        side(a, b, p) * side(a, b, q) < 0 and side(p, q, a) * side(p, q, b) < 0
        for p, q in itertools.pairwise(line)
    ]
    return sum(met) % 2 == 1


class Laid(TestCase):
    def test_beside_a_straight_line_and_along_it(self) -> None:
        """Closed form, for a line downwards: what is left on the picture lies to the right of its way."""
        beside, gone = tear_along(
            np.array([(82.0, 30.0), (82.0, 130.0)]), 60, CELL, CELL, SIDE, SIDE
        )
        x, y = np.meshgrid(np.arange(SIDE) * CELL, np.arange(SIDE) * CELL)
        np.testing.assert_allclose(beside, 82 - x, atol=1e-3)
        np.testing.assert_allclose(gone, np.minimum(y - 30, 90 - y), atol=1e-3)

    def test_it_opens_the_edge_that_it_comes_from(self) -> None:
        """From beyond the edge on it is wide open there; from within on it begins as a slit."""
        beyond = tear_along(np.array([(82.0, -9.0), (82.0, 250.0)]), 100, CELL, CELL, SIDE, SIDE)
        within = tear_along(np.array([(82.0, 1.0), (82.0, 250.0)]), 100, CELL, CELL, SIDE, SIDE)
        self.assertGreater(float(beyond.gone[0, 8]), 80)
        self.assertLess(float(within.gone[0, 8]), 0)
        ended = tear_along(np.array([(82.0, -9.0), (82.0, 250.0)]), 259, CELL, CELL, SIDE, SIDE)
        self.assertGreater(float(ended.gone[-1, 8]), 1e5)

    def test_round_what_it_tears_out(self) -> None:
        """A circle that closes has all within it on its right, as it goes clockwise on the picture."""
        line = _round(118, 123, 61)
        beside, gone = tear_along(line, 1e9, CELL, CELL, SIDE, SIDE)
        x, y = np.meshgrid(np.arange(SIDE) * CELL, np.arange(SIDE) * CELL)
        np.testing.assert_allclose(beside, 61 - np.hypot(x - 118, y - 123), atol=0.1)
        self.assertGreater(float(gone.min()), 0)
        half = tear_along(line, 190, CELL, CELL, SIDE, SIDE).gone
        self.assertLess(float(half[12, 18]), 3, "it pinches where it begins")

    def test_ties_that_it_crosses_are_cut_and_no_others(self) -> None:
        for line, torn in ((BENT, 1e9), (BENT, 150.0), (_round(118, 123, 61), 1e9)):
            tear = tear_along(line, torn, CELL, CELL, SIDE, SIDE)
            left = ties_left(tear)
            for k, (i, m, j, n) in enumerate(TIES):
                for r in range(SIDE - 2):
                    for c in range(SIDE - 2):
                        a, b = np.array([c + j, r + i]) * CELL, np.array([c + n, r + m]) * CELL
                        near_tip = abs(float(tear.gone[r, c])) < 2.9 * CELL
                        if near_tip:
                            continue
                        wanted = _meet(a, b, line) and tear.gone[r, c] > 0
                        self.assertEqual(left[k, r, c] == 0, wanted, (torn, k, r, c))

    def test_nothing_is_cut_before_it_begins(self) -> None:
        self.assertTrue((ties_left(tear_along(BENT, 0.0, CELL, CELL, SIDE, SIDE)) == 1).all())


class Torn(TestCase):
    def test_what_is_torn_off_falls_freely(self) -> None:
        """g t² / 2 (Galilei 1638); what still hangs does not notice."""
        places = flat(21, 9)
        line = np.array([(-30.0, 105.0), (130.0, 105.0)])
        torn = Hung(places, [(0, c) for c in range(9)])
        torn.left = ties_left(tear_along(line, 1e9, 10, 10, 21, 9))
        torn.go(0.4)
        fallen = torn.places[11:, :, 1] - places[11:, :, 1]
        np.testing.assert_allclose(fallen, 0.5 * torn.sheet.gravity * 0.4**2, rtol=0.01)
        self.assertLess(float(np.abs(torn.places[:11] - places[:11]).max()), 1.0)

    def test_what_is_held_on_one_side_only(self) -> None:
        """Torn from corner to corner, the side that nothing holds falls as one piece, past the other."""
        places = flat(12, 12)
        line = np.array([(153.0, 150.0), (-27.0, -30.0)])
        tear = tear_along(line, 1e9, 10, 10, 12, 12)
        torn = Hung(places, [(0, c) for c in range(12) if tear.beside[0, c] > 0])
        torn.left = ties_left(tear)
        torn.go(0.3)
        free, fallen = tear.beside < 0, torn.places - places
        np.testing.assert_allclose(fallen[free][:, 1], 0.5 * torn.sheet.gravity * 0.3**2, rtol=0.01)
        np.testing.assert_allclose(fallen[free][:, 0], 0, atol=1e-6)
        self.assertLess(float(np.abs(fallen[~free]).max()), 1.0)

    def test_a_slit_holds_at_its_end(self) -> None:
        """Torn from below up to its middle, both sides still hang, and its upper half is as if it were whole."""
        whole, slit = (Hung(flat(21, 9), [(0, c) for c in range(9)], loses=5) for _ in range(2))
        line = np.array([(43.0, 230.0), (43.0, -30.0)])
        slit.left = ties_left(tear_along(line, 130, 10, 10, 21, 9))
        self.assertTrue((slit.left == 0).any())
        for each in (whole, slit):
            each.go(1)
        np.testing.assert_allclose(slit.places[:9], whole.places[:9], atol=1.5)
        self.assertLess(float(slit.places[..., 1].max()), 205)


class Sides(TestCase):
    def test_each_goes_on_as_it_leads(self) -> None:
        """Of a sheet that is flat on each side each side stays flat beyond the tear, whatever is there (a plane is its own
        fit), and what is its own does not change."""
        line = np.array([(118.0, -20.0), (118.0, 270.0)])
        tear = tear_along(line, 1e9, CELL, CELL, SIDE, SIDE)
        x, y = np.meshgrid(np.arange(SIDE) * CELL, np.arange(SIDE) * CELL)
        leans = [np.stack([x + 0.2 * y, y, s * 0.5 * x + 40 * s], axis=2) for s in (1, -1)]
        torn = np.where((tear.beside > 0)[..., None], leans[0], leans[1])
        for found, wanted, side in zip(each_side(torn, tear, CELL), leans, (1, -1), strict=True):
            own = side * tear.beside > 0
            np.testing.assert_array_equal(found[own], torn[own])
            near = ~own & (np.abs(tear.beside) < 4 * CELL)
            np.testing.assert_allclose(found[near], wanted[near], atol=2.0)
            far = ~own & (np.abs(tear.beside) > 8 * CELL)
            np.testing.assert_array_equal(found[far], torn[far])


class Drawn(TestCase):
    region = Region(0, 0, 260, 260)
    white = Stuff((1.0, 1.0, 1.0), (1.0, 1.0, 1.0), 0.0, 1.0, 1.0)

    def _shown(self, opened: float, frayed: float = 0.0) -> np.ndarray:
        """A flat sheet of 240 px, torn from top to bottom, whose sides have gone apart."""
        tear = tear_along(np.array([(118.0, -20.0), (118.0, 270.0)]), 1e9, CELL, CELL, SIDE, SIDE)
        places = flat(SIDE, SIDE) + np.array([10.0, 10.0, 0.0])
        places[..., 0] += opened * np.sign(-tear.beside) / 2
        sides = np.concatenate(each_side(places, tear, CELL)).astype(np.float32)
        edges = np.concatenate(
            [np.stack([side * tear.beside, tear.gone], axis=2) for side in (1, -1)]
        )
        threads = np.random.default_rng(1).random((2, 60), np.float32)
        rent = Rent(SIDE, edges.astype(np.float32), np.float32(frayed), threads)
        lit = np.tile(np.array([1, 0, 1, 0], np.float32), (2 * SIDE, SIDE, 1))
        none = np.empty((0, 0, 4), np.float32)
        return draw_folds(sides, lit, self.white, none, 1.0, self.region, rent).within(self.region)

    def test_sides_that_have_not_gone_apart_are_whole(self) -> None:
        cover = self._shown(0.0)[..., 3]
        self.assertEqual(float(cover[12:248, 12:248].min()), 1.0)
        self.assertAlmostEqual(float(cover.sum()), 240**2, delta=2)

    def test_between_its_sides_there_is_nothing(self) -> None:
        picture = self._shown(12.0)
        np.testing.assert_array_equal(picture[20:240, 123:133], 0)
        self.assertAlmostEqual(float(picture[..., 3].sum()), 240**2, delta=30)
        np.testing.assert_array_equal(picture[..., 0], picture[..., 3])

    def test_threads_stand_out(self) -> None:
        """Each side loses as much as the threads there do in the mean, unevenly."""
        plain, frayed = self._shown(12.0)[..., 3], self._shown(12.0, 8.0)[..., 3]
        lost = (plain - frayed).sum(axis=1)[30:230]
        across, down = np.random.default_rng(1).random((2, 60), np.float32)
        away = np.arange(0.05, 8, 0.1)
        wanted = 0.0
        for side in (-1, 1):
            threads = across[((118 + side * away) / 240 * 60).astype(int)]
            ends = 8.0 * 0.5 * (threads[:, None] + down)
            wanted += 0.1 * float((away[:, None] <= ends).sum(axis=0).mean())
        self.assertAlmostEqual(float(lost.mean()), wanted, delta=0.4)
        self.assertGreater(float(lost.std()), 0.8)
