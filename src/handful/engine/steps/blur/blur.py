"""Blur: everything softer, by a normal curve."""

from __future__ import annotations

from handful.engine.kernels.pixels.blur import Lobe, reach_of, with_lobes
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Tile, clear_tile


@register
class Blur(Step):
    """Softens the picture, light and cover alike, and keeps what there is of both."""

    family = "blur"
    says = "Softens over {deviation}."

    deviation: float = setting(
        6, unit="px", least=0, most=500, usual=(0, 60), help="Deviation of the normal curve."
    )

    def reach(self) -> float:
        return float(reach_of(self.deviation)) if self.deviation > 0 else 0.0

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        deviation = self.deviation * at.scale
        if deviation <= _LEAST:
            return tile
        region = tile.region.grown(reach_of(deviation)).meet(at.wanted)
        lobe = Lobe(deviation, (1.0, 1.0, 1.0, 1.0))
        return with_lobes(clear_tile(region), tile, [lobe], region)


_LEAST = 0.05
"""px; a narrower curve than this moves less than a thousandth of a px's light."""
