"""Patterns of noise against theory, a search tree, and what numbers tell of their smoothness."""

import math
from typing import Any, get_args
from unittest import TestCase

import cv2
import numpy as np
from scipy.integrate import quad
from scipy.spatial import cKDTree

from handful.engine.kernels.chance import waves
from handful.engine.kernels.chance.hash import Key, key_for
from handful.engine.kernels.chance.patterns import (
    Laid,
    Octaves,
    Pattern,
    Warping,
    bounds_of,
    pattern_on,
)
from handful.engine.picture import Region

ONE = Octaves(1, 0.5, 2.0, 0.0, 0.3, 0, (0.0, 0.0), 1.0)
FIVE = ONE._replace(waves=5, turn=0.65)
FLAT = Laid("flat", (0.0, 0.0), (40.0, 40.0), 0.3, 400.0, 12)
KEY = Key(5, 9)
STILL = Warping(0, 0.0)


def field(
    pattern: Pattern,
    octaves: Octaves = ONE,
    laid: Laid = FLAT,
    size: tuple[int, int] = (900, 600),
    scale: float = 1.0,
    warping: Warping = STILL,
    carried: float = 0.0,
    key: Key = KEY,
) -> np.ndarray:
    region = Region(0, 0, *(round(side * scale) for side in size))
    return pattern_on(region, scale, pattern, octaves, laid, warping, carried, (key,))[..., 0]


def faded(t: float) -> float:
    return t**3 * (t * (t * 6 - 15) + 10)


class Strength(TestCase):
    def test_variance_of_gradient_noise(self) -> None:
        """Perlin 2002: eight corners with weights that are products of fades and gradients of length √2,
        so that the variance is 16 A² B, with A and B the means of (1 − f)² and t² (1 − f)²."""
        a = quad(lambda t: (1 - faded(t)) ** 2, 0, 1)[0]
        b = quad(lambda t: t**2 * (1 - faded(t)) ** 2, 0, 1)[0]
        self.assertAlmostEqual(math.sqrt(16 * a * a * b), 0.2702, delta=0.0015)

    def test_variance_of_value_noise(self) -> None:
        """A uniform number has 1/3, and each axis takes the mean of (1 − f)² + f² of it."""
        a = quad(lambda t: (1 - faded(t)) ** 2, 0, 1)[0]
        self.assertAlmostEqual(math.sqrt((2 * a) ** 3 / 3), 0.4004, delta=0.0002)

    def test_every_pattern_has_one_strength(self) -> None:
        """However many waves, a mean of nothing and a deviation of a third, within what a sample of
        some hundreds of large waves allows; and nothing beyond its bounds."""
        for pattern in get_args(Pattern.__value__ if hasattr(Pattern, "__value__") else Pattern):
            for octaves in (ONE, FIVE, FIVE._replace(gain=0.8)):
                found = np.concatenate(
                    [
                        field(pattern, octaves._replace(boil=moment * 0.61), key=key_for(moment))
                        for moment in range(4)
                    ]
                )
                with self.subTest(pattern=pattern, waves=octaves.waves, gain=octaves.gain):
                    self.assertAlmostEqual(float(found.mean()), 0, delta=0.02)
                    self.assertAlmostEqual(float(found.std()), 1 / 3, delta=0.02)
                    least, most = bounds_of(pattern, octaves)
                    self.assertGreaterEqual(found.min(), least)
                    self.assertLessEqual(found.max(), most)


