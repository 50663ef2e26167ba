"""Warp: pushes the picture about by a field of noise."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.pixels.resample import Edge, resampled
from handful.engine.kinds import At, Step, register, setting
from handful.engine.named import Sway
from handful.engine.named.sway import Offsets
from handful.engine.picture import Region, Tile


@register
class Warp(Sway, Step):
    """Pushes the picture about by a field of noise of its own, or by a sway that layers share."""

    family = "warp"
    says = (
        "Pushes by up to {amount} {along}, in waves of {size} with {turbulence} turbulence, "
        "boiling {boil} and drifting {drift}. {pins} Shares the sway {sway}; its edge is {edge}."
    )

    sway: Sway | None = setting(
        "", help="A sway of the recipe, which then takes the place of all above."
    )
    edge: Edge = setting("clear", help="What comes from beyond the canvas's edge.")

    def reach(self) -> float:
        return (self.sway or self).farthest() + 2

    def needs(self, wanted: Region, at: At) -> Region:
        reached = super().needs(wanted, at)
        return reached if self.edge == "clear" else at.canvas

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        field = self.sway or self
        if field.amount == 0:
            return tile
        region = at.wanted
        if self.edge == "clear":
            region = tile.region.grown(math.ceil(self.reach() * at.scale)).meet(region)
        key = (at.shared_key if self.sway else at.key)("sway", field.seed)
        places = field.offsets(region, at.scale, key)
        in_bands(_pull_rows, region.height, region.left, region.top, np.float32(-1), places)
        return resampled(tile, places, region, self.edge, at.canvas)


@compiled
def _pull_rows(
    first: int, last: int, left: int, top: int, sign: np.float32, places: Offsets
) -> None:
    for y in range(first, last):
        for x in range(places.shape[1]):
            places[y, x, 0] = x + left + 0.5 + sign * places[y, x, 0]
            places[y, x, 1] = y + top + 0.5 + sign * places[y, x, 1]
