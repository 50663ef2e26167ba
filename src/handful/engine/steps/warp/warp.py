"""Warp: pushes the picture about by a field of noise."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.pixels.resample import Edge, resampled
from handful.engine.kinds import At, LayerId, Step, register, setting
from handful.engine.named import Sway
from handful.engine.named.sway import Offsets
from handful.engine.picture import Region, Tile


@register
class Warp(Sway, Step):
    """Pushes the picture about by a field of noise of its own, or by a sway that layers share, and by
    the offsets of a layer as well."""

    family = "warp"
    says = (
        "Pushes by up to {amount} {along}, in waves of {size} with {turbulence} turbulence, "
        "boiling {boil} and drifting {drift}. {pins} Shares the sway {sway}, and is pushed by the layer "
        "{by} as well; its edge is {edge}."
    )

    sway: Sway | None = setting(
        "", help="A sway of the recipe, which then takes the place of all above."
    )
    by: LayerId = setting("", takes=("offsets",), help="A layer of offsets, which are added.")
    farthest_by: float = setting(
        200, unit="px", least=0, most=4000, usual=(0, 500), help="The most that those push."
    )
    edge: Edge = setting("clear", help="What comes from beyond the canvas's edge.")

    def reach(self) -> float:
        return (self.sway or self).farthest() + (self.farthest_by if self.by else 0) + 2

    def needs(self, wanted: Region, at: At) -> Region:
        reached = super().needs(wanted, at)
        return reached if self.edge == "clear" else at.canvas

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        field = self.sway or self
        if field.amount == 0 and not others:
            return tile
        region = at.wanted
        if self.edge == "clear":
            region = tile.region.grown(math.ceil(self.reach() * at.scale)).meet(region)
        key = (at.shared_key if self.sway else at.key)("sway", field.seed)
        places = field.offsets(region, at.scale, key)
        if others:
            places += _held(others[0].within(region), self.farthest_by) * np.float32(at.scale)
        in_bands(_pull_rows, region.height, region.left, region.top, np.float32(-1), places)
        return resampled(tile, places, region, self.edge, at.canvas)


def _held(offsets: Offsets, most: float) -> Offsets:
    """Offsets, none of them longer than so many px."""
    far = np.hypot(offsets[..., :1], offsets[..., 1:])
    held: Offsets = offsets * np.minimum(1, most / np.maximum(far, 1e-6)).astype(np.float32)
    return held


@compiled
def _pull_rows(
    first: int, last: int, left: int, top: int, sign: np.float32, places: Offsets
) -> None:
    for y in range(first, last):
        for x in range(places.shape[1]):
            places[y, x, 0] = x + left + 0.5 + sign * places[y, x, 0]
            places[y, x, 1] = y + top + 0.5 + sign * places[y, x, 1]
