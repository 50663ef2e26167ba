"""Rectangle: a mask with four straight sides."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.pixels.area import filled
from handful.engine.kinds import At, Limit, clockwise, register, setting
from handful.engine.picture import Matte, Region, Tile
from handful.engine.values import Point


@register
class Rectangle(Limit):
    """A mask with four straight sides."""

    family = "mask"
    outline = "rectangle"
    scales = True
    says = (
        "Inside a rectangle at {centre}, {width} by {height}, turned {turn}, soft over {feather}."
    )

    centre: Point = setting([960, 540], unit="px", help="Its middle.")
    width: float = setting(
        800,
        unit="px",
        drawn="width",
        about="centre",
        least=1,
        most=100_000,
        usual=(10, 4000),
        help="Its whole width.",
    )
    height: float = setting(
        600,
        unit="px",
        drawn="height",
        about="centre",
        least=1,
        most=100_000,
        usual=(10, 4000),
        help="Its whole height.",
    )
    turn: float = clockwise(0, about="centre", help="Clockwise turn.")

    def extent(self, at: At) -> Region:
        x, y, r = (part * at.scale for part in (*self.centre, self._radius()))
        return Region(math.floor(x - r), math.floor(y - r), math.ceil(x + r), math.ceil(y + r))

    def _radius(self) -> float:
        """px from its centre to its corners, however it is turned."""
        return math.hypot(self.width, self.height) / 2

    def coverage(self, region: Region, at: At, *others: Tile) -> Matte:
        across, down = self.width / 2 * at.scale, self.height / 2 * at.scale
        outline = np.array([(-across, -down), (across, -down), (across, down), (-across, down)])
        return filled(placed(outline, self.centre, self.turn, at.scale), region)


def placed(
    outline: NDArray[np.float64], centre: Point, turn: float, scale: float
) -> NDArray[np.float64]:
    """An outline around 0, 0 turned clockwise by degrees and moved to a centre, in scaled px."""
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    turned = outline @ np.array([[cos, sin], [-sin, cos]])
    moved: NDArray[np.float64] = turned + np.array([centre.x, centre.y]) * scale
    return moved
