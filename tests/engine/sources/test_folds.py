"""Folds that travel: nothing is stretched, they go where they are told, and each frame stands by itself."""

import math
from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.kinds import At
from handful.engine.picture import Region
from handful.engine.sources.cloth.folds import Folds
from tests.engine.recipes import as_it_comes, small
from tests.engine.sources.test_cloth import PRINT

AT = At(Region(0, 0, 320, 180), 1.0, (1, "folds"))


def recipe(*more: dict[str, Any], **settings: Any) -> Recipe:
    source = {"kind": "folds", "at": [160, 20], "width": 180, "height": 120, "deep": 14, **settings}
    return small({"id": "f", "name": "F", "source": source}, *more)


def folds(**settings: Any) -> Folds:
    own = {"run": 0.0, "folds": 5.0, "width": 400.0, "height": 300.0}
    return as_it_comes(Folds, **(own | settings))


class Geometry(TestCase):
    def test_nothing_is_stretched(self) -> None:
        """Along each line it is as long as it is laid flat, however deep its folds, but for what leans both ways at once."""
        for held in ("its upper edge", "its left edge"):
            for deep in (0.0, 30.0, 90.0, 400.0):
                places = folds(held=held, deep=deep, turned=0.0, billow=0.0, uneven=0.0).places(AT)
                along = np.linalg.norm(np.diff(places, axis=1), axis=2).sum(axis=1)
                with self.subTest(held=held, deep=deep):
                    np.testing.assert_allclose(along, 400, rtol=0.05 if deep > 90 else 0.02)
                    self.assertEqual(bool((np.diff(places[..., 0], axis=1) > 0).all()), True)

    def test_it_is_held(self) -> None:
        """The middle of its upper edge, or its left edge, is where it is said, whatever its folds do."""
        for run in (0.0, 0.3, 7.7):
            left = folds(held="its left edge", run=run, at=folds().at, hangs=20.0).places(AT)
            np.testing.assert_allclose(left[:, 0, 0], 960 - 200, atol=1e-9)
            upper = folds(run=run).places(AT)
            np.testing.assert_allclose((upper[0, 0, 0] + upper[0, -1, 0]) / 2, 960, atol=1e-9)
            np.testing.assert_allclose(upper[0, :, 1], 190, atol=1e-9)
        still = folds(held="its left edge", grows=100.0, billow=0.0).places(AT)
        self.assertLess(float(np.abs(np.diff(still[:, 0, 2])).max()), 1e-6)

    def test_they_travel(self) -> None:
        """Even ones are the same after each whole fold, half of one on they are turned about, and in between those of
        before are farther across."""
        even = {"uneven": 0.0, "turned": 0.0, "billow": 0.0, "grows": 0.0, "deep": 6.0}
        begun, half, whole = (folds(run=run, **even).places(AT)[9, :, 2] for run in (0, 0.5, 1))
        np.testing.assert_allclose(begun, whole, atol=1e-9)
        relative = begun - begun.mean(), half - half.mean()
        self.assertLess(float(np.corrcoef(*relative)[0, 1]), -0.99)
        later = folds(run=0.1, **even).places(AT)[9, :, 2]
        shifted = np.interp(
            np.linspace(0, 1, len(begun)) - 0.1 / 5, np.linspace(0, 1, len(begun)), begun
        )
        inner = slice(8, None)
        self.assertGreater(float(np.corrcoef(later[inner], shifted[inner])[0, 1]), 0.99)

    def test_how_many(self) -> None:
        """As many crests as folds, when they are even."""
        deep = folds(uneven=0.0, turned=0.0, billow=0.0, grows=0.0).places(AT)[0, :, 2]
        crests = (np.diff(np.sign(np.diff(deep))) < 0).sum()
        self.assertIn(int(crests), (4, 5, 6))


class Pictures(TestCase):
    def test_every_setting_counts(self) -> None:
        """Each moves the picture, and a frame alone is the same as one of a row."""
        plain = render_frame(recipe(), 8, 0.5)
        self.assertGreater(float(plain[..., 3].max()), 0.99)
        beside: dict[str, dict[str, Any]] = {
            "hangs": {"held": "its left edge"}, "through": {"light_near": -600}, "weave": {"threads": 20},
        }  # fmt: skip
        for known in Folds.settings:
            if known.name in ("colour_behind", "printed", "threads"):
                continue
            value: Any = {"at": [150, 30], "light_at": [600, 90], "colour": "#ff0000"}.get(
                known.name
            )
            if value is None:
                value = known.choices[1] if known.choices else known.usual[1] if known.usual else 77
            more = beside.get(known.name, {})
            with self.subTest(setting=known.name):
                changed = render_frame(recipe(**more | {known.name: value}), 8, 0.5)
                before = render_frame(recipe(**more), 8, 0.5) if more else plain
                self.assertFalse(np.array_equal(changed, before))
        np.testing.assert_array_equal(render_frame(recipe(), 8, 0.5), plain)

    def test_a_print(self) -> None:
        printed = render_frame(
            recipe(PRINT, printed="print", deep=0, billow=0, around=100), 5, layer="f"
        )
        left, right = printed[60, 100], printed[60, 220]
        self.assertGreater(float(left[1]), 3 * float(left[0]))
        self.assertLess(float(right[1]), 2 * float(right[0]))

    def test_its_motion(self) -> None:
        """A sheet that goes across goes so far in a frame, in px of the full-size canvas at any size, also where only a part
        of it is seen."""
        goes = {"moves": "rate", "start": [150, 20], "per_second": [50, 25]}
        made = recipe(at=goes, run=0, shows="its motion", lens=50_000)
        for scale in (1.0, 0.5):
            motion = render_frame(made, 6, scale)
            self.assertEqual(motion.shape[2], 2)
            inner = motion[
                round(60 * scale) : round(90 * scale), round(120 * scale) : round(180 * scale)
            ]
            np.testing.assert_allclose(inner[..., 0], 2, atol=0.02)
            np.testing.assert_allclose(inner[..., 1], 1, atol=0.02)

    def test_as_many_points_as_now(self) -> None:
        """What turns or has more folds from frame to frame is drawn by as many points before and after as it is now."""
        for moving in ("turned", "folds"):
            moves = {moving: {"moves": "rate", "start": 3, "per_second": 90}}
            picture = render_frame(recipe(**moves), 9)
            with self.subTest(moving=moving):
                self.assertTrue(np.isfinite(picture).all())
                self.assertGreater(float(picture[..., 3].max()), 0.9)

    def test_half_size(self) -> None:
        whole, half = render_frame(recipe(), 8, 1.0), render_frame(recipe(), 8, 0.5)
        means = whole.reshape(90, 2, 160, 2, 4).mean(axis=(1, 3))
        self.assertLess(float(np.sqrt(np.mean((means - half) ** 2))), 0.02)

    def test_at_its_bounds(self) -> None:
        """Nothing is ever what cannot be."""
        for known in Folds.settings:
            for value in (known.least, known.most):
                if value is None or known.type not in ("number", "whole"):
                    continue
                with self.subTest(setting=known.name, value=value):
                    self.assertTrue(
                        np.isfinite(render_frame(recipe(**{known.name: value}), 3, 0.2)).all()
                    )
        self.assertTrue(math.isfinite(float(folds(deep=4000.0, folds=60.0).places(AT).sum())))
