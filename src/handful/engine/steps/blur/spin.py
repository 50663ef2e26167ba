"""Spin: a blur around a point."""

from __future__ import annotations

import math

from handful.engine.kernels.pixels.smear import smeared
from handful.engine.kernels.pixels.ways import Around
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Spin(Step):
    """A blur around a point, as of a wheel: the mean over angles."""

    family = "blur"
    says = "Smears by {angle} around {centre}."

    angle: float = setting(
        10, unit="°", least=0, most=360, usual=(0, 90), help="The angle over which it smears."
    )
    centre: Point = setting([960, 540], unit="px", help="What stays sharp.")

    def needs(self, wanted: Region, at: At) -> Region:
        return self._swept(wanted, at)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        if self.angle == 0:
            return tile
        x, y = self.centre.x * at.scale, self.centre.y * at.scale
        region = self._swept(tile.region, at).meet(at.wanted)
        length = region.farthest_from(x, y) * math.radians(self.angle)
        return smeared(tile, Around(x, y, math.radians(self.angle)), length, region)

    def _swept(self, region: Region, at: At) -> Region:
        """All that a region passes over when it turns by half the angle to both sides."""
        x, y = self.centre.x * at.scale, self.centre.y * at.scale
        half = math.radians(min(self.angle / 2, 180))
        swept = region
        corners = [(u, v) for u in region[0::2] for v in region[1::2]]
        for corner_x, corner_y in corners:
            across, down = corner_x - x, corner_y - y
            radius, middle = math.hypot(across, down), math.atan2(down, across)
            angles = [middle - half, middle, middle + half]
            angles += [
                quarter * math.pi / 2
                for quarter in range(-6, 7)
                if abs(quarter * math.pi / 2 - middle) <= half
            ]
            for angle in angles:
                u, v = x + radius * math.cos(angle), y + radius * math.sin(angle)
                swept = swept.around(
                    Region(math.floor(u) - 2, math.floor(v) - 2, math.ceil(u) + 2, math.ceil(v) + 2)
                )
        return swept
