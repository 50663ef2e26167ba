"""What the skin of molten stuff does: it cools, tears and folds, and goes along with what it lies on."""

import math
import os
from unittest import TestCase, mock

import numpy as np
from scipy.ndimage import gaussian_filter

from handful.engine.kernels.fluid import skin as skins
from handful.engine.kernels.fluid.advection import carried, flow_of_cells, room_for
from handful.engine.kernels.fluid.grid import LEVELS, MARKS
from handful.engine.kernels.fluid.skin import CORE, FOLDED, SKIN, TORN, Skin, fare

BARE = Skin(cools=0.0, chills=0.0, warms=0.0, heals=0.0, tears=1.0)


def hot(rows: int, columns: int) -> np.ndarray:
    levels = np.zeros((rows, columns, LEVELS), np.float32)
    levels[..., (SKIN, CORE)] = 1
    return levels


def still(rows: int, columns: int) -> tuple[np.ndarray, np.ndarray]:
    return np.zeros((rows, columns + 1), np.float32), np.zeros((rows + 1, columns), np.float32)


class Skins(TestCase):
    thick = np.full((20, 30), 2.0, np.float32)
    none = np.zeros((20, 30), np.float32)

    def flow(self, spreads: float) -> tuple[np.ndarray, np.ndarray]:
        """A flow that spreads by a share a second, across only."""
        across = np.tile(np.arange(31, dtype=np.float32) * np.float32(spreads), (20, 1))
        return across, np.zeros((21, 30), np.float32)

    def test_half_as_hot(self) -> None:
        """By the fourth power, dT/dt = -c T⁴: T = (1 + 3 c t)^(-1/3), whatever the steps; half after 7 / 3c."""
        for frames in (1, 50):
            levels = hot(20, 30)
            for _ in range(frames):
                levels = fare(self.thick, levels, self.flow(0), self.none, BARE._replace(cools=7 / 3), 1 / frames)  # fmt: skip
            np.testing.assert_allclose(levels[..., SKIN], 0.5, atol=2e-3)
            np.testing.assert_allclose(levels[..., CORE], 1.0)

    def test_thick_stays_hot(self) -> None:
        """What is under the skin cools as much more slowly as it is thicker."""
        thick = self.thick.copy()
        thick[:, 15:] = 8
        levels = hot(20, 30)
        levels = fare(thick, levels, self.flow(0), self.none, BARE._replace(chills=7 / 3), 2.0)
        self.assertAlmostEqual(float(levels[5, 5, CORE]), 0.5, delta=1e-3)
        self.assertAlmostEqual(float(levels[5, 20, CORE]), (1 + 7 / 4) ** (-1 / 3), delta=1e-3)

    def test_torn_where_it_spreads(self) -> None:
        """Stretched by a tenth, skin is torn by a tenth and a tenth of it is as hot as what is below; pushed
        together it folds and stays as cold."""
        for spreads, torn, folded, skin in ((1.0, 0.1, 0.0, 0.37), (-1.0, 0.0, 0.1, 0.3)):
            levels = hot(20, 30)
            levels[..., SKIN] = 0.3
            levels = fare(self.thick, levels, self.flow(spreads), self.none, BARE, 0.1)
            for level, wanted in ((TORN, torn), (FOLDED, folded), (SKIN, skin)):
                np.testing.assert_allclose(levels[:, :24, level], wanted, atol=1e-5)

    def test_heals(self) -> None:
        levels = hot(20, 30)
        levels[..., TORN] = levels[..., FOLDED] = 0.4
        levels = fare(
            self.thick, levels, self.flow(0), self.none, BARE._replace(heals=math.log(2)), 1.0
        )
        np.testing.assert_allclose(levels[..., (TORN, FOLDED)], 0.2, atol=1e-5)

    def test_new_where_it_is_poured(self) -> None:
        levels = hot(20, 30)
        levels[..., (SKIN, CORE)] = 0.2
        levels[..., TORN] = 0.4
        poured = self.none.copy()
        poured[:, :10] = 2
        levels = fare(self.thick, levels, self.flow(0), poured, BARE, 0.04)
        np.testing.assert_allclose(levels[:, :10, (SKIN, CORE)], 1, atol=1e-5)
        np.testing.assert_allclose(levels[:, :10, TORN], 0, atol=1e-5)
        np.testing.assert_allclose(levels[:, 10:, (SKIN, CORE)], 0.2, atol=1e-5)

    def test_rows_of_any_length(self) -> None:
        """Each cell fares by itself where nothing flows: in rows that are cut off anywhere all is as it was, and marks stay."""
        chance = np.random.default_rng(7)
        levels = chance.random((5, 13, LEVELS)).astype(np.float32)
        thick, poured = (1 + chance.random((2, 5, 13))).astype(np.float32)
        how = Skin(1.0, 2.0, 0.5, 0.3, 0.8)
        worn = fare(thick, levels, still(5, 13), poured, how, 0.1)
        np.testing.assert_allclose(worn[..., MARKS:], levels[..., MARKS:], atol=1e-5)
        self.assertGreater(float(np.abs(worn - levels)[..., :MARKS].min(axis=(0, 1)).max()), 0)
        for long in range(2, 13):
            stands, some, new = (each[:, :long].copy() for each in (thick, levels, poured))
            short = fare(stands, some, still(5, long), new, how, 0.1)
            np.testing.assert_allclose(short, worn[:, :long], atol=1e-5)

    def test_a_front_brings_along_what_is_behind_it(self) -> None:
        """Where nothing stands yet there is what stands beside it, not what was there before."""
        thick = self.thick.copy()
        thick[:, 15:] = 0
        levels = hot(20, 30)
        levels[:, :15, SKIN], levels[:, 15:, SKIN] = 0.4, 0.9
        levels = fare(thick, levels, self.flow(0), self.none, BARE, 0.04)
        np.testing.assert_allclose(levels[:, 15:17, SKIN], 0.4, atol=1e-5)
        for edge in range(3, 57, 4):
            thick = np.full((60, 30), 2.0, np.float32)
            thick[edge:] = 0
            levels = hot(60, 30)
            levels[..., MARKS] = np.arange(30)
            levels[..., MARKS + 1] = np.arange(60)[:, None]
            levels[:edge, :, SKIN], levels[edge:, :, SKIN] = 0.4, 0.9
            levels[edge:, :, MARKS:] = 99
            levels = fare(thick, levels, still(60, 30), np.zeros_like(thick), BARE, 0.04)
            np.testing.assert_allclose(levels[edge : edge + 2, :, SKIN], 0.4, atol=1e-5)
            np.testing.assert_allclose(levels[edge + 2 :, :, SKIN], 0.9, atol=1e-5)
            beside = levels[edge : edge + 2, 3:-3, MARKS:]
            np.testing.assert_allclose(beside[..., 0], np.tile(np.arange(3, 27), (2, 1)), atol=1e-4)
            np.testing.assert_allclose(beside[..., 1], [[edge] * 24, [edge + 1] * 24], atol=1e-4)


