"""Flip: the picture mirrored about the middle of the canvas."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile


@register
class Flip(Step):
    """Mirrors the picture about the middle of the canvas, to the bit."""

    family = "place"
    says = "Mirrors {along}."

    along: Literal["across", "down", "both"] = setting(
        "across", help="Left and right, or up and down."
    )

    def needs(self, wanted: Region, at: At) -> Region:
        return self._flipped(wanted, at)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        across, down = self._ways()
        pixels = tile.pixels[:: -1 if down else 1, :: -1 if across else 1]
        flipped = Tile(np.ascontiguousarray(pixels), self._flipped(tile.region, at))
        region = flipped.region.meet(at.wanted)
        return Tile(flipped.within(region), region)

    def _ways(self) -> tuple[bool, bool]:
        return self.along != "down", self.along != "across"

    def _flipped(self, region: Region, at: At) -> Region:
        across, down = self._ways()
        width, height = at.canvas.right, at.canvas.bottom
        left, right = (width - region.right, width - region.left) if across else region[0::2]
        top, bottom = (height - region.bottom, height - region.top) if down else region[1::2]
        return Region(left, top, right, bottom)
