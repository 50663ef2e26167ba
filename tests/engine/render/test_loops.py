"""Shots that are played round and round, and the numbers that count their frames."""

import itertools
from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import RecipeError, render_frame
from handful.engine.picture import Picture
from handful.engine.recipe import Recipe
from handful.engine.render import Cache, seam_of
from handful.engine.values import drops_frames, timecode
from tests.engine.recipes import bolt_layer, small

BOIL = {"moves": "rate", "start": 0, "per_second": 1.3}


def _jump(one: Picture, other: Picture) -> float:
    return float(np.abs(np.clip(one, 0, 1) - np.clip(other, 0, 1)).mean())


class Looping(TestCase):
    def _round(self, loop: int, *layers: dict[str, Any], **more: Any) -> tuple[float, float]:
        """How much it changes from the last frame to the first, and at most between the others."""
        recipe = small(*layers, loop=loop, **more)
        pictures = [render_frame(recipe, frame, 0.5) for frame in range(26, 51)]
        first = render_frame(recipe, 1, 0.5)
        steps = [_jump(*pair) for pair in itertools.pairwise(pictures)]
        return _jump(pictures[-1], first), max(steps)

    def test_sources_that_run_on(self) -> None:
        """The seam is a step like any other, also where it was a jump before."""
        ends = {"start": [20, 30], "end": [300, 150]}
        for kind, jumps in (("bolt", 2.0), ("stream", 0.0), ("beam", 0.0)):
            layer = {"id": "l", "name": "l", "source": {"kind": kind, **ends}}
            with self.subTest(kind=kind):
                seam, usual = self._round(0, layer)
                self.assertGreaterEqual(seam, jumps * usual)
                seam, usual = self._round(12, layer)
                self.assertLess(seam, 1.2 * usual)

    def test_what_shakes_is_never_doubled(self) -> None:
        """A jittered place turns into its beginning as a number: one bolt is seen, not two."""
        shaking = {"moves": "jitter", "value": [30, 40], "amount": [0, 60], "per_second": 2}
        bolt = bolt_layer(start=shaking, boil=0, branches=0, core_light=0, width=6)
        recipe = small(bolt, loop=12)
        for frame in (44, 47, 50):
            column = render_frame(recipe, frame)[:, 32, 3]
            runs = np.flatnonzero(np.diff((column > 0.2).astype(int)) == 1)
            self.assertEqual(len(runs), 1, f"frame {frame}")

    def test_copies_steps_and_other_moments(self) -> None:
        """What a copy, a warp, a trail and a displacement show goes round as well."""
        bolt = bolt_layer(boil=BOIL)
        copy = {"id": "c", "name": "c", "source": {"kind": "copy", "of": "bolt", "ahead": 7}}
        steps: list[dict[str, Any]] = [
            {"kind": "warp", "id": "w"},
            {"kind": "offset", "id": "o", "frames": -5},
            {"kind": "trail", "id": "e"},
            {"kind": "displace", "id": "d", "by": "bolt"},
        ]
        for step in steps:
            with self.subTest(step=step["kind"]):
                seam, usual = self._round(12, bolt, copy | {"steps": [step]})
                self.assertLess(seam, 1.3 * usual)

    def test_first_frames_stay_as_they_are(self) -> None:
        """Only the last frames turn; a picture before them is the same to the bit."""
        bolt = bolt_layer(boil=BOIL)
        plain, looping = small(bolt), small(bolt, loop=12)
        for frame, same in ((1, True), (38, True), (45, False)):
            equal = np.array_equal(
                render_frame(plain, frame, 0.5), render_frame(looping, frame, 0.5)
            )
            self.assertEqual(equal, same, f"frame {frame}")

    def test_a_rise_is_met_by_a_fall(self) -> None:
        """A layer that rises from nothing at the start is gone again at the end: closed form."""
        recipe = small(bolt_layer(boil=0) | {"life": {"rise": 10}}, loop=10)
        light = {frame: float(render_frame(recipe, frame, 0.5).sum()) for frame in (30, 46, 50)}
        part = 0.6  # 1 + 50 - 10 = 41 begins to turn; frame 46 is half way, 50 is nine tenths
        self.assertAlmostEqual(light[46] / light[30], 0.5, delta=0.02)
        self.assertLess(light[50] / light[30], 1 - part)

    def test_the_check_measures_it(self) -> None:
        bolt = bolt_layer(boil=BOIL)
        open_ended, looping = (seam_of(small(bolt, loop=loop), Cache(10**8)) for loop in (0, 12))
        self.assertFalse(open_ended.holds)
        self.assertTrue(looping.holds)
        self.assertGreater(open_ended.change, 2 * looping.change)

    def test_more_frames_than_there_are(self) -> None:
        with self.assertRaisesRegex(RecipeError, "loop over 60 frames, as it has only 50"):
            small(bolt_layer(), loop=60)


