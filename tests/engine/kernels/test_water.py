"""Water against linear theory, Snell's law, and what may not be lost."""

import math
import os
from unittest import TestCase, mock

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter, gaussian_filter1d

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.fluid import water
from handful.engine.kernels.fluid.water import (
    GRAVITY,
    INDEX,
    Sea,
    Sun,
    finely,
    folds_at,
    light_below,
    pace_of,
    refracted,
    slopes_of,
    summed,
    waves_at,
)

SEA = Sea(5.4, 0.9, 0.14, 1.2, 0.09, 0.3, 0.4, 0.0)
KEY = Key(5, 9)
OVERHEAD = Sun(0.0, 0.0)
CELL = SEA.side / 256


class Waves(TestCase):
    def test_pace(self) -> None:
        """Airy 1845: long waves in shallow water run at √(g h), short ones in deep water at √(g / k)."""
        for number in (1e-3, 1e-2):
            self.assertAlmostEqual(
                float(pace_of(np.array(number), 2.0)) / number / math.sqrt(2 * GRAVITY), 1, places=3
            )
        for number in (50.0, 400.0):
            self.assertAlmostEqual(
                float(pace_of(np.array(number), 2.0)), math.sqrt(GRAVITY * number), places=9
            )

    def test_every_wave_runs_at_its_pace(self) -> None:
        """What swings at ω is at t + d and t − d together 2 cos(ω d) of what it is at t, to either side."""
        turns = np.fft.fftfreq(256, CELL) * 2 * math.pi
        number = np.hypot(*np.meshgrid(turns, turns))
        paces = np.sqrt(GRAVITY * number * np.tanh(number * SEA.depth))
        for step in (0.02, 0.3):
            before, now, after = (
                waves_at(SEA, 3.0 + by * step, KEY)[0].astype(complex) for by in (-1, 0, 1)
            )
            strongest = np.abs(now).max()
            np.testing.assert_allclose(
                before + after, 2 * np.cos(paces * step) * now, atol=2e-5 * strongest
            )

    def test_heights_and_slopes_belong_together(self) -> None:
        """Heights are real, their differences are the slopes, and those are as steep as was asked."""
        steep = []
        for seed in range(6):
            waves, tilted = waves_at(SEA, 1.5, Key(seed, 1))
            heights = summed(waves)
            self.assertLess(np.abs(heights.imag).max(), 1e-5 * np.abs(heights.real).max())
            slopes = slopes_of(tilted)
            for axis in (0, 1):
                ahead, back = (np.roll(heights.real, by, 1 - axis) for by in (-1, 1))
                error = (ahead - back) / (2 * CELL) - slopes[::2, ::2, axis]
                self.assertLess(error.std(), 0.08 * slopes[..., axis].std())
            steep.append(float((slopes**2).sum(axis=2).mean()))
        self.assertAlmostEqual(math.sqrt(np.mean(steep)), SEA.steep, delta=0.05 * SEA.steep)

    def test_they_run_where_they_are_sent(self) -> None:
        """OpenCV's phase correlation of two moments: all together they move that way."""
        for direction in (0.0, 2.0, -1.1):
            sea = SEA._replace(together=1.0, direction=direction, finest=0.6)
            one, two = (
                summed(waves_at(sea, seconds, KEY)[0]).real.astype(np.float64)
                for seconds in (1.0, 1.03)
            )
            (x, y), _ = cv2.phaseCorrelate(one, two)
            away = math.atan2(y, x) - direction
            self.assertLess(abs(math.remainder(away, 2 * math.pi)), 0.5)

    def test_all_returns(self) -> None:
        sea = SEA._replace(returns=4.0)
        first, later, half = (waves_at(sea, seconds, KEY)[0] for seconds in (0.7, 4.7, 2.7))
        strongest = np.abs(first).max()
        np.testing.assert_allclose(later, first, atol=1e-4 * strongest)
        self.assertGreater(np.abs(half - first).max(), 0.3 * strongest)


