"""Molten stuff beside the similarity laws of a film that creeps."""

import math
import os
from unittest import TestCase, mock

import numpy as np

from handful.engine.kernels import compiled
from handful.engine.kernels.fluid.grid import LEVELS
from handful.engine.kernels.fluid.molten import Creeping, creep, sides_within, stir
from handful.engine.kernels.fluid.skin import CORE, SKIN

FLOOR = Creeping(runs=0.4, across=0.0, down=0.0, flat=1.0, stiffens=0.0)


def hot(rows: int, columns: int) -> np.ndarray:
    levels = np.zeros((rows, columns, LEVELS), np.float32)
    levels[..., (SKIN, CORE)] = 1
    return levels


def run(
    thick: np.ndarray, frames: int, how: Creeping = FLOOR, pours: np.ndarray | None = None,
    within: np.ndarray | None = None, seconds: float = 0.04,
) -> np.ndarray:  # fmt: skip
    sides = sides_within(np.ones_like(thick) if within is None else within)
    poured = np.zeros_like(thick) if pours is None else pours * np.float32(seconds)
    for _ in range(frames):
        thick = creep(thick, hot(*thick.shape), sides, poured, how, seconds)[0]
    return thick


def disc(side: int, radius: float, high: float) -> np.ndarray:
    far = np.hypot(*np.meshgrid(np.arange(side) - side // 2, np.arange(side) - side // 2))
    return np.where(far < radius, np.float32(high), np.float32(0)).astype(np.float32)


def radius_of(thick: np.ndarray) -> float:
    return math.sqrt((thick > 0.02 * thick.max()).sum() / math.pi)


class Creeps(TestCase):
    def test_a_lot_of_it_on_a_floor(self) -> None:
        """Huppert 1982 (JFM 121), from memory: r = 0.894 (g V³ / 3ν)^(1/8) t^(1/8), and it stands as
        (1 - (r/R)²)^(1/3) does."""
        thick = disc(161, 14, 6.0)
        volume, times, found = float(thick.sum()), list[float](), list[float]()
        for frames in (150, 300, 600):
            thick = run(thick, frames)
            times.append((times[-1] if times else 0) + frames * 0.04)
            found.append(radius_of(thick))
        wanted = [0.894 * (FLOOR.runs * volume**3 * t) ** 0.125 for t in times]
        np.testing.assert_allclose(found, wanted, rtol=0.04)
        self.assertAlmostEqual(float(thick.sum()) / volume, 1, delta=1e-4)
        profile = thick[80, 80:] / thick[80, 80]
        r = np.arange(len(profile)) / wanted[-1]
        law = np.maximum(0, 1 - r**2) ** (1 / 3)
        inner = r < 0.9
        np.testing.assert_allclose(profile[inner], law[inner], atol=0.03)

    def test_poured_on_a_floor(self) -> None:
        """The same, from memory: at a constant rate Q, r = 0.715 (g Q³ / 3ν)^(1/8) t^(1/2)."""
        pours, runny = disc(161, 4, 1.0), FLOOR._replace(runs=40.0)
        rate = float(pours.sum())
        for frames in (250, 500):
            thick = run(np.zeros((161, 161), np.float32), frames, runny, pours)
            seconds = frames * 0.04
            wanted = 0.715 * (runny.runs * rate**3) ** 0.125 * math.sqrt(seconds)
            self.assertAlmostEqual(radius_of(thick) / wanted, 1, delta=0.05)
            self.assertAlmostEqual(float(thick.sum()) / (rate * seconds), 1, delta=1e-3)

    def test_down_a_wall(self) -> None:
        """Huppert 1982 (Nature 300), from memory: a line of area A comes x = (27/4 A² g sinα / 3ν t)^(1/3) down."""
        wall = Creeping(runs=0.4, across=0.0, down=1.0, flat=0.0, stiffens=0.0)
        thick = np.zeros((300, 8), np.float32)
        thick[2:14] = 4
        area = float(thick.sum()) / 8
        for frames in (500, 1000):
            found = run(thick, frames, wall)
            front = float(np.argmax(np.cumsum(found[::-1, 4]) > 0.02 * area))
            wanted = (27 / 4 * area**2 * wall.runs * frames * 0.04) ** (1 / 3)
            self.assertAlmostEqual((300 - front - 2) / wanted, 1, delta=0.05)

    def test_which_way_it_runs(self) -> None:
        """Each way it is drawn it goes as far, as the mirror image."""
        start = disc(61, 6, 3.0)
        right, left, down, up = (
            run(start, 200, Creeping(0.4, x, y, 0.2, 0.0))
            for x, y in ((1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0))
        )
        columns = np.arange(61) - 30
        self.assertGreater(float((right.sum(axis=0) * columns).sum() / right.sum()), 4)
        for other in (left[:, ::-1], down.T, up.T[:, ::-1]):
            np.testing.assert_allclose(other, right, atol=1e-4)

    def test_held_by_walls(self) -> None:
        """Nothing leaves what holds it, and at last it stands level there."""
        within = np.zeros((40, 60), np.float32)
        within[5:35, 10:50] = 1
        thick = np.zeros((40, 60), np.float32)
        thick[8:20, 12:25] = 5
        found = run(thick, 3000, FLOOR._replace(runs=30.0), within=within)
        self.assertEqual(float(found[within == 0].max()), 0)
        level = found[within == 1]
        self.assertAlmostEqual(float(level.sum() / thick.sum()), 1, delta=1e-4)
        self.assertLess(float(np.ptp(level)), 0.05 * float(level.mean()))

    def test_runs_off_where_it_is_drawn(self) -> None:
        """Over the edges of the grid goes what is drawn there, and nothing else does."""
        level = np.full((30, 30), 2.0, np.float32)
        for x, y in ((1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0)):
            found = run(level, 10, Creeping(0.4, x, y, 0.0, 0.0))
            moves = 0.4 * 2**3 * 30 * 0.4
            self.assertAlmostEqual(float((level - found).sum()) / moves, 1, delta=0.01)
        self.assertAlmostEqual(float(run(level, 10).sum()), float(level.sum()), delta=0.1)

    def test_stiff_where_cold(self) -> None:
        cold = hot(61, 61)
        cold[..., (SKIN, CORE)] = 0
        stiff = FLOOR._replace(stiffens=3.0)
        start, sides = disc(61, 8, 4.0), sides_within(np.ones((61, 61), np.float32))
        none = np.zeros_like(start)
        moved = [
            float(np.abs(creep(start, levels, sides, none, stiff, 1e-4)[0] - start).sum())
            for levels in (hot(61, 61), cold)
        ]
        self.assertAlmostEqual(moved[0] / moved[1], math.e**3, delta=0.2)

    def test_however_high_and_quick(self) -> None:
        """What would need more steps than there are stays what it is: nothing below nothing, nothing lost."""
        thick, within = disc(81, 10, 900.0), np.pad(np.ones((61, 61), np.float32), 10)
        how = Creeping(runs=1e4, across=0.7, down=0.7, flat=0.7, stiffens=0.0)
        found = run(thick, 20, how, within=within)
        self.assertGreaterEqual(float(found.min()), 0)
        self.assertAlmostEqual(float(found.sum() / thick.sum()), 1, delta=1e-3)

    def test_levels_out_as_heat_does(self) -> None:
        """Closed form: a small bump on a film of height h spreads as heat does, by what goes with h³ of weight, and its
        variance grows by 2 D t across and down: in steps, by lines, and so quickly that it is pointed for a while."""
        far = np.hypot(*np.meshgrid(np.arange(161) - 80, np.arange(161) - 80))
        bump = 0.02 * np.exp(-((far / 8) ** 2) / 2)
        squares = (np.arange(161) - 80.0) ** 2
        for spreads, frames, near in (
            (0.4, 60, 0.02),
            (3.6, 1, 0.04),
            (3.6, 20, 0.02),
            (40.0, 4, 0.2),
        ):
            how = FLOOR._replace(runs=spreads / 0.04 / 10**3)
            found = run((10 + bump).astype(np.float32), frames, how) - 10
            variance = 64 + 2 * spreads * frames
            for axis in (0, 1):
                line = found.sum(axis=axis, dtype=np.float64)
                there = float((line * squares).sum() / line.sum())
                self.assertAlmostEqual(there, variance, delta=0.02 * variance)
            wanted = bump.sum() / (2 * math.pi * variance)
            self.assertAlmostEqual(float(found.max()) / wanted, 1, delta=near)

    def test_a_pool_behind_a_wall(self) -> None:
        """Hydrostatics: what has run down a slope and is held there stands level: on a slope of 1 in 5 it is thicker by a
        fifth of each cell farther down, and quite smooth. Where it is so quick that it cannot be followed it is so in the
        mean, and nowhere stands high."""
        within = np.zeros((60, 40), np.float32)
        within[4:50, 6:34] = 1
        thick = 1.5 * within
        tilt = math.atan(0.2)
        for runs in (3.0, 60.0):
            how = Creeping(runs, 0.0, math.sin(tilt), math.cos(tilt), 0.0)
            found = run(thick, 1500, how, within=within)
            self.assertAlmostEqual(float(found.sum() / thick.sum()), 1, delta=1e-4)
            pool = found[36:49, 8:32]
            with self.subTest(runs=runs):
                steps = np.diff(pool, axis=0)
                np.testing.assert_allclose(steps, 0.2, atol=0.04 if runs < 10 else 0.12)
                self.assertAlmostEqual(float(steps.mean()), 0.2, delta=0.05)
                np.testing.assert_allclose(np.diff(pool, axis=1), 0, atol=0.01)

    def test_speeds_are_what_went(self) -> None:
        """Definition: the surface goes half again as fast as the film's mean, and what that takes through a cell's sides
        is what the cell has more or less."""
        start, seconds = 4 + disc(41, 8, 6.0), 0.04
        for how in (FLOOR, FLOOR._replace(runs=1e4), Creeping(0.4, 0.5, -0.3, 0.8, 0.0)):
            sides = sides_within(np.pad(np.ones((39, 39), np.float32), 1))
            later, across, down = creep(start, hot(41, 41), sides, 0 * start, how, seconds)
            by_side = (later[:, 1:] + later[:, :-1]) / 2 * across[:, 1:-1] * seconds / 1.5
            by_top = (later[1:] + later[:-1]) / 2 * down[1:-1] * seconds / 1.5
            came = -np.diff(np.pad(by_side, ((0, 0), (1, 1))), axis=1)
            came -= np.diff(np.pad(by_top, ((1, 1), (0, 0))), axis=0)
            np.testing.assert_allclose(later, start + came, atol=2e-5)
            self.assertGreater(float(np.abs(came).max()), 0.01)

    def test_a_lone_peak(self) -> None:
        """What stands on one cell alone levels out too: nothing below nothing, nothing lost."""
        peak = np.zeros((41, 41), np.float32)
        peak[20, 20] = 1e5
        found = run(peak, 1, FLOOR._replace(runs=1e4))
        self.assertGreaterEqual(float(found.min()), 0)
        self.assertAlmostEqual(float(found.sum()) / 1e5, 1, delta=1e-5)
        self.assertLess(float(found.max()), 1e4)

    @mock.patch.object(compiled, "_MOST_BY_ONESELF", 0)
    def test_on_any_number_of_threads(self) -> None:
        thick = disc(161, 14, 6.0)
        found = []
        for threads in ("1", "2", "5"):
            with mock.patch.dict(os.environ, HANDFUL_THREADS=threads):
                found.append(run(thick, 20))
        np.testing.assert_array_equal(found[0], found[1])
        np.testing.assert_array_equal(found[0], found[2])


class Stirs(TestCase):
    def test_as_a_swell_and_an_eddy(self) -> None:
        """Off a swell through each side by how much it falls, as numpy's gradient has it; round an eddy, and nothing is lost
        or gained there; nothing through closed sides or the edges of the grid."""
        rows, columns = 30, 40
        y, x = np.mgrid[-1 : rows + 1, -1 : columns + 1].astype(float)
        swell, eddy = np.sin(0.3 * x) * np.cos(0.2 * y), np.cos(0.25 * x + 0.1 * y)
        sides = sides_within(np.ones((rows, columns), np.float32))
        flows = []
        for field in ((swell, 0 * eddy), (0 * swell, eddy)):
            flow = (
                np.zeros((rows, columns + 1), np.float32),
                np.zeros((rows + 1, columns), np.float32),
            )
            stir(np.stack(field, axis=2).astype(np.float32), 2.0, sides, flow)
            self.assertEqual(
                max(np.abs(flow[0][:, (0, -1)]).max(), np.abs(flow[1][[0, -1]]).max()), 0
            )
            flows.append(flow)
        (across, down), (around, up) = flows
        wanted = 2 * np.diff(swell, axis=1)[1:-1], 2 * np.diff(swell, axis=0)[:, 1:-1]
        np.testing.assert_allclose(across[:, 1:-1], wanted[0][:, 1:-1], atol=1e-5)
        np.testing.assert_allclose(down[1:-1], wanted[1][1:-1], atol=1e-5)
        gained = np.diff(around, axis=1) + np.diff(up, axis=0)
        self.assertLess(np.abs(gained[1:-1, 1:-1]).max(), 1e-5)
        turning = np.gradient(around[:, 1:-1], axis=0)[1:-1]
        self.assertGreater(np.abs(turning).max(), 0.01)
        shut = np.zeros_like(sides[0]), np.zeros_like(sides[1])
        flow = shut[0].copy(), shut[1].copy()
        stir(np.stack((swell, eddy), axis=2).astype(np.float32), 2.0, shut, flow)
        self.assertEqual(max(np.abs(part).max() for part in flow), 0)
