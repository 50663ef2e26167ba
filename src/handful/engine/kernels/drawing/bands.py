"""Many things on a picture: which of them it shows, and which rows each of them is on."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.picture import Region

BAND = 32
"""Rows of a picture that are drawn by one call."""

Places = NDArray[np.float32]


def touched(low: Places, high: Places, region: Region) -> tuple[NDArray[np.bool_] | None, Region]:
    """Which things are on a region, if they are not all, by the corners `(N, 2)` of what each covers, and
    what of it they all cover together; an empty one if there are none."""
    seen = np.empty(len(low), np.bool_)
    count, box = _on(low, high, *region, seen)
    if not count:
        return seen, Region(region.left, region.top, region.left, region.top)
    shared = Region(*(math.floor(side) for side in box[:2]), *(math.ceil(side) for side in box[2:]))
    return (None if count == len(seen) else seen), shared.meet(region)


@compiled
def _on(
    low: Places,
    high: Places,
    left: int,
    top: int,
    right: int,
    bottom: int,
    seen: NDArray[np.bool_],
) -> tuple[int, NDArray[np.float32]]:
    """How many things are on a region, and the corners of what they cover together."""
    count = 0
    box = np.array([np.inf, np.inf, -np.inf, -np.inf], np.float32)
    for i in range(low.shape[0]):
        x0, y0, x1, y1 = low[i, 0], low[i, 1], high[i, 0], high[i, 1]
        seen[i] = x1 > left and x0 < right and y1 > top and y0 < bottom
        if seen[i]:
            count += 1
            box[0], box[1] = min(box[0], x0), min(box[1], y0)
            box[2], box[3] = max(box[2], x1), max(box[3], y1)
    return count, box


def by_band(
    low: NDArray[np.float32], high: NDArray[np.float32], height: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Which things each band of `BAND` rows holds, in their order, by the rows they are within: those of
    a band are `listed[starts[band]:starts[band + 1]]`."""
    bands = -(-height // BAND)
    tops = np.maximum(np.floor(low / BAND).astype(np.int64), 0)
    ends = np.minimum(np.floor(high / BAND).astype(np.int64), bands - 1)
    return _listed(tops, ends, bands)


@compiled
def _listed(
    tops: NDArray[np.int64], ends: NDArray[np.int64], bands: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    starts = np.zeros(bands + 1, np.int64)
    for i in range(tops.shape[0]):
        for band in range(tops[i], ends[i] + 1):
            starts[band + 1] += 1
    for band in range(bands):
        starts[band + 1] += starts[band]
    listed = np.empty(starts[bands], np.int64)
    free = starts.copy()
    for i in range(tops.shape[0]):
        for band in range(tops[i], ends[i] + 1):
            listed[free[band]] = i
            free[band] += 1
    return starts, listed