class Folds(TestCase):
    def test_as_the_jacobian(self) -> None:
        """Where places of the surface go to and fro as Tessendorf has it, against D = Σ -i k/|k| h, what their cells lose of
        their area is in proportion, to first order; where it is most, crests are."""
        turns = np.fft.fftfreq(256, CELL) * 2 * math.pi
        across, down = np.meshgrid(turns, turns)
        number = np.maximum(np.hypot(across, down), 1e-9)
        for key in (Key(1, 4), Key(2, 4)):
            waves = waves_at(SEA, 2.0, key)[0].astype(complex)
            small = 1e-3
            x, y = (
                -small * np.fft.ifft2(-1j * way / number * waves, norm="forward").real
                for way in (across, down)
            )
            (xy, xx), (yy, yx) = (
                [(np.roll(part, -1, axis) - np.roll(part, 1, axis)) / (2 * CELL) for axis in (0, 1)]
                for part in (x, y)
            )
            lost = (1 - ((1 + xx) * (1 + yy) - xy * yx)).ravel()
            found = summed(folds_at(SEA, 2.0, key)).real.ravel()
            self.assertGreater(np.corrcoef(found, lost)[0, 1], 0.99)
            self.assertGreater(np.corrcoef(found, summed(waves).real.ravel())[0, 1], 0.2)

    def test_as_a_rule_it_is_one(self) -> None:
        """Whatever the waves are; on still water it is nothing."""
        squares = []
        for seed in range(6):
            sea = SEA._replace(steep=0.02 + 0.05 * seed, longest=0.3 + 0.2 * seed)
            squares.append(
                float((finely(folds_at(sea, 1.0 + seed, Key(seed, 2))).real ** 2).mean())
            )
        self.assertAlmostEqual(float(np.mean(squares)), 1, delta=0.1)
        self.assertEqual(np.abs(folds_at(SEA._replace(steep=0.0), 1.0, KEY)).max(), 0)

    def test_as_many_places_again(self) -> None:
        """Between them it goes on as the same waves do: every other one is the field itself."""
        waves = folds_at(SEA, 1.0, KEY)
        np.testing.assert_allclose(finely(waves)[::2, ::2], summed(waves), atol=1e-4)


class Rays(TestCase):
    def test_snell(self) -> None:
        """sin a = n sin b through still water; and through any slope n₁ (d × N) = n₂ (t × N)."""
        for angle in (0.0, 0.3, 1.2):
            across, down = refracted(0.0, 0.0, math.sin(angle), 0.0, INDEX)
            self.assertAlmostEqual(across, math.tan(math.asin(math.sin(angle) / INDEX)), places=12)
            self.assertAlmostEqual(down, 0)
        for sx, sy, dx, dy in ((0.2, -0.1, 0.3, 0.2), (-0.4, 0.3, 0.0, -0.5)):
            normal = np.array([-sx, -sy, 1]) / math.sqrt(1 + sx * sx + sy * sy)
            ray = np.array([dx, dy, -math.sqrt(1 - dx * dx - dy * dy)])
            bent = np.array([*refracted(sx, sy, dx, dy, INDEX), -1.0])
            bent /= np.linalg.norm(bent)
            np.testing.assert_allclose(
                np.cross(ray, normal), INDEX * np.cross(bent, normal), atol=1e-12
            )


