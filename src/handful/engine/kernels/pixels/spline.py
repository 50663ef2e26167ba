"""Reducing and enlarging pictures by a power of two with the cubic B-spline.

Unser, "Splines: a perfect fit for signal and image processing", IEEE Signal Processing Magazine
16(6), 1999. The weights of the spline keep sums, places and spreads exact wherever a px lies in
the coarser grid: each way adds a variance of a third of a coarser px squared.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Region, Tile, blank

MARGIN = 4
"""Clear rows kept above and below a widened picture, so that four rows can always be read."""


def reduced(tile: Tile, by: int) -> Tile:
    """The picture reduced `by` times; the region of the result counts in those larger px.

    Each px is shared out to four larger ones in each direction by the cubic B-spline, which keeps
    its exact place (first moment) and spreads it equally wherever it lies (second moment a third
    of a larger px squared). The grid is that of the canvas, not of the tile, so that the result
    does not depend on how much of the picture was computed.
    """
    aligned = tile.region.aligned(by)
    small = Region(
        aligned.left // by, aligned.top // by, aligned.right // by, aligned.bottom // by
    ).grown(2)
    source = np.ascontiguousarray(tile.pixels).reshape(tile.region.height, 4 * tile.region.width)
    result = blank(small)
    places = (tile.region.left, tile.region.top, small.left, small.top)
    in_bands(_reduce_rows, small.height, source, places, by, _curve(by), result)
    return Tile(result, small)


@compiled
def _reduce_rows(
    first: int,
    last: int,
    source: NDArray[np.float32],
    places: tuple[int, int, int, int],
    by: int,
    curve: NDArray[np.float32],
    small: Picture,
) -> None:
    """Rows that are added up, four at a time, and then along themselves."""
    left, top, small_left, small_top = places
    height, width = source.shape
    line, nothing = np.empty(width, np.float32), np.zeros(width, np.float32)
    for y in range(first, last):
        line[:] = 0
        start = (y + small_top) * by - 3 * by // 2 - top
        for i in range(max(0, -start // 4 * 4), min(4 * by, height - start), 4):
            n = start + i
            a = source[n] if n >= 0 else nothing
            b = source[n + 1] if 0 <= n + 1 < height else nothing
            c = source[n + 2] if 0 <= n + 2 < height else nothing
            d = source[n + 3] if n + 3 < height else nothing
            wa, wb, wc, wd = curve[i], curve[i + 1], curve[i + 2], curve[i + 3]
            for x in range(width):
                line[x] += (wa * a[x] + wb * b[x]) + (wc * c[x] + wd * d[x])
        _narrow(line, left, small_left, by, curve, small[y])


@compiled
def _narrow(
    line: NDArray[np.float32],
    left: int,
    small_left: int,
    by: int,
    curve: NDArray[np.float32],
    row: NDArray[np.float32],
) -> None:
    width = line.shape[0] // 4
    for cell in range(row.shape[0]):
        start = (cell + small_left) * by - 3 * by // 2 - left
        r, g, b, a = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
        for i in range(max(0, -start), min(4 * by, width - start)):
            weight, x = curve[i], 4 * (start + i)
            r += weight * line[x]
            g += weight * line[x + 1]
            b += weight * line[x + 2]
            a += weight * line[x + 3]
        row[cell, 0], row[cell, 1], row[cell, 2], row[cell, 3] = r, g, b, a


def widened_into(
    wide: Picture, small: Tile, by: int, gain: tuple[float, float, float, float], left: int
) -> None:
    """Enlarge a reduced picture sideways only, times `gain`, into `wide` `(rows + 2 MARGIN, W, 4)`.

    `wide` begins at px `left`; the outermost two columns of the small picture must be clear.
    """
    in_bands(
        _widen_rows,
        small.region.height,
        np.ascontiguousarray(small.pixels),
        small.region.left,
        by,
        spline_weights(by),
        np.array(gain, np.float32),
        left,
        wide,
    )


@lru_cache(maxsize=16)
def spline_weights(by: int) -> NDArray[np.float32]:
    """Cubic B-spline weights `(by, 4)` of the four small px around each px inside one small px.

    Column 0 belongs to the small px two before (for px in the first half) or one before the px's
    own; the kernels work out which.
    """
    place = (np.arange(by) + 0.5) / by - 0.5
    t = place - np.floor(place)
    weights = np.stack(
        [(1 - t) ** 3, 3 * t**3 - 6 * t**2 + 4, -3 * t**3 + 3 * t**2 + 3 * t + 1, t**3], axis=1
    )
    return (weights / 6).astype(np.float32)


@lru_cache(maxsize=16)
def _curve(by: int) -> NDArray[np.float32]:
    """The cubic B-spline over the `4 * by` px that one small px is made from; its sum is 1."""
    far = np.abs((np.arange(4 * by) + 0.5) / by - 2)
    inside = (4 - 6 * far**2 + 3 * far**3) / 6
    outside = (2 - far) ** 3 / 6
    return (np.where(far < 1, inside, outside) / by).astype(np.float32)


@compiled
def _widen_rows(
    first: int,
    last: int,
    small: Picture,
    small_left: int,
    by: int,
    weights: NDArray[np.float32],
    gain: NDArray[np.float32],
    left: int,
    wide: Picture,
) -> None:
    gr, gg, gb, ga = gain[0], gain[1], gain[2], gain[3]
    for y in range(first, last):
        line, row = small[y], wide[y + MARGIN]
        for cell in range(2, line.shape[0] - 2):
            start = (cell + small_left) * by - left
            for phase in range(max(0, -start), min(by, row.shape[0] - start)):
                base = cell - (2 if 2 * phase + 1 < by else 1)
                r, g, b, a = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
                for k in range(4):
                    weight = weights[phase, k]
                    r += weight * line[base + k, 0]
                    g += weight * line[base + k, 1]
                    b += weight * line[base + k, 2]
                    a += weight * line[base + k, 3]
                x = start + phase
                row[x, 0], row[x, 1], row[x, 2], row[x, 3] = r * gr, g * gg, b * gb, a * ga