class Timecode(TestCase):
    def test_dropped_numbers(self) -> None:
        """SMPTE ST 12-1: numbers 0 and 1 are dropped at each minute but the tenth ones, so that
        an hour of clock time, 107 892 frames of 30000/1001 a second, is one hour of timecode."""
        for frames, text in (
            (0, "00:00:00;00"),
            (1799, "00:00:59;29"),
            (1800, "00:01:00;02"),
            (3597, "00:01:59;29"),
            (3598, "00:02:00;02"),
            (17981, "00:09:59;29"),
            (17982, "00:10:00;00"),
            (107_892, "01:00:00;00"),
        ):
            self.assertEqual(timecode(frames, 29.97, drops=True), text)
        self.assertEqual(timecode(3600, 59.94, drops=True), "00:01:00;04")

    def test_no_number_twice_and_none_backwards(self) -> None:
        codes = [timecode(frames, 29.97, drops=True) for frames in range(40_000)]
        self.assertEqual(codes, sorted(set(codes)))

    def test_other_rates_drop_none(self) -> None:
        """At 23.976 an hour of timecode lasts 3.6 s longer than one of the clock (common practice)."""
        self.assertEqual(timecode(1001, 25), "00:00:40:01")
        self.assertEqual(timecode(86_400, 23.976), "01:00:00:00")
        self.assertEqual(
            [rate for rate in (23.976, 25, 29.97, 30, 59.94) if drops_frames(rate)], [29.97, 59.94]
        )
        with self.assertRaisesRegex(ValueError, "23.976"):
            timecode(5, 23.976, drops=True)

    def test_in_a_recipe(self) -> None:
        canvas = {"rate": 25, "drop_frame": True}
        with self.assertRaisesRegex(RecipeError, "only at 29.97 and 59.94"):
            small(canvas=canvas)


class Overscan(TestCase):
    def _pair(self, scale: float) -> tuple[Picture, Picture, Recipe]:
        canvas = {"width": 320, "height": 180, "rate": 25, "first": 1, "last": 50}
        glow = {"kind": "glow", "id": "g", "lobes": [{"radius": 20}]}
        layer = bolt_layer(steps=[glow])
        plain = small(layer, canvas=canvas)
        wide = small(layer, canvas=canvas | {"overscan": 24})
        return render_frame(plain, 3, scale), render_frame(wide, 3, scale), wide

    def test_the_canvas_stays_as_it_is(self) -> None:
        """The picture grows on each side, and within the canvas it is the same to the bit."""
        for scale in (1.0, 0.5):
            plain, wide, recipe = self._pair(scale)
            by = recipe.canvas.overscan_at(scale)
            self.assertEqual(wide.shape[0], plain.shape[0] + 2 * by)
            np.testing.assert_array_equal(wide[by:-by, by:-by], plain)
            self.assertGreater(float(wide[:, :by].sum()), 0)
