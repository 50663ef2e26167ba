"""Zoom: a blur away from a point."""

from __future__ import annotations

import math

from handful.engine.kernels.pixels.smear import smeared
from handful.engine.kernels.pixels.ways import Away
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Zoom(Step):
    """A blur away from a point, as a lens that zooms while it is open: the mean over sizes."""

    family = "blur"
    says = "Smears by {amount} of the way from {centre}."

    amount: float = setting(
        12,
        unit="%",
        least=0,
        most=200,
        usual=(0, 60),
        help="Length of the smear, of the distance to the point.",
    )
    centre: Point = setting([960, 540], unit="px", help="What stays sharp.")

    def needs(self, wanted: Region, at: At) -> Region:
        return _scaled(wanted, self.centre, at.scale, self._half()).grown(2)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        if self.amount == 0:
            return tile
        x, y = self.centre.x * at.scale, self.centre.y * at.scale
        region = _scaled(tile.region, self.centre, at.scale, self._half()).grown(2)
        region = region.meet(at.wanted)
        length = region.farthest_from(x, y) * self.amount / 100
        return smeared(tile, Away(x, y, 2 * self._half()), length, region)

    def _half(self) -> float:
        """Half of the way, as a logarithm: sizes run from e to the minus this to e to this."""
        return math.asinh(self.amount / 200)


def _scaled(region: Region, centre: Point, scale: float, log: float) -> Region:
    """What a region covers when it grows from and shrinks to a centre by e to the `log`."""
    x, y, by = centre.x * scale, centre.y * scale, math.exp(log)
    edges = [
        (side - middle) * size + middle
        for side, middle in zip(region, (x, y, x, y), strict=True)
        for size in (by, 1 / by)
    ]
    return Region(
        math.floor(min(edges[0:2])),
        math.floor(min(edges[2:4])),
        math.ceil(max(edges[4:6])),
        math.ceil(max(edges[6:8])),
    )
