"""Normal (Gaussian) blur whose cost hardly depends on its radius.

The picture is reduced 2^n times, blurred small, and enlarged again. Reducing and enlarging weigh
by the cubic B-spline (Unser, "Splines: a perfect fit for signal and image processing", 1999),
which keeps sums, places and spreads exact; the small blur gets what variance those two leave
over, so that the whole is a normal curve of the deviation asked for.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

REACH = 4.0
"""Deviations after which the curve has come down to exactly nothing."""

_LEAST_SMALL_DEVIATION = 1.5
_MARGIN = 4
"""Clear rows kept above and below a widened picture, so that four rows can always be read."""


def reach_of(deviation: float) -> int:
    """Whole px over which a blur of this deviation spreads light."""
    return int(math.ceil(REACH * deviation)) + 5 * reduction_for(deviation)


def reduction_for(deviation: float) -> int:
    """The power of two by which a picture can be reduced before a blur of this deviation."""
    return int(2 ** max(0, math.floor(math.log2(max(deviation, 1e-6) / _LEAST_SMALL_DEVIATION))))


@lru_cache(maxsize=256)
def _taps(deviation: float) -> NDArray[np.float32]:
    """Weights of a normal curve that reaches zero at its ends and has the variance asked for."""
    radius = max(1, int(math.ceil(REACH * deviation)))
    x = np.arange(-radius, radius + 1, dtype=np.float64)
    inner = deviation
    for _ in range(24):
        weights = np.maximum(np.exp(-0.5 * (x / inner) ** 2) - math.exp(-0.5 * REACH**2), 0)
        weights /= weights.sum()
        inner *= math.sqrt(deviation**2 / max(float((weights * x**2).sum()), 1e-12))
    return weights.astype(np.float32)


def reduced(tile: Tile, by: int) -> Tile:
    """The picture reduced `by` times; the region of the result counts in those larger px.

    Each px is shared out to four larger ones in each direction by the cubic B-spline, which keeps
    its exact place (first moment) and spreads it equally wherever it lies (second moment a third
    of a larger px squared). The grid is that of the canvas, not of the tile, so that the result
    does not depend on how much of the picture was computed.
    """
    if by == 1:
        return tile
    aligned = tile.region.aligned(by)
    small = Region(
        aligned.left // by, aligned.top // by, aligned.right // by, aligned.bottom // by
    ).grown(2)
    source = np.ascontiguousarray(tile.pixels).reshape(tile.region.height, 4 * tile.region.width)
    low = np.zeros((small.height, source.shape[1]), np.float32)
    weights = _spline_weights(by)
    in_bands(_lower_columns, source.shape[1], source, tile.region.top, small.top, by, weights, low)
    result = blank(small)
    wide = low.reshape(small.height, tile.region.width, 4)
    in_bands(_narrow_rows, small.height, wide, tile.region.left, small.left, by, weights, result)
    return Tile(result, small)


@compiled
def _lower_columns(
    first: int,
    last: int,
    source: NDArray[np.float32],
    top: int,
    small_top: int,
    by: int,
    weights: NDArray[np.float32],
    low: NDArray[np.float32],
) -> None:
    share = np.float32(1.0 / by)
    for y in range(source.shape[0]):
        cell = (y + top) // by
        phase = (y + top) - cell * by
        base = cell - small_top - (2 if 2 * phase + 1 < by else 1)
        line = source[y, first:last]
        for k in range(4):
            weight = weights[phase, k] * share
            sums = low[base + k, first:last]
            for i in range(line.shape[0]):
                sums[i] += weight * line[i]


@compiled
def _narrow_rows(
    first: int,
    last: int,
    wide: Picture,
    left: int,
    small_left: int,
    by: int,
    weights: NDArray[np.float32],
    small: Picture,
) -> None:
    share = np.float32(1.0 / by)
    for y in range(first, last):
        for x in range(wide.shape[1]):
            cell = (x + left) // by
            phase = (x + left) - cell * by
            base = cell - small_left - (2 if 2 * phase + 1 < by else 1)
            for k in range(4):
                weight = weights[phase, k] * share
                for c in range(4):
                    small[y, base + k, c] += weight * wide[y, x, c]


def blurred_small(tile: Tile, deviation: float) -> tuple[Tile, int]:
    """A blurred picture on a reduced grid, and by how much it is reduced."""
    by = reduction_for(deviation)
    small = reduced(tile, by)
    variance = (deviation / by) ** 2 - (2 / 3 if by > 1 else 0)
    taps = _taps(round(math.sqrt(variance), 9))
    room = small.region.grown(len(taps) // 2 + 2)
    padded = np.ascontiguousarray(small.within(room))
    blurred = cv2.sepFilter2D(padded, -1, taps, taps, borderType=cv2.BORDER_CONSTANT)
    return Tile(blurred, room), by


class Lobe(NamedTuple):
    """One blur of a picture: its deviation in px, and what each channel of it is multiplied by."""

    deviation: float
    gain: tuple[float, float, float, float]


def with_lobes(base: Tile, bright: Tile, lobes: Sequence[Lobe], region: Region) -> Tile:
    """`base` plus the blurred `bright` picture of each lobe, on `region`, in one pass over its px.

    Small rows are widened first, once each; a row of the result is then the row of `base` and,
    for each lobe, a sum of four widened rows.
    """
    widened = [_widened(bright, lobe, region) for lobe in lobes]
    starts = np.cumsum([0, *(len(rows) for rows, _, _ in widened)])
    result = np.empty((region.height, region.width, 4), np.float32)
    part = base.region.meet(region)
    if part.empty:
        base = clear_tile(region)
        part = base.region
    in_bands(
        _sum_rows,
        region.height,
        np.ascontiguousarray(base.within(part)).reshape(part.height, 4 * part.width),
        part.top - region.top,
        4 * (part.left - region.left),
        np.concatenate([rows for rows, _, _ in widened]),
        starts,
        np.array([top for _, top, _ in widened]),
        np.array([by for _, _, by in widened]),
        np.concatenate([_spline_weights(by) for _, _, by in widened]),
        region.top,
        result.reshape(region.height, -1),
    )
    return Tile(result, region)


def _widened(bright: Tile, lobe: Lobe, region: Region) -> tuple[NDArray[np.float32], int, int]:
    """Small rows `(rows, 4 * width)` enlarged sideways only, the first one's number, and by how much."""
    small, by = blurred_small(bright, lobe.deviation)
    wide = np.zeros((small.region.height + 2 * _MARGIN, region.width, 4), np.float32)
    in_bands(
        _widen_rows,
        small.region.height,
        np.ascontiguousarray(small.pixels),
        small.region.left,
        by,
        _spline_weights(by),
        np.array(lobe.gain, np.float32),
        region.left,
        wide,
    )
    return wide.reshape(len(wide), -1), small.region.top - _MARGIN, by


