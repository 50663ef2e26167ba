"""Outline: a mask inside a path of the recipe."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.pixels.area import filled
from handful.engine.kinds import At, Limit, register, setting
from handful.engine.named import Path
from handful.engine.picture import Matte, Region, Tile


@register
class Outline(Limit):
    """A mask inside a path of the recipe, straight or curved; an open one is closed by a line."""

    family = "mask"
    scales = True
    says = "Inside the path {path}, soft over {feather}."

    path: Path | None = setting("", help="Which path.")

    def extent(self, at: At) -> Region | None:
        if self.path is None:
            return None
        line = self.path.line(at.scale)
        (left, top), (right, bottom) = np.floor(line.min(axis=0)), np.ceil(line.max(axis=0))
        return Region(int(left), int(top), int(right), int(bottom))

    def coverage(self, region: Region, at: At, *others: Tile) -> Matte:
        if self.path is None:
            return np.ones((region.height, region.width), np.float32)
        return filled(self.path.line(at.scale), region)
