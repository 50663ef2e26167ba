"""A picture with a coarser one around it, for what only sees the far part blurred."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Region, Tile


def surrounded(near: Tile, inner: Region, far: Tile, region: Region, times: int) -> Tile:
    """Light that is known finely on an `inner` region, and on the rest of a region from `far`, whose px are
    as large as `times` px of `near`, counted from the same corner of the canvas."""
    wanted = inner.around(_enlarged(far.region, times)).meet(region)
    result = np.empty((wanted.height, wanted.width, 4), np.float32)
    coarse = np.ascontiguousarray(far.within(_covering(wanted, times)))
    in_bands(
        _surround_rows, wanted.height, np.ascontiguousarray(near.within(inner)), coarse, times,
        (wanted.left % times, wanted.top % times),
        (inner.left - wanted.left, inner.top - wanted.top), result,
    )  # fmt: skip
    return Tile(result, wanted)


def _enlarged(region: Region, times: int) -> Region:
    return Region(*(edge * times for edge in region))


def _covering(region: Region, times: int) -> Region:
    """The region in px that are so many times as large."""
    return Region(*(edge // times for edge in region.aligned(times)))


@compiled
def _surround_rows(
    first: int,
    last: int,
    near: Picture,
    far: Picture,
    times: int,
    begins: tuple[int, int],
    place: tuple[int, int],
    result: Picture,
) -> None:
    begin, down = begins
    left, top = place
    right = left + near.shape[1]
    width = result.shape[1]
    for y in range(first, last):
        line, row = result[y], far[(y + down) // times]
        is_beside = 0 <= y - top < near.shape[0]
        for x in range(left if is_beside else width):
            for c in range(4):
                line[x, c] = row[(x + begin) // times, c]
        if is_beside:
            inside = near[y - top]
            for x in range(left, right):
                for c in range(4):
                    line[x, c] = inside[x - left, c]
            for x in range(right, width):
                for c in range(4):
                    line[x, c] = row[(x + begin) // times, c]
