"""Glow: light that spills around what is bright."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.blur import Lobe, reach_of, with_lobes
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Picture, Tile, luminance

HALF_ENERGY = math.sqrt(2 * math.log(2))
"""Radius, in deviations, of the circle that holds half of a normal lobe: 1 - exp(-r^2/2) = 1/2."""


@register
class Glow(Step):
    """Light spilling around what is bright: the sum of a tight and a wide lobe.

    Each lobe spreads the light above the threshold without adding to it or losing any; its gain
    then says how much of that is added to the picture. Cover stays as it is.
    """

    family = "light"
    says = (
        "Hugs within {near} at {near_gain} in {near_tint}, then spreads to {far} at {far_gain} "
        "in {far_tint}, from light above {threshold}."
    )

    near: float = setting(
        8,
        unit="px",
        least=1,
        most=500,
        usual=(1, 80),
        help="Radius that holds half of the tight lobe.",
    )
    near_gain: float = setting(
        -1.5, unit="stops", least=-12, most=12, usual=(-6, 6), help="Brightness of the tight lobe."
    )
    near_tint: Colour = setting("#c9dcff", help="Colour of the tight lobe.")
    far: float = setting(
        140, unit="px", least=1, most=500, help="Radius that holds half of the wide lobe."
    )
    far_gain: float = setting(
        -1.5, unit="stops", least=-12, most=12, usual=(-6, 6), help="Brightness of the wide lobe."
    )
    far_tint: Colour = setting("#6d9bff", help="Colour of the wide lobe: purer than the tight one.")
    threshold: float = setting(
        0, least=0, most=100, usual=(0, 4), help="Luminance below which nothing glows."
    )

    def reach(self) -> float:
        return float(reach_of(max(self.near, self.far) / HALF_ENERGY))

    def apply(self, tile: Tile, at: At) -> Tile:
        lobes = [
            _lobe(self.near * at.scale, self.near_gain, self.near_tint),
            _lobe(self.far * at.scale, self.far_gain, self.far_tint),
        ]
        reach = max(reach_of(lobe.deviation) for lobe in lobes)
        region = tile.region.grown(reach).meet(at.wanted)
        bright = Tile(_above(tile.pixels, self.threshold), tile.region)
        return with_lobes(tile, bright, lobes, region)


def _lobe(radius: float, stops: float, tint: Colour) -> Lobe:
    """A lobe that holds half its light within `radius` px; it adds light and no cover."""
    red, green, blue = (2.0**stops * part for part in tint)
    return Lobe(radius / HALF_ENERGY, (red, green, blue, 0.0))


def _above(picture: Picture, threshold: float) -> Picture:
    """The picture's light above a luminance, hue kept; below it nothing."""
    if threshold == 0:
        return picture
    light = luminance(picture)
    share = np.maximum(light - np.float32(threshold), 0) / np.maximum(light, np.float32(1e-9))
    bright: Picture = picture * share[..., None]
    return bright
