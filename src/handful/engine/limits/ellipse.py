"""Ellipse: a round mask."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.pixels.area import filled
from handful.engine.kinds import At, register
from handful.engine.limits.rectangle import Rectangle, placed
from handful.engine.picture import Matte, Region, Tile


@register
class Ellipse(Rectangle):
    """A round mask."""

    family = "mask"
    outline = "ellipse"
    says = "Inside an ellipse at {centre}, {width} by {height}, turned {turn}, soft over {feather}."

    def coverage(self, region: Region, at: At, *others: Tile) -> Matte:
        across, down = self.width / 2 * at.scale, self.height / 2 * at.scale
        sides = min(2000, max(32, math.ceil(math.pi * math.sqrt(max(across, down) / _FLAT))))
        angles = np.linspace(0, 2 * math.pi, sides, endpoint=False)
        outline = np.stack([across * np.cos(angles), down * np.sin(angles)], axis=1)
        return filled(placed(outline, self.centre, self.turn, at.scale), region)


_FLAT = 0.002
"""px by which a straight side may miss the curve: the sagitta r (1 - cos(pi / sides))."""
