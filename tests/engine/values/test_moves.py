"""What follows, is like another, or is worked out by a formula; and tracks."""

from typing import Any
from unittest import TestCase

import numpy as np
from pydantic import TypeAdapter, ValidationError
from scipy.interpolate import CubicHermiteSpline

from handful.engine.colour.transfer import Colour
from handful.engine.values import Point, Track, steadied
from tests.engine.values.test_values import AMOUNT, PLACE, TINT, at


def _track(*marks: tuple[float, ...], **more: Any) -> Track:
    return Track.model_validate({"name": "t", "marks": marks, **more})


class Following(TestCase):
    def test_point_or_track(self) -> None:
        """It is where the point or the track is, with the offset; one of both must be named."""
        follow = {"moves": "follow", "track": "left", "offset": [5, 1]}
        self.assertEqual(at(follow, 1001, PLACE), Point(-996, 1))
        for wrong in ({}, {"point": "mast", "track": "left"}):
            with self.assertRaisesRegex(ValidationError, "a point or a track"):
                PLACE.validate_python({"moves": "follow", **wrong})

    def test_smoothing_keeps_even_motion(self) -> None:
        """A symmetric mean of even motion is the motion itself."""
        follow = {"moves": "follow", "point": "mast", "smoothing": 8}
        x, y = at(follow, 1030, PLACE)
        self.assertAlmostEqual(x, 108)
        self.assertAlmostEqual(y, 50)

    def test_smoothing_steadies(self) -> None:
        """Closed form: of a px that jumps by 10 it takes the share of the triangle that is past it."""

        class Jumps:
            def point(self, name: str, frame: float, smoothing: float) -> Point:
                return steadied(self._places, frame, smoothing)

            def _places(self, frames: np.ndarray) -> np.ndarray:
                return np.array([[10.0 if frame >= 1026 else 0.0, 0] for frame in frames])

        weights = [1 - abs(i) / 5 for i in range(-4, 5)]
        for frame, past in ((1026, 5), (1027, 6), (1024, 3)):
            follow = {"moves": "follow", "point": "p", "smoothing": 4}
            wanted = 10 * sum(weights[-past:]) / sum(weights)
            got = at(follow, frame, PLACE, scene=Jumps())
            self.assertAlmostEqual(got.x, wanted)

    def test_smoothing_takes_every_frame(self) -> None:
        """Closed form: of white noise of deviation s, two frames in a row of its mean under a
        triangle of w frames to each side differ by s sqrt(sum of squared differences of weights);
        a shake whose period the triangle holds whole number of times is gone."""
        noise = np.random.default_rng(1).normal(0, 5, (2000, 2))
        marks = [(float(i), float(x), float(y)) for i, (x, y) in enumerate(noise)]
        track = _track(*marks)
        for reach in (3, 10, 50, 250):
            places = np.array([track.steadied(float(f), reach) for f in range(300, 1700)])
            weights = np.maximum(0, 1 - np.abs(np.arange(-reach - 2, reach + 3)) / (reach + 1))
            weights /= weights.sum()
            wanted = 5 * np.sqrt((np.diff(weights) ** 2).sum())
            got = np.sqrt((np.diff(places, axis=0) ** 2).mean())
            self.assertAlmostEqual(got / wanted, 1, delta=0.15, msg=str(reach))
        shake = [(float(i), 10 * np.sin(2 * np.pi * i / 12.5), 0.0) for i in range(400)]
        steady = [_track(*shake).steadied(200 + part / 4, 49).x for part in range(100)]
        self.assertLess(float(np.abs(steady).max()), 0.05)

    def test_smoothed_by_the_fraction_of_a_frame(self) -> None:
        """Even motion stays what it is at any moment and any reach."""
        track = _track(*((float(i), 3.0 * i, 7.0) for i in range(60)))
        for reach in (0.5, 2.5, 8):
            for frame in (20.0, 20.25, 31.9):
                self.assertAlmostEqual(track.steadied(frame, reach).x, 3 * frame, places=9)


class Alike(TestCase):
    def _like(self, setting: str, **more: Any) -> dict[str, Any]:
        return {"moves": "like", "setting": {"layer": "main", "setting": setting}, **more}

    def test_scaled_and_offset(self) -> None:
        """Definition: the other value times the scale plus the offset, for all axes or each."""
        self.assertEqual(at(self._like("width")), 8)
        self.assertEqual(at(self._like("width", scale=0.5, offset=3)), 7)
        self.assertEqual(at(self._like("end", scale=2), adapter=PLACE), Point(20, 40))
        each = self._like("end", scale=[1, -1], offset=[0, 100])
        self.assertEqual(at(each, adapter=PLACE), Point(10, 80))
        self.assertEqual(at(self._like("core", scale=0.5), adapter=TINT), Colour(0.5, 0.25, 0.125))


