"""Gas on a grid: kept from piling up, carried without loss of shape, and burning by its closed forms."""

from __future__ import annotations

import math
from itertools import pairwise
from unittest import TestCase

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse.linalg import spsolve

from handful.engine.kernels.fluid.advection import carried, flow_carried, thrown
from handful.engine.kernels.fluid.burning import (
    FUEL,
    HEAT,
    SOOT,
    Burning,
    burn,
    noise_in,
    noise_sheet,
)
from handful.engine.kernels.fluid.grid import LEVELS, MARKS, confine, mark
from handful.engine.kernels.fluid.guiding import guide
from handful.engine.kernels.fluid.pressure import hold_divergence, open_sides
from handful.engine.kernels.fluid.walls import shut, wall_flow

ROWS, COLUMNS = 48, 32
Field = NDArray[np.float32]
UPWARDS = np.empty((0, 0, 3), np.float32)
KEY = (np.uint32(5), np.uint32(9))

STILL = Burning(
    burns=0, heats=0, swells=0, cools=0, lift=0, weight=0, soots=0, clears=0, eddies=0, wind=0, hold=0,
    uneven=0, wave=8, pace=1, marked=0.5,
)  # fmt: skip


def _rough_flow(seed: int = 1) -> tuple[Field, Field]:
    random = np.random.default_rng(seed)
    across = random.standard_normal((ROWS, COLUMNS + 1)).astype(np.float32)
    return across, random.standard_normal((ROWS + 1, COLUMNS)).astype(np.float32)


def _out_of(across: np.ndarray, down: np.ndarray) -> np.ndarray:
    return np.diff(across, axis=1) + np.diff(down, axis=0)


def _held(
    across: Field,
    down: Field,
    sides: tuple[Field, Field],
    swells: Field | None = None,
    times: int = 1,
    walls: tuple[Field, Field] | None = None,
) -> None:
    pressure = np.zeros((ROWS + 2, COLUMNS + 2), np.float32)
    wanted = np.zeros((ROWS, COLUMNS), np.float32) if swells is None else swells
    still = (np.zeros_like(sides[0]), np.zeros_like(sides[1]))
    for _ in range(times):
        hold_divergence(
            across, down, wanted, *sides, *(still if walls is None else walls), pressure
        )


def disc(x: float, y: float, radius: float) -> Field:
    """How much of each cell a disc covers."""
    down, across = np.mgrid[: 8 * ROWS, : 8 * COLUMNS] / 8 + 1 / 16
    inside = np.hypot(across - x, down - y) < radius
    return inside.reshape(ROWS, 8, COLUMNS, 8).mean(axis=(1, 3)).astype(np.float32)


class Walls(TestCase):
    def test_how_fast_an_edge_goes(self) -> None:
        """A disc that moves by so many cells in 0.04 s: each edge goes along its normal as fast as the disc does that
        way, to a seventh; along it, it slips."""
        for x, y in ((0.1, 0.0), (0.7, 0.0), (-1.6, 0.0), (2.5, 0.0), (0.0, 0.4), (0.0, -1.8)):
            now, then = disc(16, 24, 8), disc(16 + x, 24 + y, 8)
            across, down = wall_flow(now, then, 0.04)
            most = np.hypot(x, y) / 0.04
            along, aside = (0.14, 0.16) if x else (0.16, 0.14)
            for i in (24, 8):
                found = float(across[23:25, i].mean())
                self.assertAlmostEqual(found, x / 0.04, delta=along * most)
            for j in (32, 16):
                found = float(down[j, 15:17].mean())
                self.assertAlmostEqual(found, y / 0.04, delta=aside * most)

    def test_still_ones(self) -> None:
        across, down = wall_flow(disc(16, 24, 8), disc(16, 24, 8), 0.04)
        self.assertFalse(across.any() or down.any())

    def test_they_push_and_draw(self) -> None:
        """A plate that moves to the right presses what is before it on and draws what is behind it after it, and
        nothing piles up: out of each free cell goes as much as comes in."""
        cover = np.zeros((ROWS, COLUMNS), np.float32)
        cover[16:36, 14:18] = 1
        sides, walls = open_sides(ROWS, COLUMNS, False), (np.zeros((ROWS, COLUMNS + 1), np.float32), np.zeros((ROWS + 1, COLUMNS), np.float32))  # fmt: skip
        shut(*sides, cover)
        walls[0][16:36, 14:19] = 5.0
        across, down = np.zeros_like(sides[0]), np.zeros_like(sides[1])
        _held(across, down, sides, times=30, walls=walls)
        np.testing.assert_array_equal(across[16:36, 14:19], 5)
        self.assertGreater(float(across[26, 20]), 3)
        self.assertGreater(float(across[26, 12]), 3)
        self.assertLess(float(across[12, 16]), 0)
        out = _out_of(across, down)
        self.assertLess(float(np.abs(out[cover == 0]).max()), 0.02)


