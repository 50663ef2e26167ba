"""Ellipse: a round mask."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.area import filled
from handful.engine.kinds import At, Limit, register, setting
from handful.engine.limits.rectangle import placed
from handful.engine.picture import Matte, Region, Tile
from handful.engine.values import Point


@register
class Ellipse(Limit):
    """A round mask."""

    family = "mask"
    says = "Inside an ellipse at {centre}, {width} by {height}, turned {turn}, soft over {feather}."

    centre: Point = setting([960, 540], unit="px", help="Its middle.")
    width: float = setting(
        800, unit="px", least=1, most=100_000, usual=(10, 4000), help="Its whole width."
    )
    height: float = setting(
        600, unit="px", least=1, most=100_000, usual=(10, 4000), help="Its whole height."
    )
    turn: float = setting(
        0, unit="°", least=-36000, most=36000, usual=(-180, 180), help="Clockwise turn."
    )

    def coverage(self, region: Region, at: At, *others: Tile) -> Matte:
        across, down = self.width / 2 * at.scale, self.height / 2 * at.scale
        sides = min(2000, max(32, math.ceil(math.pi * math.sqrt(max(across, down) / _FLAT))))
        angles = np.linspace(0, 2 * math.pi, sides, endpoint=False)
        outline = np.stack([across * np.cos(angles), down * np.sin(angles)], axis=1)
        return filled(placed(outline, self.centre, self.turn, at.scale), region)


_FLAT = 0.02
"""px by which a straight side may miss the curve: the sagitta r (1 - cos(pi / sides))."""
