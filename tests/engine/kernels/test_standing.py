"""Waves that stand up: what is seen of them, against looking along each ray place by place."""

import math
import os
from unittest import TestCase, mock

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, map_coordinates

from handful.engine.kernels.drawing.sea.looks import (
    Water,
    look_at_waves,
    part_of,
    room_for,
    unseen,
    waves_of,
)
from handful.engine.kernels.drawing.sea.squares import (
    FIRST_STRONG,
    SECOND,
    SECOND_STRONG,
    TURNED,
    Along,
    Eye,
    reach_number,
    reach_of,
    sizes_of,
)
from handful.engine.kernels.drawing.sea.standing import Heights, heights_of, mend_cuts, stood_up
from handful.engine.picture import Region

SIDE = 16.0
Places = NDArray[np.floating]

REGION = Region(-40, 130, 360, 420)
HORIZON = 100.0


def square(high: float, seed: int = 3) -> NDArray[np.float32]:
    """Heights `(64, 64)` that repeat, as high at the most as is said."""
    noise = np.random.default_rng(seed).normal(size=(64, 64))
    smooth = gaussian_filter(noise, 2.5, mode="wrap")
    return (high / smooth.max() * (smooth - smooth.min())).astype(np.float32) - high / 2


def eye(high: float) -> Eye:
    return Eye(150.0, HORIZON, 600.0, high, SIDE)


def lifts(heights: NDArray[np.float32], x: Places, z: Places) -> Places:
    """How high both layers together are at places, in metres aside and ahead."""

    def at(small: float, turned: float) -> Places:
        by = len(heights) / (SIDE * small)
        u = (x * math.cos(turned) - z * math.sin(turned)) * by - 0.5
        v = (x * math.sin(turned) + z * math.cos(turned)) * by - 0.5
        return np.asarray(map_coordinates(heights.astype(float), [v, u], order=1, mode="grid-wrap"))

    return FIRST_STRONG * at(1, 0) + SECOND_STRONG * SECOND * at(SECOND, TURNED)


def seen(
    heights: NDArray[np.float32], of: Eye, column: float, rows: Places
) -> tuple[Places, float]:
    """How far off what is seen at rows of a column is (0 above all), and how high up the column the highest crest is."""
    z = np.geomspace(0.3, 200, 60_000)
    high = lifts(heights, z * (column - of.x) / of.lens, z)
    on = of.y + of.lens * (of.high - high) / z
    highest = np.minimum.accumulate(on)
    first = np.searchsorted(-highest, -rows)
    return np.where(first < len(z), z[np.minimum(first, len(z) - 1)], 0.0), float(highest[-1])


class Seen(TestCase):
    def test_as_along_each_ray(self) -> None:
        """Near by, where all waves are seen in their finest size: what a ray meets first, however high the waves are. Of
        those that stand up much is hidden."""
        rows = np.arange(REGION.top, REGION.bottom) + 0.5
        for high, least in ((0.2, 0.0), (0.9, 0.1)):
            heights, of = square(high), eye(2.0)
            stood = stood_up(heights_of(heights), of, 1.0, REGION)
            off, hidden = [], []
            for x in range(0, REGION.width, 23):
                wanted, _ = seen(heights, of, REGION.left + x + 0.5, rows)
                found = 1 / stood.near[:, x]
                near = (wanted < 18) & (found < 18)
                off.append(np.abs(found / np.maximum(wanted, 1e-9) - 1)[near])
                flat = of.lens * of.high / (rows - HORIZON)
                hidden.append(np.abs(wanted / flat - 1)[near] > 0.2)
            with self.subTest(high=high):
                self.assertGreater(float(np.mean(np.concatenate(off) < 0.01)), 0.97)
                self.assertGreaterEqual(float(np.mean(np.concatenate(hidden))), least)
                self.assertTrue((stood.near > 0).all())

    def test_crests_above_the_horizon(self) -> None:
        """An eye that is lower than waves sees them end above it, each column at its highest crest."""
        heights, above = square(3.0), Region(0, -900, 300, 200)
        of = Eye(150.0, HORIZON, 6000.0, 1.2, SIDE)
        stood = stood_up(heights_of(heights), of, 1.0, above)
        rising, found = [], []
        for x in range(0, 300, 13):
            z = np.geomspace(0.3, 25, 60_000)
            high = lifts(heights, z * (x + 0.5 - of.x) / of.lens, z)
            high = np.minimum(high, 0.75 * of.high + 0.15 * z)
            rising.append(float((of.lens * (high - of.high) / z).max()))
            found.append(HORIZON - above.top - float(stood.tops[x]))
        is_higher = np.array(rising) > 80
        self.assertGreater(int(is_higher.sum()), 10)
        np.testing.assert_allclose(
            np.array(found)[is_higher], np.array(rising)[is_higher], rtol=0.06
        )
        for x in np.flatnonzero(stood.tops < HORIZON - above.top).tolist():
            first = math.floor(stood.tops[x])
            self.assertGreater(float(stood.near[first, x]), 0)
            self.assertEqual(float(stood.near[: max(0, first), x].max(initial=0)), 0)

    def test_still_water(self) -> None:
        """As far off as a plane is, at any scale, out to its horizon."""
        flat = heights_of(np.zeros((64, 64), np.float32))
        for scale in (1.0, 0.5, 2.0):
            below = Region(0, 100, 50, 300)
            stood = stood_up(flat, Eye(20.0, 60.0, 300.0, 1.5, SIDE), scale, below)
            rows = (np.arange(100, 300) + 0.5) / scale - 60
            wanted = np.maximum(rows, 0.25) / (300 * 1.5)
            seen_rows = np.arange(100, 300) >= math.floor(60 * scale)
            np.testing.assert_allclose(
                stood.near[seen_rows], wanted[seen_rows, None].repeat(50, 1), rtol=2e-3
            )
            self.assertEqual(float(np.abs(stood.cuts).max()), 0)

    def test_in_parts(self) -> None:
        """A part is as it is in the whole, wherever it lies; and all is the same on any number of threads."""
        heights, of = heights_of(square(0.9)), eye(2.0)
        whole = stood_up(heights, of, 1.0, Region(-300, 90, 600, 400))
        for part in (Region(0, 100, 10, 400), Region(250, 210, 600, 260), Region(-300, 399, 600, 400)):  # fmt: skip
            stood = stood_up(heights, of, 1.0, part)
            rows = slice(part.top - 90, part.bottom - 90)
            columns = slice(part.left + 300, part.right + 300)
            np.testing.assert_allclose(stood.near, whole.near[rows, columns], rtol=1e-4)
            np.testing.assert_allclose(stood.cuts[1:], whole.cuts[rows, columns][1:], atol=1e-3)
        for threads in ("1", "2", "5"):
            with mock.patch.dict(os.environ, HANDFUL_THREADS=threads):
                again = stood_up(heights, of, 1.0, Region(-300, 90, 600, 400))
            np.testing.assert_array_equal(again.near, whole.near)