class Worked(TestCase):
    def _formula(self, text: Any, value: Any = 10) -> dict[str, Any]:
        return {"moves": "formula", "value": value, "formula": text}

    def test_copy_and_seed(self) -> None:
        """`n` is which copy; `seed` is from 0 to 1 and another for another layer."""
        self.assertEqual(at(self._formula("still + 100 * n"), copy=3), 310)
        seeds = [at(self._formula("seed"), seeds=("recipe", layer)) for layer in ("a", "b", "a")]
        self.assertTrue(all(0 <= seed < 1 for seed in seeds))
        self.assertEqual(seeds[0], seeds[2])
        self.assertNotEqual(seeds[0], seeds[1])

    def test_axes(self) -> None:
        """One formula for each axis on its own value, or one for all."""
        self.assertEqual(at(self._formula("still * 2", [3, 4]), adapter=PLACE), Point(6, 8))
        self.assertEqual(at(self._formula(["still", "7"], [3, 4]), adapter=PLACE), Point(3, 7))
        dimmed = at(self._formula("still / 2", "#ffffff"), adapter=TINT)
        self.assertEqual(dimmed, Colour(0.5, 0.5, 0.5))
        pairs: list[tuple[list[str], TypeAdapter[Any]]] = [
            (["1", "2"], AMOUNT),
            (["1", "2", "3"], PLACE),
        ]
        for wrong, adapter in pairs:
            value = 10 if adapter is AMOUNT else [1, 2]
            with self.assertRaises(ValidationError):
                adapter.validate_python(self._formula(wrong, value))


class Colours(TestCase):
    def test_rate_jitter_pulse(self) -> None:
        """In linear light, each channel by its own amount."""
        rate = {"moves": "rate", "start": "#000000", "per_second": [0.5, 0.25, 0]}
        self.assertEqual(at(rate, adapter=TINT), Colour(0.5, 0.25, 0))
        pulse = {
            "moves": "pulse",
            "value": "#000000",
            "amount": [1, 2, 0],
            "shape": "square",
            "period": 4,
        }
        self.assertEqual(at(pulse, adapter=TINT), Colour(1, 2, 0))
        jitter = {"moves": "jitter", "value": "#ffffff", "amount": [0.5, 0.5, 0.5], "per_second": 9}
        shaken = [at(jitter, 1001 + 0.7 * i, TINT) for i in range(60)]
        self.assertLessEqual(float(np.abs(np.array(shaken) - 1).max()), 0.5)
        self.assertLess(abs(float(np.corrcoef(np.array(shaken).T)[0, 1])), 0.5)


class Jitter(TestCase):
    def test_ahead_by_its_offset(self) -> None:
        """With an offset of so many seconds it is now what it is by itself so much later."""
        jitter = {"moves": "jitter", "value": 3, "amount": 2, "per_second": 7}
        for seconds in (1.0, -0.4):
            ahead = jitter | {"offset": seconds}
            for frame in (1011, 1030.5):
                later = frame + seconds * 25
                self.assertAlmostEqual(at(ahead, frame), at(jitter, later), places=6)
                self.assertNotAlmostEqual(at(ahead, frame), at(jitter, frame), places=3)


class Tracks(TestCase):
    def test_as_scipy(self) -> None:
        """scipy's cubic Hermite spline with the slopes of parabolas through three marks."""
        frames = np.array([1, 2, 3, 7, 8, 10.0])
        places = np.random.default_rng(3).uniform(0, 500, (6, 2))
        track = _track(*np.column_stack([frames, places]).tolist())
        slopes = np.gradient(places, frames, axis=0, edge_order=1)
        curve = CubicHermiteSpline(frames, places, slopes)
        for frame in np.linspace(1, 10, 46):
            np.testing.assert_allclose(track.at(frame), curve(frame), atol=1e-9)

    def test_gaps(self) -> None:
        """What is not sure is a gap, and a gap in even motion is filled evenly."""
        track = _track((1, 0, 0), (2, 10, 5, 0.9), (3, 999, 999, 0.1), (6, 50, 25), (7, 60, 30))
        np.testing.assert_allclose(track.at(3), (20, 10), atol=1e-9)
        np.testing.assert_allclose(track.at(4.5), (35, 17.5), atol=1e-9)

    def test_as_sure_as_is_asked(self) -> None:
        """A mark that is just as sure counts; one that is less so does not."""
        for trust, x in ((0.5, 50.0), (0.51, 10.0)):
            track = _track((1, 0, 0), (2, 50, 0, 0.5), (3, 20, 0), trust=trust)
            self.assertAlmostEqual(track.at(2)[0], x)

    def test_beyond_its_ends(self) -> None:
        """Before and after it stays where it was first and last seen."""
        track = _track((5, 1, 2), (6, 3, 4))
        self.assertEqual((track.at(-90), track.at(90)), (Point(1, 2), Point(3, 4)))

    def test_refusals(self) -> None:
        """Marks out of order, doubled, or none that is sure."""
        for marks, says in (
            (((2, 0, 0), (1, 0, 0)), "comes after"),
            (((2, 0, 0), (2, 0, 0)), "two marks"),
            (((1, 0, 0, 0.1),), "as sure as"),
            ((), "at least 1"),
        ):
            with self.assertRaisesRegex(ValidationError, says):
                _track(*marks)
