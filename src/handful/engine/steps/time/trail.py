"""Trail: what was before still shows, fainter."""

from __future__ import annotations

from functools import reduce
from typing import Any, Literal

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kinds import At, Timed, register, setting
from handful.engine.picture import Picture, Region, Tile


@register
class Trail(Timed):
    """Earlier moments of the layer, each fainter than the one after it: trails of what moves."""

    family = "time"
    says = "{count} earlier moments, one each {every}, each {fade} of the one after it, mixed by {mix}."

    count: int = setting(5, least=1, most=30, usual=(1, 16), help="How many earlier moments show.")
    every: float = setting(
        1, unit="frames", least=-50, most=50, usual=(0.25, 8), help="Between them; later below 0."
    )
    fade: float = setting(60, unit="%", least=0, most=100, help="Strength of each, of the next.")
    mix: Literal["add", "lighten"] = setting(
        "lighten", help="The sum of all, or the brightest of them at each px."
    )

    @classmethod
    def how_many(cls, written: Any) -> int:
        return int(written.count) + 1

    def moments(self, frame: float, first: int, last: int) -> tuple[float, ...]:
        return tuple(frame - i * self.every for i in range(self.count + 1))

    def merge(self, tiles: tuple[Tile, ...], at: At) -> Tile:
        region = reduce(Region.around, (tile.region for tile in tiles)).meet(at.wanted)
        result = np.zeros((region.height, region.width, 4), np.float32)
        whole = Tile(result, region)
        for i, tile in enumerate(tiles):
            part = tile.region.meet(region)
            strength = np.float32((self.fade / 100) ** i)
            if not part.empty and strength > 0:
                in_bands(
                    _join_rows, part.height, tile.within(part), strength, self.mix == "add",
                    whole.within(part),
                )  # fmt: skip
        return whole


@compiled
def _join_rows(
    first: int, last: int, earlier: Picture, strength: np.float32, adds: bool, result: Picture
) -> None:
    one = np.float32(1.0)
    for y in range(first, last):
        row, line = earlier[y], result[y]
        for x in range(row.shape[0]):
            for c in range(4):
                value = row[x, c] * strength
                line[x, c] = line[x, c] + value if adds else max(line[x, c], value)
            line[x, 3] = min(one, line[x, 3])