class Cells(TestCase):
    def test_distances_by_a_search_tree(self) -> None:
        """F1 and F2 of Worley 1996 against scipy's k-d tree over all points around."""
        octave = (0.8, 17, 23, 0, 0)
        known = np.full((waves.CACHED, 2), waves.NO_CELL, np.int32)
        corners = np.empty((waves.CACHED, 3), np.float32)
        points, values = [], []
        for j in range(-4, 16):
            for i in range(-4, 34):
                waves._keep_point(0, i, j, octave, known, corners)
                points.append((i + corners[0, 0], j + corners[0, 1]))
                values.append(corners[0, 2])
        tree = cKDTree(points)
        known[:] = waves.NO_CELL
        found = np.empty((4, 3000), np.float32)
        places = np.stack([np.linspace(0, 29.9, 3000), np.linspace(0.2, 11.7, 3000)])
        whole = np.floor(places)
        spans = np.empty((3, 3001), np.int32)
        count = waves.spans_of(whole.astype(np.int32), spans)
        waves.cells_row(
            count,
            spans,
            (places - whole).astype(np.float32),
            octave,
            found,
            True,
            known,
            corners,
        )
        distances, nearest = tree.query(places.T, k=2)
        np.testing.assert_allclose(np.sqrt(found[0]), distances[:, 0], atol=2e-6)
        np.testing.assert_allclose(np.sqrt(found[1]), distances[:, 1], atol=2e-6)
        own = np.array(values, np.float32)
        np.testing.assert_array_equal(found[2], own[nearest[:, 0]])
        np.testing.assert_array_equal(found[3], own[nearest[:, 1]])

    def test_where_the_nearest_points_are_far(self) -> None:
        """Over 60,000 cells some px look beyond the nine around them, and are still right."""
        laid = FLAT._replace(size=(4.0, 4.0), direction=0.0)
        octaves = ONE._replace(boil=0.3)
        far = field("far cells", octaves, laid, (1200, 800))
        known = np.full((waves.CACHED, 2), waves.NO_CELL, np.int32)
        corners = np.empty((waves.CACHED, 3), np.float32)
        points = []
        for j in range(-3, 205):
            for i in range(-3, 305):
                waves._keep_point(0, i, j, (0.8, 5, 9, 0, 0), known, corners)
                points.append((i + corners[0, 0], j + corners[0, 1]))
        x, y = np.meshgrid((np.arange(1200) + 0.5) / 4 + 0.37, (np.arange(800) + 0.5) / 4 + 0.71)
        distances, _ = cKDTree(points).query(np.stack([x.ravel(), y.ravel()], 1), k=2)
        held = np.sinc(1 / 4)  # what the mean over a px leaves of a wave of 4 px
        expected = held * (distances[:, 1].reshape(800, 1200) - 0.6997) / 0.1635 / 3
        self.assertGreater(distances[:, 1].max(), 1.3)
        np.testing.assert_allclose(far, expected, atol=1e-4)


class Spans(TestCase):
    def test_along_a_line(self) -> None:
        """Every px is in the cell that NumPy's floor says, but for one that lies on an edge to within
        rounding; and a row that begins elsewhere gives the same px the same place to the bit."""
        for each in (
            (0.31, -0.07),
            (-0.0123, 0.9),
            (2.7, 0.0),
            (0.0, 0.0),
            (1e-12, -3.1),
            (0.25, 0.5),
        ):
            first, found = (-7.3, 2.125), {}
            for left in (-900, -411):
                px = np.arange(left, left + 1200, dtype=np.float64)
                within, spans = np.empty((2, 1200), np.float32), np.empty((3, 1201), np.int32)
                count = waves.spans_along(first, each, px, within, spans)
                lengths = np.diff(spans[0, : count + 1])
                self.assertEqual((spans[0, 0], int(lengths.sum())), (0, 1200))
                self.assertGreater(int(lengths.min()), 0)
                places = np.array(first)[:, None] + px * np.array(each)[:, None]
                cells = np.repeat(spans[1:, :count], lengths, axis=1)
                near = np.abs(places - np.rint(places)) < 1e-9
                np.testing.assert_array_equal(cells[~near], np.floor(places)[~near])
                np.testing.assert_allclose(cells + within, places, atol=2e-4)
                found[left] = (cells[:, -700:], within[:, -700:]) if left == -411 else (
                    cells[:, 489 + 500 :], within[:, 489 + 500 :]
                )  # fmt: skip
            for one, other in zip(found[-900], found[-411], strict=True):
                np.testing.assert_array_equal(one, other[:, : one.shape[1]])