class Pressure(TestCase):
    def test_as_a_direct_solver(self) -> None:
        """SciPy's sparse solver of the same equations gives the same flow, with a wall in the middle."""
        sides = open_sides(ROWS, COLUMNS, True)
        sides[0][20:30, 12:17] = 0
        sides[1][20:31, 12:16] = 0
        across, down = _rough_flow()
        across[sides[0] == 0], down[sides[1] == 0] = 0, 0
        wanted = [across.astype(np.float64), down.astype(np.float64)]
        matrix = sparse.lil_matrix((ROWS * COLUMNS, ROWS * COLUMNS))
        right = _out_of(wanted[0], wanted[1]).ravel()
        for j in range(ROWS):
            for i in range(COLUMNS):
                here = j * COLUMNS + i
                for b, a, side in (
                    (j, i - 1, sides[0][j, i]), (j, i + 1, sides[0][j, i + 1]),
                    (j - 1, i, sides[1][j, i]), (j + 1, i, sides[1][j + 1, i]),
                ):  # fmt: skip
                    matrix[here, here] -= side
                    if 0 <= a < COLUMNS and 0 <= b < ROWS:
                        matrix[here, b * COLUMNS + a] += side
                if matrix[here, here] == 0:
                    matrix[here, here] = 1
        p = np.pad(spsolve(matrix.tocsr(), right).reshape(ROWS, COLUMNS), 1)
        wanted[0] -= sides[0] * np.diff(p[1:-1], axis=1)
        wanted[1] -= sides[1] * np.diff(p[:, 1:-1], axis=0)
        _held(across, down, sides, times=8)
        np.testing.assert_allclose(across, wanted[0], atol=2e-3)
        np.testing.assert_allclose(down, wanted[1], atol=2e-3)

    def test_once_is_nearly_enough(self) -> None:
        """One call takes away 98 % of what piles up in a rough flow, with a floor and without."""
        for has_floor in (True, False):
            across, down = _rough_flow(2)
            before = np.abs(_out_of(across, down)).mean()
            _held(across, down, open_sides(ROWS, COLUMNS, has_floor))
            self.assertLess(np.abs(_out_of(across, down)).mean(), 0.02 * before)

    def test_what_is_meant_to_swell(self) -> None:
        """A cell that swells sends out as much, whichever way; nothing passes the floor."""
        across = np.zeros((ROWS, COLUMNS + 1), np.float32)
        down = np.zeros((ROWS + 1, COLUMNS), np.float32)
        swells = np.zeros((ROWS, COLUMNS), np.float32)
        swells[30, 16] = 3
        _held(across, down, open_sides(ROWS, COLUMNS, True), swells, times=4)
        leaving = across[:, -1].sum() - across[:, 0].sum() + down[-1].sum() - down[0].sum()
        self.assertAlmostEqual(float(leaving), 3, delta=0.01)
        self.assertEqual(float(np.abs(down[-1]).max()), 0)

    def test_walls_let_nothing_through(self) -> None:
        sides = open_sides(ROWS, COLUMNS, False)
        sides[1][24] = 0
        across, down = _rough_flow(3)
        _held(across, down, sides, times=3)
        self.assertEqual(float(np.abs(down[24]).max()), 0)


