"""What a file says of its picture beside the px."""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple

from handful.engine.recipe import Canvas


class About(NamedTuple):
    """Which frame it is, at how many a second; whether timecode drops numbers; and how many px on
    each side of the picture are overscan."""

    frame: int
    rate: Fraction
    drops: bool = False
    overscan: int = 0

    @classmethod
    def of(cls, canvas: Canvas, frame: int, scale: float = 1.0) -> About:
        """Of a frame of a canvas at a scale."""
        return cls(frame, canvas.exact_rate, canvas.drop_frame, canvas.overscan_at(scale))
