"""The exact share of each px that an outline covers, and soft edges for it."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.picture import Matte, Region

_SOFT_ENOUGH = 3.0
"""px of deviation from which on a matte is reduced before it is softened."""

_REACH = 4.0


def filled(outline: NDArray[np.float64], region: Region) -> Matte:
    """The share `(H, W)` of each px inside a closed outline `(N, 2)`, from 0 to 1.

    Signed areas under the edges, summed along each row: the trapezoid rule is exact for straight
    edges. What is wound around twice is covered once.
    """
    sums = np.zeros((region.height, region.width + 2), np.float64)
    corner = np.array([region.left, region.top], np.float64)
    closed = np.concatenate([outline, outline[:1]]) - corner
    _sum_edges(closed, sums)
    np.cumsum(sums, axis=1, out=sums)
    return np.minimum(np.abs(sums[:, : region.width]), 1.0).astype(np.float32)


@compiled
def _sum_edges(outline: NDArray[np.float64], sums: NDArray[np.float64]) -> None:
    height, width = sums.shape[0], sums.shape[1] - 2
    for i in range(outline.shape[0] - 1):
        x0, y0, x1, y1 = outline[i, 0], outline[i, 1], outline[i + 1, 0], outline[i + 1, 1]
        if y0 == y1:
            continue
        sign = 1.0
        if y0 > y1:
            x0, y0, x1, y1 = x1, y1, x0, y0
            sign = -1.0
        slope = (x1 - x0) / (y1 - y0)
        for row in range(max(0, int(math.floor(y0))), min(height, int(math.ceil(y1)))):
            top, bottom = max(y0, float(row)), min(y1, row + 1.0)
            tall = (bottom - top) * sign
            if tall == 0.0:
                continue
            _add_edge(x0 + (top - y0) * slope, x0 + (bottom - y0) * slope, tall, width, sums[row])


@compiled
def _add_edge(start: float, end: float, tall: float, width: int, row: NDArray[np.float64]) -> None:
    """What lies right of a piece of an edge within one row, as differences from px to px."""
    low, high = min(start, end), max(start, end)
    low, high = min(float(width), max(0.0, low)), min(float(width), max(0.0, high))
    span = abs(end - start)
    before, after = 0.0, 0.0
    if span > 0.0:
        before = (low - min(start, end)) / span
        after = (max(start, end) - high) / span
    row[0] += tall * max(0.0, before)
    row[width] += tall * max(0.0, after)
    tall *= 1.0 - max(0.0, before) - max(0.0, after)
    if high <= low:
        column = min(width, int(low))
        right = column + 1.0 - low
        row[column] += tall * right
        row[column + 1] += tall * (1.0 - right)
        return
    column = int(low)
    place = low
    while place < high:
        until = min(high, column + 1.0)
        part = tall * (until - place) / (high - low)
        right = column + 1.0 - 0.5 * (place + until)
        row[column] += part * right
        row[column + 1] += part * (1.0 - right)
        place = until
        column += 1


def softened(matte: Matte, deviation: float) -> Matte:
    """A matte `(H, W)` after a normal blur of `deviation` px; its edge values go on beyond it.

    A wide one is done on a matte reduced by area and enlarged by a cubic, so that it costs no more
    than a narrow one.
    """
    if deviation < 0.05:
        return matte
    by = int(2 ** max(0, math.floor(math.log2(deviation / _SOFT_ENOUGH))))
    if by == 1:
        return _blurred(matte, deviation)
    height, width = matte.shape
    down, across = -height % by, -width % by
    padded = np.pad(matte, ((0, down), (0, across)), "edge")
    size = (padded.shape[1] // by, padded.shape[0] // by)
    small = cv2.resize(padded, size, interpolation=cv2.INTER_AREA)
    spread = math.sqrt((deviation / by) ** 2 - 1 / 12)
    wide = cv2.resize(_blurred(small, spread), padded.shape[1::-1], interpolation=cv2.INTER_CUBIC)
    soft: Matte = np.clip(wide[:height, :width], 0.0, 1.0)
    return soft


def _blurred(matte: Matte, deviation: float) -> Matte:
    size = 2 * math.ceil(_REACH * deviation) + 1
    blurred: Matte = cv2.GaussianBlur(
        matte, (size, size), deviation, borderType=cv2.BORDER_REPLICATE
    )
    return blurred


def reach_of_softness(deviation: float) -> int:
    """Whole px from which a softened matte takes its values."""
    return math.ceil(_REACH * deviation) + int(2 ** max(0.0, math.log2(max(deviation, 1.0)) - 1))
