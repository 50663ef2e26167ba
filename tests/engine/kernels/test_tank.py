"""A ripple tank beside the wave equation's closed forms, and what reacts beside Pearson's map."""

import math
from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine.kernels.fluid.laid import covered, laid
from handful.engine.kernels.fluid.reaction import SPREADS, SPREADS_LESS, react
from handful.engine.kernels.fluid.tank import ripple
from handful.engine.picture import Region, Tile


def run(heights: np.ndarray, steps: int, courant: float = 0.5, **more: Any) -> list[np.ndarray]:
    """Heights after each step, from rest."""
    settings: dict[str, Any] = {"walls": np.zeros_like(heights), "loses": 0.0, "sponge": 0} | more
    now, before, found = heights.astype(np.float32), heights.astype(np.float32), []
    for _ in range(steps):
        now, before = (
            ripple(now, before, settings["walls"], courant, settings["loses"], settings["sponge"]),
            now,
        )
        found.append(now)
    return found


def bump(rows: int, columns: int, y: float, x: float, wide: float) -> np.ndarray:
    far = (np.arange(rows)[:, None] - y) ** 2 + (np.arange(columns) - x) ** 2
    return np.exp(-far / wide**2).astype(np.float32)


class Tank(TestCase):
    def test_a_pulse_runs_at_its_speed(self) -> None:
        """D'Alembert 1747: half of a ridge runs each way, `courant` cells a step, as it is."""
        ridge = np.tile(np.exp(-((np.arange(400) - 200) ** 2) / 150), (24, 1)).astype(np.float32)
        found = run(ridge, 200)[-1][12]
        right = 300 + np.argmax(found[300:])
        self.assertAlmostEqual(int(right), 300, delta=1)
        self.assertAlmostEqual(float(found[right]), 0.5, delta=0.02)
        self.assertAlmostEqual(float(found[200]), 0, delta=0.01)

    def test_a_box_sounds_its_note(self) -> None:
        """A standing wave between walls: cos(π m x / W) cos(π n y / H) turns at π c √((m/W)² + (n/H)²)."""
        rows, columns, courant = 60, 90, 0.5
        x, y = (np.arange(columns) + 0.5) / columns, (np.arange(rows)[:, None] + 0.5) / rows
        mode = np.cos(2 * math.pi * x) * np.cos(math.pi * y)
        turns = math.pi * courant * math.hypot(2 / columns, 1 / rows)
        for step, heights in enumerate(run(mode, 160), 1):
            wanted = math.cos(turns * (step + 0.5)) / math.cos(turns / 2) * mode
            self.assertLess(float(np.abs(heights - wanted).max()), 0.03)

    def test_alike_in_all_directions(self) -> None:
        """A round wave stays round."""
        found = run(bump(201, 201, 100, 100, 5), 150)[-1]
        straight = found[100, 100:180]
        across = (np.arange(80) / math.sqrt(2) + 100)[None].astype(np.float32)
        aslant = cv2.remap(found, across, across, cv2.INTER_CUBIC)[0]
        self.assertLess(
            float(np.abs(straight - aslant).max()), 0.06 * float(np.abs(straight).max())
        )

    def test_it_comes_back_from_walls(self) -> None:
        """The right way up; behind a wall there is nothing; energy stays, and goes as it loses."""
        ridge = np.tile(np.exp(-((np.arange(200) - 60) ** 2) / 60), (24, 1)).astype(np.float32)
        walls = np.zeros_like(ridge)
        walls[:, 120:] = 1
        found = run(ridge, 160, walls=walls)[-1][12]
        self.assertEqual(float(np.abs(found[120:]).max()), 0)
        back = int(np.argmax(found[60:118])) + 60
        self.assertAlmostEqual(back, 100, delta=2)
        self.assertGreater(float(found[back]), 0.45)
        level = bump(80, 80, 40, 40, 6)
        level -= level.mean()
        kept = [float((heights**2).sum()) for heights in run(level, 400)]
        self.assertAlmostEqual(float(np.mean(kept[300:]) / np.mean(kept[100:200])), 1, delta=0.1)
        lost = run(level, 400, loses=0.01)
        left = float(np.mean([(heights**2).sum() for heights in lost[300:]]))
        self.assertAlmostEqual(left / float(np.mean(kept[300:])), math.exp(-0.01 * 350), delta=0.02)

    def test_it_runs_out_at_a_sponge(self) -> None:
        """Hardly anything of a wave comes back from edges that take it up."""
        stays, goes = (
            float(np.abs(run(bump(120, 120, 60, 60, 6), 400, sponge=sponge)[-1]).max())
            for sponge in (0, 24)
        )
        self.assertLess(goes, 0.06 * stays)

    def test_for_ever_within_bounds(self) -> None:
        """At the most cells a step, from noise: it does not grow."""
        rough = np.random.default_rng(2).normal(0, 1, (60, 60)).astype(np.float32)
        self.assertLess(float(np.abs(run(rough, 3000, courant=0.6)[-1]).max()), 8)


