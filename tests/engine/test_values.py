"""Time and moving values, by their definitions."""

from fractions import Fraction
from unittest import TestCase

from handful.engine.values import Follow, Moment, Point, Rate, Surroundings, exact_rate, value_at

AT_ONE_SECOND = Surroundings(Moment(1026, Fraction(25), 1001, 1075), {"mast": Point(100, 50)})


class Time(TestCase):
    def test_seconds_since_the_first_frame(self) -> None:
        """Definition: (frame - first) / rate."""
        self.assertEqual(Moment(1026, Fraction(25), 1001, 1075).seconds, 1)
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


class Moves(TestCase):
    def test_still(self) -> None:
        """A plain value is itself."""
        self.assertEqual(value_at(3.5, AT_ONE_SECOND), 3.5)
        self.assertEqual(value_at((3.0, 4.0), AT_ONE_SECOND), Point(3, 4))
        self.assertEqual(value_at("pinned", AT_ONE_SECOND), "pinned")

    def test_rate(self) -> None:
        """Definition: start plus so much a second; an offset is seconds ahead."""
        rate = Rate[float, float](moves="rate", start=2, per_second=1.5)
        self.assertAlmostEqual(value_at(rate, AT_ONE_SECOND), 3.5)
        ahead = Rate[float, float](moves="rate", start=2, per_second=1.5, offset=2)
        self.assertAlmostEqual(value_at(ahead, AT_ONE_SECOND), 6.5)
        pair = tuple[float, float]
        point = Rate[pair, pair](moves="rate", start=(10, 20), per_second=(-4, 8))
        self.assertEqual(value_at(point, AT_ONE_SECOND), Point(6, 28))

    def test_follow(self) -> None:
        """Definition: where the point is, and the offset from there."""
        pair = tuple[float, float]
        follow = Follow[pair, pair](moves="follow", point="mast")
        self.assertEqual(value_at(follow, AT_ONE_SECOND), Point(100, 50))
        beside = Follow[pair, pair](moves="follow", point="mast", offset=(5, -5))
        self.assertEqual(value_at(beside, AT_ONE_SECOND), Point(105, 45))
