"""Ways that px go: on, away from a place, or about one. Going on by s and then by t is going on by s + t."""

from __future__ import annotations

import math
from typing import NamedTuple, Protocol

from handful.engine.picture import Region

Affine = tuple[float, float, float, float, float, float]
"""a, b, c, d, e, f: x goes to a x + b y + c, y to d x + e y + f."""

Span = tuple[float, float]
"""Parameters of a way, from one to another; where the second is not above the first there are none."""

NONE: Span = (0.0, 0.0)


class Way(Protocol):
    """Where a px goes, by a parameter."""

    def at(self, t: float) -> Affine:
        """The map at a parameter; at 0 all stays where it is."""

    def meeting(self, region: Region, other: Region, within: Span) -> Span:
        """Of a span of parameters the part on which something of a region may come to another, and perhaps more."""

    def long(self, region: Region, span: Span) -> float:
        """The longest way of anything in a region over a span of parameters, in px."""


class Along(NamedTuple):
    """On by `dx`, `dy` at parameter 1."""

    dx: float
    dy: float

    def at(self, t: float) -> Affine:
        return 1.0, 0.0, self.dx * t, 0.0, 1.0, self.dy * t

    def meeting(self, region: Region, other: Region, within: Span) -> Span:
        found = within
        for axis, by in ((0, self.dx), (1, self.dy)):
            ends = other[axis] - region[axis + 2], other[axis + 2] - region[axis]
            if by != 0:
                found = _both(found, (min(end / by for end in ends), max(end / by for end in ends)))
            elif not ends[0] < 0 < ends[1]:
                return NONE
        return found

    def long(self, region: Region, span: Span) -> float:
        return math.hypot(self.dx, self.dy) * (span[1] - span[0])


class Away(NamedTuple):
    """Away from `x`, `y`, e to the `rate` times as far at parameter 1."""

    x: float
    y: float
    rate: float

    def at(self, t: float) -> Affine:
        by = math.exp(self.rate * t)
        return by, 0.0, self.x - by * self.x, 0.0, by, self.y - by * self.y

    def meeting(self, region: Region, other: Region, within: Span) -> Span:
        found = within
        for axis, middle in ((0, self.x), (1, self.y)):
            near, far = region[axis] - middle, region[axis + 2] - middle
            low, high = other[axis] - middle, other[axis + 2] - middle
            if far < 0 and high < 0:
                near, far, low, high = -far, -near, -high, -low
            if near > 0 and low > 0 and self.rate != 0:
                ends = math.log(low / far) / self.rate, math.log(high / near) / self.rate
                found = _both(found, (min(ends), max(ends)))
            elif (near > 0 and high < 0) or (far < 0 and low > 0):
                return NONE
        return found

    def long(self, region: Region, span: Span) -> float:
        sizes = [math.exp(self.rate * end) for end in span]
        return region.farthest_from(self.x, self.y) * abs(sizes[1] - sizes[0])


class Around(NamedTuple):
    """Around `x`, `y`, by `radians` at parameter 1."""

    x: float
    y: float
    radians: float

    def at(self, t: float) -> Affine:
        x, y = self.x, self.y
        cos, sin = math.cos(self.radians * t), math.sin(self.radians * t)
        return cos, -sin, x - cos * x + sin * y, sin, cos, y - sin * x - cos * y

    def meeting(self, region: Region, other: Region, within: Span) -> Span:
        seen = [self._seen(each) for each in (region, other)]
        if self.radians == 0 or None in seen:
            return within
        (begin, spread), (end, beside) = (each for each in seen if each)
        apart = math.remainder(end - begin, 2 * math.pi)
        both = spread + beside
        found = []
        for turn in (-1, 0, 1):
            ends = [(apart + 2 * math.pi * turn + way * both) / self.radians for way in (-1, 1)]
            span = _both(within, (min(ends), max(ends)))
            if span[0] < span[1]:
                found.append(span)
        return (min(found)[0], max(found)[1]) if found else NONE

    def _seen(self, region: Region) -> Span | None:
        """In which direction a region is seen from the place, and how far it spreads to both sides, in radians;
        nothing where that is within it."""
        if region.left <= self.x <= region.right and region.top <= self.y <= region.bottom:
            return None
        middle = math.atan2(
            (region.top + region.bottom) / 2 - self.y, (region.left + region.right) / 2 - self.x
        )
        corners = [(u - self.x, v - self.y) for u in region[0::2] for v in region[1::2]]
        asides = [
            math.remainder(math.atan2(down, across) - middle, 2 * math.pi)
            for across, down in corners
        ]
        return middle, max(abs(aside) for aside in asides)

    def long(self, region: Region, span: Span) -> float:
        return region.farthest_from(self.x, self.y) * abs(self.radians) * (span[1] - span[0])


def _both(one: Span, other: Span) -> Span:
    return max(one[0], other[0]), min(one[1], other[1])
