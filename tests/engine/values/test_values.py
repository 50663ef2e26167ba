"""Time and moving values, by their definitions and by W3C's easing."""

import math
from fractions import Fraction
from itertools import pairwise
from typing import Any
from unittest import TestCase

import numpy as np
from pydantic import TypeAdapter, ValidationError

from handful.engine.colour.transfer import Colour, colour_from_hex
from handful.engine.kernels.chance.hash import key_for, uniform
from handful.engine.recipe.fields import COLOUR, NUMBER, POINT, moving
from handful.engine.values import (
    MOVES,
    Life,
    Moment,
    Point,
    Reference,
    Surroundings,
    cubic_bezier,
    eased,
    exact_rate,
    value_at,
)

RATE = Fraction(25)


def _ways(sort: str) -> tuple[str, ...]:
    return tuple(name for name, move in MOVES.items() if sort in move.suits)


AMOUNT: TypeAdapter[Any] = TypeAdapter(moving(NUMBER, _ways("number")))
PLACE: TypeAdapter[Any] = TypeAdapter(moving(POINT, _ways("point")))
TINT: TypeAdapter[Any] = TypeAdapter(moving(COLOUR, _ways("colour")))


class FewPoints:
    """A scene with one point and one track."""

    def point(self, name: str, frame: float, smoothing: float = 0.0) -> Point:
        """The mast, which moves by 2 px a frame and shakes by 3."""
        assert name == "mast"
        return Point(100 + 2 * (frame - 1026), 50)

    def track(self, name: str, frame: float, smoothing: float = 0.0) -> Point:
        """A track to the left."""
        return Point(-frame, 0)

    def setting(self, reference: Reference, frame: float, back: float = 0.0) -> Any:
        """A number, a place or a colour, by its name."""
        return {"width": 8.0, "end": Point(10, 20), "core": Colour(1, 0.5, 0.25)}[reference.setting]


def at(written: Any, frame: float = 1026, adapter: TypeAdapter[Any] = AMOUNT, **around: Any) -> Any:
    moment = Moment(frame, RATE, 1001, 1075)
    known: dict[str, Any] = {"scene": FewPoints(), "now": frame} | around
    return value_at(adapter.validate_python(written), Surroundings(moment, **known))


class Time(TestCase):
    def test_seconds_since_the_first_frame(self) -> None:
        """Definition: (frame - first) / rate."""
        self.assertEqual(Moment(1026, RATE, 1001, 1075).seconds, 1)
        self.assertAlmostEqual(Moment(2.5, Fraction(24000, 1001), 1, 9).seconds, 1.5 * 1001 / 24000)

    def test_exact_rates(self) -> None:
        """SMPTE ST 12-1: 23.976, 29.97 and 59.94 stand for 1000/1001 of a whole rate."""
        for written, exact in (
            (23.976, Fraction(24000, 1001)),
            (29.97, Fraction(30000, 1001)),
            (59.94, Fraction(60000, 1001)),
            (25, Fraction(25)),
            (24, Fraction(24)),
            (12.5, Fraction(25, 2)),
        ):
            self.assertEqual(exact_rate(written), exact)


class Easing(TestCase):
    def test_curve_by_its_definition(self) -> None:
        """W3C CSS Easing Functions 1, 2.2: the point x(t), y(t) of the Bezier lies on the easing."""
        for x1, y1, x2, y2 in ((0.42, 0, 0.58, 1), (0.25, 0.1, 0.25, 1), (0.9, -0.6, 0.1, 1.7)):
            for t in np.linspace(0.01, 0.99, 21):
                x = 3 * (1 - t) ** 2 * t * x1 + 3 * (1 - t) * t**2 * x2 + t**3
                y = 3 * (1 - t) ** 2 * t * y1 + 3 * (1 - t) * t**2 * y2 + t**3
                self.assertAlmostEqual(cubic_bezier(x1, y1, x2, y2, x), y, places=9)

    def test_named(self) -> None:
        """Ends of every ease are exact; smooth is the same forwards and backwards; hold waits."""
        for ease in ("linear", "smooth", "hold", (0.3, 2, 0.7, -1)):
            self.assertEqual((eased(ease, 0), eased(ease, 1)), (0, 1))
        self.assertAlmostEqual(eased("smooth", 0.3), 1 - eased("smooth", 0.7))
        self.assertEqual((eased("hold", 0.999), eased("linear", 0.4)), (0, 0.4))


