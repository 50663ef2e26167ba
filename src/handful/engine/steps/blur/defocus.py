"""Defocus: a lens that is not sharp, with the shape of its aperture."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from handful.engine.kernels.pixels.area import filled
from handful.engine.kernels.pixels.convolve import convolved
from handful.engine.kernels.pixels.resample import doubled, halved
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Matte, Region, Tile


@register
class Defocus(Step):
    """Softens as a lens out of focus does: every bright point becomes the shape of the aperture."""

    family = "blur"
    says = "Out of focus by {radius} through {blades} blades, {roundness} round, turned {turn}."

    radius: float = setting(
        12, unit="px", least=0, most=400, usual=(0, 80), help="Radius of the aperture's picture."
    )
    blades: int = setting(6, least=3, most=12, help="Sides of the aperture.")
    roundness: float = setting(
        20, unit="%", least=0, most=100, help="How far its sides bend out to a circle."
    )
    turn: float = setting(
        0, unit="°", least=-36000, most=36000, usual=(-60, 60), help="Turn of the aperture."
    )

    def reach(self) -> float:
        return self.radius + 2

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        radius = self.radius * at.scale
        if radius < _LEAST:
            return tile
        region = tile.region.grown(math.ceil(radius) + 2).meet(at.wanted)
        is_wide = radius >= _WIDE
        shape = aperture(
            round(radius / 2 if is_wide else radius, 4),
            self.blades,
            self.roundness / 100,
            self.turn,
        )
        if not is_wide:
            return convolved(tile, shape, region)
        half = halved(tile)
        return doubled(convolved(half, shape, half.region.grown(shape.shape[0] // 2)), region)


_LEAST = 0.3
"""px; a smaller aperture hardly leaves the px it is on."""

_WIDE = 64.0
"""px from which on it is worked out at half size, which softens its edge by about a px."""

_POINTS_A_SIDE = 24


@lru_cache(maxsize=16)
def aperture(radius: float, blades: int, roundness: float, turn: float) -> Matte:
    """The aperture `(2r + 1, 2r + 1)` whose sum is 1. Its corners lie on the circle of the radius."""
    half = math.ceil(radius) + 1
    side = np.arange(blades * _POINTS_A_SIDE) * (2 * math.pi / (blades * _POINTS_A_SIDE))
    off = np.mod(side, 2 * math.pi / blades) - math.pi / blades
    straight = math.cos(math.pi / blades) / np.cos(off)
    away = radius * (straight + (1 - straight) * roundness)
    angles = side + math.radians(turn) - math.pi / 2
    outline = np.stack([away * np.cos(angles), away * np.sin(angles)], axis=1) + half + 0.5
    shape = filled(outline, Region(0, 0, 2 * half + 1, 2 * half + 1))
    shape /= shape.sum()
    return shape