class Edges(TestCase):
    def test_cut_px_are_as_many_small_ones(self) -> None:
        """Where a crest cuts px, what is before and behind it is mixed as in a picture of four times the size."""
        heights, of = heights_of(square(0.9)), eye(2.0)

        def bands(scale: float, is_mended: bool) -> NDArray[np.float32]:
            """Water that is dark near by and the brighter, the farther off it is."""
            region = Region(*(int(side * scale) for side in REGION))
            stood = stood_up(heights, of, scale, region)
            picture = np.float32(1) / stood.near[..., None]
            if is_mended:
                mend_cuts(picture, stood)
            return picture

        fine = bands(4.0, False).reshape(REGION.height, 4, REGION.width, 4).mean(axis=(1, 3))
        cut = np.abs(stood_up(heights, of, 1.0, REGION).cuts) > 0.2
        cut[0], cut[-1], cut[fine > 15] = False, False, False
        rough, mended = (
            np.abs(bands(1.0, which)[..., 0] - fine)[cut].mean() for which in (False, True)
        )
        self.assertGreater(int(cut.sum()), 200)
        self.assertLess(float(mended), 0.6 * float(rough))


class Ripples(TestCase):
    FLAT = Heights(np.zeros(1, np.float32), np.zeros(1, np.int64), np.ones(1, np.int64), 0.0)

    def test_turned_as_they_are_laid(self) -> None:
        """On an even slope waves, smaller ones and ripples slope as that does, each turned by its own angle: as complex
        numbers."""
        of = Eye(0.0, 0.0, 600.0, 2.0, SIDE)
        for slope in (0.05 + 0j, 0.05j, -0.02 + 0.03j):
            square = np.tile(np.array([slope.real, slope.imag], np.float32), (64, 64, 1))
            for ripples in (0.0, 0.5, 1.0):
                waves = waves_of(Water(sizes_of(square), self.FLAT, ripples))
                reach = reach_of(reach_number(5.0), 1.0, of, waves.slopes.sides, 4, 2)
                room = part_of(room_for(8), 0, 8)
                room.fars[:], room.deeps[:] = 5, 0
                flat = waves.slopes.slopes.reshape(-1)
                look_at_waves(0, reach, waves, flat, of, Along(0.0, 1.0), room)
                third = 0.33 * ripples
                left = math.sqrt(1 - third**2)
                wanted = sum(
                    strong * slope * complex(math.cos(turned), -math.sin(turned))
                    for strong, turned in ((0.8 * left, 0.0), (0.6 * left, 1.1), (third, 2.3))
                )
                found = room.tilted[0] + 1j * room.tilted[1]
                with self.subTest(slope=slope, ripples=ripples):
                    np.testing.assert_allclose(found, wanted, atol=1e-6)

    def test_as_steep_with_them(self) -> None:
        """What is seen of slopes, and what is told to be unseen, come to as much with ripples as without, near and far."""
        noise = np.random.default_rng(4).normal(0, 0.1, (128, 128, 2)).astype(np.float32)
        slopes = sizes_of(gaussian_filter(noise, (1.2, 1.2, 0), mode="wrap"))
        of = Eye(0.0, 0.0, 2000.0, 300.0, SIDE)
        whole = float(slopes.lost[-1].sum()) / 2
        for far in (20.0, 90.0, 600.0):
            reach = reach_of(reach_number(far), 1.0, of, slopes.sides, 4, 2)
            for ripples in (0.0, 1.0):
                waves = waves_of(Water(slopes, self.FLAT, ripples))
                room = part_of(room_for(4000), 0, 4000)
                squares = []
                for n in range(40):
                    room.fars[:], room.deeps[:] = far + 0.6180339 * n, 0
                    along = Along(-20_000 / far * 60 + 977 * n, 40 / far * 60)
                    look_at_waves(0, reach, waves, slopes.slopes.reshape(-1), of, along, room)
                    squares.append(float((room.tilted**2).sum(axis=0).mean()) / 2)
                with self.subTest(far=far, ripples=ripples):
                    # Straight between places a field has less than at them.
                    there = float(np.mean(squares)) + unseen(reach, waves)
                    self.assertAlmostEqual(there / whole, 0.85, delta=0.17)