class Simple(TestCase):
    def test_still(self) -> None:
        """A plain value is itself; a hex colour its linear light."""
        self.assertEqual(at(3.5), 3.5)
        self.assertEqual(at((3.0, 4.0), adapter=PLACE), Point(3, 4))
        self.assertEqual(at("#ffbc00", adapter=TINT), colour_from_hex("#ffbc00"))

    def test_rate(self) -> None:
        """Definition: start plus so much a second; an offset is seconds ahead."""
        self.assertAlmostEqual(at({"moves": "rate", "start": 2, "per_second": 1.5}), 3.5)
        ahead = {"moves": "rate", "start": 2, "per_second": 1.5, "offset": 2}
        self.assertAlmostEqual(at(ahead), 6.5)
        point = {"moves": "rate", "start": (10, 20), "per_second": (-4, 8)}
        self.assertEqual(at(point, adapter=PLACE), Point(6, 28))

    def test_follow(self) -> None:
        """Definition: where the point is, and the offset from there."""
        follow = {"moves": "follow", "point": "mast"}
        self.assertEqual(at(follow, adapter=PLACE), Point(100, 50))
        self.assertEqual(at(follow | {"offset": (5, -5)}, adapter=PLACE), Point(105, 45))

    def test_life(self) -> None:
        """Definition: one value at nothing, the other at full, in a straight line between."""
        width = {"moves": "life", "start": 2, "end": 10}
        self.assertEqual([at(width, life=level) for level in (0, 0.25, 1)], [2, 4, 10])


class Keys(TestCase):
    def _keys(self, *keys: tuple[float, Any, Any], **more: Any) -> dict[str, Any]:
        written = [{"frame": frame, "value": value, "ease": ease} for frame, value, ease in keys]
        return {"moves": "keys", "keys": written} | more

    def test_between(self) -> None:
        """Definition: exact on keys; each key's ease leads to the next."""
        keys = self._keys(
            (1010, 0, "linear"), (1020, 10, "hold"), (1030, 4, "smooth"), (1040, 8, "linear")
        )
        for frame, value in (
            (1010, 0),
            (1015, 5),
            (1020, 10),
            (1029.9, 10),
            (1030, 4),
            (1035, 6),
            (1040, 8),
        ):
            self.assertAlmostEqual(at(keys, frame), value)

    def test_beyond(self) -> None:
        """Definitions: hold the end, begin again, go back, or go on along the last line."""
        for way, wanted in (
            ("hold", (0, 0, 10, 10)),
            ("cycle", (3, 8, 2, 4)),
            ("mirror", (7, 2, 8, 4)),
            ("continue", (-7, -2, 12, 24)),
        ):
            keys = self._keys((1010, 0, "linear"), (1020, 10, "linear"), before=way, after=way)
            got = [at(keys, frame) for frame in (1003, 1008, 1022, 1034)]
            np.testing.assert_allclose(got, wanted, atol=1e-9)

    def test_on_along_the_last_line_of_several(self) -> None:
        """Before the first key along the line to the second, after the last along that from the one before."""
        keys = self._keys(
            (1010, 0, "linear"), (1020, 10, "linear"), (1030, 40, "linear"), before="continue", after="continue"
        )  # fmt: skip
        got = [at(keys, frame) for frame in (1000, 1005, 1035, 1050)]
        np.testing.assert_allclose(got, (-10, -5, 55, 100), atol=1e-9)

    def test_points_and_colours(self) -> None:
        """Points move in a straight line; colours mix in linear light, not in their signals."""
        keys = self._keys((1010, (0, 0), "linear"), (1020, (10, -20), "linear"))
        self.assertEqual(at(keys, 1015, PLACE), Point(5, -10))
        colours = self._keys((1010, "#000000", "linear"), (1020, "#ff0000", "linear"))
        self.assertEqual(at(colours, 1015, TINT), Colour(0.5, 0, 0))

    def test_order(self) -> None:
        """Keys out of order or doubled are refused with their frames."""
        for frames, says in (
            ((1010, 1010), "two keys stand at frame 1010"),
            ((1020, 1010), "comes after 1020"),
        ):
            with self.assertRaisesRegex(ValidationError, says):
                at(self._keys(*((frame, 0, "linear") for frame in frames)))

    def test_a_curve_of_its_own(self) -> None:
        """A free Bezier is taken as CSS writes it, and its handles stay within its time."""
        keys = self._keys((1010, 0, (0.25, 0.1, 0.25, 1)), (1020, 1, "linear"))
        self.assertAlmostEqual(at(keys, 1015), cubic_bezier(0.25, 0.1, 0.25, 1, 0.5))
        with self.assertRaises(ValidationError):
            at(self._keys((1010, 0, (1.5, 0, 0, 1)), (1020, 1, "linear")))