class Carried(TestCase):
    def _turning(self, once_in: float) -> tuple[Field, Field]:
        """Flow that turns round the middle of the grid as a plate does, once in so many seconds."""
        pace = 2 * math.pi / once_in
        y = (np.arange(ROWS) + 0.5 - ROWS / 2)[:, None] * pace
        x = (np.arange(COLUMNS) + 0.5 - COLUMNS / 2)[None, :] * pace
        across = np.broadcast_to(-y, (ROWS, COLUMNS + 1)).astype(np.float32)
        down = np.broadcast_to(x, (ROWS + 1, COLUMNS)).astype(np.float32)
        return np.ascontiguousarray(across), np.ascontiguousarray(down)

    def _spot(self) -> Field:
        j, i = np.mgrid[:ROWS, :COLUMNS]
        away = np.hypot(i + 0.5 - COLUMNS / 2 - 8, j + 0.5 - ROWS / 2)
        levels = np.zeros((ROWS, COLUMNS, LEVELS), np.float32)
        levels[..., 0] = np.exp(-((away / 3) ** 2))
        return levels

    def test_once_round(self) -> None:
        """After a whole turn a spot is where it was, to a cell, and keeps two thirds of its height; never is it higher than it was, nor less than nothing. The plain way keeps less than half."""
        flow = self._turning(4.0)
        first = self._spot()
        across, down = (part[None] for part in flow)
        plain = first
        for _ in range(80):
            plain = thrown(plain[None], across, down, 0.05)[0][0]
        self.assertLess(float(plain.max()), 0.5 * float(first.max()))
        j, i = np.mgrid[:ROWS, :COLUMNS]
        levels = first
        for _ in range(80):
            levels = carried(levels[None], across, down, 0.05)[0]
        for axis in (j, i):
            moved = (levels[..., 0] * axis).sum() / levels[..., 0].sum()
            begun = (first[..., 0] * axis).sum() / first[..., 0].sum()
            self.assertAlmostEqual(float(moved), float(begun), delta=1)
        self.assertGreater(float(levels.max()), 0.66 * float(first.max()))
        self.assertLessEqual(float(levels.max()), float(first.max()))
        self.assertGreaterEqual(float(levels.min()), 0)

    def test_by_whole_cells(self) -> None:
        """In an even flow what moves by whole cells stays what it is, flow as well; what comes in is nothing."""
        across = np.full((ROWS, COLUMNS + 1), 4, np.float32)
        down = np.full((ROWS + 1, COLUMNS), -6, np.float32)
        levels = np.random.default_rng(4).random((ROWS, COLUMNS, LEVELS)).astype(np.float32)
        out = carried(levels[None], across[None], down[None], 0.5)[0]
        np.testing.assert_allclose(out[6:-6, 6:-6], levels[9:-3, 4:-8], atol=1e-5)
        self.assertEqual(float(out[-3:].max()), 0)
        self.assertEqual(float(out[:, :2].max()), 0)
        flows = flow_carried(across[None], down[None], 0.5)
        np.testing.assert_allclose(flows[0][0], across, atol=1e-5)
        np.testing.assert_allclose(flows[1][0], down, atol=1e-5)

    def test_eddies_that_last(self) -> None:
        """Taylor and Green's vortices (1937) in a box without friction stand as they are: after each has gone round
        once what the scheme loses of their energy is little, none is made, and they are where they were."""
        side, fast, seconds = 64, 16.0, 0.05
        edges, middles = (
            np.arange(side + 1) / side * math.pi,
            (np.arange(side) + 0.5) / side * math.pi,
        )
        first = fast * np.sin(edges)[None, :] * np.cos(middles)[:, None]
        other = -fast * np.cos(middles)[None, :] * np.sin(edges)[:, None]
        across, down = first.astype(np.float32)[None], other.astype(np.float32)[None]
        open_across, open_down = (
            np.ones((side, side + 1), np.float32),
            np.ones((side + 1, side), np.float32),
        )
        open_across[:, [0, -1]] = open_down[[0, -1]] = 0
        still_across, still_down = np.zeros_like(open_across), np.zeros_like(open_down)
        pressure, none = (
            np.zeros((side + 2, side + 2), np.float32),
            np.zeros((side, side), np.float32),
        )
        energy = []
        for _ in range(round(side / fast / seconds)):
            across, down = flow_carried(across, down, seconds)
            hold_divergence(
                across[0], down[0], none, open_across, open_down, still_across, still_down, pressure
            )
            energy.append(float((across**2).sum() + (down**2).sum()))
        begun = float((first**2).sum() + (other**2).sum())
        self.assertTrue(
            all(later <= earlier * (1 + 1e-4) for earlier, later in pairwise([begun, *energy]))
        )
        self.assertGreater(energy[-1], 0.9 * begun)
        alike = float((across[0] * first).sum() + (down[0] * other).sum())
        self.assertGreater(alike / math.sqrt(begun * energy[-1]), 0.99)

    def test_eddies_are_given_back(self) -> None:
        """An eddy turns faster the same way, and as fast again the other way round for one that does."""
        for way in (1, -1):
            flow = self._turning(4.0 * way)
            j, i = np.mgrid[:ROWS, :COLUMNS]
            near = np.exp(-(np.hypot(i - COLUMNS / 2, j - ROWS / 2) ** 2) / 40).astype(np.float32)
            across, down = (
                flow[0] * np.pad(near, ((0, 0), (0, 1))),
                flow[1] * np.pad(near, ((0, 1), (0, 0))),
            )

            def spin(u: Field = across, v: Field = down) -> float:
                inner = np.diff(v[:-1], axis=1)[:-1] - np.diff(u[:, :-1], axis=0)[:, :-1]
                return float(inner[18:30, 10:22].sum())

            before = spin()
            confine(across, down, 2.0, 0.1, np.empty((ROWS, COLUMNS), np.float32))
            self.assertGreater(way * spin(), 1.005 * way * before)

    def test_eddies_in_a_mirror(self) -> None:
        """Seen in a mirror, across or down, what eddies are given is the mirror's picture of it."""
        spin = np.empty((ROWS, COLUMNS), np.float32)
        across, down = _rough_flow(7)
        given = across.copy(), down.copy()
        confine(*given, 3.0, 0.1, spin)
        self.assertGreater(float(np.abs(given[0] - across).max()), 0.01)
        for way in (0, 1):
            signs = (1, -1) if way == 0 else (-1, 1)
            seen = [
                np.ascontiguousarray(np.flip(part, way)) * np.float32(sign)
                for part, sign in zip((across, down), signs, strict=True)
            ]
            confine(seen[0], seen[1], 3.0, 0.1, spin)
            for part, sign, wanted in zip(seen, signs, given, strict=True):
                np.testing.assert_allclose(np.flip(part, way) * sign, wanted, atol=1e-4)

    def test_spin_of_a_disc(self) -> None:
        """A disc that turns as one has twice its angular speed everywhere (textbook mechanics)."""
        spin = np.empty((ROWS, COLUMNS), np.float32)
        for turns in (3.0, -1.5):  # seconds for each
            across, down = self._turning(turns)
            confine(across, down, 0.0, 0.1, spin)
            np.testing.assert_allclose(spin[2:-2, 2:-2], 4 * math.pi / turns, rtol=1e-4)


