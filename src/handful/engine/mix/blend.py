"""Blends on premultiplied pictures in linear light.

`normal` is over and `add` is plus of Porter and Duff, "Compositing digital images", SIGGRAPH
1984. Light is not limited; cover stays within 0 to 1.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from handful.engine.kernels.compiled import NEAR_ROWS, compiled, in_bands
from handful.engine.picture import Picture, Region, Tile


@compiled
def _over(
    first: int, last: int, below: Picture, above: Picture, top: int, left: int, amount: float
) -> None:
    part = np.float32(amount)
    for y in range(max(first, top), min(last, top + above.shape[0])):
        for x in range(above.shape[1]):
            pixel, under = above[y - top, x], below[y, x + left]
            kept = np.float32(1.0) - pixel[3] * part
            for c in range(4):
                under[c] = pixel[c] * part + under[c] * kept


@compiled
def _plus(
    first: int, last: int, below: Picture, above: Picture, top: int, left: int, amount: float
) -> None:
    part = np.float32(amount)
    for y in range(max(first, top), min(last, top + above.shape[0])):
        for x in range(above.shape[1]):
            pixel, under = above[y - top, x], below[y, x + left]
            for c in range(3):
                under[c] += pixel[c] * part
            under[3] = min(np.float32(1.0), under[3] + pixel[3] * part)


BLENDS: dict[str, Callable[[int, int, Picture, Picture, int, int, float], None]] = {
    "normal": _over,
    "add": _plus,
}


class Part(NamedTuple):
    """A layer's picture, how it mixes with what is before it, and how much, from 0 to 1."""

    tile: Tile
    blend: str
    opacity: float


def mixed(parts: Sequence[Part], region: Region) -> Tile:
    """The layers mixed from first to last on a clear picture of the region.

    Where a layer has nothing, what is before it stays, which holds for every blend here. All
    layers pass over a few rows before the next ones, so that the sum is fetched only once.
    """
    result = np.empty((region.height, region.width, 4), np.float32)
    jobs = []
    for tile, blend, opacity in parts:
        shared = tile.region.meet(region)
        if not shared.empty and opacity > 0:
            place = (shared.top - region.top, shared.left - region.left)
            jobs.append((BLENDS[blend], tile.within(shared), *place, opacity))

    def mix_rows(first: int, last: int) -> None:
        result[first:last] = 0
        for blend, picture, top, left, opacity in jobs:
            blend(first, last, result, picture, top, left, opacity)

    in_bands(mix_rows, region.height, band=NEAR_ROWS)
    return Tile(result, region)