class Floor(TestCase):
    def test_no_light_is_lost(self) -> None:
        """However it is thrown about, there is as much of it as under still water."""
        slopes = slopes_of(waves_at(SEA, 2.0, KEY)[1])
        for depth, sun in ((0.1, OVERHEAD), (1.2, Sun(0.6, 2.0)), (30.0, Sun(1.2, -1.0))):
            light = light_below(slopes, CELL / 2, depth, (INDEX,), sun)[..., 0]
            self.assertAlmostEqual(float(light.mean(dtype=np.float64)), 1, places=4)
            self.assertGreaterEqual(float(light.min()), 0)
        still = light_below(np.zeros_like(slopes), CELL / 2, 1.2, (INDEX,), Sun(0.6, 2.0))[..., 0]
        np.testing.assert_allclose(still, 1, atol=1e-4)

    def test_colours_at_the_ends_of_fewer_rays(self) -> None:
        """Where rays part little every other one leaves as much light, in hardly another picture; where they part more all
        of them fall."""
        slopes, indices = slopes_of(waves_at(SEA, 2.0, KEY)[1]), (1.32, INDEX, 1.35)
        for depth, are_fewer in ((0.5, True), (30.0, False)):
            few = light_below(slopes, CELL / 2, depth, indices, OVERHEAD)
            with mock.patch.object(water, "_PARTED", 0):
                all_of = light_below(slopes, CELL / 2, depth, indices, OVERHEAD)
            np.testing.assert_array_equal(few[..., 1], all_of[..., 1])
            self.assertEqual(not np.array_equal(few[..., 0], all_of[..., 0]), are_fewer)
            for a, b in ((few[..., k], all_of[..., k]) for k in range(3)):
                self.assertAlmostEqual(float(a.mean(dtype=np.float64)), 1, places=4)
                a, b = (gaussian_filter(plane, 0.7, mode="wrap") for plane in (a, b))
                dark = b < 1
                grain = (a - b)[dark] / b[dark]
                self.assertLess(float(np.sqrt(np.square(grain).mean())), 0.02)
        alike = light_below(slopes, CELL / 2, 1.2, (INDEX, INDEX, INDEX), OVERHEAD)
        self.assertTrue(np.isfinite(alike).all())

    def test_more_rays_where_they_part_much(self) -> None:
        """Steep water leaves grain of less than a thirtieth of the light in the dark, as 64 rays on each part of the floor
        tell; twice as much where it is blurred afterwards, and as few fall as elsewhere."""
        sea, depth = SEA._replace(steep=0.25), 2.0
        slopes = slopes_of(waves_at(sea, 2.0, KEY)[1])
        soft = {}
        for name, rays in (("as it comes", 3), ("many", 8)):
            with mock.patch.object(water, "_MORE_RAYS", rays):
                soft[name] = light_below(slopes, CELL / 2, depth, (INDEX,), OVERHEAD, 0.25)[..., 0]
        soft["blurred"] = light_below(slopes, CELL / 2, depth, (INDEX,), OVERHEAD, 0.25, True)[
            ..., 0
        ]
        dark = soft["many"] < 1
        grain = {
            name: float(np.sqrt(np.square((light - soft["many"])[dark] / np.maximum(soft["many"][dark], 0.05)).mean()))
            for name, light in soft.items()
        }  # fmt: skip
        self.assertLess(grain["as it comes"], 1 / 30)
        self.assertGreater(grain["blurred"], 2 * grain["as it comes"])
        for light in soft.values():
            self.assertAlmostEqual(float(light.mean(dtype=np.float64)), 1, places=4)

    def test_a_wave_as_a_lens(self) -> None:
        """Closed form: below a weak even wave of slope a sin(k x) light is brightest under its crests, by
        1 / (1 − D (1 − 1/n) a k), and darkest under its troughs, by the same with a plus."""
        number = 4 * 2 * math.pi / SEA.side
        places = (np.arange(512) + 0.5) * CELL / 2
        depth, weak = 0.5, 0.1
        slopes = np.zeros((512, 512, 2), np.float32)
        slopes[..., 0] = weak * np.sin(number * places)
        light = light_below(slopes, CELL / 2, depth, (INDEX,), OVERHEAD)[..., 0]
        by = depth * (1 - 1 / INDEX) * weak * number
        row = gaussian_filter1d(light.mean(axis=0), 6, mode="wrap")
        self.assertAlmostEqual(float(row.max()), 1 / (1 - by), delta=0.05 * by)
        self.assertAlmostEqual(float(row.min()), 1 / (1 + by), delta=0.05 * by)
        crest = int(np.argmax(row)) / 4 * CELL * number
        self.assertAlmostEqual(math.cos(crest), -1, delta=0.01)

    def test_on_any_number_of_threads(self) -> None:
        slopes = slopes_of(waves_at(SEA, 2.0, KEY)[1])
        found = []
        for threads in ("1", "2", "5"):
            with mock.patch.dict(os.environ, HANDFUL_THREADS=threads):
                found.append(light_below(slopes, CELL / 2, 1.2, (1.32, INDEX), Sun(0.4, 1.0)))
        np.testing.assert_array_equal(found[0], found[1])
        np.testing.assert_array_equal(found[0], found[2])