@lru_cache(maxsize=16)
def _spline_weights(by: int) -> NDArray[np.float32]:
    """Cubic B-spline weights `(by, 4)` of the four small px around each px inside one small px.

    Column 0 belongs to the small px two before (for px in the first half) or one before the px's
    own; the kernel works out which. At `by` 1 the px stands alone.
    """
    if by == 1:
        return np.array([[0, 1, 0, 0]], np.float32)
    place = (np.arange(by) + 0.5) / by - 0.5
    t = place - np.floor(place)
    weights = np.stack(
        [(1 - t) ** 3, 3 * t**3 - 6 * t**2 + 4, -3 * t**3 + 3 * t**2 + 3 * t + 1, t**3], axis=1
    )
    return (weights / 6).astype(np.float32)


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
        line, row = small[y], wide[y + _MARGIN]
        for cell in range(2, line.shape[0] - 2):
            start = (cell + small_left) * by - left
            for phase in range(max(0, -start), min(by, row.shape[0] - start)):
                base = cell - (2 if 2 * phase + 1 < by else 1)
                w = weights[phase]
                r, g, b, a = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
                for k in range(4):
                    r += w[k] * line[base + k, 0]
                    g += w[k] * line[base + k, 1]
                    b += w[k] * line[base + k, 2]
                    a += w[k] * line[base + k, 3]
                x = start + phase
                row[x, 0], row[x, 1], row[x, 2], row[x, 3] = r * gr, g * gg, b * gb, a * ga


@compiled
def _sum_rows(
    first: int,
    last: int,
    base: NDArray[np.float32],
    base_top: int,
    base_left: int,
    wide: NDArray[np.float32],
    starts: NDArray[np.int64],
    tops: NDArray[np.int64],
    sizes: NDArray[np.int64],
    weights: NDArray[np.float32],
    top: int,
    result: NDArray[np.float32],
) -> None:
    for y in range(first, last):
        line = result[y]
        line[:] = 0
        if 0 <= y - base_top < base.shape[0]:
            below = base[y - base_top]
            for i in range(below.shape[0]):
                line[base_left + i] = below[i]
        table = 0
        for lobe in range(sizes.shape[0]):
            by = sizes[lobe]
            cell = (y + top) // by
            phase = (y + top) - cell * by
            row = cell - tops[lobe] - (2 if 2 * phase + 1 < by else 1)
            w = weights[table + phase]
            table += by
            if row < 0 or row + 4 > starts[lobe + 1] - starts[lobe]:
                continue
            row += starts[lobe]
            a, b, c, d = wide[row], wide[row + 1], wide[row + 2], wide[row + 3]
            wa, wb, wc, wd = w[0], w[1], w[2], w[3]
            if by == 1:
                for i in range(line.shape[0]):
                    line[i] += b[i]
            else:
                for i in range(line.shape[0]):
                    line[i] += wa * a[i] + wb * b[i] + wc * c[i] + wd * d[i]


def gaussian(picture: Picture, deviation: float) -> Picture:
    """A picture `(H, W, 4)` blurred by a normal curve of `deviation` px; clear beyond its edges."""
    region = Region(0, 0, picture.shape[1], picture.shape[0])
    nothing = clear_tile(region)
    lobe = Lobe(deviation, (1.0, 1.0, 1.0, 1.0))
    return with_lobes(nothing, Tile(picture, region), [lobe], region).pixels