class Goes(TestCase):
    """What is torn and never heals goes along and is else what it was."""

    thick = np.full((48, 32), 2.0, np.float32)

    def gone(
        self, levels: np.ndarray, flow: tuple[np.ndarray, np.ndarray], lasts: float
    ) -> np.ndarray:
        return fare(self.thick, levels, flow, np.zeros_like(self.thick), BARE, lasts)

    def test_once_round(self) -> None:
        """In a flow that turns as a plate does, a spot is after a whole turn where it was, to a cell, and keeps two thirds of its
        height; never is it higher, nor less than nothing."""
        j, i = np.mgrid[:48, :32] + 0.5
        pace = 2 * math.pi / 4
        across = np.tile(-(np.arange(48) + 0.5 - 24) * pace, (33, 1)).T.astype(np.float32).copy()
        down = np.tile((np.arange(32) + 0.5 - 16) * pace, (49, 1)).astype(np.float32)
        first = hot(48, 32)
        first[..., TORN] = np.exp(-((np.hypot(i - 24, j - 24) / 3) ** 2))
        levels, begun = first, first[..., TORN]
        for _ in range(80):
            levels = self.gone(levels, (across, down), 0.05)
        spot = levels[..., TORN]
        for axis in (j, i):
            moved, was = ((torn * axis).sum() / torn.sum() for torn in (spot, begun))
            self.assertAlmostEqual(float(moved), float(was), delta=1)
        self.assertGreater(float(spot.max()), 0.66 * float(begun.max()))
        self.assertLessEqual(float(spot.max()), float(begun.max()))
        self.assertGreaterEqual(float(spot.min()), 0)

    def test_far_in_one_step(self) -> None:
        """What goes some cells down through a flow that waves across comes from where that took it: in closed form, to three
        quarters of a cell in the mean. As the flow changes at the place itself it would come from a cell elsewhere."""
        wave, goes, falls = 2 * math.pi / 16, 6.0, 3.0
        y = np.arange(48) + 0.5
        across = np.tile(goes * np.sin(wave * y), (33, 1)).T.astype(np.float32).copy()
        down = np.full((49, 32), falls, np.float32)
        levels = hot(48, 32)
        levels[..., TORN] = np.arange(32)
        whence = self.gone(levels, (across, down), 1.0)[8:-8, 10:22, TORN]
        gone = goes / (wave * falls) * (np.cos(wave * (y - falls)) - np.cos(wave * y))
        wanted = np.arange(10, 22) - gone[8:-8, None]
        self.assertLess(float(np.abs(whence - wanted).mean()), 0.75)

    def test_just_before(self) -> None:
        """Closed forms: back round the middle of a plate that turns, and out of a flow that draws in as it spreads, to the
        third order of how far it went."""
        x, y = np.arange(33) - 16.0, np.arange(49) - 24.0
        for turns, draws in ((1.0, 0.0), (0.0, 1.0)):
            across = -turns * (y[:-1, None] + 0.5) + draws * x
            down = turns * (x[:-1] + 0.5) - draws * y[:, None]
            flow = across.astype(np.float32), down.astype(np.float32)
            room, places = room_for(32), np.empty((2, 32), np.float32)
            for j in (5, 24, 40):
                flow_of_cells(*flow, j, room)
                skins._just_before(*flow, j, np.float32(0.05), room, places)
                u, v = x[:-1] + 0.5, y[j] + 0.5
                c, s = math.cos(0.05 * turns), math.sin(0.05 * turns)
                wide = math.exp(0.05 * draws)
                wanted = (u * c + v * s) / wide, (v * c - u * s) * wide
                for way, middle, exact in zip(places, (15.5, 23.5), wanted, strict=True):
                    np.testing.assert_allclose(way[1:-1] - middle, exact[1:-1], atol=1.5e-3)

    def test_by_whole_cells(self) -> None:
        """In an even flow what moves by whole cells stays what it is; what comes in is nothing."""
        levels = np.random.default_rng(4).random((48, 32, LEVELS)).astype(np.float32)
        levels[..., (SKIN, CORE)] = 1
        across, down = still(48, 32)
        for cells in (1, 5):
            gone = self.gone(levels, (across + 2 * cells, down - 2 * cells), 0.5)
            inner, before = slice(cells + 1, -cells - 1), slice(2 * cells + 1, -1)
            np.testing.assert_allclose(
                gone[inner, inner], levels[before, 1 : -2 * cells - 1], atol=1e-4
            )
            self.assertEqual(float(gone[-cells:].max()), 0)
            self.assertEqual(float(gone[:, :cells].max()), 0)
        gone = self.gone(levels, (across, down + 1e6), 0.5)
        self.assertEqual(float(np.abs(gone).max()), 0)

    def test_as_in_steps_of_their_own(self) -> None:
        """Worn, carried along and mended row by row it is what whole fields are one after the other, in any flow of some
        cells; and the same on any number of threads."""
        chance = np.random.default_rng(5)
        for fast in (0.3, 2.5):
            thick = np.full((161, 40), 2.0, np.float32)
            across, down = (
                gaussian_filter(chance.normal(size=shape), 4, mode="wrap") for shape in ((161, 41), (162, 40))
            )  # fmt: skip
            across, down = (
                (part / np.abs(part).max() * fast / 0.04).astype(np.float32)
                for part in (across, down)
            )
            levels = gaussian_filter(chance.random((161, 40, LEVELS)), (3, 3, 0)).astype(np.float32)
            levels[..., (SKIN, CORE)] = 1
            found = []
            for threads in ("1", "2", "5"):
                with mock.patch.dict(os.environ, HANDFUL_THREADS=threads):
                    found.append(
                        fare(thick, levels, (across, down), np.zeros_like(thick), BARE, 0.04)
                    )
            np.testing.assert_array_equal(found[0], found[1])
            np.testing.assert_array_equal(found[0], found[2])
            wanted = carried(levels[None], across[None], down[None], 0.04)[0]
            inner = (slice(8, -8), slice(8, -8), slice(MARKS, None))
            off = np.abs(found[0] - wanted)[inner]
            plain = np.abs(levels - wanted)[inner]
            self.assertLess(float(off.mean()), 0.03 * float(plain.mean()))
