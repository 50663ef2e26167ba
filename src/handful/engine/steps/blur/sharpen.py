"""Sharpen: more difference to what is around."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import in_bands
from handful.engine.kernels.pixels.blur import Lobe, reach_of, with_lobes
from handful.engine.kernels.pixels.bounds import hold_bounds
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Picture, Tile


@register
class Sharpen(Step):
    """Adds the difference to a softened picture. Light and cover never fall below nothing."""

    family = "blur"
    says = "Sharpens details of {size} by {amount}."

    size: float = setting(
        2,
        unit="px",
        least=0.5,
        most=200,
        usual=(0.5, 40),
        help="Deviation of what is compared with.",
    )
    amount: float = setting(
        60, unit="%", least=0, most=500, usual=(0, 200), help="How much of the difference is added."
    )

    def reach(self) -> float:
        return float(reach_of(self.size))

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        deviation, amount = self.size * at.scale, self.amount / 100
        if deviation < _LEAST or amount == 0:
            return tile
        more = Tile(tile.pixels * np.float32(1 + amount), tile.region)
        region = tile.region.meet(at.wanted)
        sharp = with_lobes(more, tile, [Lobe(deviation, (-amount,) * 4)], region)
        in_bands(_hold_rows, region.height, sharp.pixels)
        return sharp


_LEAST = 0.05


def _hold_rows(first: int, last: int, picture: Picture) -> None:
    hold_bounds(picture[first:last])
