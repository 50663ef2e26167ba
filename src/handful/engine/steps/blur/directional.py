"""Directional: a blur along a line."""

from __future__ import annotations

import math

from handful.engine.kernels.pixels.smear import smeared
from handful.engine.kernels.pixels.ways import Along
from handful.engine.kinds import At, Step, clockwise, register, setting
from handful.engine.picture import Tile


@register
class Directional(Step):
    """A blur along a line, as what moves past leaves it: the mean over its length."""

    family = "blur"
    says = "Smears over {length} towards {direction}."

    length: float = setting(
        60, unit="px", least=0, most=2000, usual=(0, 300), help="How long the smear is."
    )
    direction: float = clockwise(0, help="Its direction, clockwise from the right.")

    def reach(self) -> float:
        return self.length / 2 + 2

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        length = self.length * at.scale
        if length < _LEAST:
            return tile
        angle = math.radians(self.direction)
        way = Along(length * math.cos(angle), length * math.sin(angle))
        region = tile.region.grown(math.ceil(length / 2) + 2).meet(at.wanted)
        return smeared(tile, way, length, region)


_LEAST = 0.1
"""px; less is not seen."""
