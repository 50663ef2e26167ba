"""Exposure: brighter or darker, in stops."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Picture, Tile


@register
class Exposure(Step):
    """Makes the light brighter or darker, as a camera's stops do; cover stays as it is."""

    family = "colour"
    says = "Brighter by {stops}."

    stops: float = setting(
        1, unit="stops", least=-20, most=20, usual=(-6, 6), help="Each stop doubles the light."
    )

    def apply(self, tile: Tile, at: At) -> Tile:
        result = np.empty(tile.pixels.shape, np.float32)
        in_bands(_scale_rows, tile.region.height, tile.pixels, 2.0**self.stops, result)
        return Tile(result, tile.region)


@compiled
def _scale_rows(first: int, last: int, picture: Picture, gain: float, result: Picture) -> None:
    factor = np.float32(gain)
    for y in range(first, last):
        row, line = picture[y], result[y]
        for x in range(row.shape[0]):
            for c in range(3):
                line[x, c] = row[x, c] * factor
            line[x, 3] = row[x, 3]
