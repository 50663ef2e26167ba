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
    says = "Inside the path {path}, soft over {feather}."

    path: Path | None = setting("", help="Which path.")

    def coverage(self, region: Region, at: At, *others: Tile) -> Matte:
        if self.path is None:
            return np.ones((region.height, region.width), np.float32)
        return filled(self.path.line(at.scale), region)
