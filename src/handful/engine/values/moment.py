"""When a picture is wanted."""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple


class Moment(NamedTuple):
    """A frame number (it may be fractional) within a range of frames at a rate."""

    frame: float
    rate: Fraction
    first: int
    last: int

    @property
    def seconds(self) -> float:
        """Seconds since the first frame."""
        return self.seconds_since(self.first)

    def seconds_since(self, frame: float) -> float:
        """Seconds since a frame."""
        return (self.frame - frame) / float(self.rate)


def exact_rate(written: float) -> Fraction:
    """The exact rate behind one written in decimals: 23.976 and its like are 1000/1001 of a whole.

    SMPTE ST 12-1 defines those rates as such fractions.
    """
    whole = round(written * 1001 / 1000)
    if abs(written - whole * 1000 / 1001) < 0.004 and abs(written - round(written)) > 0.004:
        return Fraction(whole * 1000, 1001)
    return Fraction(written).limit_denominator(1000)