class Smoothness(TestCase):
    def test_slopes(self) -> None:
        """What carries finer waves: slopes against differences of the noise itself."""
        octave = (0.3, 5, 9, 0, 0)
        places = np.stack([np.linspace(0.1, 9.2, 500), np.linspace(3.3, 8.1, 500)])
        for row, leans in (
            (waves.gradient_row, 0.0), (waves.value_row, 0.0), (waves.simplex_row, 0.5)
        ):  # fmt: skip

            def level(
                dx: float, dy: float, row: Any = row, leans: float = leans
            ) -> tuple[np.ndarray, np.ndarray]:
                at = places + np.array([[dx], [dy]])
                at[0] += leans * at[1]
                whole = np.floor(at)
                out, slopes = np.empty(500, np.float32), np.empty((2, 500), np.float32)
                known = np.full((waves.CACHED, 2), waves.NO_CELL, np.int32)
                corners = np.empty((waves.CACHED, 3), np.float32)
                spans = np.empty((3, 501), np.int32)
                count = waves.spans_of(whole.astype(np.int32), spans)
                row(
                    count, spans, (at - whole).astype(np.float32), octave, out, slopes, True, known,
                    corners,
                )  # fmt: skip
                return out, slopes

            _, slopes = level(0, 0)
            h = 2e-3
            across = (level(h, 0)[0] - level(-h, 0)[0]) / (2 * h)
            down = (level(0, h)[0] - level(0, -h)[0]) / (2 * h)
            scale = np.abs(slopes).max()
            with self.subTest(row=row.__name__):
                np.testing.assert_allclose(slopes[0], across, atol=4e-3 * scale)
                np.testing.assert_allclose(slopes[1], down, atol=4e-3 * scale)

    def test_no_breaks_at_borders_of_cells(self) -> None:
        """Where a row leaves a cell its slope does not jump: the greatest change of slope from px to px
        shrinks with the px, as it would not at a break."""
        for pattern in ("gradient", "simplex", "value"):
            bends = []
            for cell in (40.0, 160.0):
                line = field(pattern, ONE, FLAT._replace(size=(cell, cell)), (4000, 1))[0]
                slope = np.diff(line) * cell
                bends.append(np.abs(np.diff(slope)).max())
            with self.subTest(pattern=pattern):
                self.assertLess(bends[1], 0.35 * bends[0])

    def test_one_wave_has_one_size(self) -> None:
        """By its spectrum: hardly anything finer than two waves in a cell, and little far coarser than
        a cell (the aim of gradient noise; Perlin 1985)."""
        for pattern in ("gradient", "simplex"):
            found = np.mean(
                [
                    np.abs(np.fft.fft2(field(pattern, laid=FLAT, size=(800, 800), key=key_for(n))))
                    ** 2
                    for n in range(4)
                ],
                axis=0,
            )
            frequencies = np.hypot(*np.meshgrid(np.fft.fftfreq(800), np.fft.fftfreq(800))) * 40
            energy = found.sum()
            with self.subTest(pattern=pattern):
                self.assertLess(found[frequencies > 2].sum() / energy, 0.02)
                self.assertLess(found[frequencies < 0.2].sum() / energy, 0.05)

    def test_no_direction_is_preferred(self) -> None:
        """How alike two places are depends on how far they are apart, and not on which way."""
        found = np.stack(
            [field("simplex", laid=FLAT._replace(direction=0.0), size=(1200, 1200), key=key_for(n)) for n in range(3)]
        )  # fmt: skip
        spectrum = np.mean(np.abs(np.fft.fft2(found)) ** 2, axis=0)
        alike = np.fft.ifft2(spectrum).real
        alike /= alike[0, 0]
        for far in (8, 16, 24):
            ways = [
                alike[round(far * math.sin(turn)), round(far * math.cos(turn))]
                for turn in np.radians([0, 30, 60, 90, 120, 150])
            ]
            with self.subTest(far=far):
                self.assertLess(max(ways) - min(ways), 0.09)

    def test_no_lattice_shows(self) -> None:
        """With waves turned against one another, the corners of cells are as lively as all else."""
        laid = FLAT._replace(direction=0.0)
        for pattern in ("gradient", "simplex"):
            found = np.stack([field(pattern, FIVE, laid, key=key_for(n)) for n in range(6)])
            left, top = 40 - round(0.37 * 40), 40 - round(0.71 * 40)
            corners = found[:, top - 1 :: 40, left - 1 :: 40]
            with self.subTest(pattern=pattern):
                self.assertGreater(corners.std() / found.std(), 0.6)