class Shaking(TestCase):
    JITTER: dict[str, Any] = {"moves": "jitter", "value": 50, "amount": 10, "per_second": 5}

    def test_levels_at_each_change(self) -> None:
        """Definition: at each of so many changes a second a new uniform level within the amount."""
        drawn = [at(self.JITTER, 1001 + 5 * k, seeds=("a",)) for k in range(200)]
        self.assertLessEqual(max(abs(value - 50) for value in drawn), 10)
        key = key_for("a", "jitter", 0, 0)
        self.assertAlmostEqual(drawn[3], 50 + 10 * (2 * uniform(*key, 3, 0) - 1))
        self.assertAlmostEqual(float(np.mean(drawn)), 50, delta=1.5)
        self.assertAlmostEqual(float(np.std(drawn)), 10 / math.sqrt(3), delta=0.8)

    def test_nothing_faster(self) -> None:
        """Band-limited: a smooth step rises at most 1.5 times as steeply as a straight line."""
        path = np.array([at(self.JITTER, 1001 + k / 8) for k in range(2000)])
        steepest = 1.5 * 20 * 5 / (8 * 25)
        self.assertLess(float(np.abs(np.diff(path)).max()), steepest)

    def test_axes_and_a_moving_base(self) -> None:
        """Common practice: 100 px across and 0 down, added to a position that moves."""
        beam = {
            "moves": "jitter", "amount": (100, 0), "per_second": 30,
            "value": {"moves": "rate", "start": (0, 10), "per_second": (0, 7)},
        }  # fmt: skip
        places = [at(beam, 1001 + k, PLACE) for k in range(60)]
        self.assertGreater(max(abs(place.x) for place in places), 60)
        np.testing.assert_allclose([place.y for place in places], 10 + 7 * np.arange(60) / 25)

    def test_own_numbers(self) -> None:
        """Another seed, and another setting, shake differently; nesting ends after one."""
        base = at(self.JITTER, seeds=("a",))
        self.assertNotEqual(base, at(self.JITTER | {"seed": 1}, seeds=("a",)))
        self.assertNotEqual(base, at(self.JITTER, seeds=("b",)))
        with self.assertRaises(ValidationError):
            at(self.JITTER | {"value": self.JITTER})

    def test_pulse_shapes(self) -> None:
        """Closed forms at quarters of a period of 4 s, added to a base of 10 with an amount of 2."""
        for shape, wanted in (
            ("sine", (10, 12, 10, 8)),
            ("triangle", (8, 10, 12, 10)),
            ("square", (12, 12, 8, 8)),
            ("saw", (8, 9, 10, 11)),
        ):
            pulse = {"moves": "pulse", "value": 10, "amount": 2, "shape": shape, "period": 4}
            got = [at(pulse, 1001 + 25 * k) for k in range(4)]
            np.testing.assert_allclose(got, wanted, atol=1e-9, err_msg=shape)
        square = {
            "moves": "pulse",
            "value": 0,
            "amount": 1,
            "shape": "square",
            "period": 1,
            "duty": 20,
        }
        up = np.mean([at(square, 1001 + k / 4) for k in range(100)])
        self.assertAlmostEqual(float(up), 0.2 - 0.8, delta=0.03)

    def test_flicker(self) -> None:
        """Common practice: a random pulse of one frame takes another level on every frame."""
        flicker = {"moves": "pulse", "value": 1, "amount": 0.5, "shape": "random", "period": 0.04}
        levels = [at(flicker, frame + 0.01) for frame in range(1001, 1051)]
        self.assertEqual(len(set(levels)), 50)
        self.assertTrue(all(0.5 <= level <= 1.5 for level in levels))


class Lives(TestCase):
    def test_contact_flare(self) -> None:
        """Common practice: nothing to full in 2 frames, to half in 2 more, and at the end away."""
        flare = Life(rise=2, settle=2, level=50, fall=2)
        got = [flare.at(frame, 10, 30) for frame in (9, 10, 11, 12, 13, 14, 20, 28, 29, 30, 31)]
        self.assertEqual(got, [0, 0, 0.5, 1, 0.75, 0.5, 0.5, 0.5, 0.25, 0, 0])

    def test_beam_reaches_in_four(self) -> None:
        """Common practice: a beam reaches its full length in 3 to 4 frames and leaves likewise."""
        beam = Life(rise=4, fall=4, ease="smooth")
        came = [beam.at(10 + k, 10, 40) for k in range(6)]
        left = [beam.at(40 - k, 10, 40) for k in range(6)]
        self.assertEqual(came, left)
        self.assertTrue(all(a < b for a, b in pairwise(came[:5])))
        self.assertEqual(came[4:], [1, 1])

    def test_no_life_is_full(self) -> None:
        """A layer without a life is there from its first frame to its last."""
        self.assertEqual([Life().at(frame, 10, 12) for frame in (9, 10, 12, 13)], [0, 1, 1, 0])

    def test_peak(self) -> None:
        """Common practice: a flash is full for as long as told, and falls on its last frames."""
        flash = Life(rise=1, peak=1, fall=2)
        self.assertEqual([flash.at(k, 0, 4) for k in range(5)], [0, 1, 1, 0.5, 0])
