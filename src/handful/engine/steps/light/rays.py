"""Rays: streaks of light away from a point."""

from __future__ import annotations

import math

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.pixels.light import above, plus
from handful.engine.kernels.pixels.smear import smeared
from handful.engine.kernels.pixels.ways import Away
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Rays(Step):
    """Streaks of light away from a point, from what is bright, as through haze.

    Mitchell, "Volumetric light scattering as a post-process", GPU Gems 3, 2007: the light between
    a px and the point is summed up, and what is farther away counts less.
    """

    family = "light"
    says = (
        "Sends rays from {centre} over {length} of the way, fading by {fade}, at {gain} in {tint}, "
        "from light above {threshold}."
    )

    centre: Point = setting([960, 540], unit="px", help="Where the light comes from.")
    length: float = setting(
        60,
        unit="%",
        least=1,
        most=95,
        usual=(5, 95),
        help="How far along the way to the point each px looks.",
    )
    fade: float = setting(
        2, unit="stops", least=0.1, most=10, help="How much dimmer a ray is at its end."
    )
    gain: float = setting(
        1, unit="stops", least=-12, most=12, usual=(-6, 6), help="How bright they are."
    )
    tint: Colour = setting("#dfeaff", help="Their colour.")
    threshold: float = setting(
        0, least=0, most=100, usual=(0, 4), help="Luminance below which nothing shines."
    )

    def needs(self, wanted: Region, at: At) -> Region:
        x, y = self.centre.x * at.scale, self.centre.y * at.scale
        place = Region(math.floor(x) - 2, math.floor(y) - 2, math.ceil(x) + 2, math.ceil(y) + 2)
        return wanted.around(place)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        x, y = self.centre.x * at.scale, self.centre.y * at.scale
        nearest = math.log(1 - self.length / 100)
        region = self._reached(tile.region, x, y, nearest).meet(at.wanted)
        bright = Tile(above(tile.pixels, self.threshold, 0.0), tile.region)
        length = region.farthest_from(x, y) * self.length / 100
        streaks = smeared(bright, Away(x, y, nearest), length, region, self.fade * math.log(2))
        gain = 2.0**self.gain
        return plus(
            tile,
            streaks,
            (gain * self.tint.red, gain * self.tint.green, gain * self.tint.blue),
            region,
        )

    @staticmethod
    def _reached(region: Region, x: float, y: float, nearest: float) -> Region:
        """All that the light of a region can come to, away from the point."""
        by = math.exp(-nearest)
        sides = [
            middle + (side - middle) * by for side, middle in zip(region, (x, y, x, y), strict=True)
        ]
        far = Region(
            math.floor(sides[0]), math.floor(sides[1]), math.ceil(sides[2]), math.ceil(sides[3])
        )
        return region.around(far).grown(2)