class Laying(TestCase):
    def test_half_the_size(self) -> None:
        """At a smaller scale it is the larger picture reduced, in whatever way it is laid, where its waves
        are larger than two small px."""
        ways = [
            FLAT, FLAT._replace(size=(400.0, 60.0)), FLAT._replace(way="plane", about=(450.0, 100.0)),
            FLAT._replace(way="rings", about=(450.0, 300.0)),
        ]  # fmt: skip
        for laid in ways:
            laid = laid._replace(size=(4 * laid.size[0], 4 * laid.size[1]))
            octaves = FIVE if laid.way == "flat" else FIVE._replace(waves=3)
            for scale in (0.5, 0.25):
                whole = field("gradient", octaves, laid, (880, 560))
                small = field("gradient", octaves, laid, (880, 560), scale)
                reduced = cv2.resize(
                    np.nan_to_num(whole, neginf=0), small.shape[::-1], interpolation=cv2.INTER_AREA
                )
                y, x = np.mgrid[: small.shape[0], : small.shape[1]] / scale
                seen = np.ones_like(small, bool)
                if laid.way == "plane":
                    seen = y > 300
                elif laid.way == "rings":
                    seen = np.hypot(x - 450, y - 300) > 120
                error = np.sqrt(np.mean((reduced - small)[seen] ** 2))
                with self.subTest(way=laid.way, scale=scale):
                    self.assertGreater(20 * math.log10(1 / error), 40)

    def test_a_ring_closes(self) -> None:
        """Round the hub there is no seam, for waves that are finer by no whole number too."""
        laid = FLAT._replace(way="rings", about=(300.0, 300.0), size=(80.0, 80.0), rounds=7)
        for finer in (2.0, 1.7):
            found = field("gradient", FIVE._replace(finer=finer), laid, (600, 600))
            seam = np.abs(found[299, :200] - found[300, :200])
            beside = np.abs(found[289, :200] - found[290, :200])
            with self.subTest(finer=finer):
                self.assertLess(seam.max(), 2 * beside.max() + 0.02)

    def test_the_ground(self) -> None:
        """As far below the horizon as it is measured, a wave is as large as it says, and at half that
        twice as near the horizon, a quarter as tall and half as wide."""
        laid = FLAT._replace(
            way="plane", about=(0.0, 0.0), direction=0.0, near=400.0, size=(90.0, 90.0)
        )
        found = field("gradient", ONE, laid, (900, 700))
        flat = field("gradient", ONE, laid._replace(way="flat"), (1800, 1))
        self.assertEqual(found.shape, (700, 900))
        row = found[200 - 1]
        self.assertAlmostEqual(
            float(np.abs(np.diff(row)).mean() / np.abs(np.diff(flat)).mean()), 2, delta=0.7
        )

    def test_returning(self) -> None:
        """After so many cycles of boil it is the same to the bit, and half way it is another."""
        for pattern in ("gradient", "simplex", "value", "cells"):
            octaves = FIVE._replace(returns=3, boil=0.4)
            before = field(pattern, octaves, size=(300, 200))
            after = field(pattern, octaves._replace(boil=3.4), size=(300, 200))
            between = field(pattern, octaves._replace(boil=1.9), size=(300, 200))
            with self.subTest(pattern=pattern):
                np.testing.assert_allclose(after, before, atol=1e-5)
                self.assertGreater(np.abs(between - before).mean(), 0.1)

    def test_drift_and_parts(self) -> None:
        """Drifting by a whole px moves it by one; a part of a picture is that part of the whole."""
        moved = FIVE._replace(drift=(3 / 40, 2 / 40))
        laid = FLAT._replace(direction=0.0)
        whole = field("gradient", FIVE, laid, (300, 200))
        np.testing.assert_allclose(
            field("gradient", moved, laid, (300, 200))[2:, 3:], whole[:-2, :-3], atol=1e-4
        )
        part = pattern_on(
            Region(50, 40, 130, 90), 1.0, "gradient", FIVE, laid, Warping(2, 0.5), 0.2, (Key(5, 9),)
        )[..., 0]
        all_of_it = field("gradient", FIVE, laid, (300, 200), warping=Warping(2, 0.5), carried=0.2)
        np.testing.assert_array_equal(part, all_of_it[40:90, 50:130])
