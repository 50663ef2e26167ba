"""Feather: a softer edge."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.pixels.area import reach_of_softness, softened
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Matte, Picture, Tile
from handful.engine.steps.matte.grow import covered_by


@register
class Feather(Step):
    """Lets the cover fade towards its edge, inwards, so that nothing new is needed outside."""

    family = "matte"
    says = "Fades over {width} inside the edge."

    width: float = setting(
        12, unit="px", least=0, most=1000, usual=(0, 200), help="Width of the soft edge."
    )

    def reach(self) -> float:
        return float(reach_of_softness(self.width / 2))

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        deviation = self.width * at.scale / 2
        if deviation < 0.05:
            return tile
        room = tile.region.grown(reach_of_softness(deviation)).aligned(64)
        soft = softened(np.ascontiguousarray(tile.within(room)[..., 3]), deviation)
        cover = np.clip(2 * soft - 1, 0, 1)
        part = Tile(_as_picture(cover), room).within(tile.region)[..., 0]
        return covered_by(tile, np.minimum(part, tile.pixels[..., 3]))


def _as_picture(cover: Matte) -> Picture:
    return cover[..., None]
