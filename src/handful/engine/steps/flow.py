"""Flow: a blur along the directions of another layer."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kinds import At, LayerId, Step, register, setting
from handful.engine.picture import Picture, Tile, unset


@register
class Flow(Step):
    """A blur along the directions of another layer, whose red points right and green down.

    Cabral and Leedom, "Imaging vector fields using line integral convolution", SIGGRAPH 1993.
    Where that layer's values have length 1 the smear is as long as is set; signed values are meant.
    """

    family = "blur"
    says = "Smears over {length} along the layer {by}."

    by: LayerId = setting("", help="The layer whose red and green are directions.")
    length: float = setting(
        60, unit="px", least=0, most=1000, usual=(0, 300), help="Length where directions are 1."
    )

    def reach(self) -> float:
        return self.length / 2 + 4

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        length = self.length * at.scale
        if not others or length < 0.1:
            return tile
        region = tile.region.grown(math.ceil(length / 2) + 2).meet(at.wanted)
        field = np.ascontiguousarray(others[0].within(region)[..., :2])
        taps = max(2, math.ceil(math.sqrt(min(_MOST_SAMPLES, length))))
        for spacing in (length / taps**2, length / taps):
            result = unset(region)
            in_bands(
                _walk_rows, region.height, np.ascontiguousarray(tile.within(region)), field,
                np.float32(spacing), taps, result,
            )  # fmt: skip
            tile = Tile(result, region)
        return tile


_MOST_SAMPLES = 256
_LONGEST_STEP = 3.0
"""px; a longer step along the field is taken as several."""


@compiled
def _walk_rows(
    first: int,
    last: int,
    source: Picture,
    field: Picture,
    spacing: np.float32,
    taps: int,
    result: Picture,
) -> None:
    height, width = source.shape[0], source.shape[1]
    parts = max(1, int(math.ceil(spacing / _LONGEST_STEP)))
    step = spacing / np.float32(parts)
    share = np.float32(1.0 / taps)
    for y in range(first, last):
        for x in range(width):
            a, b, c, d = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
            for way in range(2):
                sign = np.float32(1.0) if way == 0 else np.float32(-1.0)
                u, v = np.float32(x), np.float32(y)
                for tap in range((taps + 1 - way) // 2):
                    if tap > 0 or taps % 2 == 0 or way == 1:
                        walk = parts
                        if tap == 0 and taps % 2 == 0:
                            walk = max(1, parts // 2)
                        for _ in range(walk):
                            column = min(width - 1, max(0, int(u + np.float32(0.5))))
                            row = min(height - 1, max(0, int(v + np.float32(0.5))))
                            u += sign * step * field[row, column, 0]
                            v += sign * step * field[row, column, 1]
                    left, top = int(math.floor(u)), int(math.floor(v))
                    s, t = u - np.float32(left), v - np.float32(top)
                    for j in range(2):
                        for i in range(2):
                            if 0 <= left + i < width and 0 <= top + j < height:
                                weight = (s if i else np.float32(1.0) - s) * (
                                    t if j else np.float32(1.0) - t
                                )
                                pixel = source[top + j, left + i]
                                a += weight * pixel[0]
                                b += weight * pixel[1]
                                c += weight * pixel[2]
                                d += weight * pixel[3]
            line = result[y, x]
            line[0], line[1], line[2], line[3] = a * share, b * share, c * share, d * share
