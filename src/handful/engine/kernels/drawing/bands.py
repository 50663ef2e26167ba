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


def touched(low: Places, high: Places, region: Region) -> tuple[NDArray[np.bool_], Region]:
    """Which things are on a region, by the corners `(N, 2)` of what each covers, and what of it they all
    cover together; an empty one if there are none."""
    seen = (
        (high[:, 0] > region.left) & (low[:, 0] < region.right)
        & (high[:, 1] > region.top) & (low[:, 1] < region.bottom)
    )  # fmt: skip
    if not seen.any():
        return seen, Region(region.left, region.top, region.left, region.top)
    low, high = low[seen], high[seen]
    shared = Region(
        math.floor(low[:, 0].min()), math.floor(low[:, 1].min()),
        math.ceil(high[:, 0].max()), math.ceil(high[:, 1].max()),
    )  # fmt: skip
    return seen, shared.meet(region)


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