class Burnt(TestCase):
    def _gas(self) -> list[Field]:
        levels = np.zeros((1, ROWS, COLUMNS, LEVELS), np.float32)
        for which in (0, 1):
            mark(levels[0], which)
        return [
            np.zeros((1, ROWS, COLUMNS + 1), np.float32),
            np.zeros((1, ROWS + 1, COLUMNS), np.float32),
            levels,
            np.zeros((1, ROWS + 2, COLUMNS + 2), np.float32),
        ]

    def _burn(
        self,
        gas: list[Field],
        how: Burning,
        steps: int,
        seconds: float = 0.01,
        fed: float = 0,
        guided: Field = UPWARDS,
    ) -> None:
        rows, columns = gas[2].shape[1:3]
        feed = np.full((1, rows, columns), fed, np.float32)
        sides = open_sides(rows, columns, True)
        still = np.zeros_like(sides[0]), np.zeros_like(sides[1])
        across, down, levels, pressure = gas
        gas[:3] = burn(
            across, down, levels, pressure, feed, sides, still, guided, noise_sheet(KEY),
            Burning(*map(float, how)), 0.0, seconds, steps,
        )  # fmt: skip

    def test_cools_by_the_fourth_power(self) -> None:
        """Closed form of dT/dt = -c T^4: T = (T0^-3 + 3 c t)^(-1/3) (Nguyen, Fedkiw and Jensen 2002)."""
        for begun in (1.0, 0.5, 0.1):
            gas = self._gas()
            gas[2][0, ..., HEAT] = begun
            self._burn(gas, STILL._replace(cools=8.0), 50)
            wanted = (begun**-3 + 3 * 8.0 * 0.5) ** (-1 / 3)
            np.testing.assert_allclose(gas[2][0, 2:-2, 2:-2, HEAT], wanted, rtol=1e-3)

    def test_fuel_becomes_heat_and_soot(self) -> None:
        """Hot fuel is gone after its time and leaves soot for all of it; cold fuel stays."""
        how = STILL._replace(burns=4.0, heats=2.0, soots=0.5)
        for heat, left, soot in ((0.3, 0.0, 0.5), (0.0, 1.0, 0.0)):
            gas = self._gas()
            gas[2][0, ..., FUEL], gas[2][0, ..., HEAT] = 1, heat
            self._burn(gas, how, 30)
            inner = gas[2][0, 2:-2, 2:-2]
            np.testing.assert_allclose(inner[..., FUEL], left, atol=1e-4)
            np.testing.assert_allclose(inner[..., SOOT], soot, atol=1e-3)
            self.assertEqual(bool((inner[..., HEAT] > 0.8).all()), heat > 0)

    def test_smoke_clears(self) -> None:
        """Half is gone in the time that it takes."""
        gas = self._gas()
        gas[2][0, ..., SOOT] = 1
        self._burn(gas, STILL._replace(clears=math.log(2) / 0.4), 40)
        np.testing.assert_allclose(gas[2][0, 2:-2, 2:-2, SOOT], 0.5, rtol=1e-3)

    def test_heat_rises_and_soot_sinks(self) -> None:
        for level, how, way in (
            (HEAT, STILL._replace(lift=200.0), -1),
            (SOOT, STILL._replace(weight=200.0), 1),
        ):
            gas = self._gas()
            gas[2][0, 20:28, 12:20, level] = 1
            self._burn(gas, how, 30)
            rows = gas[2][0, ..., level].sum(axis=1)
            middle = float((rows * np.arange(ROWS)).sum() / rows.sum())
            self.assertGreater(way * (middle - 23.5), 1.0)

    def test_a_warm_bubble_rises_as_a_thermal(self) -> None:
        """A line of heat that rises by itself through still air has come as high as its time to the power of 2/3, and
        grows as wide as it is high, in proportion (Scorer 1957, for what is the same in each plane; from memory): the
        power within a fifth and the width along a straight line, once it has left its own size behind."""
        rows, columns, radius, seconds = 176, 128, 5, 0.02
        levels = np.zeros((1, rows, columns, LEVELS), np.float32)
        y, x = np.mgrid[:rows, :columns] + 0.5
        begun = rows - 16
        levels[0, ..., HEAT] = np.exp(-((x - columns / 2) ** 2 + (y - begun) ** 2) / radius**2)
        across, down = np.zeros((1, rows, columns + 1)), np.zeros((1, rows + 1, columns))
        gas = [
            across.astype(np.float32), down.astype(np.float32), levels, np.zeros((1, rows + 2, columns + 2), np.float32),
        ]  # fmt: skip
        found = []
        for step in range(1, 120):
            self._burn(gas, STILL._replace(lift=200.0), 4, seconds)
            heat = gas[2][0, ..., HEAT]
            high = begun - float((heat * y).sum() / heat.sum())
            wide = math.sqrt(2 * float((heat * (x - columns / 2) ** 2).sum() / heat.sum()))
            found.append((4 * step * seconds, high, wide))
            if high > 0.6 * rows:
                break
        times, heights, widths = np.array([each for each in found if each[1] > 4 * radius]).T
        power = float(np.polyfit(np.log(times), np.log(heights), 1)[0])
        self.assertTrue(0.8 * 2 / 3 < power < 1.2 * 2 / 3, power)
        self.assertGreater(float(np.corrcoef(heights, widths)[0, 1]), 0.97)
        self.assertGreater(float(np.polyfit(heights, widths, 1)[0]), 0.2)

    def test_is_lifted_the_way_that_it_is_guided(self) -> None:
        """As far to either side as it would go up, and back down; what is cool goes nowhere."""
        went = {}
        for way in ((0, -1), (1, 0), (-1, 0), (0, 1)):
            guided = np.zeros((ROWS, COLUMNS, 3), np.float32)
            guided[...] = (*way, 1)
            gas = self._gas()
            gas[2][0, 20:28, 12:20, HEAT] = 1
            self._burn(gas, STILL._replace(lift=100.0), 1, guided=guided)
            went[way] = (
                float(gas[0][0, 22:26, 14:19].mean()),
                float(gas[1][0, 22:27, 14:18].mean()),
            )
        up = went[(0, -1)][1]
        self.assertLess(up, -0.2)
        for way, (across, down) in went.items():
            np.testing.assert_allclose((across, down), np.multiply(way, -up), atol=-0.06 * up)

    def test_cools_more_quickly_beyond(self) -> None:
        """Three times as quickly is as long as three times the time (closed form as above)."""
        guided = np.full((ROWS, COLUMNS, 3), (0, -1, 3), np.float32)
        gas = self._gas()
        gas[2][0, ..., HEAT] = 1
        self._burn(gas, STILL._replace(cools=8.0), 20, guided=guided)
        wanted = (1 + 3 * 8 * 3 * 0.2) ** (-1 / 3)
        np.testing.assert_allclose(gas[2][0, 8:-8, 8:-8, HEAT], wanted, rtol=2e-3)

    def test_wind_takes_hold_of_what_is_cool(self) -> None:
        gas = self._gas()
        self._burn(gas, STILL._replace(wind=20.0, hold=5.0), 20)
        self.assertAlmostEqual(float(gas[0].mean()), 20 * (1 - math.exp(-5 * 0.2)), delta=0.8)

    def test_no_flow_without_bounds(self) -> None:
        """However hard it is pushed, nothing goes farther in a step than a few times the grid."""
        gas = self._gas()
        gas[0][:], gas[1][:] = 1e30, -1e30
        self._burn(gas, STILL, 1)
        for flow in gas[:2]:
            self.assertTrue(np.isfinite(flow).all())
            self.assertLess(float(np.abs(flow).max()), 4 * ROWS / 0.01)

    def test_marks_by_turns(self) -> None:
        """Each set says where a cell is as it is marked, in turn; meanwhile they go with the gas."""
        gas = self._gas()
        gas[1][:] = -8
        self._burn(gas, STILL._replace(marked=0.4), 30)
        j = np.arange(ROWS)[5:-12, None]
        first, second = (gas[2][0, 5:-12, 4:-4, MARKS + 2 * which + 1] for which in (0, 1))
        self.assertGreater(float(np.abs(first - j).mean()), 0.5)
        self.assertGreater(float(np.abs(first - second).mean()), 0.5)

    def test_fuel_comes_unevenly(self) -> None:
        """As unevenly as is said: from where hardly any comes to where all does, by the noise between."""
        gas = self._gas()
        self._burn(gas, STILL._replace(uneven=1.0), 1, fed=1.0)
        fuel = gas[2][0, 1:-1, 1:-1, FUEL]
        sheet = noise_sheet(KEY)
        j, i = np.mgrid[1 : ROWS - 1, 1 : COLUMNS - 1]
        wanted = [
            min(1.0, max(0.0, 0.6 + 0.5 * noise_in(sheet, x / 8 * 8.0, y / 8 * 8.0)[0]))
            for y, x in zip(j.ravel(), i.ravel(), strict=True)
        ]
        np.testing.assert_allclose(fuel.ravel(), wanted, atol=2e-3)
        even = self._gas()
        self._burn(even, STILL, 1, fed=1.0)
        np.testing.assert_allclose(even[2][0, 1:-1, 1:-1, FUEL], 1, atol=1e-6)

    def test_noise_between_its_places(self) -> None:
        """On a place it is what the sheet says, half way the mean of both, and it goes on for ever."""
        sheet = noise_sheet(KEY)
        side = len(sheet)
        for j, i in ((0, 0), (3, side - 1), (side - 2, 7)):
            np.testing.assert_array_equal(noise_in(sheet, float(i), float(j)), sheet[j, i])
            beside = (sheet[j, i] + sheet[j, (i + 1) % side]) / 2
            np.testing.assert_allclose(noise_in(sheet, i + 0.5, float(j)), beside, atol=1e-6)
            far = noise_in(sheet, i + 0.25 - 3.0 * side, j + 0.5 + 2.0 * side)
            np.testing.assert_allclose(far, noise_in(sheet, i + 0.25, j + 0.5), atol=1e-6)

    def test_noise_returns_at_its_edges(self) -> None:
        sheet = noise_sheet(KEY)
        np.testing.assert_allclose(sheet.std(axis=(0, 1)), 1, atol=1e-3)
        seam = np.abs(sheet[0] - sheet[-1]).mean()
        self.assertLess(float(seam), 1.3 * float(np.abs(np.diff(sheet, axis=0)).mean()))
        self.assertLess(abs(float((sheet[..., 0] * sheet[..., 1]).mean())), 0.1)


