"""Glow: light that spills around what is bright."""

from __future__ import annotations

import math

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.pixels.blur import Far, Lobe, reach_of, with_lobes
from handful.engine.kernels.pixels.light import above
from handful.engine.kinds import At, Piece, Step, register, setting
from handful.engine.picture import Region, Tile

HALF_ENERGY = math.sqrt(2 * math.log(2))
"""Radius, in deviations, of the circle that holds half of a normal lobe: 1 - exp(-r^2/2) = 1/2."""


class GlowLobe(Piece):
    """One normal curve of light."""

    says = "within {radius} at {gain} in {tint}"

    radius: float = setting(
        20,
        unit="px",
        least=1,
        most=500,
        usual=(1, 300),
        help="Radius that holds half of its light.",
    )
    gain: float = setting(
        -1.5, unit="stops", least=-12, most=12, usual=(-6, 6), help="How bright it is."
    )
    tint: Colour = setting("#ffffff", help="Its colour: the wider, the purer.")


@register
class Glow(Step):
    """Light spilling around what is bright: the sum of a tight, a middle and a wide lobe, or of any number.

    Each lobe spreads the light above the threshold without adding to it or losing any; its gain
    then says how much of that is added to the picture. Cover stays as it is.
    """

    family = "light"
    says = "Spreads {lobes}, from light above {threshold} with a knee of {knee}."

    lobes: tuple[GlowLobe, ...] = setting(
        [
            {"radius": 7, "gain": -1.3, "tint": "#dbe8ff"},
            {"radius": 34, "gain": -2, "tint": "#9cc0ff"},
            {"radius": 190, "gain": -2.2, "tint": "#4f86ff"},
        ],
        least=1,
        most=8,
        help="Its lobes, from tight to wide.",
    )
    threshold: float = setting(
        0, least=0, most=100, usual=(0, 4), help="Luminance below which nothing glows."
    )
    knee: float = setting(
        0, least=0, most=100, usual=(0, 2), help="Width around the threshold in which it sets in."
    )

    def reach(self) -> float:
        return float(reach_of(max(lobe.radius for lobe in self.lobes) / HALF_ENERGY))

    def coarser(self, at: At) -> tuple[int, int]:
        lobes = [_scaled(lobe, at.scale).deviation for lobe in self.lobes]
        narrow = [each for each in lobes if each < _TOLD_APART * _COARSER]
        return max(map(reach_of, narrow), default=0), 1 if narrow == lobes else _COARSER

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        lobes = [_scaled(lobe, at.scale) for lobe in self.lobes]
        region = tile.region.grown(_reach(lobes)).meet(at.wanted)
        return with_lobes(tile, self._bright(tile), lobes, region)

    def apply_around(self, near: Tile, inner: Region, far: Tile, times: int, at: At) -> Tile:
        lobes = [_scaled(lobe, at.scale) for lobe in self.lobes]
        known = near.region.around(Region(*(edge * times for edge in far.region)))
        region = known.grown(_reach(lobes)).meet(at.wanted)
        around = Far(self._bright(far), inner, times)
        return with_lobes(near, self._bright(near), lobes, region, around)

    def _bright(self, tile: Tile) -> Tile:
        """What of a picture glows."""
        return Tile(above(tile.pixels, self.threshold, self.knee), tile.region)


_COARSER = 4
_TOLD_APART = 1.5
"""A lobe whose deviation is at least so many px tells nothing of how light lies within one of them."""


def _reach(lobes: list[Lobe]) -> int:
    return max(reach_of(lobe.deviation) for lobe in lobes)


def _scaled(lobe: GlowLobe, scale: float) -> Lobe:
    """A lobe that holds half its light within its radius; it adds light and no cover."""
    red, green, blue = (2.0**lobe.gain * part for part in lobe.tint)
    return Lobe(lobe.radius * scale / HALF_ENERGY, (red, green, blue, 0.0))
