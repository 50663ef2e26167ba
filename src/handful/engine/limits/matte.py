"""Matte: where another layer covers, or is bright."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.kinds import At, LayerId, Limit, register, setting
from handful.engine.picture import Matte as Shares
from handful.engine.picture import Region, Tile, luminance


@register
class Matte(Limit):
    """Where another layer covers, or is bright; that layer itself may be off."""

    family = "matte"
    says = "Where the layer {layer} has {by}, soft over {feather}."

    layer: LayerId = setting("", help="Which layer's own picture.")
    by: Literal["cover", "brightness"] = setting(
        "cover", help="Whether its cover or its luminance, from 0 to 1, counts."
    )

    feather: float = setting(
        0,
        unit="px",
        least=0,
        most=2000,
        usual=(0, 400),
        help="Width of an edge softer than its own.",
    )

    def coverage(self, region: Region, at: At, *others: Tile) -> Shares:
        if not others:
            return np.ones((region.height, region.width), np.float32)
        picture = others[0].within(region)
        shares = picture[..., 3] if self.by == "cover" else luminance(picture)
        return np.clip(shares, 0, 1)