class Guided(TestCase):
    """Beside a line from 0, 40 up to 20, 10, in cells."""

    LINE = ((8.0, 40.0), (8.0, 25.0), (20.0, 10.0))

    def test_along_it(self) -> None:
        """On the line it goes the line's own way, and cools as ever until near its end."""
        found = guide(self.LINE, 6.0, 48, 32)
        np.testing.assert_allclose(found[32, 7], (0, -1, 1), atol=0.1)
        slope = np.array([12, -15]) / math.hypot(12, 15)
        np.testing.assert_allclose(found[18, 13, :2], slope, atol=0.1)
        np.testing.assert_allclose(np.hypot(found[..., 0], found[..., 1]), 1, atol=1e-4)

    def test_towards_it(self) -> None:
        """From either side, the more the farther, as far as it is broad."""
        found = guide(self.LINE, 6.0, 48, 32)
        near, far, farther = (float(found[35, i, 0]) for i in (9, 14, 28))
        self.assertLess(far, near)
        self.assertAlmostEqual(far, farther, delta=0.05)
        self.assertLess(near, 0)
        self.assertGreater(float(found[35, 2, 0]), 0.3)

    def test_beyond_its_end(self) -> None:
        """It cools ever more quickly, and goes straight up again."""
        straight = guide(((16.0, 46.0), (16.0, 26.0)), 6.0, 48, 32)
        cools = straight[:, 15, 2]
        self.assertEqual(float(cools[36]), 1)
        self.assertTrue(np.all(np.diff(cools[:36]) <= 0))
        self.assertGreater(float(cools[14]), 8)
        leaning = guide(((8.0, 40.0), (16.0, 32.0)), 6.0, 48, 32)
        np.testing.assert_allclose(leaning[4, 28, :2], (0, -1), atol=1e-3)