class Reaction(TestCase):
    def grown(self, feed: float, dies: float, steps: int = 2600) -> np.ndarray:
        v = np.zeros((80, 100), np.float32)
        v[36:46, 42:56] = 0.25
        v[28:38, 38:42] = 0.25
        u = (1 - 2 * v).astype(np.float32)
        for _ in range(steps):
            u, v = react(u, v, np.ones_like(u), feed, dies)
        return v

    def test_what_diffuses(self) -> None:
        """Where nothing reacts a spot's variance grows by 2 D a unit of time and axis, for both stuffs."""
        spot = bump(101, 101, 50, 50, 6).astype(np.float32)
        nothing = np.zeros_like(spot)
        across = np.arange(101) - 50
        for which, spreads in ((0, SPREADS), (1, SPREADS_LESS)):
            pair = [nothing, nothing]
            pair[which] = spot * np.float32(1e-3)
            u, v = pair
            for _ in range(200):
                u, v = react(u, v, np.ones_like(spot), 0.0, 0.0)
            found = (u, v)[which].sum(axis=0)
            variance = float((found * across**2).sum() / found.sum())
            self.assertAlmostEqual(variance, 18 + 2 * spreads * 200, delta=0.6)

    def test_pearsons_map(self) -> None:
        """Pearson 1993: with these F and k spots part till all is spots; with these stripes grow into one
        maze; with more dying all dies, and nothing comes of nothing."""
        spots, mazes = (
            self.grown(*settings) > 0.15 for settings in ((0.03, 0.062), (0.029, 0.057))
        )
        count, _, stats, _ = cv2.connectedComponentsWithStats(spots.astype(np.uint8))
        self.assertGreater(count, 25)
        sizes = stats[1:, cv2.CC_STAT_AREA]
        self.assertLess(float(sizes.max()), 4 * float(np.median(sizes)))
        maze_count, _, maze, _ = cv2.connectedComponentsWithStats(mazes.astype(np.uint8))
        self.assertGreater(float(maze[1:, cv2.CC_STAT_AREA].max()), 12 * float(np.median(sizes)))
        self.assertLess(maze_count, count)
        self.assertLess(float(self.grown(0.03, 0.07).max()), 1e-3)

    def test_it_stays_within(self) -> None:
        v = np.zeros((60, 60), np.float32)
        v[20:40, 20:40] = 0.25
        within = np.zeros_like(v)
        within[:, :36] = 1
        u = 1 - 2 * v
        for _ in range(1500):
            u, v = react(u, v, within, 0.037, 0.06)
        self.assertGreater(float(v[:, :34].max()), 0.2)
        self.assertLess(float(v[:, 40:].max()), 0.02)


class Laid(TestCase):
    def test_grids_and_pictures(self) -> None:
        """What is brought from a picture on a grid, and from there on a picture, lies where it was."""
        pixels = np.zeros((60, 80, 4), np.float32)
        pixels[20:40, 30:60, 3] = 1
        grid = covered(Tile(pixels, Region(10, 5, 90, 65)), 20.0, 10.0, 4.0, 0.5, 30, 44)
        rows, columns = (
            np.flatnonzero(grid.max(axis=1) > 0.5),
            np.flatnonzero(grid.max(axis=0) > 0.5),
        )
        self.assertEqual((rows[0] * 4 + 10, columns[0] * 4 + 20), (50, 80))
        self.assertEqual((len(rows), len(columns)), (10, 15))
        back, region = laid(grid, 10.0, 5.0, 2.0, Region(0, 0, 200, 200))
        self.assertEqual(region, Region(10, 5, 98, 65))
        inside = back[26 - 5 : 43 - 5, 42 - 10 : 67 - 10]
        self.assertGreater(float(inside.min()), 0.9)
        self.assertEqual(laid(grid, 10.0, 5.0, 2.0, Region(300, 0, 310, 9))[1].empty, True)

    def test_straight_between(self) -> None:
        """A slope is that slope at any place between."""
        slope = np.tile(np.arange(20, dtype=np.float32), (12, 1))
        found, region = laid(slope, 3.5, 2.0, 3.0, Region(0, 0, 100, 100))
        x = np.arange(region.left, region.right) + 0.5
        wanted = (x - 3.5) / 3 - 0.5
        np.testing.assert_allclose(found[15, 8:-8], wanted[8:-8], atol=1e-4)
